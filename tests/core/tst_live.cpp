// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/live.h"
#include "engine/wakeup.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/spectra.h"
#include "world/walk_pose.h"

#include <QTest>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <numbers>
#include <thread>

namespace tst_live
{

using namespace stone;

/// The live engine stepped by hand: what the window asks for and what it is told.
class TestLive : public QObject
{
    Q_OBJECT

    static std::vector<float> play(Live& live, double seconds)
    {
        std::vector<float> out(2 * static_cast<std::size_t>(std::lround(seconds * 48'000)));
        for (std::size_t at = 0; at < out.size() / 2; at += 240) {
            live.pump();
            live.render(out.data() + 2 * at, std::min<std::size_t>(240, out.size() / 2 - at));
        }
        live.pump();
        return out;
    }

    static Project walked()
    {
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 6, 1.6})});
        return withLevel(project, {"level"}, [](Level& level) {
            Walk walk;
            walk.id = {"w"};
            walk.points = {{0.0, {-10, 0, 0}, 0.0, 0.0, {}}, {5.0, {10, 0, 0}, 0.0, 0.0, {}}};
            level.walks.put(walk);
        });
    }

private slots:
    void aWalkSoundsLikeItsRender()
    {
        const auto scene = fixture::sceneOf(walked(), fixture::toneBuffer());
        Live live(Layout::stereo, 48'000);
        live.setScene(scene);
        live.playWalk({"w"}, 0.0);
        const auto played = play(live, 2.0);
        OfflineJob job;
        job.scene = scene;
        job.to_s = 2.0;
        const Level& level = scene->model.level();
        job.ears = [&](double t) { return headOf(level.character, walkPose(*level.walks[0], t)); };
        QVERIFY(fixture::rendered(job) == played);
        const Live::Snapshot snapshot = live.snapshot();
        QVERIFY(snapshot.walk_s && std::abs(*snapshot.walk_s - 2.0) < 0.03);
        QVERIFY(std::abs(snapshot.feet.at.x + 2.0) < 0.1);
    }

    /// Whoever listens never gets more than full scale; what is below comes as it is, and without a step where it goes over.
    void earsAreProtected()
    {
        EarLimiter limiter(2, 48'000);
        std::vector<float> soft = fixture::whiteNoise(0.2, 48'000, 5, 0.15F);
        std::vector<float> limited = soft;
        limiter.process(limited.data(), limited.size() / 2);
        QVERIFY(limited == soft);
        QCOMPARE(limiter.taken_db(), 0.0F);
        // A tone that comes up to four times full scale and goes away again.
        std::vector<float> loud(2 * 48'000);
        for (std::size_t i = 0; i < loud.size() / 2; ++i) {
            const double t = static_cast<double>(i) / 48'000;
            const double height = 4.0 * std::exp(-std::pow((t - 0.4) / 0.1, 2.0));
            loud[2 * i] = loud[2 * i + 1] = static_cast<float>(height * std::sin(2.0 * std::numbers::pi * 440.0 * t));
        }
        std::vector<float> heard = loud;
        float most_db = 0.0F;
        for (std::size_t at = 0; at < heard.size() / 2; at += 240) {
            limiter.process(heard.data() + 2 * at, std::min<std::size_t>(240, heard.size() / 2 - at));
            most_db = std::min(most_db, limiter.taken_db());
        }
        QVERIFY2(most_db < -11.0F && most_db > -13.0F, qPrintable(QString::number(most_db)));
        float before = 1.0F;
        for (std::size_t i = 0; i < heard.size(); i += 2) {
            QVERIFY(std::abs(heard[i]) <= EarLimiter::ceiling + 1e-6F);
            QCOMPARE(heard[i], heard[i + 1]);
            if (std::abs(loud[i]) > 0.01F) {
                const float gain = heard[i] / loud[i];
                QVERIFY2(std::abs(gain - before) < 0.05F, qPrintable(QString::number(gain - before)));
                before = gain;
            }
        }
        // A second later it does nothing any more.
        std::vector<float> silence(2 * 48'000);
        limiter.process(silence.data(), silence.size() / 2);
        QCOMPARE(limiter.taken_db(), 0.0F);
    }

    void aWalkJoinedLaterSoundsLikeItsRenderFromThere()
    {
        // The level is as old as the walk: what starts after 2.5 s starts half a second after joining at 2 s.
        Project project = walked();
        Emitter late = fixture::pointAt("late", {0, 2, 1.6});
        late.startAfter_s = 2.5;
        project = withLevel(project, {"level"}, [&](Level& level) { level.emitters.put(late); });
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer(441.0, 0.7));
        Live live(Layout::stereo, 48'000);
        live.setScene(scene);
        play(live, 192.0 * stepFrames / 48'000); // to the end of a step
        live.playWalk({"w"}, 2.0);
        const double already_s = static_cast<double>(Live::stepsAhead * stepFrames) / 48'000;
        play(live, already_s); // decided before the walk was asked for
        const auto played = play(live, 2.0);
        QVERIFY(std::abs(live.snapshot().time_s - 4.0) < 0.05);
        OfflineJob job;
        job.scene = scene;
        job.from_s = 2.0;
        job.to_s = 4.0;
        const Level& level = scene->model.level();
        job.ears = [&](double t) { return headOf(level.character, walkPose(*level.walks[0], t)); };
        const auto render = fixture::rendered(job);
        QVERIFY(fixture::energy_db(render, 0.6, 1.0) > fixture::energy_db(render, 0.2, 0.45) + 3.0);
        double difference = 0.0;
        for (std::size_t i = 2 * 4'800; i < std::min(render.size(), played.size()); ++i) {
            difference = std::max(difference, static_cast<double>(std::abs(render[i] - played[i])));
        }
        QVERIFY2(difference < 1e-4, qPrintable(QString::number(difference)));
    }

    void aWalkThatIsLeftStandsStill()
    {
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(walked(), fixture::toneBuffer()));
        live.playWalk({"w"}, 2.0);
        play(live, 0.5);
        live.stopWalk();
        play(live, 0.2);
        const Pose left = live.snapshot().feet;
        play(live, 0.5);
        QVERIFY(glm::length(live.snapshot().feet.at - left.at) < 1e-3);
        QVERIFY(!live.snapshot().walk_s);
    }

    void theEarsGlideButJumpsAreJumps()
    {
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(walked(), fixture::toneBuffer()));
        live.setFeet({{0, 0, 0}, 0, 0, 0}, true);
        play(live, 0.1);
        live.setFeet({{1, 0, 0}, 0, 0, 0}, false);
        play(live, 0.03); // the four steps that were decided, and one or two more
        const double soon = live.snapshot().feet.at.x;
        QVERIFY2(soon > 0.2 && soon < 1.0, qPrintable(QString::number(soon)));
        play(live, 0.2);
        QVERIFY(std::abs(live.snapshot().feet.at.x - 1.0) < 1e-3);
        live.setFeet({{50, 0, 0}, 90, 0, 0}, true);
        play(live, 0.03);
        QCOMPARE(live.snapshot().feet.at.x, 50.0);
    }

    void theMonitorLevelIsRamped()
    {
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {0, 1, Character{}.earsHeight_m})}),
                                       fixture::toneBuffer(200.0)));
        play(live, 0.2);
        live.setMonitor_db(-200.0);
        const auto falling = play(live, 0.2);
        QVERIFY(fixture::energy_db(falling, 0.1, 0.2) < -150.0);
        QVERIFY(fixture::largestBreak(falling, 0) < 5e-3);
    }

    void metersAndLoudnessAgreeWithTheSound()
    {
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {1, 0, Character{}.earsHeight_m})}),
                                       fixture::toneBuffer(1000.0, 1.0, 0.1F)));
        const auto played = play(live, 4.0);
        const Live::Snapshot snapshot = live.snapshot();
        QVERIFY(std::abs(snapshot.rms_db[1] - fixture::rms_db(played, 1, 3.0, 4.0)) < 0.05);
        QVERIFY(std::abs(snapshot.peak[1] - 0.1F) < 1e-3F);
        // A sine of 1 kHz in one channel: its RMS level, by BS.1770 -0.691 + 0.69 dB of weighting.
        QVERIFY2(std::abs(snapshot.integrated_lufs + 23.01) < 0.15, qPrintable(QString::number(snapshot.integrated_lufs)));
        QCOMPARE(snapshot.voices, std::size_t{1});
        QVERIFY(std::abs(snapshot.time_s - 4.0) < 0.05);
    }

    void soundsThatNobodyNeedsAreFreed()
    {
        Live live(Layout::stereo, 48'000);
        std::weak_ptr<const SampleBuffer> first;
        {
            const SharedBuffer buffer = fixture::toneBuffer();
            first = buffer;
            live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {0, 1, 0})}), buffer));
        }
        play(live, 0.2);
        QVERIFY(!first.expired());
        live.setScene(fixture::sceneOf(fixture::projectWith({fixture::pointAt("b", {0, 1, 0})}), fixture::toneBuffer(300.0)));
        play(live, 0.02);
        QVERIFY(!first.expired()); // it still fades
        play(live, 0.3);
        QVERIFY(first.expired());
    }

    void aRenderCanBeCancelled()
    {
        OfflineJob job;
        job.scene = fixture::sceneOf(walked(), fixture::toneBuffer());
        job.to_s = 100.0;
        job.ears = [](double) { return Pose{}; };
        double reached = 0.0;
        std::size_t samples = 0;
        const bool done = renderOffline(
            job, [&](std::span<const float> frames) { samples += frames.size(); },
            [&](double part) {
                reached = part;
                return part < 0.1;
            });
        QVERIFY(!done);
        QVERIFY(reached >= 0.1 && reached < 0.2);
        QVERIFY(samples < 2 * 48'000 * 20);
    }

    void aRenderIsTheSameOnManyThreads_data()
    {
        QTest::addColumn<Layout>("layout");
        QTest::newRow("stereo") << Layout::stereo;
        QTest::newRow("headphones") << Layout::binaural;
        QTest::newRow("7.1.4") << Layout::surround714;
    }
    /// Decided and sounded ahead on threads of their own, or in between: the same bytes, of what moves and of a room that
    /// answers.
    void aRenderIsTheSameOnManyThreads()
    {
        QFETCH(Layout, layout);
        Project project = walked();
        Room room;
        room.id = {"hall"};
        room.shape = Box{{12, 10, 4}};
        room.reverb.on = true;
        project = withLevel(std::move(project), project.levels[0]->id, [&](Level& level) { level.rooms.put(room); });
        OfflineJob job;
        job.scene = fixture::sceneOf(project, fixture::toneBuffer());
        job.layout = layout;
        job.from_s = 1.003;
        job.to_s = 3.01;
        job.ears = [](double t) { return Pose{{t, -0.5 * t, 1.6}, 30.0 * t, 0, 0}; };
        std::vector<std::vector<float>> made;
        std::vector<std::size_t> told;
        for (const unsigned threads : {1U, 2U, 4U}) {
            std::size_t sum = 0;
            job.threads = threads;
            job.heard = [&](std::uint64_t step, std::span<const Heard>) { sum += step; };
            made.push_back(fixture::rendered(job));
            told.push_back(sum);
        }
        QCOMPARE(made[0].size(), channelsOf(layout) * static_cast<std::size_t>(std::lround(2.007 * 48'000)));
        QVERIFY(std::any_of(made[0].begin(), made[0].end(), [](float x) { return std::abs(x) > 1e-3F; }));
        QVERIFY(made[0] == made[1] && made[0] == made[2]);
        QVERIFY(told[0] > 0 && told[0] == told[1] && told[0] == told[2]);
    }

    /// Whoever stops listening to a render ends it, however far ahead it is; so does a sink that fails.
    void aSinkThatFailsEndsARender()
    {
        OfflineJob job;
        job.scene = fixture::sceneOf(walked(), fixture::toneBuffer());
        job.to_s = 10.0;
        job.ears = [](double) { return Pose{}; };
        for (const unsigned threads : {1U, 2U}) {
            job.threads = threads;
            std::size_t blocks = 0;
            const auto full = [&](std::span<const float>) {
                if (++blocks == 20) {
                    throw std::runtime_error("the disk is full");
                }
            };
            QVERIFY_EXCEPTION_THROWN(renderOffline(job, full, {}), std::runtime_error);
            QCOMPARE(blocks, std::size_t{20});
        }
    }

    void whatGoesWrongInDecidingEndsARender()
    {
        OfflineJob job;
        job.scene = fixture::sceneOf(walked(), fixture::toneBuffer());
        job.to_s = 10.0;
        for (const unsigned threads : {1U, 2U}) {
            job.threads = threads;
            job.ears = [](double t) {
                if (t > 1.0) {
                    throw std::runtime_error("no ears");
                }
                return Pose{};
            };
            QVERIFY_EXCEPTION_THROWN(fixture::rendered(job), std::runtime_error);
        }
    }

    void onlyTheNamedSound()
    {
        const auto all = fixture::sceneOf(
            fixture::projectWith({fixture::pointAt("a", {-1, 0, 0}), fixture::pointAt("b", {1, 0, 0})}), fixture::toneBuffer());
        ForEars onlyB;
        onlyB.solo = {EmitterId{"b"}};
        all->model = HearingModel(all->model.sharedWorld(), onlyB);
        OfflineJob job;
        job.scene = all;
        job.to_s = 0.3;
        job.ears = [](double) { return Pose{}; };
        const auto out = fixture::rendered(job);
        QVERIFY(fixture::rms_db(out, 1, 0.1, 0.3) > -12.0);
        QVERIFY(fixture::rms_db(out, 0, 0.1, 0.3) < -100.0);
    }

    /// Whoever waits is woken, also by what came before it waited; and comes back by itself.
    void whoWaitsIsWoken()
    {
        Wakeup wakeup;
        wakeup.wait(std::chrono::milliseconds(1)); // nobody wakes it
        wakeup.wake();
        wakeup.wake();
        constexpr std::chrono::hours endless(24);
        wakeup.wait(endless); // both at once
        std::atomic<int> rounds{0};
        std::jthread waiting([&] {
            for (int i = 0; i < 1'000; ++i) {
                wakeup.wait(endless);
                rounds = i + 1;
            }
        });
        for (int i = 0; i < 1'000; ++i) {
            wakeup.wake();
            while (rounds < i + 1) {
                std::this_thread::yield();
            }
        }
        waiting.join();
        QCOMPARE(rounds.load(), 1'000);
    }

    /// The control thread of an engine that no device asks does not spin; one that is asked decides as many steps as are
    /// played.
    void theControlThreadGoesWithTheDevice()
    {
        const auto scene = fixture::sceneOf(fixture::projectWith({fixture::pointAt("a", {0, 3, 0})}), fixture::toneBuffer());
        Live live(Layout::stereo, 48'000);
        live.setScene(scene);
        live.start();
        std::vector<float> out(2 * stepFrames);
        const auto decided = [&] { return std::lround(live.snapshot().time_s * 48'000 / static_cast<double>(stepFrames)); };
        const auto comesTo = [&](long steps) {
            for (int ms = 0; ms < 5'000 && decided() < steps; ++ms) {
                std::this_thread::sleep_for(std::chrono::milliseconds(1));
            }
            return decided() == steps;
        };
        const long ahead = static_cast<long>(Live::stepsAhead);
        QVERIFY(comesTo(ahead));
        std::this_thread::sleep_for(std::chrono::milliseconds(50));
        QCOMPARE(decided(), ahead);
        for (long step = 1; step <= 200; ++step) {
            live.render(out.data(), stepFrames);
            QVERIFY(comesTo(ahead + step));
        }
        QCOMPARE(live.snapshot().lateSteps, std::uint64_t{0});
        live.stop();
    }
};

} // namespace tst_live

STONE_TEST(tst_live, TestLive)
#include "tst_live.moc"
