#include "project/difference.h"
#include "project/file_error.h"
#include "project/merge.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/random_project.h"

#include <QTest>

using namespace stone;

/// Two documents side by side: what differs, in words, and both together.
class TestMerge : public QObject
{
    Q_OBJECT

    static Project yard()
    {
        return fixture::projectWith(
            {fixture::pointAt("a", {1, 2, 3}), fixture::pointAt("b", {4, 5, 6}), fixture::pointAt("c", {7, 8, 9})});
    }

    template <class Change> static Project with(const Project& project, const char* id, Change&& change)
    {
        return withEmitter(project, {"level"}, {id}, change);
    }

    static std::vector<std::string> words(const Project& before, const Project& after)
    {
        std::vector<std::string> lines;
        for (const Difference& difference : differences(before, after)) {
            lines.push_back(inWords(difference));
        }
        return lines;
    }

private slots:
    void whatDiffersIsSaidInWords()
    {
        const Project before = yard();
        QVERIFY(differences(before, before).empty());
        QCOMPARE(words(before, with(before, "a", [](Emitter& e) { e.level_db = -6.0; })),
                 std::vector<std::string>{"Emitter \"a\": level from 0.0 to -6.0 dB"});
        QCOMPARE(words(before, with(before, "a", [](Emitter& e) { e.placement.spread_deg = 90.0; })),
                 std::vector<std::string>{"Emitter \"a\": placement {\"spread_deg\":90.0}, was as usual"});
        QCOMPARE(words(before, with(before, "b", [](Emitter& e) { e.name = "Lamp"; })),
                 std::vector<std::string>{"Emitter \"b\": name from \"b\" to \"Lamp\""});
        Project after = withLevel(before, {"level"}, [](Level& level) {
            level.emitters.remove({"c"});
            level.emitters.put(fixture::pointAt("d", {0, 0, 0}));
        });
        after.voices = 12;
        QCOMPARE(words(before, after), (std::vector<std::string>{"The project: voices from 64 to 12", "Emitter \"c\" taken out",
                                                                 "Emitter \"d\" added"}));
        QCOMPARE(words(after, before), (std::vector<std::string>{"The project: voices from 12 to 64", "Emitter \"d\" taken out",
                                                                 "Emitter \"c\" added"}));
    }

    void whatOnlyOneChangedIsAsThatOneHasIt()
    {
        const Project base = yard();
        const Project ours = withLevel(with(base, "a", [](Emitter& e) { e.level_db = -6.0; }), {"level"}, [](Level& level) {
            level.emitters.put(fixture::pointAt("mine", {0, 0, 0}));
        });
        Project theirs = withLevel(with(base, "b", [](Emitter& e) { e.at.x = 40.0; }), {"level"}, [](Level& level) {
            level.emitters.remove({"c"});
            level.emitters.put(fixture::pointAt("theirs", {0, 0, 0}));
        });
        theirs.name = "Yard";
        const Merged both = merged(base, ours, theirs);
        QVERIFY(both.clashes.empty());
        const Level& level = *both.project.levels[0];
        QCOMPARE(both.project.name, std::string("Yard"));
        QCOMPARE(level.emitters.find({"a"})->level_db, -6.0);
        QCOMPARE(level.emitters.find({"b"})->at.x, 40.0);
        QVERIFY(level.emitters.find({"c"}) == nullptr);
        QVERIFY(level.emitters.find({"mine"}) != nullptr && level.emitters.find({"theirs"}) != nullptr);
    }

    void whatBothChangedIsAClash()
    {
        const Project base = yard();
        const Project ours = with(base, "a", [](Emitter& e) { e.level_db = -6.0; });
        const Project theirs = with(base, "a", [](Emitter& e) { e.level_db = -9.0; });
        const Merged mine = merged(base, ours, theirs);
        QCOMPARE(mine.clashes, std::vector<Clash>{{.what = "Emitter \"a\""}});
        QCOMPARE(mine.project.levels[0]->emitters.find({"a"})->level_db, -6.0);
        QCOMPARE(merged(base, ours, theirs, Wins::theirs).project.levels[0]->emitters.find({"a"})->level_db, -9.0);
        // Taken out here, changed there.
        const Project without = withLevel(base, {"level"}, [](Level& level) { level.emitters.remove({"a"}); });
        QCOMPARE(merged(base, without, theirs).clashes.size(), std::size_t{1});
        QVERIFY(merged(base, without, theirs).project.levels[0]->emitters.find({"a"}) == nullptr);
        QVERIFY(merged(base, without, theirs, Wins::theirs).project.levels[0]->emitters.find({"a"}) != nullptr);
        QVERIFY(merged(base, without, theirs).clashes[0].oursGone && !merged(base, without, theirs).clashes[0].theirsGone);
        // Each as it was chosen; what nothing was said of is ours.
        const auto both = [&](const Project& to, double a_db, double b_db) {
            return with(with(to, "a", [=](Emitter& e) { e.level_db = a_db; }), "b", [=](Emitter& e) { e.level_db = b_db; });
        };
        const Project here = both(base, -1.0, -2.0);
        const Project there = both(base, -3.0, -4.0);
        QCOMPARE(merged(base, here, there).clashes.size(), std::size_t{2});
        QCOMPARE(merged(base, here, there, std::vector{Wins::theirs}).project, both(base, -3.0, -2.0));
        QCOMPARE(merged(base, here, there, std::vector{Wins::ours, Wins::theirs}).project, both(base, -1.0, -4.0));
        // The same done by both is done once.
        QVERIFY(merged(base, ours, ours).clashes.empty());
        QVERIFY(merged(base, ours, ours).project == ours);
    }

    void mergingWithoutAChangeChangesNothing()
    {
        for (unsigned seed = 0; seed < 60; ++seed) {
            const Project base = fixture::randomProject(seed);
            const Project other = fixture::randomProject(seed + 1'000);
            for (const Merged& both : {merged(base, other, base), merged(base, base, other)}) {
                QVERIFY(both.clashes.empty());
                // Things may stand in another order.
                QVERIFY2(differences(other, both.project).empty(), qPrintable(QString::number(seed)));
            }
            QVERIFY(merged(base, other, other).project == other);
        }
    }
};

QTEST_APPLESS_MAIN(TestMerge)
#include "tst_merge.moc"
