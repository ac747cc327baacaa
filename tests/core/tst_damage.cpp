// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/read.h"
#include "project/write.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QRegularExpression>
#include <QTest>

#include <algorithm>
#include <ctime>
#include <random>

namespace tst_damage
{

using namespace stone;

/// Ten thousand damaged documents: never a crash, and either a project that can be written and read again or one line
/// that says where it is wrong, and how.
class TestDamage : public QObject
{
    Q_OBJECT

private slots:
    void tenThousandDamagedDocuments()
    {
        // More by hand: STONE_ROUNDS=200000, under the address sanitizer.
        const int rounds = std::max(10'000, qEnvironmentVariableIntValue("STONE_ROUNDS"));
        std::mt19937 random(2024);
        static const char* const pieces[] = {"null",   "-1e999",  "\"\\ud800\"", "{}",
                                             "[]",     "NaN",     "\"",          "}",
                                             "]",      ",",       ":",           "99999999999999999999",
                                             "true",   "\"at\"",  "[[[[",        "-",
                                             "1e-400", "\\u0000", "\xff",        "\"id\": \"x\","};
        int refused = 0;
        int read = 0;
        std::clock_t longest{};
        std::vector<std::string> whole;
        for (unsigned seed = 0; seed < 50; ++seed) {
            whole.push_back(projectText(fixture::randomProject(seed)));
        }
        for (int round = 0; round < rounds; ++round) {
            std::string text = whole[static_cast<std::size_t>(round) % whole.size()];
            for (unsigned hurt = random() % 4 + 1; hurt > 0 && !text.empty(); --hurt) {
                const std::size_t at = random() % text.size();
                switch (random() % 5) {
                case 0: text[at] = static_cast<char>(random()); break;
                case 1: text.erase(at, random() % 20); break;
                case 2: text.insert(at, pieces[random() % std::size(pieces)]); break;
                case 3:
                    text.replace(at, std::min<std::size_t>(6, text.size() - at), pieces[random() % std::size(pieces)]);
                    break;
                default: text.resize(std::max<std::size_t>(at, 1)); break;
                }
            }
            const std::clock_t begun = std::clock();
            try {
                const ReadProject result = readProjectText(text, "damaged.json");
                const std::string again = projectText(result.project);
                QVERIFY(readProjectText(again, "again").project == result.project);
                ++read;
            } catch (const FileError& error) {
                const QString message = error.what();
                static const QRegularExpression placed("^damaged.json:[1-9][0-9]*: ");
                QVERIFY2(message.contains(placed) && !message.contains('\n') && message.size() < 400, error.what());
                ++refused;
            }
            longest = std::max(longest, std::clock() - begun);
        }
        // Not how fast it is, but that nothing goes on for ever: a document takes some milliseconds. The processor's time is
        // counted, so that what else runs on the machine says nothing of it.
        const double longest_s = static_cast<double>(longest) / CLOCKS_PER_SEC;
        qInfo("%d read, %d refused, the longest took %.3f s", read, refused, longest_s);
        QVERIFY(longest_s < 2.0);
        QVERIFY(refused > 3'000);
        QVERIFY(read > 300);
    }
};

} // namespace tst_damage

STONE_TEST(tst_damage, TestDamage)
#include "tst_damage.moc"
