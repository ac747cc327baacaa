// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/fft.h"
#include "dsp/loudness_meter.h"
#include "spatial/head_model.h"
#include "spatial/sofa.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_pose.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace tst_placement
{

using namespace stone;
using fixture::pointAt;

namespace
{

constexpr int rate = 48'000;

/// Noise of equal power in each octave, as a loop.
SharedBuffer pinkBuffer(double seconds = 2.0)
{
    auto buffer = std::make_shared<SampleBuffer>();
    std::mt19937 random(3);
    std::normal_distribution<float> normal(0.0F, 0.1F);
    std::vector<float> samples(static_cast<std::size_t>(seconds * rate));
    // Paul Kellet's three poles, flat in octaves within half a decibel.
    float a = 0;
    float b = 0;
    float c = 0;
    for (float& sample : samples) {
        const float white = normal(random);
        a = 0.99765F * a + white * 0.0990460F;
        b = 0.96300F * b + white * 0.2965164F;
        c = 0.57000F * c + white * 1.0526913F;
        sample = 0.3F * (a + b + c + white * 0.1848F);
    }
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

OfflineJob jobOf(std::shared_ptr<const Scene> scene, Layout layout, double seconds, std::function<Pose(double)> ears)
{
    OfflineJob job;
    job.scene = std::move(scene);
    job.layout = layout;
    job.to_s = seconds;
    job.ears = std::move(ears);
    return job;
}

/// By how much the right ear is late, microseconds: the place of the cross-correlation's largest value, by parabola.
double lateness_us(const std::vector<float>& stereo, std::size_t from, std::size_t count)
{
    std::vector<double> sums;
    constexpr int most = 50;
    for (int lag = -most; lag <= most; ++lag) {
        double sum = 0.0;
        for (std::size_t i = from; i < from + count; ++i) {
            sum += stereo[2 * i] * stereo[2 * (i + lag) + 1];
        }
        sums.push_back(sum);
    }
    const auto best = std::max_element(sums.begin() + 1, sums.end() - 1) - sums.begin();
    const double curve = sums[best - 1] - 2.0 * sums[best] + sums[best + 1];
    const double offset = 0.5 * (sums[best - 1] - sums[best + 1]) / curve;
    return (static_cast<double>(best - most) + offset) * 1e6 / rate;
}

/// Power by octave from 125 Hz to 8 kHz of both ears together, dB.
std::vector<double> octaves_db(const std::vector<float>& stereo, std::size_t from)
{
    constexpr std::size_t size = 16'384;
    RealFft fft(size);
    std::vector<double> power(7);
    for (std::size_t ear = 0; ear < 2; ++ear) {
        for (std::size_t i = 0; i < size; ++i) {
            const double hann = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / size);
            fft.samples()[i] = stereo[2 * (from + i) + ear] * static_cast<float>(hann);
        }
        fft.forward();
        for (std::size_t bin = 1; bin < size / 2; ++bin) {
            const double octave = std::log2(static_cast<double>(bin) * rate / size / 125.0) + 0.5;
            if (octave >= 0.0 && octave < 7.0) {
                power[static_cast<std::size_t>(octave)] += std::norm(fft.bins()[bin]);
            }
        }
    }
    for (double& p : power) {
        p = 10.0 * std::log10(p);
    }
    return power;
}

std::shared_ptr<Scene> noiseAt(const Vec3& at, SharedHead head = {})
{
    auto scene = fixture::sceneOf(fixture::projectWith({pointAt("noise", at)}), pinkBuffer());
    scene->head = std::move(head);
    return scene;
}

} // namespace

class TestPlacement : public QObject
{
    Q_OBJECT

private slots:
    /// To walk right through an emitter with Doppler turns its sound round, and clicks no more than standing beside it does.
    void passingThroughAnEmitterDoesNotClick()
    {
        Emitter emitter = pointAt("a", {0, 0, 0});
        emitter.placement.doppler = 1.0;
        OfflineJob job;
        job.scene = fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(480.0));
        job.layout = Layout::mono;
        job.to_s = 2.0;
        job.ears = [](double time_s) { return Pose{{0, -4.0 + 4.0 * time_s, 0}, 0, 0, 0}; };
        const std::vector<float> passing = fixture::rendered(job);
        QVERIFY(fixture::rms_db(passing, 0, 0.9, 1.1, 1) > -10.0);
        // The tone's own third difference is 0.5 (2 pi 480 / 48000)^3 = 1.2e-4; the click was 2e-3.
        const double broken = fixture::largestBreak(passing, 0, 1);
        QVERIFY2(broken < 3e-4, qPrintable(QString::number(broken)));
    }

    void aLoudspeakerOfItsOwn()
    {
        Emitter emitter = fixture::pointAt("a", {3, 3, 0});
        emitter.placement.inWorld = 0.0;
        for (const char* name : loudspeakers) {
            QVERIFY2(speakerNamed(name), name);
            emitter.placement.earsSpeaker = name;
            const auto scene = fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer());
            for (const Layout layout : {Layout::surround51, Layout::surround714}) {
                const auto out = fixture::rendered(jobOf(scene, layout, 0.5, [](double t) {
                    return Pose{{}, 90.0 * t, 0, 0};
                }));
                const auto speakers = speakersOf(layout);
                const auto has =
                    std::any_of(speakers.begin(), speakers.end(), [&](const Speaker& s) { return QString(s.name) == name; });
                double power = 0.0;
                for (std::size_t channel = 0; channel < speakers.size(); ++channel) {
                    const double level = fixture::rms_db(out, channel, 0.1, 0.5, speakers.size());
                    power += std::pow(10.0, level / 10.0);
                    if (has) {
                        const bool own = QString(speakers[channel].name) == name;
                        QVERIFY2(own ? std::abs(level + 9.03) < 0.01 : level < -200.0, name);
                    }
                }
                // Where there is none of that name, its neighbours stand in, as loud together.
                QVERIFY2(std::abs(10.0 * std::log10(power) + 9.03) < 0.1, name);
            }
        }
        // Low frequencies without a channel of their own come out everywhere.
        emitter.placement.earsSpeaker = "LFE";
        const auto scene = fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer());
        const auto out = fixture::rendered(jobOf(scene, Layout::stereo, 0.5, [](double) { return Pose{}; }));
        QVERIFY(std::abs(fixture::rms_db(out, 0, 0.1, 0.5) - fixture::rms_db(out, 1, 0.1, 0.5)) < 0.01);
    }

    void theFarEarIsLateByTheFormula()
    {
        for (double azimuth = 0.0; azimuth <= 90.0; azimuth += 15.0) {
            const Vec3 at = unitOf(azimuth, 0.0) * 3.0;
            const auto out = fixture::rendered(jobOf(noiseAt(at), Layout::binaural, 1.0, [](double) { return Pose{}; }));
            const double theta = radians(azimuth);
            const double wanted = headRadius_m / 343.0 * (theta + std::sin(theta)) * 1e6;
            const double late = -lateness_us(out, 10'000, 30'000);
            QVERIFY2(std::abs(late - wanted) < 30.0,
                     qPrintable(QString("%1: %2 us, not %3").arg(azimuth).arg(late).arg(wanted)));
        }
    }

    void aTurnKeepsTheLoudnessOnHeadphones()
    {
        for (const SharedHead& head : {SharedHead{}, readSofa(installedSofa(), rate)}) {
            double least = 1e9;
            double most = -1e9;
            for (int side = 0; side < 12; ++side) {
                const auto scene = noiseAt({0, 3, 0}, head);
                const auto out = fixture::rendered(jobOf(scene, Layout::binaural, 2.0, [side](double) {
                    return Pose{{}, side * 30.0, 0, 0};
                }));
                LoudnessMeter meter(2, rate);
                meter.add(std::span(out).subspan(9'600));
                least = std::min(least, meter.integrated_lufs());
                most = std::max(most, meter.integrated_lufs());
            }
            QVERIFY2(most - least < 1.5, qPrintable(QString("%1 to %2 LUFS").arg(least).arg(most)));
        }
    }

    void aTurnKeepsThePowerOnLoudspeakers()
    {
        for (const Layout layout :
             {Layout::stereo, Layout::quad, Layout::surround51, Layout::surround71, Layout::surround714}) {
            const auto scene = fixture::sceneOf(fixture::projectWith({pointAt("tone", {0, 3, 0})}), fixture::toneBuffer(480.0));
            const std::size_t channels = channelsOf(layout);
            const auto out = fixture::rendered(jobOf(scene, layout, 4.0, [](double t) { return Pose{{}, t * 90.0, 0, 0}; }));
            for (double t = 0.1; t < 3.8; t += 0.05) {
                double power = 0.0;
                for (std::size_t channel = 0; channel < channels; ++channel) {
                    power += std::pow(10.0, fixture::rms_db(out, channel, t, t + 0.05, channels) / 10.0);
                }
                // A sine of 0.5 three metres away: 0.125 / 9.
                QVERIFY2(std::abs(10.0 * std::log10(power / (0.125 / 9.0))) < 0.2,
                         qPrintable(QString("%1 at %2 s").arg(nameOf(layout)).arg(t)));
            }
        }
    }

    void frontAndBackDiffer()
    {
        for (const SharedHead& head : {SharedHead{}, readSofa(installedSofa(), rate)}) {
            const auto listen = [&](double heading) {
                return octaves_db(fixture::rendered(jobOf(noiseAt({0, 3, 0}, head), Layout::binaural, 1.0,
                                                          [heading](double) {
                                                              return Pose{{}, heading, 0, 0};
                                                          })),
                                  20'000);
            };
            const auto front = listen(0.0);
            const auto back = listen(180.0);
            double largest = 0.0;
            for (std::size_t octave = 0; octave < front.size(); ++octave) {
                largest = std::max(largest, std::abs(front[octave] - back[octave]));
            }
            QVERIFY2(largest > 3.0, qPrintable(QString::number(largest)));
        }
    }

    void turnsMakeNoClicks()
    {
        const auto scene = [](const SharedHead& head) {
            auto made = fixture::sceneOf(fixture::projectWith({pointAt("tone", {0, 2, 0})}), fixture::toneBuffer(480.0));
            made->head = head;
            return made;
        };
        for (const SharedHead& head : {SharedHead{}, readSofa(installedSofa(), rate)}) {
            const auto still = fixture::rendered(jobOf(scene(head), Layout::binaural, 1.0, [](double) { return Pose{}; }));
            const auto spin = fixture::rendered(jobOf(scene(head), Layout::binaural, 2.0, [](double t) {
                return Pose{{}, 360.0 * t, 0, 0};
            }));
            const auto snap = fixture::rendered(jobOf(scene(head), Layout::binaural, 1.0, [](double t) {
                return Pose{{}, t < 0.5 ? 0.0 : 90.0, 0, 0};
            }));
            const auto after = [](const std::vector<float>& x) { return std::vector<float>(x.begin() + 4'000, x.end()); };
            const double itself = std::max(fixture::largestBreak(after(still), 0), 2e-5);
            // The loudest ear has up to 3 dB more than the one ahead; a click would be a hundred times as much.
            for (const std::size_t ear : {0U, 1U}) {
                QVERIFY2(fixture::largestBreak(after(spin), ear) < 6.0 * itself,
                         qPrintable(QString("%1 against %2").arg(fixture::largestBreak(after(spin), ear)).arg(itself)));
                QVERIFY2(fixture::largestBreak(after(snap), ear) < 20.0 * itself,
                         qPrintable(QString("%1 against %2").arg(fixture::largestBreak(after(snap), ear)).arg(itself)));
            }
        }
    }

    void walkingThroughASoundTurnsTheSidesGradually()
    {
        for (const Layout layout : {Layout::stereo, Layout::binaural, Layout::surround51}) {
            Emitter emitter = pointAt("tone", {0.02, 0, 0});
            emitter.placement.nearRange_m = 1.0;
            const auto scene = fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(480.0));
            // East to west, facing north, at 5 m/s: from all left to all right in 2 m, 0.4 s.
            const auto out = fixture::rendered(jobOf(scene, layout, 2.0, [](double t) {
                return Pose{{-5.0 + 5.0 * t, 0, 0}, 0, 0, 0};
            }));
            const std::size_t channels = channelsOf(layout);
            double before = 0.0;
            for (double t = 0.5; t < 1.5; t += 0.02) {
                const double side =
                    fixture::rms_db(out, 0, t, t + 0.02, channels) - fixture::rms_db(out, 1, t, t + 0.02, channels);
                const double held = std::clamp(side, -20.0, 20.0);
                if (t > 0.5) {
                    QVERIFY2(std::abs(held - before) < 10.0,
                             qPrintable(QString("%1 at %2 s: %3 to %4 dB").arg(nameOf(layout)).arg(t).arg(before).arg(held)));
                }
                before = held;
            }
            for (std::size_t channel = 0; channel < channels; ++channel) {
                QVERIFY(fixture::largestBreak(std::vector<float>(out.begin() + 4'800 * channels, out.end()), channel,
                                              channels) < 1.5e-3);
            }
        }
    }

    void dopplerShiftsByTheWay()
    {
        Emitter emitter = pointAt("tone", {0, 0, 0});
        emitter.placement.doppler = 1.0;
        Falloff flat;
        flat.lanes.front().on = false;
        emitter.falloff = flat;
        const auto scene = [&] { return fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(1000.0)); };
        const auto hertz = [](const std::vector<float>& out, double from, double to) {
            int crossings = 0;
            const auto first = static_cast<std::size_t>(from * rate);
            const auto last = static_cast<std::size_t>(to * rate);
            for (std::size_t i = first; i < last; ++i) {
                crossings += out[i] < 0.0F && out[i + 1] >= 0.0F ? 1 : 0;
            }
            return crossings / (to - from);
        };
        // A flyby at 30 m/s: towards, then away, by (c - v) / c of the listener's own movement.
        const auto out = fixture::rendered(jobOf(scene(), Layout::mono, 4.0, [](double t) {
            return Pose{{0, -60 + 30.0 * t, 0}, 0, 0, 0};
        }));
        QVERIFY(std::abs(hertz(out, 0.5, 1.5) / (1000.0 * (343.0 + 30.0) / 343.0) - 1.0) < 0.002);
        QVERIFY(std::abs(hertz(out, 2.5, 3.5) / (1000.0 * (343.0 - 30.0) / 343.0) - 1.0) < 0.002);
        // Twice as strong, and held to one semitone.
        emitter.placement.doppler = 2.0;
        emitter.placement.dopplerLimit_st = 1.0;
        const auto held = fixture::rendered(jobOf(scene(), Layout::mono, 1.5, [](double t) {
            return Pose{{0, -60 + 30.0 * t, 0}, 0, 0, 0};
        }));
        QVERIFY(std::abs(hertz(held, 0.5, 1.3) / (1000.0 * std::pow(2.0, 1.0 / 12.0)) - 1.0) < 0.003);
        // A jump of the ears is a cross-fade, not a chirp.
        emitter.placement.dopplerLimit_st = 12.0;
        emitter.placement.doppler = 1.0;
        const auto jump = fixture::rendered(jobOf(scene(), Layout::mono, 3.0, [](double t) {
            return Pose{{0, t < 2.0 ? 1.0 : 300.0, 0}, 0, 0, 0};
        }));
        QVERIFY(std::abs(hertz(jump, 2.2, 2.9) - 1000.0) < 5.0);
    }

    void pitchedToneAliasesBelowSixty()
    {
        for (const double semitones : {-12.0, -5.5, 7.3, 12.0}) {
            Emitter emitter = pointAt("tone", {0, 1, 0});
            emitter.pitch_st = semitones;
            const auto out =
                fixture::rendered(jobOf(fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(10'000.0)),
                                        Layout::mono, 1.0, [](double) { return Pose{}; }));
            constexpr std::size_t size = 16'384;
            RealFft fft(size);
            for (std::size_t i = 0; i < size; ++i) {
                // Blackman-Harris: its own leakage is below -90 dB.
                const double t = 2.0 * std::numbers::pi * static_cast<double>(i) / size;
                const double window = 0.35875 - 0.48829 * std::cos(t) + 0.14128 * std::cos(2 * t) - 0.01168 * std::cos(3 * t);
                fft.samples()[i] = out[8'000 + i] * static_cast<float>(window);
            }
            fft.forward();
            const double wanted = 10'000.0 * std::pow(2.0, semitones / 12.0) * size / rate;
            double tone = 0.0;
            double other = 0.0;
            for (std::size_t bin = 0; bin <= size / 2; ++bin) {
                const double level = std::abs(fft.bins()[bin]);
                (std::abs(static_cast<double>(bin) - wanted) < 6.0 ? tone : other) =
                    std::max(std::abs(static_cast<double>(bin) - wanted) < 6.0 ? tone : other, level);
            }
            QVERIFY2(20.0 * std::log10(other / tone) < -60.0,
                     qPrintable(QString("%1 st: %2 dB").arg(semitones).arg(20.0 * std::log10(other / tone))));
        }
    }

    void lanesAreHeard()
    {
        // A low-pass over distance and a level over the angle off the front, measured in what comes out.
        Emitter emitter = pointAt("noise", {0, 0, 0});
        Falloff falloff;
        falloff.lanes.front().shape = LaneShape::curve;
        falloff.lanes.front().curve = {{0, 0}, {20, -20}};
        Lane low;
        low.property = LaneProperty::lowPass;
        low.shape = LaneShape::curve;
        low.curve = {{0, 20'000}, {10, 1000, Segment::hold}};
        falloff.lanes.push_back(low);
        emitter.falloff = falloff;
        Lane facing;
        facing.over = LaneInput::offFront;
        facing.shape = LaneShape::twoAngles;
        facing.angles = {60.0, 180.0, 0.0, -12.0};
        emitter.lanes.push_back(facing);
        const auto level = [&](const Vec3& at, double hz) {
            const auto out = fixture::rendered(jobOf(fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer(hz)),
                                                     Layout::mono, 0.5, [&](double) {
                                                         return Pose{at, 0, 0, 0};
                                                     }));
            return fixture::rms_db(out, 0, 0.1, 0.45, 1) - 10.0 * std::log10(0.125);
        };
        QVERIFY(std::abs(level({0, 10, 0}, 100.0) + 10.0) < 0.05);
        QVERIFY(std::abs(level({0, 10, 0}, 1000.0) + 13.01) < 0.05);
        QVERIFY(std::abs(level({0, -10, 0}, 100.0) + 22.0) < 0.05);
        // Elevation counts: straight above is 90 degrees off the front, where the cone has just reached what is behind.
        QVERIFY(std::abs(level({0, 0, 10}, 100.0) + 22.0) < 0.05);
    }

    void familiesAndSoloReachTheirMembers()
    {
        Emitter lamp = pointAt("lamp", {0, 4, 0});
        lamp.family = {"lamps"};
        Emitter other = pointAt("other", {0, 4, 0});
        Project project = fixture::projectWith({lamp, other});
        Family family;
        family.id = {"lamps"};
        family.level_db = -6.0;
        family.reachFactor = 2.0;
        project.families.put(family);
        ForEars forEars;
        const auto heard = [&](int index) {
            const auto world =
                std::make_shared<const World>(std::make_shared<Project>(project), LevelId{"level"}, nullptr, LengthOf{});
            return HearingModel(world, forEars).hearAll(Pose{}, {})[index];
        };
        // Twice the reach: as if half as far, 2 m instead of 4.
        QVERIFY(std::abs(heard(0).level_db - (-6.0 - 6.0206)) < 1e-3);
        forEars.soloFamilies = {family.id};
        QVERIFY(heard(0).audible && !heard(1).audible);
        forEars = {};
        family.muted = true;
        project.families.put(family);
        QVERIFY(!heard(0).audible && heard(1).audible);
    }

    void whatIsFixedInTheEarsIgnoresTheWorld()
    {
        Emitter emitter = pointAt("a", {3, 200, 0});
        emitter.placement.inWorld = 0.0;
        emitter.placement.earsAzimuth_deg = -90.0;
        const auto out = fixture::rendered(
            jobOf(fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer()), Layout::stereo, 0.5, [](double t) {
                return Pose{{}, t * 200, 0, 0};
            }));
        QVERIFY(std::abs(fixture::rms_db(out, 0, 0.1, 0.4) - 10.0 * std::log10(0.125)) < 0.01);
        QVERIFY(fixture::rms_db(out, 1, 0.1, 0.4) < -80.0);
        // Half and half at a distance where the world's part has gone: 3 dB less, still at the left.
        emitter.placement.inWorld = 0.5;
        const auto half = fixture::rendered(jobOf(fixture::sceneOf(fixture::projectWith({emitter}), fixture::toneBuffer()),
                                                  Layout::stereo, 0.5, [](double) { return Pose{}; }));
        QVERIFY(std::abs(fixture::energy_db(half, 0.1, 0.4) - 10.0 * std::log10(0.125) + 3.0) < 0.05);
    }
};

} // namespace tst_placement

STONE_TEST(tst_placement, TestPlacement)
#include "tst_placement.moc"
