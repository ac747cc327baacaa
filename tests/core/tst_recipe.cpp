// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/sound_writer.h"
#include "support/fixtures.h"

#include "engine/live.h"
#include "media/sound_file.h"
#include "support/one_of_many.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>

namespace tst_recipe
{

using namespace stone;

namespace
{

SharedBuffer bufferOf(std::vector<float> samples)
{
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

std::vector<float> noise(std::size_t frames, unsigned seed)
{
    std::mt19937 random(seed);
    std::normal_distribution<float> normal(0.0F, 0.1F);
    std::vector<float> samples(frames);
    std::generate(samples.begin(), samples.end(), [&] { return normal(random); });
    return samples;
}

/// What a sound is through one channel, at the ears, at its own level.
class Rendered
{
public:
    explicit Rendered(std::size_t files = 1)
    {
        Emitter emitter = fixture::pointAt("a", {0, 0, 0});
        emitter.kind = EmitterKind::bed;
        project = fixture::projectWith({emitter});
        sound = *project.sounds[0];
        sound.files.resize(files, {.file = "x.wav"});
    }

    std::vector<float> operator()(const std::vector<SharedBuffer>& files, double seconds)
    {
        project.sounds.put(sound);
        OfflineJob job;
        job.layout = Layout::mono;
        job.scene = fixture::sceneOf(project, files);
        job.ears = [](double) { return Pose{}; };
        job.to_s = seconds;
        return fixture::rendered(job);
    }

    Project project;
    Sound sound;
};

/// Level of a tone in a stretch, dB re its amplitude.
double tone_db(const std::vector<float>& x, double hz, double from_s, double to_s)
{
    std::complex<double> sum;
    const auto first = static_cast<std::size_t>(from_s * 48'000);
    const auto last = std::min(static_cast<std::size_t>(to_s * 48'000), x.size());
    for (std::size_t i = first; i < last; ++i) {
        sum += static_cast<double>(x[i]) * std::polar(1.0, -2.0 * std::numbers::pi * hz * static_cast<double>(i) / 48'000.0);
    }
    return 20.0 * std::log10(2.0 * std::abs(sum) / static_cast<double>(last - first) + 1e-12);
}

/// The response of effects to a tone, dB.
double response_db(const Effects& effects, double hz, double amplitude = 0.01, double at_hz = 0.0)
{
    const EffectSettings settings = designEffects(effects, 48'000.0);
    SoundEffects state;
    std::vector<float> out;
    for (int block = 0; block < 200; ++block) {
        std::array<float, 256> x{};
        for (std::size_t i = 0; i < x.size(); ++i) {
            x[i] = static_cast<float>(amplitude *
                                      std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(out.size() + i) / 48'000.0));
        }
        state.process(x, settings, settings, 256.0 * block, 1.0, nullptr);
        out.insert(out.end(), x.begin(), x.end());
    }
    return tone_db(out, at_hz > 0.0 ? at_hz : hz, 0.5, 1.0) - 20.0 * std::log10(amplitude);
}

double largestDifference(const std::vector<float>& a, const std::vector<float>& b)
{
    double largest = a.size() == b.size() ? 0.0 : 1e9;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
        largest = std::max(largest, static_cast<double>(std::abs(a[i] - b[i])));
    }
    return largest;
}

} // namespace

/// Sounds as recipes, in what is rendered of them.
class TestRecipe : public QObject
{
    Q_OBJECT

private slots:
    void aRunPlaysOneFileAfterAnother()
    {
        Rendered render(3);
        render.sound.make = Make::run;
        render.sound.sequence.order = Order::inTurn;
        render.sound.sequence.gapLeast_s = render.sound.sequence.gapMost_s = 0.25;
        render.sound.files[1].level_db = -6.0;
        const std::vector<SharedBuffer> files{fixture::toneBuffer(500, 0.5), fixture::toneBuffer(1000, 0.5),
                                              fixture::toneBuffer(2000, 0.5)};
        const auto out = render(files, 4.5);
        for (int piece = 0; piece < 6; ++piece) {
            const double at_s = 0.75 * piece;
            const double hz = 500.0 * std::pow(2.0, piece % 3);
            const double wanted = 20.0 * std::log10(0.5) - (piece % 3 == 1 ? 6.0 : 0.0);
            QVERIFY2(std::abs(tone_db(out, hz, at_s + 0.1, at_s + 0.4) - wanted) < 0.1, qPrintable(QString::number(piece)));
            QVERIFY(fixture::rms_db(out, 0, at_s + 0.501, at_s + 0.749, 1) < -200.0);
        }
    }

    void unlikeFilesCrossFadeEvenly()
    {
        Rendered render(2);
        render.sound.make = Make::run;
        render.sound.sequence.order = Order::inTurn;
        render.sound.sequence.crossFade_s = 0.5;
        const auto out = render({bufferOf(noise(96'000, 1)), bufferOf(noise(96'000, 2))}, 12.0);
        for (double t = 0.5; t < 11.0; t += 0.1) {
            const double level = fixture::rms_db(out, 0, t, t + 0.1, 1);
            QVERIFY2(std::abs(level + 20.0) < 0.6, qPrintable(QString("%1 s: %2").arg(t).arg(level)));
        }
    }

    void fadesDelayAndLanesFollowTheirFormulas()
    {
        Rendered render;
        render.sound.loop = false;
        render.sound.delay_s = 0.1;
        render.sound.fadeIn_s = 0.2;
        render.sound.fadeOut_s = 0.3;
        Lane lane;
        lane.over = LaneInput::time;
        lane.shape = LaneShape::curve;
        lane.curve = {{0.4, 0.0}, {0.5, -12.0}};
        render.sound.lanes = {lane};
        const auto out = render({bufferOf(std::vector<float>(48'000, 0.5F))}, 1.3);
        const auto gain = [&](double t) { return static_cast<double>(out[static_cast<std::size_t>(t * 48'000)]) / 0.5; };
        const auto fade = [](double x) { return x * std::sqrt(3.0 - 2.0 * x); };
        QVERIFY(gain(0.0999) == 0.0 && gain(0.11) > 0.0);
        QVERIFY(std::abs(gain(0.15) - fade(0.25)) < 1e-3);
        QVERIFY(std::abs(gain(0.2) - fade(0.5)) < 1e-3);
        QVERIFY(std::abs(gain(0.45) - 1.0) < 1e-3);
        QVERIFY(std::abs(20.0 * std::log10(gain(0.65)) + 12.0) < 0.1);
        QVERIFY(std::abs(gain(0.95) / std::pow(10.0, -0.6) - fade(0.5)) < 2e-3);
        QVERIFY(gain(1.0999) < 1e-3 && gain(1.1001) == 0.0);
    }

    void aLoopComesBackToWhereItShould()
    {
        std::vector<float> numbers(48'000);
        for (std::size_t i = 0; i < numbers.size(); ++i) {
            numbers[i] = static_cast<float>(i) / 100'000.0F;
        }
        Rendered render;
        render.sound.files[0].loopFrom_s = 0.25;
        render.sound.files[0].loopTo_s = 0.75;
        const auto out = render({bufferOf(numbers)}, 3.0);
        for (std::size_t i = 1024; i < out.size(); ++i) {
            const std::size_t place = i < 36'000 ? i : 12'000 + (i - 12'000) % 24'000;
            QVERIFY2(std::abs(out[i] - numbers[place]) < 1e-6F, qPrintable(QString::number(i)));
        }
    }

    void layersAndCopiesStayInStep()
    {
        Rendered render(2);
        render.sound.make = Make::layers;
        render.sound.files[1].level_db = -6.0;
        const auto out = render({fixture::toneBuffer(500, 0.9), fixture::toneBuffer(1000, 0.7)}, 3.0);
        QVERIFY(std::abs(tone_db(out, 500, 0.5, 2.5) + 6.02) < 0.1);
        QVERIFY(std::abs(tone_db(out, 1000, 0.5, 2.5) + 12.02) < 0.1);
    }

    void theEqualiserIsThatOfTheCookbook()
    {
        // R. Bristow-Johnson, "Audio EQ Cookbook": the transfer functions of its shelves (S = 1) and its peaking filter.
        const auto cookbook = [](int kind, double f0, double db, double q, double hz) {
            const double a = std::pow(10.0, db / 40.0);
            const double w0 = 2.0 * std::numbers::pi * f0 / 48'000.0;
            const double alpha = std::sin(w0) / (2.0 * q);
            const double c = std::cos(w0);
            const double beta = 2.0 * std::sqrt(a) * alpha;
            std::array<double, 3> b{1 + alpha * a, -2 * c, 1 - alpha * a};
            std::array<double, 3> d{1 + alpha / a, -2 * c, 1 - alpha / a};
            if (kind != 1) {
                const double s = kind == 0 ? 1.0 : -1.0;
                b = {a * ((a + 1) - s * (a - 1) * c + beta), s * 2 * a * ((a - 1) - s * (a + 1) * c),
                     a * ((a + 1) - s * (a - 1) * c - beta)};
                d = {(a + 1) + s * (a - 1) * c + beta, -s * 2 * ((a - 1) + s * (a + 1) * c), (a + 1) + s * (a - 1) * c - beta};
            }
            const std::complex<double> z = std::polar(1.0, -2.0 * std::numbers::pi * hz / 48'000.0);
            return 20.0 * std::log10(std::abs((b[0] + b[1] * z + b[2] * z * z) / (d[0] + d[1] * z + d[2] * z * z)));
        };
        Effects effects;
        effects.equaliser = {true, 200, 9, 1000, -12, 2.5, 5000, 6, {}};
        for (const double hz : {40.0, 100.0, 200.0, 500.0, 1000.0, 1600.0, 4000.0, 5000.0, 9000.0, 16'000.0}) {
            const double wanted = cookbook(0, 200, 9, std::sqrt(0.5), hz) + cookbook(1, 1000, -12, 2.5, hz) +
                                  cookbook(2, 5000, 6, std::sqrt(0.5), hz);
            const double measured = response_db(effects, hz);
            QVERIFY2(std::abs(measured - wanted) < 0.05,
                     qPrintable(QString("%1 Hz: %2, wanted %3").arg(hz).arg(measured).arg(wanted)));
        }
    }

    void saturationBendsWithoutFoldingBack()
    {
        Effects effects;
        effects.saturation = {true, 20.0, {}};
        // Soft sounds grow by the drive against full scale: 10 / (10 / sqrt(101)).
        QVERIFY(std::abs(response_db(effects, 200.0, 1e-4) - 20.0 * std::log10(std::sqrt(101.0))) < 0.05);
        // The third harmonic of a driven tone is there, what folds back from above half the rate is far below it.
        QVERIFY(response_db(effects, 1000.0, 0.5, 3000.0) > -15.0);
        const double at_hz = 48'000.0 - 7 * 5500.0; // the seventh, at 38.5 kHz
        const double folded = response_db(effects, 5500.0, 0.5, at_hz);
        std::vector<float> naive(48'000);
        for (std::size_t i = 0; i < naive.size(); ++i) {
            const double x = 5.0 * std::sin(2.0 * std::numbers::pi * 5500.0 * static_cast<double>(i) / 48'000.0);
            naive[i] = static_cast<float>(x / std::sqrt(1.0 + x * x) * std::sqrt(101.0) / 10.0);
        }
        const double bent_db = tone_db(naive, at_hz, 0.0, 1.0) + 6.02;
        QVERIFY2(folded < bent_db - 10.0, qPrintable(QString("%1, without the means %2").arg(folded).arg(bent_db)));
    }

    void tremoloAndEchoDoWhatTheySay()
    {
        Rendered render;
        render.sound.effects.tremolo = {true, 4.0, 0.75, {}};
        const SharedBuffer steady = bufferOf(std::vector<float>(48'000, 0.5F));
        const auto wave = render({steady}, 2.0);
        const auto [low, high] = std::minmax_element(wave.begin() + 24'000, wave.end());
        QVERIFY(std::abs(*low - 0.125F) < 1e-3F && std::abs(*high - 0.5F) < 1e-3F);
        QVERIFY(std::abs(wave[60'000] - 0.5F) < 1e-3F && std::abs(wave[66'000] - 0.125F) < 1e-3F); // 4 Hz: at 1.25, 1.375 s

        render.sound.effects.tremolo.on = false;
        render.sound.effects.echo = {true, 0.1, -6.0, 20'000.0, {}};
        render.sound.loop = false;
        std::vector<float> click(480, 0.0F);
        click[0] = 0.5F;
        const auto out = render({bufferOf(click)}, 1.2);
        for (int repeat = 0; repeat < 10; ++repeat) {
            const auto at = static_cast<std::size_t>(4800 * repeat);
            QVERIFY2(std::abs(out[at] - 0.5 * std::pow(10.0, -0.3 * repeat)) < 1e-4, qPrintable(QString::number(repeat)));
            QVERIFY(std::abs(out[at + 2400]) < 1e-6F);
        }
        QVERIFY(std::all_of(out.begin() + 50'000, out.end(), [](float x) { return x == 0.0F; })); // after its 60 dB
    }

    void effectsComeAndGoWithoutAClick()
    {
        Rendered render;
        render.project.sounds.put(render.sound);
        const SharedBuffer tone = fixture::toneBuffer(480.0, 1.0, 0.25F);
        Live live(Layout::mono, 48'000);
        live.setScene(fixture::sceneOf(render.project, tone));
        std::vector<float> out;
        const auto play = [&](double seconds) {
            for (std::size_t step = 0; step < static_cast<std::size_t>(seconds * 48'000 / 256); ++step) {
                live.pump();
                out.resize(out.size() + 256);
                live.render(out.data() + out.size() - 256, 256);
            }
        };
        play(0.5);
        render.sound.effects.equaliser = {true, 200, 12, 480, 12, 1, 5000, -12, {}};
        render.sound.effects.saturation = {true, 12.0, {}};
        render.sound.effects.tremolo = {true, 6.0, 0.8, {}};
        render.sound.effects.echo = {true, 0.11, -6.0, 4000, {}};
        render.project.sounds.put(render.sound);
        live.setScene(fixture::sceneOf(render.project, tone));
        play(0.5);
        const double during = fixture::largestBreak({out.begin() + 36'000, out.end()}, 0, 1);
        QVERIFY(fixture::rms_db(out, 0, 0.75, 1.0, 1) > fixture::rms_db(out, 0, 0.25, 0.5, 1) + 3.0);
        render.sound.effects = {};
        render.project.sounds.put(render.sound);
        live.setScene(fixture::sceneOf(render.project, tone));
        play(0.5);
        // No break beyond what the bent wave itself has.
        QVERIFY2(fixture::largestBreak({out.begin() + 2'000, out.end()}, 0, 1) < 3.0 * during,
                 qPrintable(QString("%1 %2").arg(fixture::largestBreak({out.begin() + 2'000, out.end()}, 0, 1)).arg(during)));
        QVERIFY(std::abs(fixture::rms_db(out, 0, 1.3, 1.5, 1) - fixture::rms_db(out, 0, 0.3, 0.5, 1)) < 0.01);
    }

    void streamedSoundsAreTheSameToTheBit()
    {
        const auto loader = std::make_shared<BlockLoader>();
        QTemporaryDir folder;
        const auto flac = std::filesystem::path(folder.filePath("noise.flac").toStdString());
        {
            SoundWriter writer(flac, 2, 48'000);
            std::vector<float> frames = noise(2 * 48'000 * 7, 3);
            writer.write(frames);
            writer.finish();
        }
        for (const auto& file : {flac, std::filesystem::path(DEMO) / "sounds/rain-on-roof.ogg",
                                 std::filesystem::path(DEMO) / "sounds/night-air.flac"}) {
            const SharedBuffer decoded = readSoundFile(file, 48'000, true);
            for (const Keeping keeping : {Keeping::streamed, Keeping::compressed}) {
                const SharedBuffer blocks = openSoundFile(file, 48'000, true, keeping, loader);
                QVERIFY(!blocks->decoded() && blocks->frames() == decoded->frames() &&
                        blocks->channelCount() == decoded->channels.size());
                QVERIFY(blocks->facts.integrated_lufs == decoded->facts.integrated_lufs &&
                        blocks->facts.seam.step_db == decoded->facts.seam.step_db);
                // Any stretch, in any order.
                std::vector<float> stretch(5'000);
                for (const double share : {0.9, 0.1, 0.5, 0.11, 0.0, 0.99}) {
                    const auto first =
                        static_cast<std::size_t>(share * static_cast<double>(decoded->frames() - stretch.size()));
                    blocks->read(0, first, stretch);
                    QVERIFY2(std::equal(stretch.begin(), stretch.end(),
                                        decoded->channels[0].begin() + static_cast<std::ptrdiff_t>(first)),
                             file.c_str());
                }
                // As a loop with points of its own, as a pitched one, folded or as an image.
                Rendered render;
                render.sound.files[0].loopFrom_s = 1.0;
                render.sound.files[0].loopTo_s = 3.7;
                QVERIFY(render({blocks}, 9.0) == render({decoded}, 9.0));
                render.project = withLevel(render.project, {"level"}, [](Level& level) {
                    Emitter emitter = *level.emitters[0];
                    emitter.kind = EmitterKind::point;
                    emitter.pitch_st = 5.3;
                    level.emitters.put(emitter);
                });
                QVERIFY(largestDifference(render({blocks}, 20.0), render({decoded}, 20.0)) < 1e-6);
            }
        }
        // At another rate the filter sees the same, whatever the block.
        const SharedBuffer decoded = readSoundFile(flac, 44'100, true);
        const SharedBuffer blocks = openSoundFile(flac, 44'100, true, Keeping::streamed, loader);
        std::vector<float> all(decoded->frames());
        blocks->read(1, 0, all);
        QVERIFY2(largestDifference(all, decoded->channels[1]) < 2e-5,
                 qPrintable(QString::number(largestDifference(all, decoded->channels[1]))));
    }

    void whatIsLongTakesLittleMemory()
    {
        const auto loader = std::make_shared<BlockLoader>();
        QTemporaryDir folder;
        const std::filesystem::path file(folder.filePath("long.wav").toStdString());
        fixture::writeTone(file, 440.0, 90.0);
        const SharedBuffer kept = openSoundFile(file, 48'000, true, Keeping::automatic, loader);
        QVERIFY(!kept->decoded());
        std::vector<float> all(kept->frames());
        kept->read(0, 0, all);
        QVERIFY(kept->bytes() < 3'000'000 && kept->cost() > 0.0); // decoded: 17 MB
        QVERIFY(std::abs(20.0 * std::log10(kept->facts.peak) + 6.02) < 0.01);
        QVERIFY(openSoundFile(file, 48'000, true, Keeping::decoded, loader)->bytes() > 17'000'000);
    }

    void aDiskThatIsTooSlowGivesSilenceAndGoesOnInTime()
    {
        const auto loader = std::make_shared<BlockLoader>();
        QTemporaryDir folder;
        const std::filesystem::path file(folder.filePath("noise.flac").toStdString());
        {
            // Eight channels at another rate: decoding them takes a while.
            SoundWriter writer(file, 8, 44'100);
            writer.write(noise(8 * 44'100 * 10, 3));
            writer.finish();
        }
        const SharedBuffer decoded = readSoundFile(file, 48'000, true);
        const SharedBuffer blocks = openSoundFile(file, 48'000, true, Keeping::streamed, loader);
        Rendered render;
        render.project = withLevel(render.project, {"level"}, [](Level& level) {
            Emitter emitter = *level.emitters[0];
            emitter.kind = EmitterKind::point;
            emitter.placement.channels = ChannelUse::left;
            emitter.at.z = Character{}.earsHeight_m;
            level.emitters.put(emitter);
        });
        render.project.sounds.put(render.sound);
        Live live(Layout::mono, 48'000);
        auto scene = fixture::sceneOf(render.project, blocks);
        scene->waits = false;
        live.setScene(scene);
        // Much faster than any disk follows.
        std::vector<float> out(256 * 1'800);
        for (std::size_t step = 0; step < 1'800; ++step) {
            live.pump();
            live.render(out.data() + 256 * step, 256);
        }
        QVERIFY(live.snapshot().starved > 0);
        std::size_t silent = 0;
        for (std::size_t i = 4'096; i < out.size(); ++i) {
            // Either what belongs there or nothing.
            silent += out[i] == 0.0F ? 1 : 0;
            QVERIFY(out[i] == 0.0F || std::abs(out[i] - decoded->channels[0][i]) < 2e-5F);
        }
        QVERIFY(silent > 0 && silent < out.size());
    }
};

} // namespace tst_recipe

STONE_TEST(tst_recipe, TestRecipe)
#include "tst_recipe.moc"
