// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_making.h"
#include "world/walk_pose.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <random>

namespace tst_walks
{

using namespace stone;

namespace
{

/// East 10 m, north 5 m, with a bell halfway along each leg and one at the end.
Walk corner(double speed_m_s = 2.0)
{
    Walk walk = walkThrough({{0, 0, 0}, {10, 0, 0}, {10, 5, 0}}, speed_m_s);
    walk.name = "corner";
    for (const double share : {1.0 / 3.0, 5.0 / 6.0, 1.0}) {
        WalkEvent bell;
        bell.t_s = share * walk.seconds();
        bell.kind = WalkEvent::Kind::interact;
        walk.events.push_back(bell);
    }
    return walk;
}

/// Where the walker is at each event: what has to stay where it is.
std::vector<Vec3> placesOfEvents(const Walk& walk)
{
    std::vector<Vec3> places;
    for (const WalkEvent& event : walk.events) {
        places.push_back(walkPose(walk, event.t_s).at);
    }
    return places;
}

double furthest(const std::vector<Vec3>& a, const std::vector<Vec3>& b)
{
    double most = a.size() == b.size() ? 0.0 : 1e9;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
        most = std::max(most, glm::length(a[i] - b[i]));
    }
    return most;
}

bool forwards(const Walk& walk)
{
    return std::is_sorted(walk.points.begin(), walk.points.end(),
                          [](const WalkPoint& a, const WalkPoint& b) { return a.t_s < b.t_s; }) &&
           std::is_sorted(walk.events.begin(), walk.events.end(),
                          [](const WalkEvent& a, const WalkEvent& b) { return a.t_s < b.t_s; });
}

} // namespace

class TestWalks : public QObject
{
    Q_OBJECT

private slots:
    void walksGoAtTheirSpeed()
    {
        const Walk walk = corner();
        QCOMPARE(walk.points.size(), std::size_t{3});
        QCOMPARE(walk.seconds(), 7.5);
        QCOMPARE(legSpeed_m_s(walk, 0), 2.0);
        QCOMPARE(legSpeed_m_s(walk, 1), 2.0);
        QCOMPARE(legSpeed_m_s(walk, 2), 0.0);
        QVERIFY(walkThrough({}, 1.0).points.empty());
        QCOMPARE(walkThrough({{1, 1, 0}, {1, 1, 0}}, 1.0).points.size(), std::size_t{1});
    }

    /// The eyes stay on a thing that one walks past, also where it is passed closely.
    void theEyesStayOnSomething()
    {
        const Vec3 bell{5.0, 0.6, 1.6};
        const Walk walk = withEyesOn(corner(), bell, 1.6);
        QVERIFY(forwards(walk));
        QVERIFY(furthest(placesOfEvents(walk), placesOfEvents(corner())) < 0.002);
        for (double t = 0.0; t < walk.seconds(); t += 0.02) {
            const Pose pose = walkPose(walk, t);
            const Vec3 way = bell - pose.at;
            const double wanted = degrees(std::atan2(way.x, way.y));
            QVERIFY2(std::abs(wrapDegrees(pose.heading_deg - wanted)) < 4.0,
                     qPrintable(QString("%1 s: %2, not %3").arg(t).arg(pose.heading_deg).arg(wanted)));
        }
        // On one leg only: the others go on as they were.
        const Walk half = withEyesOn(corner(), bell, 1.6, 0);
        QVERIFY(!half.points.back().heading_deg);
        QVERIFY(half.points.front().heading_deg.has_value());
        QVERIFY(withEyesOn({}, bell, 1.6).points.empty());
    }

    /// What happens on a walk goes on happening where it did.
    void whatHappensStaysWhereItIs()
    {
        const Walk walk = corner();
        const auto places = placesOfEvents(walk);
        const std::pair<Walk, double> changed[] = {{withLegTime(walk, 0, 20.0), 22.5},
                                                   {withLegTime(walk, 1, 1.0), 6.0},
                                                   {withLegSpeed(walk, 1, 0.5), 15.0},
                                                   {withSpeed(walk, 1.0), 15.0},
                                                   {withStay(walk, 1, 4.0), 11.5},
                                                   {withStay(walk, 0, 4.0), 11.5},
                                                   {turnedRound(walk), 7.5}};
        for (const auto& [next, seconds] : changed) {
            QVERIFY(forwards(next));
            QVERIFY2(std::abs(next.seconds() - seconds) < 1e-9, qPrintable(QString::number(next.seconds())));
            auto now = placesOfEvents(next);
            if (&next == &changed[6].first) {
                std::reverse(now.begin(), now.end());
            }
            QVERIFY2(furthest(now, places) < 0.005, qPrintable(QString::number(furthest(now, places))));
        }
    }

    void staysComeAndGo()
    {
        const Walk walk = corner();
        const Walk stays = withStay(walk, 1, 4.0);
        QCOMPARE(stays.points.size(), std::size_t{4});
        QCOMPARE(stay_s(stays, 1), 4.0);
        QCOMPARE(stay_s(stays, 2), 4.0);
        QCOMPARE(stay_s(stays, 0), 0.0);
        QCOMPARE(walkPose(stays, 7.0).at, Vec3(10, 0, 0));
        const Walk longer = withStay(stays, 2, 6.0);
        QCOMPARE(stay_s(longer, 1), 6.0);
        QCOMPARE(longer.seconds(), 13.5);
        QCOMPARE(withStay(longer, 1, 0.0), walk);
        // A stay is moved, and taken away, as a whole; speeds stay as they are.
        const Walk moved = withPointAt(stays, 2, {10, -10, 0});
        QCOMPARE(moved.points[1].at, moved.points[2].at);
        QCOMPARE(stay_s(moved, 1), 4.0);
        QVERIFY(std::abs(legSpeed_m_s(moved, 0) - 2.0) < 1e-3 && std::abs(legSpeed_m_s(moved, 2) - 2.0) < 1e-3);
        QCOMPARE(withoutPoint(stays, 1).points.size(), std::size_t{2});
    }

    void pointsComeAndGo()
    {
        const Walk walk = corner();
        const Walk more = withPointOn(walk, 0, {4, 3, 0});
        QCOMPARE(more.points.size(), std::size_t{4});
        QVERIFY(std::abs(legSpeed_m_s(more, 0) - 2.0) < 1e-3 && std::abs(legSpeed_m_s(more, 1) - 2.0) < 1e-3);
        QVERIFY(forwards(more));
        const Walk straight = withPointOn(walk, 0, {4, 0, 0});
        QVERIFY(furthest(placesOfEvents(straight), placesOfEvents(walk)) < 0.005);
        QCOMPARE(withoutPoint(straight, 1).points, walk.points);
        const Walk later = withoutPoint(walk, 0);
        QCOMPARE(later.points.front().t_s, 0.0);
        QCOMPARE(later.seconds(), 2.5);
        QCOMPARE(withPointAfter(walk, {10, 9, 0}, 99.0).seconds(), 9.5);
        QCOMPARE(withPointOn(walk, 7, {0, 0, 0}), walk);
        QCOMPARE(withoutPoint(walk, 7), walk);
    }

    void turnedRoundTwiceIsTheSame()
    {
        Walk walk = withStay(corner(), 1, 1.5);
        walk.points[0].heading_deg = 30.0;
        QCOMPARE(turnedRound(turnedRound(walk)), walk);
        for (double t = 0.0; t <= walk.seconds(); t += 0.25) {
            const Vec3 there = walkPose(walk, t).at;
            const Vec3 back = walkPose(turnedRound(walk), walk.seconds() - t).at;
            QVERIFY(glm::length(there - back) < 1e-6);
        }
    }

    /// At every moment of a minute of walking by hand, turning and standing included, the few points that are kept lead where
    /// one was.
    void recordingsReplay()
    {
        std::mt19937 chance(7);
        std::uniform_real_distribution<double> turn(-90.0, 90.0);
        std::vector<WalkPoint> recorded{{.t_s = 0.0, .at = {0, 0, 0}, .heading_deg = 0.0}};
        double turning = 0.0;
        for (int i = 1; i < 3600; ++i) {
            WalkPoint next = recorded.back();
            if (i % 90 == 0) {
                turning = i % 180 == 0 ? 0.0 : turn(chance);
            }
            next.t_s += 1.0 / 60.0;
            next.heading_deg = wrapDegrees(*next.heading_deg + turning / 60.0);
            if (i % 600 > 60) {
                const double heading = radians(*next.heading_deg);
                next.at += Vec3{std::sin(heading), std::cos(heading), i % 1200 < 300 ? 0.3 : 0.0} * (1.4 / 60.0);
            }
            recorded.push_back(next);
        }
        Walk walk;
        walk.points = simplified(recorded, 0.005, 0.5);
        QVERIFY2(walk.points.size() < recorded.size() / 5, qPrintable(QString::number(walk.points.size())));
        for (const WalkPoint& moment : recorded) {
            const Pose pose = walkPose(walk, moment.t_s);
            QVERIFY(glm::length(pose.at - moment.at) < 0.01);
            QVERIFY(std::abs(wrapDegrees(pose.heading_deg - *moment.heading_deg)) < 0.6);
        }
        QVERIFY(simplified({}, 0.01, 1.0).empty());
        QCOMPARE(simplified({recorded.front()}, 0.01, 1.0).size(), std::size_t{1});
    }

    /// However walks are changed, their time runs forwards and they can be saved and read.
    void anyChangeCanBeSaved()
    {
        std::mt19937 chance(11);
        const auto number = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(chance); };
        for (int round = 0; round < 200; ++round) {
            Walk walk = corner();
            walk.id = {"w"};
            for (int step = 0; step < 12; ++step) {
                const auto i = static_cast<std::size_t>(number(0.0, 6.0));
                const Vec3 at{number(-20, 20), number(-20, 20), 0.0};
                switch (static_cast<int>(number(0.0, 7.0))) {
                case 0: walk = withStay(std::move(walk), i, number(-1.0, 3.0)); break;
                case 1: walk = withPointAt(std::move(walk), i, at); break;
                case 2: walk = withPointOn(std::move(walk), i, at); break;
                case 3: walk = walk.points.size() > 2 ? withoutPoint(std::move(walk), i) : std::move(walk); break;
                case 4: walk = withLegTime(std::move(walk), i, number(-1.0, 9.0)); break;
                case 5: walk = withLegSpeed(std::move(walk), i, number(0.1, 9.0)); break;
                default: walk = turnedRound(std::move(walk)); break;
                }
                QVERIFY(forwards(walk));
            }
            Project project =
                withLevel(blankProject(), blankProject().levels[0]->id, [&](Level& level) { level.walks.put(walk); });
            const Project again = readProjectText(projectText(project), "walk").project;
            QCOMPARE(*again.levels[0]->walks[0], walk);
        }
    }
};

} // namespace tst_walks

STONE_TEST(tst_walks, TestWalks)
#include "tst_walks.moc"
