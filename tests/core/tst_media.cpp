// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/emitter_findings.h"
#include "analysis/output_findings.h"
#include "analysis/sound_findings.h"
#include "dsp/loudness_meter.h"
#include "media/sound_bank.h"
#include "media/sound_file.h"
#include "media/sound_writer.h"
#include "project/file_error.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <numbers>
#include <random>
#include <set>

namespace tst_media
{

using namespace stone;

class TestMedia : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;

    std::filesystem::path path(const char* name) const { return folder_.filePath(name).toStdString(); }

    QString failure(const char* name) const
    {
        try {
            readSoundFile(path(name), 48'000, false);
        } catch (const FileError& error) {
            return error.what();
        }
        return {};
    }

private slots:
    void soundsComeToTheEnginesRate()
    {
        fixture::writeTone(path("a.wav"), 1000.0, 1.0, 44'100);
        const SharedBuffer buffer = readSoundFile(path("a.wav"), 48'000, true);
        QCOMPARE(buffer->frames(), std::size_t{48'000});
        // The very sine at the new rate, also at the seam: 1000 whole cycles.
        double error = 0.0;
        for (std::size_t i = 0; i < buffer->frames(); ++i) {
            const double wanted = 0.5 * std::sin(2.0 * std::numbers::pi * 1000.0 * static_cast<double>(i) / 48'000);
            error = std::max(error, std::abs(wanted - buffer->channels[0][i]));
        }
        QVERIFY2(error < 1e-3, qPrintable(QString::number(error)));
    }

    void channelsFoldToOne()
    {
        fixture::writeTone(path("s.wav"), 500.0, 0.1, 48'000, 2);
        const SharedBuffer buffer = readSoundFile(path("s.wav"), 48'000, false);
        QCOMPARE(buffer->channels.size(), std::size_t{2});
        QVERIFY(std::abs(buffer->mono()[24] - buffer->channels[0][24]) < 1e-6F);
    }

    void unreadableFilesSayWhatIsWrong()
    {
        fixture::writeText(path("empty.wav"), "");
        fixture::writeText(path("text.wav"), "this is not a sound");
        const std::pair<const char*, const char*> cases[] = {
            {"empty.wav", "0 bytes"}, {"text.wav", "not a sound file"}, {"none.wav", "cannot be read"}};
        for (const auto& [name, expected] : cases) {
            QVERIFY2(failure(name).contains(expected), qPrintable(failure(name)));
        }
    }

    void aHeaderThatLiesCostsNothing()
    {
        fixture::writeTone(path("liar.wav"), 500.0, 0.1);
        QFile file(folder_.filePath("liar.wav"));
        QVERIFY(file.open(QIODevice::ReadWrite));
        QByteArray bytes = file.readAll();
        const qsizetype data = bytes.indexOf("data");
        const quint32 tenGigabytes = 0xFFFFFF00U;
        std::memcpy(bytes.data() + data + 4, &tenGigabytes, 4);
        file.seek(0);
        file.write(bytes);
        file.close();
        QCOMPARE(readSoundFile(path("liar.wav"), 48'000, false)->frames(), std::size_t{4800});
    }

    void badSamplesDoNotGetIn()
    {
        {
            SoundWriter writer(path("nan.wav"), 1, 48'000);
            const float samples[4] = {0.5F, NAN, INFINITY, 1e30F};
            writer.write(samples);
            writer.finish();
        }
        const SharedBuffer buffer = readSoundFile(path("nan.wav"), 48'000, false);
        for (const float sample : buffer->channels[0]) {
            QVERIFY(std::isfinite(sample) && std::abs(sample) <= 16.0F);
        }
    }

    void damagedSoundsNeverCrash()
    {
        std::mt19937 random(4);
        const auto loader = std::make_shared<BlockLoader>();
        for (const char* name : {"handbell.flac", "lamp-hum.ogg"}) {
            QFile file(QString(DEMO) + "/sounds/" + name);
            QVERIFY(file.open(QIODevice::ReadOnly));
            const QByteArray whole = file.readAll();
            for (int round = 0; round < 40; ++round) {
                QByteArray bytes = whole;
                for (int i = 0; i < 10; ++i) {
                    bytes[static_cast<qsizetype>(random() % (round % 2 == 0 ? 200U : static_cast<unsigned>(bytes.size())))] =
                        static_cast<char>(random());
                }
                const std::string target = std::string("fuzz") + std::filesystem::path(name).extension().string();
                fixture::writeText(path(target.c_str()), bytes.toStdString());
                failure(target.c_str());
                // Read in blocks, from here and there, it does no worse.
                try {
                    const SharedBuffer blocks = openSoundFile(path(target.c_str()), 48'000, true,
                                                              round % 3 == 0 ? Keeping::compressed : Keeping::streamed, loader);
                    std::array<float, 300> some{};
                    for (int i = 0; i < 4; ++i) {
                        blocks->read(0, random() % blocks->frames(), some);
                        QVERIFY(std::all_of(some.begin(), some.end(), [](float x) { return std::isfinite(x); }));
                    }
                } catch (const FileError&) {
                }
            }
        }
    }

    void aWriterThatGoesAwayLeavesNothing()
    {
        {
            SoundWriter writer(path("gone.wav"), 1, 48'000);
            const float samples[1] = {0.5F};
            writer.write(samples);
        }
        QVERIFY(QDir(folder_.path()).entryList({"gone*"}).isEmpty());
    }

    void theBankLoadsBesideTheWindow()
    {
        fixture::writeTone(path("b.wav"), 500.0, 0.2);
        SoundBank bank(48'000);
        std::atomic<int> told{0};
        bank.onLoaded([&] { ++told; });
        bank.get(path("b.wav"), true, Keeping::decoded);
        bank.get(path("missing.wav"), true, Keeping::decoded);
        QTRY_COMPARE(told.load(), 2);
        QCOMPARE(bank.get(path("b.wav"), true, Keeping::decoded).state, SoundBank::State::ready);
        QCOMPARE(bank.get(path("missing.wav"), true, Keeping::decoded).state, SoundBank::State::failed);
        QCOMPARE(bank.pending(), std::size_t{0});
        bank.onLoaded({});
    }

    /// As many at once as there are cores: each file once, those that cannot be read like the others.
    void manyFilesAreLoadedAtOnce()
    {
        std::vector<SoundBank::Key> files;
        for (int i = 0; i < 12; ++i) {
            const std::string file = path(qPrintable(QString("many-%1.wav").arg(i))).string();
            fixture::writeTone(file, 200.0 + 10.0 * i, 0.2);
            files.push_back({file, i % 2 == 0, Keeping::decoded});
            files.push_back(files.back());
        }
        files.push_back({path("missing.wav").string(), false, Keeping::decoded});
        SoundBank bank(48'000);
        bank.loadAll({});
        bank.loadAll(files);
        QCOMPARE(bank.pending(), std::size_t{0});
        std::set<const SampleBuffer*> buffers;
        for (const SoundBank::Key& key : files) {
            const SoundBank::Entry entry = bank.get(key.file, key.loop, key.keeping);
            QCOMPARE(entry.state, entry.buffer ? SoundBank::State::ready : SoundBank::State::failed);
            buffers.insert(entry.buffer.get());
            const SoundBank::Entry again = bank.load(key.file, key.loop, key.keeping);
            QCOMPARE(again.buffer.get(), entry.buffer.get());
        }
        QCOMPARE(buffers.size(), std::size_t{13}); // one of them none
    }

    /// What nothing uses rests for an undo; beyond the budget the oldest is let go, and what is in use never.
    void whatNothingUsesIsLetGo()
    {
        SoundBank bank(48'000);
        // 4 bytes a frame and channel: each takes nearly a third of the budget.
        const double seconds = static_cast<double>(SoundBank::restingBytes) / 3.1 / 4.0 / 48'000.0;
        std::vector<SoundBank::Key> keys;
        for (const char* name : {"one.wav", "two.wav", "three.wav", "four.wav", "used.wav"}) {
            fixture::writeTone(path(name), 500.0, seconds);
            keys.push_back({path(name), false, Keeping::decoded});
            QCOMPARE(bank.load(keys.back().file, false, Keeping::decoded).state, SoundBank::State::ready);
        }
        const std::size_t each = bank.cost().bytes / 5;
        bank.letGoBut(keys);
        QCOMPARE(bank.cost().resting, std::size_t{0});
        // Asked for again: of the four that rest it is now not the one that goes.
        bank.load(keys[0].file, false, Keeping::decoded);
        bank.letGoBut({keys[4]});
        QCOMPARE(bank.cost().bytes, each);
        QCOMPARE(bank.cost().resting, 3 * each);
        std::filesystem::remove(keys[0].file);
        std::filesystem::remove(keys[1].file);
        QCOMPARE(bank.load(keys[0].file, false, Keeping::decoded).state, SoundBank::State::ready);
        QCOMPARE(bank.load(keys[1].file, false, Keeping::decoded).state, SoundBank::State::failed);
        // What came back is in use again.
        QCOMPARE(bank.cost().bytes, 2 * each);
        QCOMPARE(bank.cost().resting, 2 * each);
    }

    void loudnessIsThatOfTheStandard()
    {
        // EBU Tech 3341, case 1: a stereo sine of 1 kHz at -23 dBFS is -23.0 LUFS, to 0.1.
        LoudnessMeter meter(2, 48'000);
        std::vector<float> frames;
        const double gain = std::pow(10.0, -23.0 / 20.0);
        for (int i = 0; i < 48'000 * 5; ++i) {
            const auto x = static_cast<float>(gain * std::sin(2.0 * std::numbers::pi * 1000.0 * i / 48'000));
            frames.insert(frames.end(), {x, x});
        }
        meter.add(frames);
        QVERIFY(std::abs(meter.integrated_lufs() + 23.0) < 0.1);
        QVERIFY(std::abs(meter.momentary_lufs() + 23.0) < 0.1);
        QVERIFY(std::abs(meter.shortTerm_lufs() + 23.0) < 0.1);
    }

    void findingsNameWhatIsWrong()
    {
        fixture::writeTone(path("stereo.wav"), 500.0, 0.1, 48'000, 2);
        fixture::writeTone(path("loud.wav"), 500.0, 0.1, 48'000, 1, 1.0);
        fixture::writeTone(path("silent.wav"), 500.0, 0.1, 48'000, 1, 0.0);
        fixture::writeText(path("broken.wav"), "no");
        const std::string text =
            R"({"unheard_of": 1, "sounds": [{"id": "none", "file": "none.wav"}, {"id": "broken", "file": "broken.wav"},
            {"id": "out", "file": "../x.wav"}, {"id": "stereo", "file": "stereo.wav"}, {"id": "loud", "file": "loud.wav"},
            {"id": "silent", "file": "silent.wav"}, {"id": "nofile"}],
            "falloffs": [{"id": "zero", "lanes": [{"reference_m": 0}]},
                         {"id": "back", "lanes": [{"model": "linear", "reference_m": 9, "maximum_m": 2}]},
                         {"id": "early", "lanes": [{"reference_m": 9, "silent_at_m": 2}]}],
            "levels": [{"geometry": {"file": "none.glb"},
            "emitters": [{"sound": "stereo", "falloff": "nowhere"}, {"sound": "nobody"}, {}], "walks": [{"points": []}]}, {"name": "second"}]})";
        const ReadProject read = readProjectText(text, "x");
        SoundBank bank(48'000);
        const std::filesystem::path folder = folder_.path().toStdString();
        const auto geometry = readGeometry(read.project, folder);
        std::multiset<std::string> codes;
        for (const Finding& finding :
             findAll({read.project, read.notices, geometry, bank, filesInside(folder), Loading::now})) {
            codes.insert(finding.code);
            QVERIFY(!finding.what.empty() && !finding.where.empty() && !finding.fix.empty());
        }
        const std::multiset<std::string> expected{
            "unknown-key",      "sound-missing",      "sound-unreadable", "sound-outside",         "sound-clips",
            "sound-silent",     "sound-without-file", "falloff-silent",   "falloff-reversed",      "falloff-reversed",
            "level-unreadable", "stereo-on-point",    "falloff-unknown",  "emitter-without-sound", "emitter-without-sound",
            "walk-short",       "level-empty",        "sound-alike"};
        QVERIFY2(codes == expected,
                 [&] {
                     std::string all;
                     for (const auto& code : codes) {
                         all += code + " ";
                     }
                     return all;
                 }()
                     .c_str());
    }

    void slipsOfLanesAndPlacementAreFound()
    {
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 0, 0}), fixture::pointAt("b", {2, 0, 0})});
        const auto codes = [&] {
            std::vector<Finding> found;
            findInEmitters(project, *project.levels[0], 50.0, found);
            for (const auto& emitter : project.levels[0]->emitters) {
                findInFalloff(falloffOf(project, *emitter), "falloff", {}, emitter->id, found);
            }
            std::multiset<std::string> all;
            for (const Finding& finding : found) {
                all.insert(finding.code);
            }
            // Whatever has a remedy is gone once it is taken.
            for (const Finding& finding : found) {
                for (const Remedy& remedy : finding.remedies) {
                    const Project mended = remedy.apply(project);
                    std::vector<Finding> left;
                    findInEmitters(mended, *mended.levels[0], 50.0, left);
                    if (std::any_of(left.begin(), left.end(), [&](const Finding& f) { return f.code == finding.code; })) {
                        all.insert("not mended: " + finding.code);
                    }
                }
            }
            return all;
        };
        const auto change = [&](const std::string& id, auto&& edit) { project = withEmitter(project, {"level"}, {id}, edit); };
        QVERIFY(codes() == std::multiset<std::string>{"loops-phase"});
        change("b", [](Emitter& e) {
            e.at.x = 30.0;
            e.placement.nearRange_m = 0.0;
            e.family = {"gone"};
        });
        QVERIFY(codes() == (std::multiset<std::string>{"family-unknown", "no-near-range"}));
        change("b", [](Emitter& e) {
            e.placement.nearRange_m = 1.0;
            e.family = {};
            Lane lane;
            lane.over = LaneInput::offFront;
            lane.shape = LaneShape::twoAngles;
            lane.angles.inner_deg = 360.0;
            e.lanes = {lane};
            Falloff own;
            own.lanes.front().shape = LaneShape::curve;
            own.lanes.front().curve = {{0, -20}, {10, 0}, {10, -12}, {30, -70}};
            e.falloff = own;
        });
        QVERIFY(codes() ==
                (std::multiset<std::string>{"facing-full-circle", "curve-jump", "falloff-rises", "falloff-inaudible"}));
    }

    void slipsOfSoundsAreFound()
    {
        const auto measured = [](float gain) {
            auto buffer = std::make_shared<SampleBuffer>(*fixture::toneBuffer(480.0, 1.0, gain));
            SoundMeasure measure(1, 48'000);
            measure.add(buffer->channels[0]);
            buffer->facts = measure.facts();
            return SharedBuffer(buffer);
        };
        const SharedBuffer tone = measured(0.5F);
        const auto codes = [](const Sound& sound, const std::vector<SharedBuffer>& files) {
            std::vector<Finding> found;
            findInSound(sound, files, found);
            std::set<std::string> all;
            for (const Finding& finding : found) {
                all.insert(finding.code);
            }
            return all;
        };
        using Codes = std::set<std::string>;
        Sound sound;
        sound.name = "Hum";
        sound.files = {{.file = "hum.wav"}};
        QVERIFY(codes(sound, {tone}).empty());
        sound.fadeIn_s = 0.7;
        sound.fadeOut_s = 0.7;
        QVERIFY(codes(sound, {tone}).empty()); // a loop does not fade out
        sound.loop = false;
        QCOMPARE(codes(sound, {tone}), Codes{"fade-too-long"});
        sound = {};
        sound.files = {{.file = "hum-binaural.wav", .loopFrom_s = 1.5}};
        QCOMPARE(codes(sound, {tone}), (Codes{"loop-beyond-end", "binaural-twice"}));
        sound.binaural = true;
        sound.files[0].loopFrom_s = 0.1;
        sound.files[0].loopTo_s = 0.7505; // a quarter of a wave late
        QCOMPARE(codes(sound, {tone}), Codes{"loop-clicks"});
        // A plain loop that clicks is offered what it can have: to be cross-faded with itself.
        auto cut = std::make_shared<SampleBuffer>(*tone);
        cut->channels[0].resize(cut->channels[0].size() - 25);
        SoundMeasure measure(1, 48'000);
        measure.add(cut->channels[0]);
        cut->facts = measure.facts();
        sound.files[0].loopFrom_s = sound.files[0].loopTo_s = 0.0;
        sound.id = {"hum"};
        std::vector<Finding> clicks;
        findInSound(sound, {cut}, clicks);
        QCOMPARE(clicks.size(), std::size_t{1});
        QCOMPARE(clicks[0].remedies.size(), std::size_t{1});
        Project mended;
        mended.sounds.put(sound);
        mended = clicks[0].remedies[0].apply(std::move(mended));
        QVERIFY(codes(*mended.sounds[0], {cut}).empty());
        QVERIFY(mended.sounds[0]->make == Make::run && mended.sounds[0]->sequence.crossFade_s == 0.25);
        // A level over time that is silent before the sound is.
        sound.loop = false;
        Lane lane;
        lane.over = LaneInput::time;
        lane.shape = LaneShape::curve;
        lane.curve = {{0.0, 0.0}, {0.5, -96.0}};
        sound.lanes = {lane};
        QCOMPARE(codes(sound, {tone}), Codes{"lane-cuts-tail"});
        sound.lanes[0].curve[1].x = 1.0;
        QVERIFY(codes(sound, {tone}).empty());
        sound = {};
        sound.files = {{.file = "a.wav"}, {.file = "b.wav"}};
        const std::vector<SharedBuffer> unlike{tone, measured(0.1F)};
        QCOMPARE(codes(sound, unlike), Codes{"variations-uneven"});
        const std::vector<double> matched = matchedLevels_db(sound, unlike);
        QVERIFY(std::abs(matched[1] - matched[0] - 13.98) < 0.15 && std::abs(matched[0] + matched[1]) < 0.15);
        sound.make = Make::layers; // those are mixed by ear
        QVERIFY(codes(sound, unlike).empty());
    }

    void slipsOfListeningAreFound()
    {
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 3, 0})});
        const auto codes = [&](const OutputInUse& output) {
            std::vector<Finding> found;
            findInOutput(project, output, found);
            std::multiset<std::string> all;
            for (const Finding& finding : found) {
                all.insert(finding.code);
            }
            return all;
        };
        using Codes = std::multiset<std::string>;
        QVERIFY(codes({Layout::surround714, 2, false}).empty() && codes({Layout::binaural, 2, false}).empty());
        QCOMPARE(codes({Layout::stereo, 2, false}), Codes{"output-front-back"});
        QCOMPARE(codes({Layout::mono, 2, false}), Codes{"output-flat"});
        QCOMPARE(codes({Layout::binaural, 8, false}), Codes{"binaural-on-loudspeakers"});
        QCOMPARE(codes({Layout::binaural, 2, true}), Codes{"disk-slow"});
        Sound sound = *project.sounds[0];
        sound.binaural = true;
        project.sounds.put(sound);
        QCOMPARE(codes({Layout::surround51, 6, false}), Codes{"binaural-recording-on-loudspeakers"});
        QVERIFY(codes({Layout::binaural, 2, false}).empty());
        // Thirty copies at one place are a crowd, thirty in a long row are not.
        for (const double apart : {0.5, 60.0}) {
            std::vector<Emitter> emitters;
            for (int i = 0; i < 30; ++i) {
                emitters.push_back(fixture::pointAt("e" + std::to_string(i), {apart * i, 0, 1}));
                emitters.back().startAfter_s = i;
            }
            const Project many = fixture::projectWith(emitters);
            std::vector<Finding> found;
            findInEmitters(many, *many.levels[0], 0.0, found);
            QCOMPARE(std::any_of(found.begin(), found.end(), [](const Finding& f) { return f.code == "crowd-of-copies"; }),
                     apart < 1.0);
        }
    }

    void loopsAreMeasuredAtTheirSeam()
    {
        const auto facts = [](double hz, double seconds, float dc = 0.0F, double silence_s = 0.0) {
            SharedBuffer tone = fixture::toneBuffer(hz, seconds);
            std::vector<float> x = tone->channels[0];
            for (float& sample : x) {
                sample += dc;
            }
            x.insert(x.end(), static_cast<std::size_t>(silence_s * 48'000), 0.0F);
            SoundMeasure measure(1, 48'000);
            measure.add(x);
            return measure.facts();
        };
        QVERIFY(facts(480.0, 1.0).seam.step_db < 3.0);
        QVERIFY(facts(480.0, 1.0006).seam.step_db > seamClicks_db); // cut in the middle of a wave
        QVERIFY(std::abs(facts(480.0, 1.0, 0.05F).dc - 0.05) < 1e-4);
        QVERIFY(std::abs(facts(480.0, 1.0, 0.0F, 0.3).tailSilence_s - 0.3) < 0.002);
        QVERIFY(std::abs(facts(1000.0, 3.0).integrated_lufs + 9.0) < 0.1); // a sine of 0.5: -9 LUFS at 1 kHz
        QCOMPARE(QString(seamVerdict(facts(480.0, 1.0).seam)), QString("nothing to be heard"));
    }
};

} // namespace tst_media

STONE_TEST(tst_media, TestMedia)
#include "tst_media.moc"
