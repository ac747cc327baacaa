// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/one_of_many.h"
#include "world/placed_solid.h"
#include "world/run_watch.h"

#include <QTest>

#include <cmath>

namespace tst_run_watch
{

using namespace stone;

namespace
{

constexpr double tick_s = 1.0 / 60.0;

/// A goal ten metres to the east, a checkpoint half way, a pit beside that.
struct Track {
    Track()
    {
        const auto add = [&](const char* id, const Vec3& at) {
            Zone zone;
            zone.id = {id};
            zone.at = at;
            zone.shape = Box{{2.0, 2.0, 2.0}};
            level.zones.append(zone);
        };
        add("goal", {10, 0, 0});
        add("half", {5, 0, 0});
        add("pit", {5, 4, 0});
        std::vector<Solid> solids;
        for (const auto& zone : level.zones) {
            solids.push_back(placedSolid(zone->shape, zone->at, 0.0, nullptr));
        }
        zones = ZoneMap(level, std::move(solids));
        run.goal = {"goal"};
        run.checkpoints = {{"half"}};
        run.pits = {{"pit"}};
    }

    RunWatch::News at(RunWatch& watch, const Vec3& feet, double seconds = tick_s) const
    {
        ZonesAt now;
        zones.at(
            feet + Vec3{0, 0, RunWatch::body_m}, [](const Riding&) { return Carriage{}; }, now);
        return watch.follow(Pose{feet, 90.0, 0.0, 0.0}, now, seconds);
    }

    /// Goes along a way a tick at a time until something happens that puts back, or ends.
    RunWatch::News go(RunWatch& watch, const std::function<Vec3(double)>& way, double seconds) const
    {
        for (double t = 0.0; t < seconds; t += tick_s) {
            const RunWatch::News news = at(watch, way(t));
            if (news.putBack || news.reached) {
                return news;
            }
        }
        return {};
    }

    Level level;
    ZoneMap zones;
    GoalRun run;
};

} // namespace

/// The clock of a run, checkpoints, pits and falls.
class TestRunWatch : public QObject
{
    Q_OBJECT

private slots:
    void theClockRunsFromTheFirstStepToTheGoal()
    {
        const Track track;
        RunWatch watch(track.run, track.zones, Pose{});
        for (int i = 0; i < 120; ++i) {
            QVERIFY(!track.at(watch, {0, 0, 0}).began); // standing still is free
        }
        QCOMPARE(watch.seconds(), 0.0);
        const RunWatch::News end = track.go(
            watch,
            [](double t) {
                return Vec3{2.0 * t, 0, 0};
            },
            20.0);
        QVERIFY(end.reached);
        QVERIFY(watch.over());
        QVERIFY2(std::abs(watch.seconds() - 4.5) < 0.1, std::to_string(watch.seconds()).c_str()); // the zone begins at 9 m
        const double then_s = watch.seconds();
        QVERIFY(!track.at(watch, {5, 4, 0}).putBack);
        QCOMPARE(watch.seconds(), then_s);
        QCOMPARE(watch.checkpointsReached(), std::size_t{1});
    }

    void whoFallsIsPutBackToTheStartThenToTheCheckpoint()
    {
        const Track track;
        RunWatch watch(track.run, track.zones, Pose{{0, 0, 0}, 45.0, 0.0, 0.0});
        const auto falls = [&](double x) {
            return track.go(
                watch,
                [x](double t) {
                    return Vec3{x, 0, -4.905 * t * t};
                },
                2.0);
        };
        track.go(
            watch,
            [](double t) {
                return Vec3{2.0 * t, 0, 0};
            },
            1.0);
        auto news = falls(2.0);
        QVERIFY(news.putBack.has_value());
        QCOMPARE(*news.putBack, (Pose{{0, 0, 0}, 45.0, 0.0, 0.0}));
        QCOMPARE(watch.falls(), 1);
        QVERIFY(!track.at(watch, {0, 0, 0}).putBack); // once for each fall
        const auto through = track.go(
            watch,
            [](double t) {
                return Vec3{2.0 * t, 0, 0};
            },
            3.0);
        QVERIFY(!through.putBack);
        QCOMPARE(watch.checkpointsReached(), std::size_t{1});
        news = falls(6.0);
        QVERIFY(news.putBack.has_value());
        QVERIFY(std::abs(news.putBack->at.x - 4.0) < 0.1); // where it was come into
        QVERIFY(watch.seconds() > 3.0);                    // the clock went on
    }

    void aPitPutsBackAndStairsSlopesAndHopsDoNot()
    {
        const Track track;
        RunWatch watch(track.run, track.zones, Pose{});
        // Stairs of 0.2 m, each fallen down; a steep slope; a jump of half a metre.
        auto news = track.go(
            watch,
            [](double t) {
                const double within = std::fmod(t, 0.3);
                return Vec3{0, t, 10.0 - 0.2 * std::floor(t / 0.3) - std::min(4.905 * within * within, 0.2)};
            },
            6.0);
        QVERIFY(!news.putBack);
        news = track.go(
            watch,
            [](double t) {
                return Vec3{0, t, 6.0 - 1.6 * t};
            },
            3.0);
        QVERIFY(!news.putBack);
        news = track.go(
            watch,
            [](double t) {
                return Vec3{0, 3, 1.2 + std::max(3.1 * t - 4.905 * t * t, 0.0)};
            },
            1.0);
        QVERIFY(!news.putBack);
        QCOMPARE(watch.falls(), 0);
        QVERIFY(track.at(watch, {5, 4, 0}).putBack.has_value());
        QCOMPARE(watch.falls(), 1);
    }

    /// A jump may be higher than what counts as a fall: it counts from where one took off, up onto things and down from them.
    void jumpsAreNoFalls()
    {
        const Track track; // a metre is a fall
        constexpr double g = 9.81;
        const auto jump = [](double high_m, double from_m, double down_m) {
            const double v = std::sqrt(2.0 * g * high_m);
            return [=](double t) { return Vec3{0.2 * t, 3, std::max(from_m + v * t - g * t * t / 2.0, from_m - down_m)}; };
        };
        RunWatch level(track.run, track.zones, Pose{{0, 3, 0}, 0, 0, 0});
        track.at(level, {0, 3, 0});
        QVERIFY(!track.go(level, jump(1.6, 0.0, 0.0), 2.0).putBack);
        // On a ledge, and another jump from there, down to where it began: as deep as the ledge is high.
        QVERIFY(!track.go(level, jump(1.6, 0.0, -0.9), 2.0).putBack);
        QVERIFY(!track.go(level, jump(1.6, 0.9, 0.9), 2.0).putBack);
        // A metre and a half below where it took off is one.
        RunWatch deep(track.run, track.zones, Pose{{0, 3, 2}, 0, 0, 0});
        track.at(deep, {0, 3, 2});
        QVERIFY(track.go(deep, jump(1.6, 2.0, 1.5), 2.0).putBack);
        // Who has walked on after a jump falls from where it is then.
        RunWatch later(track.run, track.zones, Pose{{0, 3, 2}, 0, 0, 0});
        track.at(later, {0, 3, 2});
        QVERIFY(!track.go(later, jump(1.2, 2.0, 0.0), 2.0).putBack);
        QVERIFY(track
                    .go(
                        later,
                        [](double t) {
                            return Vec3{0.4, 3, std::max(2.0 - g * t * t / 2.0, 0.9)};
                        },
                        2.0)
                    .putBack);
    }

    void withoutADepthFallsDoNotMatter()
    {
        Track track;
        track.run.fall_m = 0.0;
        RunWatch watch(track.run, track.zones, Pose{});
        QVERIFY(!track
                     .go(
                         watch,
                         [](double t) {
                             return Vec3{1, 0, -4.905 * t * t};
                         },
                         2.0)
                     .putBack);
    }

    void zonesThatAreGoneAreNeverReached()
    {
        Track track;
        track.run.goal = {"elsewhere"};
        track.run.pits = {{"nowhere"}};
        track.run.checkpoints = {{"gone"}};
        RunWatch watch(track.run, track.zones, Pose{});
        const auto news = track.go(
            watch,
            [](double t) {
                return Vec3{2.0 * t, 0, 0};
            },
            8.0);
        QVERIFY(!news.reached && !news.checkpoint && !news.putBack);
    }
};

} // namespace tst_run_watch

STONE_TEST(tst_run_watch, TestRunWatch)
#include "tst_run_watch.moc"
