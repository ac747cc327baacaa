// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/loudness_meter.h"
#include "exports/prepared_sounds.h"
#include "media/sound_file.h"
#include "project/file_error.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <sndfile.h>

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

namespace tst_prepared_sounds
{

using namespace stone;
using Format = SoundTarget::Format;
using Channels = PreparedSound::Channels;

namespace
{

struct Shelf {
    Shelf()
    {
        fixture::writeTone(path("tone.wav"), 480.0, 1.0);
        fixture::writeTone(path("wide.wav"), 480.0, 1.0, 48'000, 2);
        // A tone of a quarter of a second with silence round it.
        fixture::writeTone(path("late.wav"), 480.0, 0.25);
        const SharedBuffer tone = readSoundFile(path("late.wav"), 48'000, false);
        std::vector<float> late(48'000, 0.0F);
        std::copy(tone->channels[0].begin(), tone->channels[0].end(), late.begin() + 12'000);
        SF_INFO info{};
        info.samplerate = 48'000;
        info.channels = 1;
        info.format = SF_FORMAT_WAV | SF_FORMAT_FLOAT;
        SNDFILE* file = sf_open(path("late.wav").c_str(), SFM_WRITE, &info);
        sf_writef_float(file, late.data(), 48'000);
        sf_close(file);
    }

    std::filesystem::path path(const std::string& name) const { return folder.path().toStdString() + "/" + name; }

    PreparedSound sound(const std::string& file, bool loop = true) const
    {
        return {.sound = {"s"}, .from = path(file), .to = "out/" + file, .channels = Channels::kept, .loop = loop};
    }

    QTemporaryDir folder;
};

double rms_db(const std::vector<float>& samples)
{
    double sum = 0.0;
    for (const float x : samples) {
        sum += x * x;
    }
    return 10.0 * std::log10(sum / static_cast<double>(samples.size()));
}

} // namespace

/// Sounds as a game wants them.
class TestPreparedSounds : public QObject
{
    Q_OBJECT

private slots:
    /// In every format and at other rates a tone is as loud, as high and as long as it was.
    void aToneStaysWhatItWas_data()
    {
        QTest::addColumn<int>("format");
        QTest::addColumn<int>("rate");
        for (std::size_t format = 0; format < soundFormatCount; ++format) {
            for (const int rate : {0, 44'100, 24'000}) {
                QTest::addRow("%s %d", wordOf(static_cast<Format>(format)), rate) << static_cast<int>(format) << rate;
            }
        }
    }
    void aToneStaysWhatItWas()
    {
        QFETCH(int, format);
        QFETCH(int, rate);
        const Shelf shelf;
        const SoundTarget target{.format = static_cast<Format>(format), .rate = rate, .quality = 0.8};
        const PreparedFacts facts = prepareSound(shelf.sound("tone.wav"), target, shelf.path("made"));
        const bool opusHasNot = target.format == Format::opus && rate == 44'100;
        QCOMPARE(facts.rate, rate == 0 || opusHasNot ? 48'000 : rate);
        const SharedBuffer back = readSoundFile(shelf.path("made/out/tone.wav"), facts.rate, false);
        QVERIFY(std::abs(static_cast<double>(back->frames()) - facts.rate) <= 1.0);
        QCOMPARE(facts.bytes, std::filesystem::file_size(shelf.path("made/out/tone.wav")));
        // The middle, away from what a codec does at ends.
        const auto& samples = back->channels[0];
        const std::vector<float> middle(samples.begin() + facts.rate / 4, samples.begin() + facts.rate * 3 / 4);
        const double level_db = rms_db(middle);
        QVERIFY2(std::abs(level_db - 20.0 * std::log10(0.5 / std::sqrt(2.0))) < 0.1, std::to_string(level_db).c_str());
        int rises = 0;
        for (std::size_t i = 1; i < middle.size(); ++i) {
            rises += middle[i - 1] < 0.0F && middle[i] >= 0.0F ? 1 : 0;
        }
        QVERIFY(std::abs(rises - 240) <= 1);
    }

    /// At another rate the seam of a loop is no larger a step than the tone makes anywhere.
    void loopsStayLoops()
    {
        const Shelf shelf;
        for (const int rate : {48'000, 44'100, 32'000}) {
            PreparedSound loop = shelf.sound("tone.wav");
            loop.loopFrom_s = 0.25;
            loop.loopTo_s = 0.75;
            const PreparedFacts facts = prepareSound(loop, {.format = Format::wav24, .rate = rate}, shelf.path("made"));
            QCOMPARE(facts.loopFrom, static_cast<std::uint64_t>(rate / 4));
            QCOMPARE(facts.loopTo, static_cast<std::uint64_t>(rate * 3 / 4));
            const auto file = shelf.path("made/out/tone.wav");
            SF_INFO info{};
            SNDFILE* opened = sf_open(file.c_str(), SFM_READ, &info);
            SF_INSTRUMENT points{};
            QVERIFY(sf_command(opened, SFC_GET_INSTRUMENT, &points, sizeof points) == SF_TRUE);
            sf_close(opened);
            QCOMPARE(points.loop_count, 1);
            QCOMPARE(static_cast<std::uint64_t>(points.loops[0].start), facts.loopFrom);
            QCOMPARE(static_cast<std::uint64_t>(points.loops[0].end), facts.loopTo);
            const auto samples = readSoundFile(file, rate, false)->channels[0];
            double largest = 0.0;
            for (std::size_t i = 1; i < samples.size(); ++i) {
                largest = std::max(largest, std::abs(static_cast<double>(samples[i]) - samples[i - 1]));
            }
            QVERIFY(std::abs(samples.front() - samples.back()) < 1.02 * largest);
            QVERIFY(std::abs(samples[facts.loopFrom] - samples[facts.loopTo - 1]) < 1.02 * largest);
        }
        // What is no loop has no points.
        QCOMPARE(prepareSound(shelf.sound("tone.wav", false), {.format = Format::wav16}, shelf.path("made")).loopTo,
                 std::uint64_t{0});
    }

    void channelsAreFoldedAsTheyAreHeard()
    {
        const Shelf shelf;
        for (const auto& [how, by_db] :
             {std::pair(Channels::mid, 0.0), {Channels::equalPower, 3.01}, {Channels::left, 0.0}, {Channels::right, 0.0}}) {
            PreparedSound wide = shelf.sound("wide.wav");
            wide.channels = how;
            const PreparedFacts facts = prepareSound(wide, {.format = Format::wav24}, shelf.path("made"));
            QCOMPARE(facts.channelsBefore, std::size_t{2});
            QCOMPARE(facts.channels, std::size_t{1});
            const auto back = readSoundFile(shelf.path("made/out/wide.wav"), 48'000, false);
            const auto before = readSoundFile(shelf.path("wide.wav"), 48'000, false);
            QVERIFY(std::abs(rms_db(back->channels[0]) - rms_db(before->channels[0]) - by_db) < 0.02);
        }
        QCOMPARE(prepareSound(shelf.sound("wide.wav"), {.format = Format::wav24}, shelf.path("made")).channels, std::size_t{2});
    }

    void silenceRoundASoundIsTrimmed()
    {
        const Shelf shelf;
        const PreparedFacts facts =
            prepareSound(shelf.sound("late.wav", false), {.format = Format::wav24, .trim = true}, shelf.path("made"));
        QVERIFY(std::abs(static_cast<double>(facts.trimmedFrames) - 12'000.0) < 4.0);
        QVERIFY(std::abs(static_cast<double>(facts.frames) - 12'000.0) < 8.0);
        QCOMPARE(
            prepareSound(shelf.sound("late.wav", true), {.format = Format::wav24, .trim = true}, shelf.path("made")).frames,
            std::uint64_t{48'000}); // a loop is as long as it is
    }

    /// Sixteen bits are dithered: what is softer than a step is still there, in noise.
    void sixteenBitsAreDithered()
    {
        const Shelf shelf;
        fixture::writeTone(shelf.path("soft.wav"), 480.0, 1.0, 48'000, 1, 0.6 / 32'768.0);
        prepareSound(shelf.sound("soft.wav"), {.format = Format::wav16}, shelf.path("made"));
        const auto samples = readSoundFile(shelf.path("made/out/soft.wav"), 48'000, false)->channels[0];
        double in = 0.0;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            in += samples[i] * std::sin(2.0 * 3.14159265358979 * 480.0 * static_cast<double>(i) / 48'000.0);
        }
        const double amplitude = std::abs(2.0 * in / static_cast<double>(samples.size())) * 32'768.0;
        QVERIFY2(std::abs(amplitude - 0.6) < 0.06, std::to_string(amplitude).c_str());
        const auto again = shelf.path("made/out/soft.wav");
        QFile first(QString::fromStdString(again.string()));
        QVERIFY(first.open(QIODevice::ReadOnly));
        const QByteArray bytes = first.readAll();
        prepareSound(shelf.sound("soft.wav"), {.format = Format::wav16}, shelf.path("made"));
        QFile second(QString::fromStdString(again.string()));
        QVERIFY(second.open(QIODevice::ReadOnly) && second.readAll() == bytes); // the same each time
    }

    void whoIsPlacedAsOneIsFoldedAndNobodyElse()
    {
        const auto resolve = [](const std::string& file) { return std::filesystem::path("/p") / file; };
        Emitter placed = fixture::pointAt("a", {0, 5, 1});
        Project project = fixture::projectWith({placed});
        const auto how = [&](const Project& p, const SoundTarget& target = {}) {
            return soundsToPrepare(p, target, resolve).at(0).channels;
        };
        QVERIFY(how(project) == Channels::mid);
        QVERIFY(how(project, {.fold = false}) == Channels::kept);
        const auto changed = [&](const std::function<void(Emitter&)>& change) {
            Emitter other = placed;
            other.id = {"b"};
            change(other);
            return withLevel(project, project.levels[0]->id, [&](Level& level) { level.emitters.append(other); });
        };
        QVERIFY(how(changed([](Emitter&) {})) == Channels::mid);
        QVERIFY(how(changed([](Emitter& e) { e.kind = EmitterKind::bed; })) == Channels::kept);
        QVERIFY(how(changed([](Emitter& e) { e.placement.inWorld = 0.0; })) == Channels::kept);
        QVERIFY(how(changed([](Emitter& e) { e.placement.channels = ChannelUse::image; })) == Channels::kept);
        QVERIFY(how(changed([](Emitter& e) { e.placement.channels = ChannelUse::left; })) == Channels::kept); // not alike
        Project onlyRight =
            withEmitter(project, project.levels[0]->id, {"a"}, [](Emitter& e) { e.placement.channels = ChannelUse::right; });
        QVERIFY(how(onlyRight) == Channels::right);
        Project nobody = withLevel(project, project.levels[0]->id, [](Level& level) { level.emitters = {}; });
        QVERIFY(how(nobody) == Channels::kept);
        Pattern lamp;
        lamp.id = {"lamp"};
        lamp.settings = placed;
        nobody.patterns.append(lamp); // of a plant rule
        QVERIFY(how(nobody) == Channels::mid);
    }

    void namesAreOfTheirOwn()
    {
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 5, 1})});
        Sound sound = *project.sounds[0];
        sound.files = {{.file = "sounds/hum.wav"}, {.file = "sounds/hum.flac"}, {.file = "other/hum.wav"}};
        project.sounds.put(sound);
        const auto all =
            soundsToPrepare(project, {.format = Format::vorbis}, [](const std::string& f) { return std::filesystem::path(f); });
        QCOMPARE(all.size(), std::size_t{3});
        QCOMPARE(all[0].to, std::string("sounds/hum.ogg"));
        QCOMPARE(all[1].to, std::string("sounds/hum-2.ogg"));
        QCOMPARE(all[2].to, std::string("other/hum.ogg"));
        const CsvTable table = preparedTable(all, {{.bytesBefore = 10, .bytes = 4, .rate = 44'100, .loopTo = 9}, {}, {}});
        QCOMPARE(table.rows.size(), std::size_t{3});
        QCOMPARE(table.rows[0].size(), table.columns.size());
        QCOMPARE(table.rows[0].at(table.column("loop_to_frame")), std::string("9"));
        QVERIFY(table.rows[1].at(table.column("loop_to_frame")).empty());
        QVERIFY(table.rows[1].at(table.column("loudness_lufs")).empty()); // silence has none
    }

    void namesFollowTheRule()
    {
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 5, 1})});
        Sound sound = *project.sounds[0];
        sound.name = "Tür: auf/zu?";
        sound.files = {{.file = "a.wav"}, {.file = "b.wav"}};
        project.sounds.put(sound);
        const auto names = [&](SoundTarget::Naming naming) {
            const auto all = soundsToPrepare(project, {.format = Format::opus, .naming = naming},
                                             [](const std::string& f) { return std::filesystem::path(f); });
            return std::vector<std::string>{all[0].to, all[1].to};
        };
        QVERIFY(names(SoundTarget::Naming::files) == (std::vector<std::string>{"a.opus", "b.opus"}));
        QVERIFY(names(SoundTarget::Naming::sounds) == (std::vector<std::string>{"Tür_ auf_zu_.opus", "Tür_ auf_zu_-2.opus"}));
        const auto plain = names(SoundTarget::Naming::plain);
        for (const std::string& name : plain) {
            const std::string stem = name.substr(0, name.find('.'));
            QVERIFY2(stem.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") == std::string::npos, name.c_str());
        }
        QVERIFY(plain[0] != plain[1]);
        // No name leads out of the folder.
        sound.name = "../../etc";
        project.sounds.put(sound);
        for (const auto naming : {SoundTarget::Naming::sounds, SoundTarget::Naming::plain}) {
            QVERIFY(names(naming)[0].find('/') == std::string::npos);
            QVERIFY(names(naming)[0].front() != '.');
        }
    }

    /// Measured in what was written: as loud as was asked for, the gain told, nothing over full scale, and never beyond it.
    void loudnessIsMatchedAsFarAsThereIsRoom()
    {
        const Shelf shelf;
        const auto loudness = [](const std::string& file) {
            const auto buffer = readSoundFile(file, 48'000, false);
            LoudnessMeter meter(1, 48'000);
            meter.add(buffer->channels.front());
            const auto& x = buffer->channels.front();
            const float peak =
                std::abs(*std::max_element(x.begin(), x.end(), [](float a, float b) { return std::abs(a) < std::abs(b); }));
            return std::pair(meter.integrated_lufs(), static_cast<double>(peak));
        };
        fixture::writeTone(shelf.path("loud.wav"), 997.0, 3.0, 48'000, 1, 0.5);
        fixture::writeTone(shelf.path("quiet.wav"), 997.0, 3.0, 48'000, 1, 0.01);
        for (const char* name : {"loud.wav", "quiet.wav"}) {
            const PreparedFacts facts =
                prepareSound(shelf.sound(name),
                             {.format = Format::wav24, .loudness = SoundTarget::Loudness::matched, .loudness_lufs = -20.0},
                             shelf.path("made"));
            const auto [lufs, peak] = loudness(shelf.path("made/out/" + std::string(name)));
            QVERIFY2(std::abs(lufs - -20.0) < 0.1, qPrintable(QString::number(lufs)));
            QVERIFY(std::abs(facts.loudness_lufs - lufs) < 0.1);
            // A sine of full scale in one channel is at -3.01 LUFS.
            const double was = -3.01 + 20.0 * std::log10(name[0] == 'l' ? 0.5 : 0.01);
            QVERIFY2(std::abs(facts.gain_db - (-20.0 - was)) < 0.1, qPrintable(QString::number(facts.gain_db)));
        }
        const PreparedFacts facts = prepareSound(
            shelf.sound("quiet.wav"),
            {.format = Format::wav24, .loudness = SoundTarget::Loudness::matched, .loudness_lufs = 0.0}, shelf.path("full"));
        const auto [lufs, peak] = loudness(shelf.path("full/out/quiet.wav"));
        QVERIFY2(std::abs(20.0 * std::log10(peak) - -1.0) < 0.05, qPrintable(QString::number(peak)));
        QVERIFY(std::abs(facts.loudness_lufs - lufs) < 0.1);
        QCOMPARE(prepareSound(shelf.sound("loud.wav"), {.format = Format::wav24}, shelf.path("kept")).gain_db, 0.0);
    }

    void whatCannotBeDoneLeavesNothing()
    {
        const Shelf shelf;
        const auto fails = [&](const PreparedSound& what, const std::string& folder, const StopAsked& stop = {}) {
            try {
                prepareSound(what, {.format = Format::vorbis}, folder, stop);
            } catch (const FileError& error) {
                return QString(error.what());
            }
            return QString();
        };
        QVERIFY(fails(shelf.sound("nowhere.wav"), shelf.path("made")).contains("nowhere.wav"));
        QVERIFY(!fails(shelf.sound("tone.wav"), shelf.path("tone.wav")).isEmpty()); // a file in the way
        QVERIFY(!fails(shelf.sound("tone.wav"), shelf.path("stopped"), [] { return true; }).isEmpty());
        QVERIFY(!std::filesystem::exists(shelf.path("stopped/out/tone.wav")));
        for (const auto& entry : std::filesystem::recursive_directory_iterator(shelf.folder.path().toStdString())) {
            QVERIFY(entry.path().string().find(".part-") == std::string::npos);
        }
    }
};

} // namespace tst_prepared_sounds

STONE_TEST(tst_prepared_sounds, TestPreparedSounds)
#include "tst_prepared_sounds.moc"
