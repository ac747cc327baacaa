// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/fft.h"
#include "engine/offline.h"
#include "media/sound_writer.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/spectra.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <bit>
#include <cmath>
#include <functional>
#include <map>

namespace tst_rates
{

using namespace stone;

namespace
{

constexpr int usual = 48'000;
constexpr double seconds = 6.0;

/// The power in each octave band, all channels together, dB, by the band's middle in Hz; up to a third of the lower rate.
std::map<double, double> bandsOf(const std::vector<float>& interleaved, std::size_t channels, int rate, double top_hz)
{
    const std::size_t frames = interleaved.size() / channels;
    RealFft fft(std::bit_ceil(frames)); // silence after the end
    std::map<double, double> bands;
    for (std::size_t channel = 0; channel < channels; ++channel) {
        for (std::size_t i = 0; i < frames; ++i) {
            // What is near the ends counts less, and nothing leaks from band to band.
            const double hann =
                0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(frames));
            fft.samples()[i] = static_cast<float>(hann) * interleaved[i * channels + channel];
        }
        std::fill(fft.samples().begin() + static_cast<std::ptrdiff_t>(frames), fft.samples().end(), 0.0F);
        fft.forward();
        for (double middle = 125.0; middle * std::numbers::sqrt2 <= top_hz; middle *= 2.0) {
            const double perBin_hz = static_cast<double>(rate) / static_cast<double>(fft.samples().size());
            const auto first = static_cast<std::size_t>(middle / std::numbers::sqrt2 / perBin_hz);
            const auto last = static_cast<std::size_t>(middle * std::numbers::sqrt2 / perBin_hz);
            for (std::size_t bin = first; bin < last; ++bin) {
                bands[middle] += std::norm(std::complex<double>(fft.bins()[bin])) /
                                 (static_cast<double>(frames) * static_cast<double>(fft.samples().size()));
            }
        }
    }
    for (auto& [middle, power] : bands) {
        power = 10.0 * std::log10(power + 1e-30);
    }
    return bands;
}

} // namespace

/// A project sounds the same at every rate: octave bands below a third of it against those at 48 kHz, through files, bank and
/// mixer as a render goes through them.
class TestRates : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;

    struct Situation {
        std::function<void(Project&)> change;
        std::function<Pose(double)> ears;
        Layout layout = Layout::stereo;
        double allowed_db = 0.2;
    };

    static Pose standing(double) { return {{0, 0, 1.6}, 20, 0, 0}; }

    static void changeEmitter(Project& project, const std::function<void(Emitter&)>& change)
    {
        project = withEmitter(project, {"level"}, {"a"}, change);
    }

    static void changeSound(Project& project, const std::function<void(Sound&)>& change)
    {
        Sound sound = *project.sounds.find({"tone"});
        change(sound);
        project.sounds.put(sound);
    }

    static void putRoom(Project& project, const std::function<void(Reverb&)>& change)
    {
        project = withLevel(std::move(project), {"level"}, [&](Level& level) {
            Room room;
            room.id = {"hall"};
            room.at = {0, 0, 0};
            room.shape = Box{{14, 10, 5}};
            room.reverb.rt60_s = {1.4, 1.4, 1.3, 1.2, 1.1, 1.0, 0.8, 0.6};
            room.reverb.late_db = 6.0;
            change(room.reverb);
            level.rooms.put(room);
        });
    }

    std::vector<float> renderedAt(const Project& project, const Situation& situation, int rate) const
    {
        SoundBank bank(workingRate(rate));
        OfflineJob job;
        job.scene = makeScene(std::make_shared<const Project>(project), {"level"}, bank,
                              filesInside(folder_.path().toStdString()), Loading::now);
        job.layout = situation.layout;
        job.rate = rate;
        job.to_s = seconds;
        job.ears = situation.ears ? situation.ears : standing;
        return fixture::rendered(job);
    }

    void write(const char* name, const std::vector<float>& samples) const
    {
        SoundWriter writer(folder_.filePath(name).toStdString(), 1, usual);
        writer.write(samples);
        writer.finish();
    }

    static std::map<QString, Situation> situations()
    {
        std::map<QString, Situation> all;
        all["a point"] = {};
        all["a point on headphones"] = {.change = {}, .ears = {}, .layout = Layout::binaural};
        all["walking by"] = {.change = {}, .ears = [](double t) { return Pose{{-4.0 + 1.4 * t, 0, 1.6}, 0, 0, 0}; }};
        all["Doppler"] = {.change = [](Project& p) { changeEmitter(p, [](Emitter& e) { e.placement.doppler = 1.0; }); },
                          .ears =
                              [](double t) {
                                  return Pose{{-12.0 + 4.0 * t, 0, 1.6}, 0, 0, 0};
                              }};
        all["pitched"] = {.change = [](Project& p) { changeEmitter(p, [](Emitter& e) { e.pitch_st = -3.0; }); }, .ears = {}};
        all["wide"] = {.change = [](Project& p) { changeEmitter(p, [](Emitter& e) { e.placement.spread_deg = 120.0; }); },
                       .ears = {}};
        // Far down the slope of a filter: its corner is where it is to be, its slope bends towards half the rate.
        all["filters"] = {.change =
                              [](Project& p) {
                                  changeSound(p, [](Sound& s) {
                                      s.lowPass_hz = 1'200.0;
                                      s.highPass_hz = 250.0;
                                  });
                              },
                          .ears = {},
                          .allowed_db = 1.2};
        all["air"] = {.change =
                          [](Project& p) {
                              changeEmitter(p, [](Emitter& e) {
                                  e.placement.air = true;
                                  e.at = {0, 90, 1.6};
                                  e.level_db = 30.0;
                              });
                          },
                      .ears = {}};
        all["effects"] = {.change =
                              [](Project& p) {
                                  changeSound(p, [](Sound& s) {
                                      s.effects.equaliser = {.on = true, .low_db = 6.0, .middle_db = -9.0, .high_db = 4.0};
                                      s.effects.echo = {.on = true, .delay_s = 0.11, .level_db = -6.0};
                                      s.effects.tremolo.on = true;
                                  });
                              },
                          .ears = {}};
        all["a room"] = {.change = [](Project& p) { putRoom(p, [](Reverb&) {}); }, .ears = {}};
        all["a room on headphones"] = {
            .change = [](Project& p) { putRoom(p, [](Reverb&) {}); }, .ears = {}, .layout = Layout::binaural};
        all["a room by its response"] = {.change =
                                             [](Project& p) {
                                                 putRoom(p, [](Reverb& r) {
                                                     r.tail = Tail::response;
                                                     r.response = "hall.wav";
                                                 });
                                             },
                                         .ears = {},
                                         .allowed_db = 0.4};
        return all;
    }

private slots:
    void initTestCase()
    {
        // Noise that falls with frequency, as most sounds do; the loop is as long as the render.
        std::vector<float> noise = fixture::whiteNoise(seconds, usual, 3, 0.3F);
        float low = 0.0F;
        for (float& sample : noise) {
            low += 0.25F * (sample - low);
            sample = low;
        }
        write("tone.wav", noise);
        std::vector<float> response = fixture::whiteNoise(1.5, usual, 9, 0.4F);
        for (std::size_t i = 0; i < response.size(); ++i) {
            response[i] *= std::exp(-static_cast<float>(i) / usual * 6.0F);
        }
        write("hall.wav", response);
    }

    /// A loop that was not heard before comes up in 21 ms, as near as whole steps come.
    void aLoopComesUpInTheSameTime()
    {
        fixture::writeTone(folder_.filePath("steady.wav").toStdString(), 2'000.0, 0.3);
        for (const int rate : {22'050, 44'100, 48'000, 96'000, 192'000}) {
            Project project = fixture::projectWith({fixture::pointAt("a", {0, 3, 1.6})});
            changeSound(project, [](Sound& s) { s.files.front().file = "steady.wav"; });
            Situation situation;
            situation.layout = Layout::mono;
            const std::vector<float> samples = renderedAt(project, situation, rate);
            // Half a millisecond's loudest sample, through the first 40 ms: its steady height is that of later.
            const auto heightAt = [&](double time_s) {
                const auto first = samples.begin() + static_cast<std::ptrdiff_t>(time_s * rate);
                float height = 0.0F;
                std::for_each(first, first + rate / 2'000, [&](float x) { height = std::max(height, std::abs(x)); });
                return height;
            };
            const float steady = heightAt(0.5);
            QVERIFY(steady > 0.01F);
            double risen_s = 0.0;
            while (heightAt(risen_s) < 0.97F * steady) {
                risen_s += 0.000'5;
                QVERIFY(risen_s < 0.04);
            }
            QVERIFY2(std::abs(risen_s - 0.021) < 0.004, qPrintable(QString("%1: %2").arg(rate).arg(risen_s)));
        }
    }

    /// From a moment as from the start: nothing is missing at the ends.
    void aSlowRateIsCutToTheFrame()
    {
        const Project project = fixture::projectWith({fixture::pointAt("a", {1, 3, 1.6})});
        for (const int rate : {8'000, 22'050}) {
            const std::vector<float> all = renderedAt(project, {}, rate);
            QCOMPARE(all.size(), static_cast<std::size_t>(2 * rate * seconds));
            SoundBank bank(workingRate(rate));
            OfflineJob job;
            job.scene = makeScene(std::make_shared<const Project>(project), {"level"}, bank,
                                  filesInside(folder_.path().toStdString()), Loading::now);
            job.rate = rate;
            job.from_s = 1.25;
            job.to_s = 2.0;
            job.ears = standing;
            const std::vector<float> part = fixture::rendered(job);
            const auto first = static_cast<std::size_t>(std::llround(job.from_s * rate)) * 2;
            QCOMPARE(part.size(), static_cast<std::size_t>(std::llround(job.to_s * rate)) * 2 - first);
            float worst = 0.0F;
            // Once the loop has come up.
            for (std::size_t i = static_cast<std::size_t>(0.025 * rate) * 2; i < part.size(); ++i) {
                worst = std::max(worst, std::abs(part[i] - all[first + i]));
            }
            QVERIFY2(worst < 1e-5F, qPrintable(QString::number(worst)));
        }
    }

    void theEngineWorksAtAWholeMultiple()
    {
        QCOMPARE(workingRate(8'000), 48'000);
        QCOMPARE(workingRate(11'025), 44'100);
        QCOMPARE(workingRate(32'000), 64'000);
        QCOMPARE(workingRate(44'100), 44'100);
        QCOMPARE(workingRate(192'000), 192'000);
    }

    /// What a slow rate cannot carry is not folded back to where it can be heard.
    void whatASlowRateCannotCarryIsGone()
    {
        fixture::writeTone(folder_.filePath("high.wav").toStdString(), 5'000.0, 0.5);
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 1, 1.6})});
        changeSound(project, [](Sound& s) { s.files.front().file = "high.wav"; });
        const auto loudestAt = [&](int rate) {
            const std::vector<float> samples = renderedAt(project, {}, rate);
            // Not where the tone comes up: that has every frequency.
            return *std::max_element(samples.begin() + 2 * rate, samples.end() - 2 * rate);
        };
        const float carried = loudestAt(16'000);
        QVERIFY(carried > 0.1F);
        QVERIFY2(loudestAt(8'000) < carried * 1e-4F, qPrintable(QString::number(loudestAt(8'000) / carried)));
    }

    void aProjectSoundsTheSame_data()
    {
        QTest::addColumn<QString>("name");
        for (const auto& [name, situation] : situations()) {
            QTest::newRow(qPrintable(name)) << name;
        }
    }

    void aProjectSoundsTheSame()
    {
        QFETCH(QString, name);
        const Situation situation = situations().at(name);
        Project project = fixture::projectWith({fixture::pointAt("a", {1, 3, 1.6})});
        if (situation.change) {
            situation.change(project);
        }
        const std::size_t channels = channelsOf(situation.layout);
        const std::vector<float> before = renderedAt(project, situation, usual);
        double worst_db = 0.0;
        QString where;
        for (const int rate : {8'000, 22'050, 44'100, 96'000}) {
            const double top_hz = std::min(rate, usual) / 3.0;
            const auto wanted = bandsOf(before, channels, usual, top_hz);
            const auto got = bandsOf(renderedAt(project, situation, rate), channels, rate, top_hz);
            QVERIFY(!wanted.empty() && wanted.begin()->second > -90.0);
            for (const auto& [middle, power] : wanted) {
                const double off = got.at(middle) - power;
                if (std::abs(off) > std::abs(worst_db)) {
                    worst_db = off;
                    where = QString("%1 Hz at %2: %3 dB").arg(middle).arg(rate).arg(off, 0, 'f', 2);
                }
            }
        }
        qInfo("at most: %s", qPrintable(where));
        QVERIFY2(std::abs(worst_db) < situation.allowed_db, qPrintable(where));
    }
};

} // namespace tst_rates

STONE_TEST(tst_rates, TestRates)
#include "tst_rates.moc"
