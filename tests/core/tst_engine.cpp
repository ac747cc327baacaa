// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "engine/mixer.h"
#include "engine/voice_reader.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_pose.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tst_engine
{

using namespace stone;
using fixture::pointAt;
using fixture::rendered;

namespace
{

OfflineJob jobOf(const std::shared_ptr<const Scene>& scene, const Pose& ears, double seconds)
{
    OfflineJob job;
    job.scene = scene;
    job.to_s = seconds;
    job.ears = [ears](double) { return ears; };
    return job;
}

} // namespace

class TestEngine : public QObject
{
    Q_OBJECT

private slots:
    void renderedLevelsFollowTheDistance()
    {
        // A sine of amplitude 0.5 has -9.03 dB; both ears together hold the level that the Ledger shows.
        const SharedBuffer tone = fixture::toneBuffer();
        for (const double distance : {1.0, 2.0, 4.0, 8.0}) {
            const Project project = fixture::projectWith({pointAt("a", {0, distance, 0})});
            const auto out = rendered(jobOf(fixture::sceneOf(project, tone), {}, 1.0));
            const double expected = -9.03 - 20.0 * std::log10(distance);
            QVERIFY2(std::abs(fixture::energy_db(out, 0.2, 1.0) - expected) < 0.01, qPrintable(QString::number(distance)));
        }
    }

    void renderedLevelsAreWhatTheHearingModelSays()
    {
        Emitter emitter = pointAt("a", {3, 4, 2});
        emitter.level_db = -3.5;
        Falloff own;
        own.lanes.front().formula = {.model = DistanceModel::exponential, .reference_m = 1.5, .factor = 1.3, .silentAt_m = 7.0};
        emitter.falloff = own;
        const Project project = fixture::projectWith({emitter});
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer());
        const Pose ears{{0, 0, 1.6}, 77, 10, -20};
        const double said = scene->model.hearOne(ears, {}, 0).level_db;
        QVERIFY(std::abs(fixture::energy_db(rendered(jobOf(scene, ears, 1.0)), 0.2, 1.0) - (said - 9.03)) < 0.01);
    }

    void soundsComeFromTheirSide()
    {
        const auto scene = fixture::sceneOf(fixture::projectWith({pointAt("a", {5, 0, 0})}), fixture::toneBuffer());
        const auto difference = [&](double heading) {
            const auto out = rendered(jobOf(scene, {{0, 0, 0}, heading, 0, 0}, 0.5));
            return fixture::rms_db(out, 1, 0.2, 0.5) - fixture::rms_db(out, 0, 0.2, 0.5);
        };
        QVERIFY(difference(0.0) > 60.0);
        QVERIFY(difference(180.0) < -60.0);
        QVERIFY(std::abs(difference(90.0)) < 0.01);
        // 30 degrees to the right: pan 1/3, so 20 log(tan 60 degrees).
        QVERIFY(std::abs(difference(60.0) - 20.0 * std::log10(std::tan(radians(60.0)))) < 0.01);
    }

    void theBlockDoesNotMatter()
    {
        Emitter pitched = pointAt("b", {-2, 3, 0});
        pitched.pitch_st = 3.7;
        Emitter late = pointAt("c", {1, 1, 0});
        late.startAfter_s = 0.3337;
        const auto scene =
            fixture::sceneOf(fixture::projectWith({pointAt("a", {4, 1, 0}), pitched, late}), fixture::toneBuffer(441.0, 0.31));
        OfflineJob job = jobOf(scene, {}, 1.3);
        job.ears = [](double t) { return Pose{{3.0 * t, t, 0}, 90.0 * t, 0, 0}; };
        const std::vector<float> usual = rendered(job);
        for (const std::size_t block : {1UL, 64UL, 255UL, 257UL, 1000UL, 1024UL}) {
            job.block = block;
            QVERIFY(rendered(job) == usual);
        }
        // Starting later is the same sound, cut. A voice joined on the way comes up over 21 ms.
        job.from_s = 0.5;
        const std::vector<float> later = rendered(job);
        QCOMPARE(later.size(), usual.size() - 48'000);
        QVERIFY(std::equal(later.begin() + 2400, later.end(), usual.begin() + 48'000 + 2400));
    }

    void aStartIsExactToTheFrame()
    {
        auto click = std::make_shared<SampleBuffer>();
        click->channels.push_back(std::vector<float>(100, 0.5F));
        Emitter emitter = pointAt("a", {0, 1, 0});
        emitter.startAfter_s = 1000.0 / 48'000; // inside a step
        const auto out = rendered(jobOf(fixture::sceneOf(fixture::projectWith({emitter}, false), click), {}, 0.1));
        QVERIFY(out[2 * 999] == 0.0F);
        QVERIFY(std::abs(out[2 * 1000] - 0.5F * std::sqrt(0.5F)) < 1e-6F); // at once: a one-shot keeps its attack
        QVERIFY(std::abs(out[2 * 1099] - 0.5F * std::sqrt(0.5F)) < 1e-6F);
        QVERIFY(out[2 * 1100] == 0.0F);
    }

    void pitchIsARatioOfSpeeds()
    {
        Emitter emitter = pointAt("a", {0, 1, 0});
        emitter.pitch_st = 12.0;
        const auto out =
            rendered(jobOf(fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(480.0)), {}, 1.0));
        int crossings = 0;
        for (std::size_t i = 9'600; i < 47'999; ++i) {
            crossings += out[2 * i] < 0.0F && out[2 * (i + 1)] >= 0.0F ? 1 : 0;
        }
        QVERIFY(std::abs(crossings - 960 * 0.8) <= 1.0);
    }

    void interpolationHitsSamplesAndSines()
    {
        const SharedBuffer tone = fixture::toneBuffer(1000.0, 0.1, 1.0F);
        VoiceOrder order;
        order.samples = tone->channels[0].data();
        order.frames = static_cast<std::uint32_t>(tone->frames());
        order.loop = true;
        std::vector<float> out(256);
        for (const double position : {0.25, 100.5, 4'799.75, 48'001.5}) {
            order.position = position;
            const float* x = readVoice(order, out);
            for (std::size_t i = 0; i < out.size(); ++i) {
                const double wanted = std::sin(2.0 * std::numbers::pi * 1000.0 * (position + static_cast<double>(i)) / 48'000);
                // Before a loop has come round there is nothing before its first sample.
                QVERIFY2(std::abs(x[i] - wanted) < (position + static_cast<double>(i) < 8.0 ? 0.2 : 1e-4),
                         qPrintable(QString("%1 + %2").arg(position).arg(i)));
            }
        }
        order.position = 10.0;
        QVERIFY(readVoice(order, out) == order.samples + 10); // whole positions are not even copied
    }

    void aFastWalkMakesNoClicks()
    {
        // Straight through one sound and past others at 10 m/s, turning: the largest break stays that of the tone itself.
        std::vector<Emitter> emitters{pointAt("a", {0, 10, 0}), pointAt("b", {0.3, 20, 0}), pointAt("c", {-4, 12, 2})};
        Falloff own;
        own.lanes.front().formula = {.reference_m = 1.0, .silentAt_m = 9.0};
        for (Emitter& emitter : emitters) {
            emitter.falloff = own;
        }
        const auto scene = fixture::sceneOf(fixture::projectWith(emitters), fixture::toneBuffer(200.0));
        OfflineJob job = jobOf(scene, {}, 3.0);
        job.ears = [](double t) { return Pose{{0, 10.0 * t, 0}, 40.0 * std::sin(5.0 * t), 0, 0}; };
        const auto out = rendered(job);
        const auto still = rendered(jobOf(scene, {{0, 10, 0}, 0, 0, 0}, 0.5));
        // Three tones at full level at most: third difference of one is 0.5 (2 pi 200 / 48000)^3.
        const double ofTones = 3.0 * 0.5 * std::pow(2.0 * std::numbers::pi * 200.0 / 48'000, 3.0);
        for (const std::size_t ear : {0UL, 1UL}) {
            QVERIFY2(fixture::largestBreak(out, ear) < 10.0 * ofTones,
                     qPrintable(QString::number(fixture::largestBreak(out, ear))));
        }
        QVERIFY(fixture::energy_db(still, 0.1, 0.5) > -12.0);
    }

    void whatIsSwitchedFadesRatherThanClicks()
    {
        const SharedBuffer tone = fixture::toneBuffer(200.0);
        Project loud = fixture::projectWith({pointAt("a", {0, 1, 0})});
        Project quiet = withEmitter(loud, {"level"}, {"a"}, [](Emitter& e) { e.level_db = -40.0; });
        Project gone = withLevel(loud, {"level"}, [](Level& l) { l.emitters.remove({"a"}); });
        Mixer mixer(Layout::stereo, 48'000);
        Control control(Layout::stereo, 48'000);
        std::vector<float> out;
        std::vector<float> block(2 * stepFrames);
        for (std::uint64_t step = 0; step < 200; ++step) {
            if (step % 40 == 0) {
                const Project& now = step == 40 ? quiet : step == 120 ? gone : loud;
                control.setScene(fixture::sceneOf(now, tone), step);
            }
            control.decide(step, Ears{}, *mixer.plans().free());
            mixer.plans().publish();
            mixer.process(block.data(), stepFrames);
            out.insert(out.end(), block.begin(), block.end());
        }
        QVERIFY(fixture::energy_db(out, 0.5, 0.6) > -15.0);
        QVERIFY(fixture::energy_db(out, 0.75, 0.83) < -100.0);
        QVERIFY2(fixture::largestBreak(out, 0) < 2e-3, qPrintable(QString::number(fixture::largestBreak(out, 0))));
    }

    void silentLoopsKeepTheirTime()
    {
        // Away from a sound for a while and back: it is where it would have been. A ramp shows the place.
        auto ramp = std::make_shared<SampleBuffer>();
        for (int i = 0; i < 480'000; ++i) {
            if (i == 0) {
                ramp->channels.emplace_back();
            }
            ramp->channels[0].push_back(static_cast<float>(i) / 480'000.0F);
        }
        Emitter emitter = pointAt("a", {0, 0.5, 0});
        Falloff own;
        own.lanes.front().formula = {.reference_m = 1.0, .silentAt_m = 5.0};
        emitter.falloff = own;
        OfflineJob job = jobOf(fixture::sceneOf(fixture::projectWith({emitter}), ramp), {}, 4.0);
        job.ears = [](double t) { return Pose{{t > 1.0 && t < 3.0 ? 100.0 : 0.0, 0, 0}, 0, 0, 0}; };
        const auto out = rendered(job);
        const auto frame = static_cast<std::size_t>(3.5 * 48'000);
        QVERIFY(out[2 * 96'000] == 0.0F);
        QVERIFY(std::abs(out[2 * frame] - std::sqrt(0.5F) * static_cast<float>(frame) / 480'000.0F) < 1e-5F);
    }

    void theLoudestKeepTheVoices()
    {
        Project project = fixture::projectWith({});
        project.voices = 8;
        project = withLevel(project, {"level"}, [](Level& l) {
            for (int i = 0; i < 50; ++i) {
                l.emitters.put(pointAt("e" + std::to_string(i), {0, 1.0 + 0.1 * ((i * 37) % 50), 0}));
            }
        });
        Control control(Layout::stereo, 48'000);
        control.setScene(fixture::sceneOf(project, fixture::toneBuffer()), 0);
        StepPlan plan;
        plan.voices.reserve(mostVoices);
        control.decide(0, Ears{}, plan);
        QCOMPARE(plan.voices.size(), std::size_t{8});
        QCOMPARE(control.gaveWay(), std::size_t{42});
        for (const VoiceOrder& order : plan.voices) {
            QVERIFY(order.target[0] > static_cast<float>(std::sqrt(0.5) / 1.75));
        }
    }

    void aLatePlanIsBridged()
    {
        const auto scene = fixture::sceneOf(fixture::projectWith({pointAt("a", {0, 1, 0})}), fixture::toneBuffer(200.0));
        Mixer mixer(Layout::stereo, 48'000);
        Control control(Layout::stereo, 48'000);
        control.setScene(scene, 0);
        std::vector<float> out;
        std::vector<float> block(2 * stepFrames);
        for (std::uint64_t step = 0; step < 100; ++step) {
            if (step % 10 < 6) { // four of ten plans never come
                control.decide(step, Ears{}, *mixer.plans().free());
                mixer.plans().publish();
            }
            mixer.process(block.data(), stepFrames);
            out.insert(out.end(), block.begin(), block.end());
        }
        QCOMPARE(mixer.lateSteps(), std::uint64_t{40});
        QVERIFY(fixture::largestBreak(out, 0) < 1e-3);
        QVERIFY(std::abs(fixture::energy_db(out, 0.1, 0.5) + 9.03) < 0.02);
    }

    void metersMeasureWhatIsPlayed()
    {
        const auto scene = fixture::sceneOf(fixture::projectWith({pointAt("a", {1, 0, 0})}), fixture::toneBuffer());
        Mixer mixer(Layout::stereo, 48'000);
        Control control(Layout::stereo, 48'000);
        control.setScene(scene, 0);
        std::vector<float> block(2 * stepFrames);
        StepMeter last;
        for (std::uint64_t step = 0; step < 50; ++step) {
            control.decide(step, Ears{}, *mixer.plans().free());
            mixer.plans().publish();
            mixer.process(block.data(), stepFrames);
            last = *mixer.meters().front();
            mixer.meters().release();
        }
        QVERIFY(std::abs(last.peak[1] - 0.5F) < 1e-3F);
        QVERIFY(last.peak[0] < 1e-6F);
        QVERIFY(std::abs(std::sqrt(last.squares[1] / 256.0F) - 0.354F) < 0.03F);
    }

    void bedsSurroundWithTheirOwnChannels()
    {
        auto stereo = std::make_shared<SampleBuffer>();
        stereo->channels = {std::vector<float>(48'000, 0.5F), std::vector<float>(48'000, 0.25F)};
        stereo->folded.assign(48'000, 0.375F);
        Emitter bed = pointAt("bed", {900, 900, 0});
        bed.kind = EmitterKind::bed;
        const auto out = rendered(jobOf(fixture::sceneOf(fixture::projectWith({bed}), stereo), {{0, 0, 0}, 123, 0, 0}, 0.5));
        QVERIFY(std::abs(out[2 * 20'000] - 0.5F) < 1e-6F);
        QVERIFY(std::abs(out[2 * 20'000 + 1] - 0.25F) < 1e-6F);
    }

    void copiesStartApartOrLocked()
    {
        std::vector<Emitter> emitters{pointAt("a", {0, 1, 0}), pointAt("b", {0, 1, 0})};
        Project project = fixture::projectWith(emitters);
        const auto both = [&] { return rendered(jobOf(fixture::sceneOf(project, fixture::toneBuffer(480.0, 1.0)), {}, 0.5)); };
        // Locked: two copies in one place are exactly twice one.
        const auto locked = both();
        project = withLevel(project, {"level"}, [](Level& l) { l.emitters.remove({"b"}); });
        const auto one = both();
        for (std::size_t i = 0; i < one.size(); i += 97) {
            QVERIFY(std::abs(locked[i] - 2.0F * one[i]) < 1e-6F);
        }
        // Apart: each from a place of its own, the same each time, whoever else is there.
        Sound sound = *project.sounds[0];
        sound.copiesApart = true;
        sound.levelSpread_db = 6.0;
        sound.pitchSpread_st = 1.0;
        project.sounds.put(sound);
        const auto alone = both();
        QVERIFY(alone != one);
        QVERIFY(alone == both());
        project.seed += 1;
        QVERIFY(alone != both());
        project.seed -= 1;
        double least = 1e9;
        double most = -1e9;
        for (int i = 0; i < 200; ++i) {
            const CopyChance copy = chanceOf(project, pointAt("copy " + std::to_string(i), {}));
            QVERIFY(std::abs(copy.level_db) <= 6.0 && std::abs(copy.pitch_st) <= 1.0);
            least = std::min(least, copy.level_db);
            most = std::max(most, copy.level_db);
        }
        QVERIFY(least < -5.0 && most > 5.0);
    }

    void vitalSoundsNeverGiveWay()
    {
        std::vector<Emitter> emitters{pointAt("loud", {0, 1, 0}), pointAt("far", {0, 40, 0}), pointAt("middle", {0, 5, 0})};
        emitters[1].priority = Priority::vital;
        Project project = fixture::projectWith(emitters);
        project.voices = 1;
        Control control(Layout::stereo, 48'000);
        control.setScene(fixture::sceneOf(project, fixture::toneBuffer()), 0);
        StepPlan plan;
        plan.voices.reserve(16);
        control.decide(0, Pose{}, plan);
        QCOMPARE(control.gaveWay(), std::size_t{2});
        QCOMPARE(plan.voices.size(), std::size_t{1});
        QVERIFY(plan.voices[0].target[0] < 0.1F); // the far one, at a fortieth
    }
};

} // namespace tst_engine

STONE_TEST(tst_engine, TestEngine)
#include "tst_engine.moc"
