// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/solid.h"
#include "level/walk_surface.h"
#include "project/read.h"
#include "project/side_on.h"
#include "project/violations.h"
#include "project/write.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/carriage.h"
#include "world/stance.h"
#include "world/walk_pose.h"

#include <QtTest>

#include <array>
#include <cmath>

namespace tst_side_on
{

using namespace stone;

namespace
{

constexpr double gravity_m_s2 = 9.81;

/// A character that is let fall or jumps over a level, step by step.
struct Jumper {
    explicit Jumper(const Mesh& mesh) : ground(std::make_shared<const Mesh>(mesh)), cutter(mesh), surface(cutter, ground) {}

    /// Goes on so far along x in so long; where its feet are then.
    Vec3 go(double metres, double seconds, bool jump = false, double jump_m = 0.5)
    {
        constexpr double step_s = 1.0 / 120.0;
        const int steps = static_cast<int>(std::lround(seconds / step_s));
        if (jump) {
            leap.jump(jump_m, gravity_m_s2);
        }
        for (int i = 0; i < steps; ++i) {
            const Vec2 way{metres / steps, 0.0};
            const Vec3 next = leap.aloft() ? surface.leap(feet(), way) : surface.step(floor, way, WalkSurface::daring);
            leap.lose(floor.z - next.z);
            leap.pass(step_s, gravity_m_s2);
            floor = next;
            highest_m = std::max(highest_m, feet().z);
        }
        return feet();
    }
    Vec3 feet() const { return floor + Vec3{0.0, 0.0, leap.above_m}; }

    Ground ground;
    PlanCutter cutter;
    WalkSurface surface;
    Vec3 floor{0.0};
    Leap leap;
    double highest_m = 0.0;
};

Prism standing(double depth_m)
{
    return {{{-2.0, 0.0}, {2.0, 0.0}, {2.0, 3.0}, {-2.0, 3.0}}, depth_m, true};
}

} // namespace

/// Levels that are seen from the side: shapes on their sheet, ears that hear what is on the screen, jumps on it.
class TestSideOn : public QObject
{
    Q_OBJECT

private slots:
    /// Of a rectangle it is a box: what a box says of any place it says too, however it is turned.
    void aPrismOnItsEdgeIsABoxThatStands()
    {
        for (const double heading_deg : {0.0, -90.0, 37.0}) {
            const Solid::Frame frame = frameAt({3.0, -2.0, 1.0}, heading_deg);
            const Solid prism(standing(5.0), frame);
            const Solid box(Box{{4.0, 5.0, 3.0}}, frame);
            QVERIFY(std::abs(prism.volume_m3() - 60.0) < 1e-9);
            for (const Vec3& p : {Vec3{3, -2, 2}, {3, -2, 0.5}, {9, 1, 2}, {3, 7, 2}, {4.5, -3.5, 3.9}, {-6, -8, 9}}) {
                QCOMPARE(prism.contains(p), box.contains(p));
                QVERIFY(std::abs(prism.signedDistance(p) - box.signedDistance(p)) < 1e-9);
                const Seen seen = prism.seenFrom(p);
                const Seen asBox = box.seenFrom(p);
                QVERIFY(glm::length(seen.vector - asBox.vector) < 1e-9);
                QVERIFY(std::abs(seen.solidAngle_sr - asBox.solidAngle_sr) < 1e-9);
            }
        }
    }

    /// How deep one is in it counts from its outline on the sheet; before and behind only the last half metre.
    void itsDepthCountsOnTheSheet()
    {
        const Solid prism(standing(6.0), frameAt({0, 0, 0}, 0.0));
        QVERIFY(std::abs(prism.depth({0.0, 0.0, 1.5}) - 1.5) < 1e-12);
        QVERIFY(std::abs(prism.depth({0.0, 2.4, 1.5}) - 1.5) < 1e-12);
        QVERIFY(std::abs(prism.depth({0.0, 0.0, 2.8}) - 0.2) < 1e-12);
        QVERIFY(std::abs(prism.depth({0.0, 2.75, 1.5}) - 0.75) < 1e-12); // half of the last half metre
        QVERIFY(prism.depth({0.0, 3.5, 1.5}) < 0.0);
    }

    void outlinesLieOnTheSheet()
    {
        const std::array<std::pair<Looking, double>, 2> sides{{{Looking::north, 0.0}, {Looking::west, -90.0}}};
        for (const auto& [looking, heading_deg] : sides) {
            QCOMPARE(headingInto(looking), heading_deg);
            const Vec3 at = fromSheet(looking, {10.0, 1.0}, 4.0);
            QVERIFY(onSheet(looking, at) == Vec2(10.0, 1.0) && across(looking, at) == 4.0);
            const auto outlines = Solid(standing(6.0), frameAt(at, heading_deg)).outlineOn(looking);
            QCOMPARE(outlines.size(), std::size_t{1});
            for (std::size_t i = 0; i < 4; ++i) {
                QVERIFY(glm::length(outlines[0][i] - (standing(6.0).corners[i] + Vec2{10.0, 1.0})) < 1e-9);
            }
            // From above it is as wide and as deep as it is.
            Vec2 low{1e9};
            Vec2 high{-1e9};
            const auto above = Solid(standing(6.0), frameAt(at, heading_deg)).footprint();
            for (const Vec2& p : above.at(0)) {
                low = glm::min(low, p);
                high = glm::max(high, p);
            }
            const Vec3 size = fromSheet(looking, {4.0, 0.0}, 6.0);
            QVERIFY(glm::length(high - low - Vec2(size)) < 1e-9);
            // A ball is round, whoever looks.
            const auto ball = Solid(Ball{2.0}, {.at = at}).outlineOn(looking);
            for (const Vec2& p : ball.at(0)) {
                QVERIFY(std::abs(glm::length(p - Vec2{10.0, 1.0}) - 2.0) < 1e-9);
            }
        }
    }

    void aLevelIsTurnedToItsSideAndBack()
    {
        const Project project = fixture::projectWith({fixture::pointAt("a", {4, 0, 1.6})});
        const LevelId level = project.levels[0]->id;
        const Project north = seenFrom(project, level, Looking::north);
        QVERIFY(north.levels[0]->sideOn == Looking::north);
        QCOMPARE(north.levels[0]->character.heading_deg, 90.0); // along, to the right
        QVERIFY(listensInto(north, Looking::north) && !listensInto(north, Looking::west));
        QCOMPARE(seenFrom(north, level, Looking::north).rigs.size(), north.rigs.size());
        const Project west = seenFrom(north, level, Looking::west);
        QCOMPARE(west.levels[0]->character.heading_deg, 0.0);
        QVERIFY(listensInto(west, Looking::west));
        const Project across = heardSideOn(west, Looking::west, false);
        QVERIFY(!listensInto(across, Looking::west));
        QCOMPARE(rigOf(across, across.rig).facing, Rig::Facing::character);
        QCOMPARE(heardSideOn(across, Looking::west, true).rigs.size(), across.rigs.size()); // the one that is there
        QVERIFY(!seenFrom(west, level, {}).levels[0]->sideOn);
        for (const Project& each : {north, west, across}) {
            QVERIFY(!violationIn(each, project));
            const std::string text = projectText(each);
            QVERIFY(projectText(readProjectText(text, "x").project) == text);
        }
        QVERIFY(projectText(north).find(R"("side_on": "north")") != std::string::npos);
        QVERIFY(projectText(project).find("side_on") == std::string::npos);
    }

    /// What is to the right on the screen is on the right, whichever way the character goes; with ears that face as it does it
    /// is in front of one who goes there, and on no side.
    void leftAndRightAreAsOnTheScreen_data()
    {
        QTest::addColumn<int>("looking");
        QTest::addColumn<int>("layout");
        QTest::addColumn<int>("rate");
        for (const int looking : {0, 1}) {
            for (const auto layout : {Layout::stereo, Layout::binaural}) {
                for (const int rate : {48'000, 44'100}) {
                    QTest::addRow("%s %d %d", looking == 0 ? "north" : "west", static_cast<int>(layout), rate)
                        << looking << static_cast<int>(layout) << rate;
                }
            }
        }
    }
    void leftAndRightAreAsOnTheScreen()
    {
        QFETCH(int, looking);
        QFETCH(int, layout);
        QFETCH(int, rate);
        const auto side = static_cast<Looking>(looking);
        const Vec3 right = fromSheet(side, {6.0, 1.6}, 0.0);
        const Project project = fixture::projectWith({fixture::pointAt("a", right)});
        const Project into = seenFrom(project, project.levels[0]->id, side);
        const Project along = heardSideOn(into, side, false);
        const auto sides_db = [&](const Project& heard, double faces_deg) {
            OfflineJob job{.scene = {}, .layout = static_cast<Layout>(layout)};
            job.rate = rate;
            const Pose feet{{0, 0, 0}, faces_deg, 0, 0};
            const Pose ears = stanceOf(rigOf(heard, heard.rig), heard.levels[0]->character, feet, 1.0).ears;
            job.ears = [ears](double) { return ears; };
            job.to_s = 0.6;
            job.scene = fixture::sceneOf(heard, {fixture::toneBuffer(1500.0, 1.0)});
            const auto sound = fixture::rendered(job);
            return fixture::rms_db(sound, 1, 0.2, 0.5) - fixture::rms_db(sound, 0, 0.2, 0.5);
        };
        const double goesRight_deg = headingInto(side) + 90.0;
        constexpr double clearly_db = 6.0;
        QVERIFY(sides_db(into, goesRight_deg) > clearly_db);
        QCOMPARE(sides_db(into, goesRight_deg + 180.0), sides_db(into, goesRight_deg));
        QVERIFY(std::abs(sides_db(along, goesRight_deg)) < 0.2);
        QVERIFY(std::abs(sides_db(along, goesRight_deg + 180.0)) < 0.2);
        // Ears along the sheet have a side too: what is before the picture's plane is on the right of who goes right.
        const Project before = fixture::projectWith(
            {fixture::pointAt("a", fromSheet(side, {0.0, 1.6}, 0.0) - 6.0 * aheadOf(headingInto(side), 0.0))});
        const Project heard = heardSideOn(seenFrom(before, before.levels[0]->id, side), side, false);
        QVERIFY(sides_db(heard, goesRight_deg) > clearly_db);
        QVERIFY(sides_db(heard, goesRight_deg + 180.0) < -clearly_db);
    }

    /// A ledge too high to step on is jumped on, and no higher one than the jump carries.
    void whoJumpsComesOnLedges()
    {
        Mesh mesh;
        fixture::addBox(mesh, {-10, -4, -1}, {20, 4, 0});
        fixture::addBox(mesh, {2, -4, 0}, {5, 4, 0.9});
        Jumper walker(mesh);
        QVERIFY(walker.go(3.0, 1.5).x < 2.0); // it is a wall for who walks
        QVERIFY(std::abs(walker.feet().z) < 1e-6);
        Jumper low(mesh);
        low.go(1.2, 0.5);
        low.go(1.5, 1.0, true, 0.6);
        QVERIFY(low.feet().x < 2.0 && std::abs(low.feet().z) < 1e-6);
        Jumper high(mesh);
        high.go(1.2, 0.5);
        high.go(1.5, 1.0, true, 1.2);
        QVERIFY(high.feet().x > 2.2);
        QVERIFY2(std::abs(high.feet().z - 0.9) < 1e-5, std::to_string(high.feet().z).c_str());
        QVERIFY(std::abs(high.highest_m - 1.2) < 0.01);
        QVERIFY(std::abs(high.go(4.0, 2.0).z) < 1e-6); // and down on the other side
    }

    /// A hole that stops who walks is jumped over, or fallen into by who dares, for as long as that takes.
    void holesAreJumpedOverOrFallenInto()
    {
        Mesh mesh;
        fixture::addBox(mesh, {-10, -4, -9}, {2, 4, 0});
        fixture::addBox(mesh, {2, -4, -9}, {4, 4, -8});
        fixture::addBox(mesh, {4, -4, -9}, {20, 4, 0});
        const PlanCutter cutter(mesh);
        const Ground ground(std::make_shared<const Mesh>(mesh));
        WalkSurface careful(cutter, ground);
        QVERIFY(careful.step({0, 0, 0}, {6, 0}).x <= 2.0);
        Jumper over(mesh);
        over.go(1.8, 0.6);
        over.go(3.0, 0.9, true, 0.6);
        QVERIFY(over.feet().x > 4.0 && std::abs(over.feet().z) < 1e-6);
        QCOMPARE(over.leap.fallen_m, 0.0);
        Jumper into(mesh);
        into.go(3.0, 1.0);
        QVERIFY(into.feet().z < -0.1 && into.leap.aloft());
        const double most_m = into.leap.fallen_m;
        QVERIFY(std::abs(most_m - 8.0) < 1e-4);
        into.go(0.0, 2.0);
        QVERIFY(std::abs(into.feet().z + 8.0) < 1e-4 && !into.leap.aloft());
    }

    /// The gravity of a level is that by which its character falls: sqrt(2 h / g) from a brink.
    void fallsTakeAsLongAsTheGravitySays()
    {
        for (const double g : {1.62, 9.81, 25.0}) {
            Leap leap;
            leap.lose(4.0);
            constexpr double step_s = 1e-4;
            double seconds = 0.0;
            std::optional<double> fallen;
            while (!fallen && seconds < 10.0) {
                fallen = leap.pass(step_s, g);
                seconds += step_s;
            }
            QVERIFY(std::abs(seconds - std::sqrt(8.0 / g)) < 2.0 * step_s);
            QCOMPARE(fallen.value_or(0.0), 4.0);
        }
    }

    void headsMeetCeilings()
    {
        Mesh mesh;
        fixture::addBox(mesh, {-10, -4, -1}, {10, 4, 0});
        fixture::addBox(mesh, {-10, -4, 2.5}, {10, 4, 3.0});
        Jumper jumper(mesh);
        QVERIFY(std::abs(jumper.surface.freeAbove({0, 0, 1.6}, 5.0) - 0.9) < 1e-5);
        QCOMPARE(jumper.surface.freeAbove({0, 0, 3.5}, 5.0), 5.0);
        jumper.leap.jump(2.0, gravity_m_s2);
        jumper.leap.stopRising();
        QVERIFY(!jumper.leap.aloft() || jumper.leap.rise_m_s <= 0.0);
    }

    /// A walk that was drawn on the sheet faces along it, and into the air where it leaps.
    void walksFaceAlongTheSheet()
    {
        Walk walk;
        walk.points = {{0.0, {0, 0, 0}, {}, 0.0, {}},
                       {2.0, {4, 0, 0}, {}, 0.0, {}},
                       {3.0, {4, 0, 2}, {}, 0.0, {}},
                       {5.0, {0, 0, 2}, {}, 0.0, {}}};
        QCOMPARE(walkPose(walk, 1.0).heading_deg, 90.0);
        QVERIFY(std::abs(walkPose(walk, 2.5).at.z - 1.0) < 1e-12);
        QVERIFY(std::abs(wrapDegrees(walkPose(walk, 4.0).heading_deg + 90.0)) < 1e-9);
    }
};

} // namespace tst_side_on

STONE_TEST(tst_side_on, TestSideOn)
#include "tst_side_on.moc"
