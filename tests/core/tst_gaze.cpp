// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "support/csv.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/gazing.h"

#include <QTest>

#include <cmath>
#include <numbers>

namespace tst_gaze
{

using namespace stone;
using namespace fixture;

namespace
{

constexpr TimeSpan now{0.0, 0.0};

Lane laneOver(LaneProperty property, double half_a, double half_b, double inside, double behind)
{
    Lane lane;
    lane.property = property;
    lane.over = LaneInput::gaze;
    lane.shape = LaneShape::twoAngles;
    lane.angles = {2.0 * half_a, 2.0 * half_b, inside, behind};
    return lane;
}

Gaze gazeOf(std::vector<Lane> lanes)
{
    Gaze gaze;
    gaze.id = {"gaze"};
    gaze.name = "Gaze";
    gaze.lanes = std::move(lanes);
    return gaze;
}

Project gazing(const Gaze& gaze, const std::vector<Emitter>& emitters)
{
    Project project = projectWith(emitters);
    project.gazes.put(gaze);
    return project;
}

HearingModel modelOf(const Project& project)
{
    auto document = std::make_shared<const Project>(project);
    return HearingModel(document, document->levels[0]->id);
}

Ears facing(double heading_deg, const Vec3& at = {0, 0, 1.6})
{
    return Ears(at, heading_deg, 0.0, 0.0);
}

} // namespace

/// Weighting by where somebody looks.
class TestGaze : public QObject
{
    Q_OBJECT

private slots:
    void referenceNumbers()
    {
        int rows = 0;
        for (const CsvRow& row : readCsv("13_two_angle.csv")) {
            const auto vec = [&](const QString& name) {
                return Vec3{row.number(name + "_x"), row.number(name + "_y"), row.number(name + "_z")};
            };
            const Vec3 look = glm::normalize(vec("facing"));
            const bool level = row.text("unit") == "db";
            Gaze gaze = gazeOf({laneOver(level ? LaneProperty::level : LaneProperty::nearness, row.number("half_a_deg"),
                                         row.number("half_b_deg"), row.number("inner"), row.number("outer"))});
            gaze.horizontal = false;
            const HearingModel model = modelOf(gazing(gaze, {pointAt("a", vec("emit"))}));
            const Ears ears(vec("lis"), degrees(std::atan2(look.x, look.y)), degrees(std::asin(look.z)), 0.0);
            const Heard heard = model.hearOne(ears, now, 0);
            const double got = level ? heard.gazed.level_db : heard.gazed.nearness;
            QVERIFY2(std::abs(heard.offGaze_deg - row.number("angle_deg")) < 1e-3, qPrintable(row.text("angle_deg")));
            QVERIFY2(std::abs(got - row.number("value")) < 1e-3,
                     qPrintable(QString("%1: %2, not %3").arg(row.number("angle_deg")).arg(got).arg(row.number("value"))));
            ++rows;
        }
        QVERIFY(rows > 10);
    }

    /// Looking up and down does not matter on the horizon, and does in space.
    void onTheHorizonOrInSpace()
    {
        const Pose up{{0, 0, 0}, 0.0, 60.0, 0.0};
        QVERIFY(offGaze_deg(up, {0, 5, 0}, true) < 1e-9);
        QVERIFY(std::abs(offGaze_deg(up, {0, 5, 0}, false) - 60.0) < 1e-9);
        QCOMPARE(offGaze_deg(up, {0, 0, 0}, false), 0.0);
    }

    void nearnessIsAFactorOnTheDistance()
    {
        const Gaze gaze = gazeOf({laneOver(LaneProperty::nearness, 30, 60, 0.5, 2.0)});
        const HearingModel model = modelOf(gazing(gaze, {pointAt("a", {0, 10, 1.6})}));
        const HearingModel plain = modelOf(projectWith({pointAt("a", {0, 10, 1.6})}));
        const auto level = [](const HearingModel& m, const Ears& ears) { return m.hearOne(ears, now, 0).level_db; };
        QVERIFY(std::abs(level(model, facing(0)) - level(plain, facing(0, {0, 5, 1.6}))) < 1e-9);
        QVERIFY(std::abs(level(model, facing(180)) - level(plain, facing(0, {0, -10, 1.6}))) < 1e-9);
        // What is brought nearer is in earshot from further away.
        QVERIFY(model.reach_m(0) >= plain.reach_m(0));
    }

    void isForWhomItSays()
    {
        Emitter a = pointAt("a", {0, 10, 1.6});
        Emitter b = pointAt("b", {0, 10, 1.6});
        a.family = {"voices"};
        Gaze gaze = gazeOf({laneOver(LaneProperty::level, 20, 40, 0, -12)});
        const auto levels = [&] {
            Project project = gazing(gaze, {a, b});
            Family family;
            family.id = {"voices"};
            project.families.put(family);
            const auto all = modelOf(project).hearAll(facing(180), now);
            return std::pair(all[0].gazed.level_db, all[1].gazed.level_db);
        };
        QCOMPARE(levels(), std::pair(-12.0, -12.0));
        gaze.exempt = {b.id};
        QCOMPARE(levels(), std::pair(-12.0, 0.0));
        gaze.exempt.clear();
        gaze.exemptFamilies = {{"voices"}};
        QCOMPARE(levels(), std::pair(0.0, -12.0));
        gaze.exemptFamilies.clear();
        gaze.families = {{"voices"}};
        QCOMPARE(levels(), std::pair(-12.0, 0.0));
        gaze.families.clear();
        gaze.emitters = {b.id};
        QCOMPARE(levels(), std::pair(0.0, -12.0));
        gaze.on = false;
        QCOMPARE(levels(), std::pair(0.0, 0.0));
    }

    /// Signals set it going and end it; a zone holds it to itself.
    void countsWhenItShould()
    {
        Gaze gaze = gazeOf({laneOver(LaneProperty::level, 20, 40, 0, -12)});
        gaze.when = Gaze::When::signal;
        gaze.from = {"look"};
        gaze.until = {"away"};
        const HearingModel model = modelOf(gazing(gaze, {pointAt("a", {0, 10, 1.6})}));
        WorldState state;
        Pose feet{{0, 0, 0}, 180.0, 0.0, 0.0};
        const auto level = [&](double to_s, const char* signal) {
            const Happening happening{.cause = Cause::signal, .signal = {signal}};
            model.world().advance(state, {.to_s = to_s, .feet = feet, .happenings = {&happening, signal[0] != 0 ? 1U : 0U}});
            return model.hearOne(model.world().momentOf(state, Ears(state.stance.ears), TimeSpan::at(to_s)), 0).gazed.level_db;
        };
        QCOMPARE(level(1.0, ""), 0.0);
        QCOMPARE(level(2.0, "look"), -12.0);
        QCOMPARE(level(3.0, ""), -12.0);
        QCOMPARE(level(4.0, "away"), 0.0);

        gaze.when = Gaze::When::zone;
        gaze.zone = {"hall"};
        Project project = gazing(gaze, {pointAt("a", {0, 10, 1.6})});
        project = withLevel(std::move(project), {"level"}, [](Level& l) {
            Zone zone;
            zone.id = {"hall"};
            zone.shape = Box{{4, 4, 4}};
            l.zones.put(zone);
        });
        const HearingModel inHall = modelOf(project);
        QCOMPARE(inHall.hearOne(facing(180), now, 0).gazed.level_db, -12.0);
        QCOMPARE(inHall.hearOne(facing(180, {10, 0, 1.6}), now, 0).gazed.level_db, 0.0);
    }

    /// In the rendered sound: a transition without width makes no step when the head turns at a stroke; it comes and goes in
    /// the times that are set.
    void comesAndGoesInItsOwnTime()
    {
        Emitter a = pointAt("a", {0, 4, 1.6});
        a.placement.inWorld = 1.0;
        Gaze gaze = gazeOf({laneOver(LaneProperty::level, 45, 45, 0, -12)});
        gaze.rise_s = 0.2;
        gaze.fall_s = 1.0;
        OfflineJob job;
        job.scene = sceneOf(gazing(gaze, {a}), toneBuffer(480.0));
        job.layout = Layout::mono;
        job.to_s = 5.0;
        // Half a turn keeps a mono level as it is but for the gaze.
        job.ears = [](double t) { return facing(t < 1.0 || t >= 3.0 ? 0.0 : 180.0); };
        const auto out = rendered(job);
        const auto level = [&](double from, double to) { return rms_db(out, 0, from, to, 1); };
        const double full = level(0.5, 1.0);
        QVERIFY(std::abs(level(2.8, 3.0) - (full - 12.0)) < 0.3);
        // Falling: within a twentieth after its second, still well above half way through a third of it.
        QVERIFY(level(1.15, 1.2) > full - 7.0 && level(1.15, 1.2) < full - 2.0);
        QVERIFY(std::abs(level(3.3, 3.5) - full) < 0.5); // rising is quicker
        // A step would be thousands of times the tone's own.
        const double smooth = std::pow(2.0 * std::numbers::pi * 480.0 / 48'000.0, 3.0) * std::pow(10.0, (full + 3.0) / 20.0);
        QVERIFY2(largestBreak(out, 0, 1) < 10.0 * smooth, qPrintable(QString::number(largestBreak(out, 0, 1) / smooth)));
    }

    /// Of two for one voice the one that is looked at stays, though it is softer.
    void whatIsLookedAtMattersMore()
    {
        Emitter ahead = pointAt("ahead", {0, 6, 1.6});
        Emitter behind = pointAt("behind", {0, -4, 1.6});
        Project project = gazing(gazeOf({laneOver(LaneProperty::priority, 30, 60, 1, 0)}), {ahead, behind});
        project.voices = 1;
        const auto alone = [&](const Project& p) {
            Control control(Layout::stereo, 48'000);
            control.setScene(sceneOf(p, toneBuffer()), 0);
            StepPlan plan;
            plan.voices.reserve(16);
            control.decide(0, facing(0), plan);
            return plan.voices.size() == 1 ? plan.voices[0].target[0] : -1.0F;
        };
        const float softer = alone(project);
        project.gazes = {};
        QVERIFY(softer > 0.0F && softer < alone(project));
    }
};

} // namespace tst_gaze

STONE_TEST(tst_gaze, TestGaze)
#include "tst_gaze.moc"
