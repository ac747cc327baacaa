// SPDX-License-Identifier: GPL-3.0-or-later
#include <QProcess>
#include <QTest>

/// What is compiled for several instruction sets, of which the program takes the widest that the processor has when it starts,
/// gives the same bytes with each.
class TestKernels : public QObject
{
    Q_OBJECT

    static QStringList linesOf(const char* program)
    {
        QProcess process;
        process.start(program, {});
        if (!process.waitForFinished() || process.exitCode() != 0) {
            return {};
        }
        return QString::fromLatin1(process.readAllStandardOutput()).split('\n', Qt::SkipEmptyParts);
    }

private slots:
    void eachInstructionSetGivesTheSameBytes()
    {
        const QStringList wide = linesOf(KERNEL_SUMS);
        const QStringList narrow = linesOf(KERNEL_SUMS_NARROW);
        QCOMPARE(wide.size(), 6);
        QCOMPARE(wide, narrow);
    }
};

QTEST_APPLESS_MAIN(TestKernels)
#include "tst_kernels.moc"
