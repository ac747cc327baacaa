// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/one_of_many.h"

#include <QProcess>
#include <QRegularExpression>
#include <QTest>

#include <map>
#include <set>
#include <vector>

namespace tst_options
{

namespace
{

struct Result {
    int code = -1;
    QString out;
    QString error;
};

Result run(const QStringList& arguments)
{
    QProcess process;
    process.start(CLI, arguments);
    constexpr int most_ms = 60'000;
    if (!process.waitForFinished(most_ms) || process.exitStatus() != QProcess::NormalExit) {
        return {};
    }
    return {process.exitCode(), QString::fromUtf8(process.readAllStandardOutput()),
            QString::fromUtf8(process.readAllStandardError()).trimmed()};
}

/// An option as its command's help has it: its name, and what kind of value it takes.
struct Option {
    QString name;
    QString type; ///< empty: none, it is a flag
};

std::vector<Option> optionsIn(const QString& help)
{
    std::vector<Option> options;
    static const QRegularExpression line("^  (--[a-z-]+)(?: ([A-Z]+)[: ]| *$|  )", QRegularExpression::MultilineOption);
    for (auto found = line.globalMatch(help); found.hasNext();) {
        const auto match = found.next();
        options.push_back({match.captured(1), match.captured(2)});
    }
    return options;
}

} // namespace

/// The options of all commands as they are listed by the program itself, so that none is forgotten.
class TestOptions : public QObject
{
    Q_OBJECT

    std::map<QString, QString> help_; ///< by command

private slots:
    void initTestCase()
    {
        const QString all = run({"--help"}).out.section("Subcommands:", 1);
        static const QRegularExpression line("^  ([a-z-]+) {2,}", QRegularExpression::MultilineOption);
        for (auto found = line.globalMatch(all); found.hasNext();) {
            const QString command = found.next().captured(1);
            const Result help = run({command, "--help"});
            QCOMPARE(help.code, 0);
            QVERIFY2(help.error.isEmpty(), qPrintable(help.error));
            help_[command] = help.out;
        }
        QVERIFY2(help_.size() > 20, qPrintable(all));
    }

    void everyCommandSaysWhatItIsFor()
    {
        for (const auto& [command, help] : help_) {
            QVERIFY2(help.contains("Usage:"), qPrintable(command));
            QVERIFY2(help.trimmed().section('\n', 0, 0).size() > 10, qPrintable(command));
        }
    }

    /// What is no number, no number that can be reckoned with, or nothing at all, is refused in one line with the option's
    /// name, before anything is read or written.
    void numbersAreNumbers()
    {
        std::set<QString> asked;
        for (const auto& [command, help] : help_) {
            for (const Option& option : optionsIn(help)) {
                const bool whole = option.type == "INT" || option.type == "UINT";
                if (!whole && option.type != "FLOAT") {
                    continue;
                }
                asked.insert(option.name);
                QStringList values{"abc", "nan", "inf", "-inf", "1e999", "1,5", "", "7 m"};
                if (whole) {
                    values << "1.5" << QString(30, '9') << "-" + QString(30, '9');
                }
                for (const QString& value : values) {
                    const Result result = run({command, "/nowhere/at/all", option.name + '=' + value});
                    const QString said = QString("%1 %2=%3: %4").arg(command, option.name, value, result.error);
                    QVERIFY2(result.code == 2, qPrintable(said));
                    QVERIFY2(result.out.isEmpty() && !result.error.contains('\n'), qPrintable(said));
                    QVERIFY2(result.error.contains(option.name), qPrintable(said));
                }
            }
        }
        for (const char* known : {"--heading", "--rate", "--seed", "--quality", "--loudness", "--cells", "--from"}) {
            QVERIFY2(asked.contains(known), known);
        }
    }

    /// An option that a command does not have, one that wants a value and gets none, and one too many.
    void whatIsNotKnownIsSaid()
    {
        for (const auto& [command, help] : help_) {
            for (const QStringList& more :
                 {QStringList{"--no-such-option"}, {"--no-such-option=3"}, {"a", "b", "c", "d", "e"}}) {
                const Result result = run(QStringList{command, "/nowhere/at/all"} + more);
                const QString said = QString("%1 %2: %3").arg(command, more.join(' '), result.error);
                QVERIFY2(result.code == 2, qPrintable(said));
                QVERIFY2(!result.error.isEmpty() && !result.error.contains('\n'), qPrintable(said));
            }
            for (const Option& option : optionsIn(help)) {
                if (option.type.isEmpty()) {
                    continue;
                }
                const Result result = run({command, "/nowhere/at/all", option.name});
                const QString said = QString("%1 %2: %3").arg(command, option.name, result.error);
                QVERIFY2(result.code == 2, qPrintable(said));
                QVERIFY2(result.error.contains(option.name) && !result.error.contains('\n'), qPrintable(said));
            }
        }
    }

    /// A project that is not there, or is none, is said by its name, whatever is asked of it.
    void aProjectThatIsNotThereIsSaid()
    {
        int asked = 0;
        for (const auto& [command, help] : help_) {
            // Those that want nothing else but the project.
            if (!help.contains("[OPTIONS] PROJECT\n") || help.count("REQUIRED") != 1) {
                continue;
            }
            ++asked;
            for (const char* path : {"/nowhere/at/all", "/dev/null"}) {
                const Result result = run({command, path});
                const QString said = QString("%1 %2: %3").arg(command, path, result.error);
                QVERIFY2(result.code == 1 || result.code == 2, qPrintable(said));
                QVERIFY2(!result.error.isEmpty() && !result.error.contains('\n'), qPrintable(said));
            }
        }
        QVERIFY2(asked > 2, qPrintable(QString::number(asked)));
    }
};

} // namespace tst_options

STONE_TEST(tst_options, TestOptions)
#include "tst_options.moc"
