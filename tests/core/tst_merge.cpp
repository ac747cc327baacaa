// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/difference.h"
#include "project/file_error.h"
#include "project/merge.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QTest>

#include <algorithm>
#include <array>
#include <optional>
#include <random>

namespace tst_merge
{

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
                 std::vector<std::string>{"Emitter \"a\": placement, spread 90.0 degrees, was as usual"});
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

    /// Whose is taken is chosen for each clash alone: whatever is chosen, what is told stays the same, and each thing is as the
    /// one has it or as the other has it.
    void everyChoiceIsTakenByItself()
    {
        std::mt19937 random(7);
        for (unsigned round = 0; round < 200; ++round) {
            const Project base = yard();
            std::array<Project, 2> sides{base, base};
            for (std::size_t side = 0; side < 2; ++side) {
                for (const char* id : {"a", "b", "c"}) {
                    if (random() % 6 == 0) {
                        sides[side] = withLevel(sides[side], {"level"}, [&](Level& level) { level.emitters.remove({id}); });
                    } else if (random() % 2 == 0) {
                        sides[side] = with(sides[side], id, [&](Emitter& e) { e.level_db = side == 0 ? -10.0 : -20.0; });
                    }
                }
                if (random() % 2 == 0) {
                    sides[side].subtitle = side == 0 ? "ours" : "theirs";
                }
            }
            const auto& [ours, theirs] = sides;
            const std::vector<Clash> clashes = merged(base, ours, theirs).clashes;
            std::vector<Wins> wins;
            for (std::size_t i = 0; i < clashes.size(); ++i) {
                wins.push_back(random() % 2 == 0 ? Wins::ours : Wins::theirs);
            }
            const Merged both = merged(base, ours, theirs, wins);
            QCOMPARE(both.clashes, clashes);
            std::size_t clash = 0;
            const auto checked = [&](const std::string& what, const auto& before, const auto& mine, const auto& other,
                                     const auto& taken) {
                if (mine != other && mine != before && other != before) {
                    const auto told = std::find_if(clashes.begin(), clashes.end(),
                                                   [&](const Clash& c) { return c.what.find(what) != std::string::npos; });
                    QVERIFY2(told != clashes.end(), what.c_str());
                    QVERIFY(taken == (wins[static_cast<std::size_t>(told - clashes.begin())] == Wins::ours ? mine : other));
                    ++clash;
                } else {
                    QVERIFY(taken == (mine == before ? other : mine));
                }
            };
            const auto levelOf = [](const Project& project, const char* id) -> std::optional<double> {
                const Emitter* found = project.levels[0]->emitters.find({id});
                return found != nullptr ? std::optional(found->level_db) : std::nullopt;
            };
            for (const char* id : {"a", "b", "c"}) {
                checked('"' + std::string(id) + '"', levelOf(base, id), levelOf(ours, id), levelOf(theirs, id),
                        levelOf(both.project, id));
            }
            checked("subtitle", base.subtitle, ours.subtitle, theirs.subtitle, both.project.subtitle);
            QCOMPARE(clash, clashes.size());
            // One choice for all is the same as that choice for each.
            QVERIFY(merged(base, ours, theirs, Wins::theirs).project ==
                    merged(base, ours, theirs, std::vector(clashes.size(), Wins::theirs)).project);
            QVERIFY(merged(base, ours, theirs, Wins::ours).project == merged(base, ours, theirs, std::vector<Wins>{}).project);
        }
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

} // namespace tst_merge

STONE_TEST(tst_merge, TestMerge)
#include "tst_merge.moc"
