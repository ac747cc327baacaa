// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/realtime_trap.h"
#include "engine/live.h"
#include "media/sound_blocks.h"
#include "media/sound_file.h"
#include "spatial/sofa.h"
#include "support/fixtures.h"

#include <QTest>

#include <QTemporaryDir>

#include <atomic>
#include <condition_variable>
#include <fstream>
#include <mutex>
#include <thread>

using namespace stone;

class TestRealtime : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    SharedBuffer streamed_; ///< read and decoded while it plays
    SharedHead measured_;

    /// What is streamed is one sound of several: it plays with effects, like the others.
    std::shared_ptr<Scene> scene(int variant) const
    {
        static const SharedBuffer tones[] = {fixture::toneBuffer(300.0, 0.5), fixture::toneBuffer(700.0, 0.3)};
        std::vector<Emitter> emitters;
        for (int i = 0; i < 40; ++i) {
            Emitter emitter =
                fixture::pointAt("e" + std::to_string(i), {static_cast<double>((i * 7 + variant) % 13), 1.0 + i % 5, 0});
            emitter.pitch_st = i % 3 - 1;
            emitter.muted = (i + variant) % 4 == 0;
            emitter.sound = {i % 6 == 0 ? "streamed" : "tone"};
            // Everything that a voice can go through.
            emitter.placement.spread_deg = i % 4 * 60.0;
            emitter.placement.inWorld = i % 7 == 0 ? 0.5 : 1.0;
            emitter.placement.doppler = i % 3;
            emitter.placement.air = i % 2 == 0;
            Lane low;
            low.property = LaneProperty::lowPass;
            low.over = LaneInput::direction;
            low.shape = LaneShape::curve;
            low.curve = {{-90, 20'000}, {90, 500.0 + 100.0 * variant}};
            emitter.lanes = {low};
            if ((i + variant) % 9 != 0) {
                emitters.push_back(emitter);
            }
        }
        Project project = fixture::projectWith(emitters);
        Sound sound = *project.sounds.find({"tone"});
        sound.effects.equaliser = {.on = true, .low_db = variant % 7 - 3.0, .high_db = 6.0};
        sound.effects.saturation.on = variant % 2 == 0;
        sound.effects.tremolo.on = true;
        sound.effects.echo = {.on = variant % 3 != 0, .delay_s = 0.05 + 0.01 * (variant % 5)};
        project.sounds.put(sound);
        sound.id = {"streamed"};
        sound.keeping = Keeping::streamed;
        project.sounds.put(sound);
        // Two rooms that answer, one of them with another decay each time, or by a response.
        project = withLevel(std::move(project), {"level"}, [variant](Level& level) {
            for (const double x : {0.0, 20.2}) {
                Room room;
                room.id = {x > 0.0 ? "b" : "a"};
                room.at = {x, 0, -1};
                room.shape = Box{{20, 20, 5}};
                room.reverb.rt60_s.fill(0.4 + 0.3 * (x > 0.0 ? variant % 5 : 1));
                room.reverb.tail = x > 0.0 && variant / 40 % 2 == 1 ? Tail::response : Tail::network;
                level.rooms.put(room);
            }
            Opening door;
            door.id = {"door"};
            door.from = {10.1, -1};
            door.to = {10.1, 1};
            door.open = 0.5;
            level.openings.put(door);
        });
        const auto made = fixture::sceneOf(project, tones[variant % 2]);
        made->responses = {nullptr, RoomResponse::of(tones[0])};
        made->waits = false;
        made->head = variant / 60 % 2 == 1 ? measured_ : nullptr;
        for (SharedMaterial& material : made->materials) {
            if (material->sound->id.text == "streamed") {
                material =
                    std::make_shared<const SoundMaterial>(SoundMaterial{material->sound, {streamed_}, material->effects});
            }
        }
        return made;
    }

private slots:
    void initTestCase()
    {
        const std::string file = folder_.filePath("streamed.wav").toStdString();
        fixture::writeTone(file, 440.0, 8.0);
        streamed_ = openSoundFile(file, 48'000, true, Keeping::streamed, std::make_shared<BlockLoader>());
        QVERIFY(!streamed_->decoded());
        measured_ = readSofa(installedSofa(), 48'000);
    }

    void theCallbackNeitherAllocatesNorLocks_data()
    {
        QTest::addColumn<int>("layout");
        for (const Layout layout : {Layout::stereo, Layout::binaural, Layout::surround714, Layout::ambix3}) {
            QTest::newRow(nameOf(layout)) << static_cast<int>(layout);
        }
    }

    void theCallbackNeitherAllocatesNorLocks()
    {
        QFETCH(int, layout);
        if (!realtime_trap::works()) {
            QSKIP("the sanitizers bring their own malloc");
        }
        realtime_trap::reset();
        Live live(static_cast<Layout>(layout), 48'000);
        std::vector<float> block(mostChannels * 700);
        for (int i = 0; i < 600; ++i) {
            if (i % 3 == 0) {
                live.setScene(scene(i)); // edits rain down
                live.setMonitor_db(-(i % 7));
            }
            if (i % 40 == 0) {
                live.clap(i % 80 == 0 ? Clap::hands : Clap::balloon);
            }
            live.setFeet({{i * 0.01, 0, 0}, static_cast<double>(i), 0, 0}, i % 50 == 0);
            if (i % 5 != 0) {
                live.pump(); // and sometimes the decisions come late
            }
            realtime_trap::set();
            live.render(block.data(), 1 + static_cast<std::size_t>(i * 37 % 700));
            realtime_trap::release();
        }
        QVERIFY(live.snapshot().voices > 10);
        const realtime_trap::Caught caught = realtime_trap::caught();
        QCOMPARE(caught.allocations, 0);
        QCOMPARE(caught.locks, 0);
        QVERIFY2(caught.systemCalls == 0, qPrintable(QString("system call %1").arg(caught.lastSystemCall)));
    }

    /// Each kind of thing that is trapped is seen when it happens.
    void theTrapWorks()
    {
        if (!realtime_trap::works()) {
            QSKIP("the sanitizers bring their own malloc");
        }
        const auto caughtIn = [](auto&& act) {
            realtime_trap::reset();
            realtime_trap::set();
            act();
            realtime_trap::release();
            return realtime_trap::caught();
        };
        void* volatile p = nullptr;
        QVERIFY(caughtIn([&] { p = std::malloc(10); }).allocations > 0);
        QVERIFY(caughtIn([&] { p = std::realloc(p, 20); }).allocations > 0);
        QVERIFY(caughtIn([&] { std::free(p); }).allocations > 0);
        QVERIFY(caughtIn([&] { p = std::calloc(2, 10); }).allocations > 0);
        std::free(p);
        QVERIFY(caughtIn([&] { p = std::aligned_alloc(64, 128); }).allocations > 0);
        std::free(p);
        std::mutex mutex;
        QVERIFY(caughtIn([&] { const std::lock_guard hold(mutex); }).locks > 0);
        std::condition_variable condition;
        QVERIFY(caughtIn([&] { condition.notify_one(); }).locks > 0);
        if (!realtime_trap::seesSystemCalls()) {
            QSKIP("this system cannot hand over system calls");
        }
        QVERIFY(caughtIn([] { std::this_thread::sleep_for(std::chrono::microseconds(1)); }).systemCalls > 0);
        QVERIFY(caughtIn([] { std::ifstream("/proc/self/stat").get(); }).systemCalls > 0);
        QCOMPARE(caughtIn([] {}), realtime_trap::Caught{});
    }

    /// What the thread sanitizer watches: a device thread, the control thread and edits from here, all at once.
    void editsRainDownWhilePlaying()
    {
        Live live(Layout::binaural, 48'000);
        live.setScene(scene(0));
        live.start();
        std::atomic<bool> playing{true};
        std::atomic<int> bad{0};
        std::thread device([&] {
            std::vector<float> block(2 * 480);
            while (playing) {
                live.render(block.data(), 480);
                for (const float x : block) {
                    bad += std::isfinite(x) && std::abs(x) < 100.0F ? 0 : 1;
                }
                std::this_thread::sleep_for(std::chrono::milliseconds(2));
            }
        });
        for (int i = 0; i < 250; ++i) {
            live.setScene(scene(i));
            live.setFeet({{i * 0.02, 0, 0}, static_cast<double>(i), 0, 0}, false);
            if (i % 20 == 0) {
                live.restart();
            }
            if (i % 30 == 0) {
                live.playWalk({"none"}, 0.0);
            } else if (i % 30 == 15) {
                live.stopWalk();
            }
            if (i % 25 == 0) {
                live.clap(Clap::hands);
            }
            live.snapshot();
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        }
        playing = false;
        device.join();
        live.stop();
        QCOMPARE(bad.load(), 0);
        QVERIFY(live.snapshot().time_s > 0.0);
    }

    /// From the call that edits to the first changed sample, in sound: stepsAhead decided steps and no more.
    void anEditIsHeardWithinFiftyMilliseconds()
    {
        const SharedBuffer tone = fixture::toneBuffer(480.0);
        const Project project = fixture::projectWith({fixture::pointAt("a", {0, 1, 0})});
        const Project quiet = withEmitter(project, {"level"}, {"a"}, [](Emitter& e) { e.level_db = -30.0; });
        Live edited(Layout::stereo, 48'000);
        Live untouched(Layout::stereo, 48'000);
        for (Live* live : {&edited, &untouched}) {
            live->setScene(fixture::sceneOf(project, tone));
        }
        std::vector<float> a(2 * 64);
        std::vector<float> b(2 * 64);
        long changedAt = -1;
        for (long block = 0; block < 400; ++block) {
            if (block == 200) {
                edited.setScene(fixture::sceneOf(quiet, tone));
            }
            edited.pump();
            untouched.pump();
            edited.render(a.data(), 64);
            untouched.render(b.data(), 64);
            if (changedAt < 0 && a != b) {
                changedAt = block;
            }
        }
        QVERIFY(changedAt >= 200);
        const double latency_ms = static_cast<double>(changedAt - 200) * 64.0 / 48.0;
        qInfo("an edit is heard after %.1f ms", latency_ms);
        QVERIFY(latency_ms < 50.0);
    }

    void liveAndOfflineAreTheSameSound()
    {
        const auto played = scene(1);
        Live live(Layout::stereo, 48'000);
        live.setScene(played);
        live.setFeet({{2, -1, -Character{}.earsHeight_m}, 20, 0, 0}, true);
        std::vector<float> out(2 * 48'000);
        for (std::size_t at = 0; at < 48'000; at += 480) {
            live.pump();
            live.render(out.data() + 2 * at, 480);
        }
        OfflineJob job;
        job.scene = played;
        job.to_s = 1.0;
        job.ears = [](double) { return Pose{{2, -1, 0}, 20, 0, 0}; };
        // So loud a scene is limited for whoever listens, and for nobody else.
        std::vector<float> expected = fixture::rendered(job);
        QVERIFY(expected.size() == out.size() && expected != out);
        EarLimiter limiter(2, 48'000);
        for (std::size_t at = 0; at < 48'000; at += 480) {
            limiter.process(expected.data() + 2 * at, 480);
        }
        QVERIFY(expected == out);
        QCOMPARE(live.snapshot().lateSteps, std::uint64_t{0});
    }

    void ringsKeepOrderBetweenThreads()
    {
        SlotRing<int, 8> ring;
        std::vector<int> received;
        std::thread reader([&] {
            while (received.size() < 20'000) {
                if (const int* slot = ring.front()) {
                    received.push_back(*slot);
                    ring.release();
                }
            }
        });
        for (int i = 0; i < 20'000;) {
            if (int* slot = ring.free()) {
                *slot = i++;
                ring.publish();
            }
        }
        reader.join();
        for (int i = 0; i < 20'000; ++i) {
            QCOMPARE(received[static_cast<std::size_t>(i)], i);
        }
        SampleRing samples(8);
        const float five[5] = {1, 2, 3, 4, 5};
        QVERIFY(samples.write(five));
        QVERIFY(!samples.write(five));
        QCOMPARE(samples.dropped(), std::size_t{5});
        float out[8];
        QCOMPARE(samples.read(out), std::size_t{5});
        QCOMPARE(out[4], 5.0F);
    }
};

QTEST_APPLESS_MAIN(TestRealtime)
#include "tst_realtime.moc"
