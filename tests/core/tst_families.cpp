// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/distance.h"
#include "engine/course.h"
#include "hearing/model.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/reach.h"

#include <QTest>

#include <cmath>

namespace tst_families
{

using namespace stone;

/// What all members of a family follow, and the wandering of a layer that is drawn.
class TestFamilies : public QObject
{
    Q_OBJECT

    static Lane over(LaneProperty property, double low, double high)
    {
        Lane lane;
        lane.property = property;
        lane.over = LaneInput::gameValue;
        lane.value = {"quiet"};
        lane.shape = LaneShape::curve;
        lane.curve = {{0.0, low}, {1.0, high}};
        return lane;
    }

    /// Two voices of a family ten metres off, and a lamp beside them that belongs to none.
    static Project voices(const Family& family)
    {
        Emitter one = fixture::pointAt("one", {0, 10, 1.6});
        Emitter two = fixture::pointAt("two", {10, 0, 1.6});
        one.family = two.family = {"voices"};
        Project project = fixture::projectWith({one, two, fixture::pointAt("lamp", {0, 10, 1.6})});
        GameValue quiet;
        quiet.id = {"quiet"};
        quiet.name = "Quiet";
        quiet.smoothing_s = 0.0;
        project.gameValues.put(quiet);
        project.families.put(family);
        return project;
    }

    static Family named()
    {
        Family family;
        family.id = {"voices"};
        family.name = "Voices";
        return family;
    }

    /// What is heard at the origin while the value is so.
    static std::vector<Heard> heardAt(const Project& project, double value)
    {
        const auto shared = std::make_shared<const Project>(project);
        const auto world = std::make_shared<const World>(shared, LevelId{"level"}, nullptr, [](auto&&...) { return 100.0; });
        const HearingModel model(world);
        WorldState state;
        Happening set;
        set.value = std::pair(GameValueId{"quiet"}, value);
        const Pose ears{{0, 0, 1.6}, 0, 0, 0};
        world->advance(state, {.to_s = 0.01, .feet = Pose{}});
        world->advance(state, {.to_s = 0.02, .feet = Pose{}, .happenings = std::span(&set, 1)});
        return model.hearAll(world->momentOf(state, ears, TimeSpan::at(0.02)));
    }

private slots:
    void allMembersFollowAValue()
    {
        Family family = named();
        family.lanes = {over(LaneProperty::level, 0.0, -20.0), over(LaneProperty::lowPass, 20'000.0, 500.0)};
        const Project project = voices(family);
        const auto loud = heardAt(project, 0.0);
        const auto half = heardAt(project, 0.5);
        const auto quiet = heardAt(project, 1.0);
        for (const std::size_t member : {0, 1}) {
            QVERIFY(std::abs(half[member].level_db - loud[member].level_db + 10.0) < 1e-9);
            QVERIFY(std::abs(quiet[member].level_db - loud[member].level_db + 20.0) < 1e-9);
            QVERIFY(std::abs(quiet[member].values.lowPass_hz - 500.0) < 1e-6);
        }
        QCOMPARE(quiet[2].level_db, loud[2].level_db);
    }

    /// Twice as near is heard as from half as far, and the reach is known to be that long.
    void theirReachFollowsAValue()
    {
        Family family = named();
        family.lanes = {over(LaneProperty::nearness, 1.0, 0.5)};
        const Project project = voices(family);
        const auto before = heardAt(project, 0.0);
        const auto after = heardAt(project, 1.0);
        // The fixture's falloff is inverse.
        const DistanceFormula& formula = falloffOf(project, *project.levels[0]->emitters[0]).lanes[0].formula;
        const double expected = 20.0 * std::log10(distanceGain(formula, 5.0) * reachGain(formula, 5.0) /
                                                  (distanceGain(formula, 10.0) * reachGain(formula, 10.0)));
        QVERIFY2(std::abs(after[0].level_db - before[0].level_db - expected) < 1e-9, qPrintable(QString::number(expected)));
        Project plain = project;
        plain.families.put(named());
        const Emitter& voice = *project.levels[0]->emitters[0];
        const double reach_m = audibleWithin_m(plain, voice);
        QVERIFY(std::abs(audibleWithin_m(project, voice) / reach_m - 2.0) < 1e-6 || std::isinf(reach_m));
    }

    /// And back.
    void anotherFalloffHoldsWhileAValueIsHigh()
    {
        Family family = named();
        family.otherFalloff = {"flat"};
        family.otherWhen = {{"quiet"}, Comparison::atLeast, 0.5};
        Project project = voices(family);
        Falloff flat;
        flat.id = {"flat"};
        flat.lanes[0].formula.factor = 0.0; // as loud wherever one is
        project.falloffs.put(flat);
        const auto own = heardAt(project, 0.4);
        const auto other = heardAt(project, 0.5);
        QVERIFY(std::abs(other[0].level_db - other[1].level_db) < 1e-9 && other[0].level_db > own[0].level_db + 3.0);
        QCOMPARE(other[2].level_db, own[2].level_db);
        family.otherWhen.comparison = Comparison::atMost;
        project.families.put(family);
        QCOMPARE(heardAt(project, 0.4)[0].level_db, other[0].level_db);
        QCOMPARE(heardAt(project, 0.6)[0].level_db, own[0].level_db);
        QVERIFY(audibleWithin_m(project, *project.levels[0]->emitters[0]) > 1e5); // it is heard from everywhere then
    }

    /// Round and round in its period, for a layer that loops.
    void aLayersWanderingIsHeardAsDrawn()
    {
        auto sound = std::make_shared<Sound>();
        sound->make = Make::layers;
        sound->files = {{.file = "a"}, {.file = "b"}};
        sound->files[0].levelDrift.period_s = 8.0;
        sound->files[0].levelDrift.drawn = {{0.0, 0.0}, {4.0, -12.0}, {8.0, 0.0}};
        Course course(sound, {48'000.0, 48'000.0}, 48'000.0, 1, "id");
        std::vector<Piece> pieces;
        course.during(0.0, 1.0, pieces);
        QCOMPARE(pieces.size(), std::size_t{2});
        const Piece& drawn = pieces[pieces[0].file == 0 ? 0 : 1];
        const Piece& still = pieces[pieces[0].file == 0 ? 1 : 0];
        for (const auto& [seconds, level_db] : {std::pair(0.0, 0.0), {2.0, -6.0}, {4.0, -12.0}, {6.0, -6.0}, {10.0, -6.0}}) {
            QVERIFY(std::abs(course.levelAt(drawn, seconds * 48'000.0) - level_db) < 1e-9);
            QCOMPARE(course.levelAt(still, seconds * 48'000.0), 0.0);
        }
    }
};

} // namespace tst_families

STONE_TEST(tst_families, TestFamilies)
#include "tst_families.moc"
