// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/loudness_meter.h"
#include "dsp/true_peak_meter.h"
#include "engine/scene.h"
#include "media/gathered_peaks.h"
#include "media/sound_bank.h"
#include "media/sound_writer.h"
#include "media/true_peak.h"
#include "project/edit.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fstream>
#include <numbers>
#include <random>
#include <semaphore>

namespace tst_measures
{

using namespace stone;
namespace fs = std::filesystem;

/// What was measured of sounds is kept by what is in them, and whatever happens to what is kept costs nothing but time.
class TestMeasures : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;

    fs::path path(const std::string& name) const { return fs::path(folder_.path().toStdString()) / name; }
    /// A store of its own for each test.
    std::shared_ptr<const MeasureStore> store(const std::string& name) const
    {
        return std::make_shared<const MeasureStore>(path(name));
    }

    /// Two channels of noise that swells, with silence at both ends.
    fs::path noise(const std::string& name, double seconds, unsigned seed = 5) const
    {
        std::mt19937 chance(seed);
        std::uniform_real_distribution<float> even(-0.3F, 0.3F);
        std::vector<float> frames(static_cast<std::size_t>(seconds * 48'000.0) * 2, 0.0F);
        for (std::size_t i = 20'000; i + 10'000 < frames.size(); ++i) {
            frames[i] = even(chance) * static_cast<float>(i) / static_cast<float>(frames.size());
        }
        SoundWriter writer(path(name), 2, 48'000);
        writer.write(frames);
        writer.finish();
        return path(name);
    }

    static std::vector<fs::path> filesIn(const MeasureStore& store)
    {
        std::vector<fs::path> files;
        for (const auto& entry : fs::recursive_directory_iterator(store.folder())) {
            if (entry.is_regular_file()) {
                files.push_back(entry.path());
            }
        }
        return files;
    }

private slots:
    void aFileIsNamedByWhatIsInIt()
    {
        const fs::path one = noise("one.wav", 1.0);
        fs::copy_file(one, path("copy.wav"));
        const std::string name = contentOf(one);
        QCOMPARE(name.size(), std::size_t{32});
        QVERIFY(contentOf(path("copy.wav")) == name);
        std::fstream changed(path("copy.wav"), std::ios::in | std::ios::out | std::ios::binary);
        changed.seekp(90'001);
        changed.put('\x55');
        changed.close();
        QVERIFY(contentOf(path("copy.wav")) != name);
        QVERIFY(contentOf(path("nowhere.wav")).empty());
        QVERIFY(contentOf(folder_.path().toStdString()).empty());
        QVERIFY(contentOf(one, [] { return true; }).empty());
    }

    /// Under another name, in another folder, decoded or in blocks: the facts are those of the first time, to the bit.
    void whatIsKeptIsWhatWasMeasured()
    {
        const auto kept = store("same");
        const auto loader = std::make_shared<BlockLoader>();
        for (const fs::path& file : {noise("a.wav", 2.0), fs::path(DEMO) / "sounds/trolley.flac"}) {
            const SoundFacts plain = readSoundFile(file, 44'100, true)->facts;
            QVERIFY(plain.peak > 0.1F && plain.swell_db > 1.0);
            QVERIFY(readSoundFile(file, 44'100, true, {}, {Measure::all, kept})->facts == plain);
            fs::create_directories(path("elsewhere"));
            const fs::path copy = path("elsewhere") / file.filename();
            fs::copy_file(file, copy);
            QVERIFY(readSoundFile(copy, 48'000, false, {}, {Measure::peak, kept})->facts == plain);
            const SharedBuffer blocks = openSoundFile(file, 44'100, true, Keeping::streamed, loader, {}, {Measure::all, kept});
            QVERIFY(blocks->facts == plain && blocks->cost() > 0.0);
            // The second time it is not read through, and sounds the same.
            const SharedBuffer again = openSoundFile(file, 44'100, true, Keeping::streamed, loader, {}, {Measure::peak, kept});
            QVERIFY(again->facts == plain && again->cost() == blocks->cost() && again->frames() == blocks->frames());
            std::vector<float> one(30'000);
            std::vector<float> other(one.size());
            blocks->read(0, 40'000, one);
            again->read(0, 40'000, other);
            QVERIFY(one == other);
        }
        // Silence has no loudness, and that is kept too.
        fixture::writeTone(path("silent.wav"), 500.0, 1.0, 48'000, 1, 0.0);
        for (int i = 0; i < 2; ++i) {
            const SoundFacts facts = readSoundFile(path("silent.wav"), 48'000, false, {}, {Measure::all, kept})->facts;
            QVERIFY(std::isinf(facts.integrated_lufs) && facts.integrated_lufs < 0.0);
        }
        QCOMPARE(kept->size().files, std::size_t{3});
    }

    /// Who only plays measures the peak, and leaves nothing behind that others would take for all.
    void whoOnlyPlaysMeasuresThePeak()
    {
        const auto kept = store("peak");
        const fs::path file = noise("peak.wav", 1.0);
        const SoundFacts all = readSoundFile(file, 48'000, false)->facts;
        for (const Keeping keeping : {Keeping::decoded, Keeping::streamed}) {
            const auto loader = std::make_shared<BlockLoader>();
            const SoundFacts facts = openSoundFile(file, 48'000, false, keeping, loader, {}, {Measure::peak, kept})->facts;
            QCOMPARE(facts.peak, all.peak);
            QCOMPARE(facts.swell_db, 0.0);
            QCOMPARE(kept->size().files, std::size_t{0});
        }
    }

    /// Cut off, turned over, of another version, or a number that is none: measured again, never believed.
    void whatIsDamagedIsMeasuredAgain()
    {
        const auto kept = store("damage");
        const fs::path file = noise("damage.wav", 1.0);
        const SoundFacts plain = readSoundFile(file, 48'000, false)->facts;
        readSoundFile(file, 48'000, false, {}, {Measure::all, kept});
        const fs::path record = filesIn(*kept).at(0);
        std::stringstream bytes;
        bytes << std::ifstream(record, std::ios::binary).rdbuf();
        const std::string good = bytes.str();
        QVERIFY(kept->find(contentOf(file)).has_value());
        const auto refused = [&](const std::string& text) {
            fixture::writeText(record, text);
            return !kept->find(contentOf(file)).has_value() &&
                   readSoundFile(file, 48'000, false, {}, {Measure::all, kept})->facts == plain;
        };
        for (std::size_t length = 0; length + 1 < good.size(); ++length) {
            fixture::writeText(record, good.substr(0, length));
            QVERIFY2(!kept->find(contentOf(file)).has_value(), qPrintable(QString::number(length)));
        }
        const auto with = [&](const std::string& key, const std::string& number) {
            const std::size_t at = good.find('\n' + key + ' ') + key.size() + 2;
            return good.substr(0, at) + number + good.substr(good.find('\n', at));
        };
        QVERIFY(refused(with("peak", "nan")));
        QVERIFY(refused(with("dc", "inf")));
        QVERIFY(refused(with("integrated_lufs", "inf")));
        QVERIFY(refused(with("frames", "0")));
        QVERIFY(refused(with("frames", "-4")));
        QVERIFY(refused(with("cost", "-1")));
        QVERIFY(refused(with("swell_db", "1,5")));
        QVERIFY(refused("stone-echo measures 2" + good.substr(good.find('\n'))));
        fixture::writeText(record, with("integrated_lufs", "-inf"));
        QVERIFY(kept->find(contentOf(file)).has_value());
        // No bytes at all may do harm.
        std::mt19937 chance(11);
        for (int i = 0; i < 3'000; ++i) {
            std::string bad = good;
            bad[chance() % bad.size()] = static_cast<char>(chance());
            fixture::writeText(record, bad);
            if (const auto found = kept->find(contentOf(file))) {
                QVERIFY(std::isfinite(found->facts.peak) && std::isfinite(found->facts.dc) && found->frames > 0);
            }
        }
    }

    /// Of what is not in memory; another rate, another loop or another length are other peaks.
    void peaksAreGatheredOnce()
    {
        const auto kept = store("peaks");
        const auto loader = std::make_shared<BlockLoader>();
        const fs::path file = noise("peaks.wav", 3.0);
        const auto open = [&](int rate, bool loop, Keeping keeping) {
            return openSoundFile(file, rate, loop, keeping, loader, {}, {Measure::all, kept});
        };
        gatherPeaks(open(48'000, true, Keeping::decoded), kept.get());
        const auto peaks = [&] {
            const auto files = filesIn(*kept);
            return std::count_if(files.begin(), files.end(), [](const fs::path& f) { return f.extension() == ".peaks"; });
        };
        QCOMPARE(peaks(), std::ptrdiff_t{0});
        const SharedBuffer buffer = open(44'100, true, Keeping::streamed);
        const GatheredPeaks first = gatherPeaks(buffer, kept.get());
        QCOMPARE(peaks(), std::ptrdiff_t{1});
        const SharedBuffer again = open(44'100, true, Keeping::streamed);
        const GatheredPeaks second = gatherPeaks(again, kept.get());
        QCOMPARE(second.truePeak, first.truePeak);
        QVERIFY(second.pyramid->finest() == first.pyramid->finest());
        for (const std::size_t length : {64UL, 1'000UL, 50'000UL}) {
            QVERIFY(second.pyramid->range(1, 30'000, 30'000 + length) == first.pyramid->range(1, 30'000, 30'000 + length));
        }
        gatherPeaks(open(48'000, true, Keeping::streamed), kept.get());
        gatherPeaks(open(48'000, false, Keeping::streamed), kept.get());
        QCOMPARE(peaks(), std::ptrdiff_t{3});
        // Cut off: gathered again.
        for (const fs::path& f : filesIn(*kept)) {
            if (f.extension() == ".peaks") {
                fs::resize_file(f, fs::file_size(f) - 1);
            }
        }
        const MeasureStore::PeaksKey key{buffer->content, 44'100, true, 2, PeakPyramid::stretchesOf(buffer->frames())};
        QVERIFY(!kept->findPeaks(key));
        QVERIFY(gatherPeaks(buffer, kept.get()).pyramid->finest() == first.pyramid->finest());
        QVERIFY(kept->findPeaks(key));
    }

    void whatIsNotUsedIsForgotten()
    {
        const auto kept = store("old");
        readSoundFile(noise("old.wav", 0.5, 1), 48'000, false, {}, {Measure::all, kept});
        readSoundFile(noise("used.wav", 0.5, 2), 48'000, false, {}, {Measure::all, kept});
        fixture::writeText(kept->folder() / "mine.txt", "not measured");
        const auto days = [](int n) { return fs::file_time_type::clock::now() - std::chrono::hours(24 * n); };
        for (const fs::path& file : filesIn(*kept)) {
            fs::last_write_time(file, days(MeasureStore::keptFor_days + 1));
        }
        // Used again: it stays.
        QVERIFY(kept->find(contentOf(path("used.wav"))));
        kept->clearUnused();
        QVERIFY(!kept->find(contentOf(path("old.wav"))) && kept->find(contentOf(path("used.wav"))));
        QCOMPARE(kept->size().files, std::size_t{1});
        QVERIFY(kept->size().bytes > 100);
        kept->clear();
        QCOMPARE(kept->size().files, std::size_t{0});
        QVERIFY(fs::exists(kept->folder() / "mine.txt"));
    }

    /// A folder that cannot be made, or none at all: everything works, nothing is kept.
    void withoutAPlaceNothingIsKept()
    {
        fixture::writeText(path("file"), "in the way");
        const fs::path file = noise("placeless.wav", 0.5);
        for (const fs::path& place : {fs::path(), path("file") / "below"}) {
            const auto kept = std::make_shared<const MeasureStore>(place);
            const SoundFacts facts = readSoundFile(file, 48'000, false, {}, {Measure::all, kept})->facts;
            QVERIFY(facts == readSoundFile(file, 48'000, false)->facts);
            QVERIFY(!kept->find(contentOf(file)));
            kept->clear();
            kept->clearUnused();
            QCOMPARE(kept->size().files, std::size_t{0});
        }
    }

    /// What waits is read in the order that is wished, whatever was asked for first.
    void whatIsWantedFirstIsReadFirst()
    {
        SoundBank bank(48'000);
        std::counting_semaphore<> go{0};
        std::mutex mutex;
        std::vector<SoundBank::Key> keys;
        for (const char* name : {"q0.wav", "q1.wav", "q2.wav", "q3.wav", "q4.wav"}) {
            fixture::writeTone(path(name), 500.0, 0.05);
            keys.push_back({path(name).string(), false, Keeping::decoded});
        }
        std::vector<std::size_t> order;
        bank.onLoaded([&] {
            for (std::size_t i = 0; i < keys.size(); ++i) {
                const bool known = std::find(order.begin(), order.end(), i) != order.end();
                if (!known && bank.get(keys[i].file, false, Keeping::decoded).state == SoundBank::State::ready) {
                    const std::lock_guard lock(mutex);
                    order.push_back(i);
                }
            }
            go.acquire();
        });
        bank.get(keys[0].file, false, Keeping::decoded);
        QTRY_VERIFY(([&] {
            const std::lock_guard lock(mutex);
            return order.size() == 1;
        }()));
        // The worker waits until all the others are asked for.
        for (const std::size_t i : {1UL, 2UL, 3UL, 4UL}) {
            bank.get(keys[i].file, false, Keeping::decoded);
        }
        bank.loadFirst({{"nowhere.wav", false, Keeping::decoded}, keys[3], keys[0], keys[2], keys[3]});
        go.release(5);
        QTRY_COMPARE(bank.pending(), std::size_t{0});
        QTRY_VERIFY(([&] {
            const std::lock_guard lock(mutex);
            return order.size() == 5;
        }()));
        bank.onLoaded({});
        QCOMPARE(order, (std::vector<std::size_t>{0, 3, 2, 1, 4}));
    }

    /// A sound that no emitter of the level plays is not read for it.
    void whatNobodyPlaysIsNotRead()
    {
        fixture::writeTone(path("played.wav"), 500.0, 0.1);
        fixture::writeTone(path("spare.wav"), 500.0, 0.1);
        Project project = fixture::projectWith({fixture::pointAt("a", {0, 1, 0})});
        Sound played = *project.sounds[0];
        played.files = {{.file = "played.wav"}};
        project.sounds.put(played);
        Sound spare = played;
        spare.id = {"spare"};
        spare.files = {{.file = "spare.wav"}};
        project.sounds.append(spare);
        SoundBank bank(48'000);
        const auto scene = makeScene(std::make_shared<const Project>(project), project.levels[0]->id, bank,
                                     filesInside(folder_.path().toStdString()), Loading::now);
        QVERIFY(scene->materials.at(0) && !scene->materials.at(1));
        QCOMPARE(bank.cost().bytes, std::size_t{4'800 * sizeof(float)});
    }

    /// Between the samples: a sine caught where it is lowest; noise as the library has it; in whatever pieces it comes.
    void truePeaks()
    {
        std::vector<float> sine(4'800);
        for (std::size_t i = 0; i < sine.size(); ++i) {
            sine[i] =
                static_cast<float>(0.5 * std::sin(std::numbers::pi / 2.0 * static_cast<double>(i) + std::numbers::pi / 4.0));
        }
        TruePeakMeter one(1);
        one.add(std::span(sine).subspan(0, 4'000));
        QVERIFY2(std::abs(20.0 * std::log10(one.peak() / 0.5)) < 0.35, qPrintable(QString::number(one.peak())));
        QVERIFY(*std::max_element(sine.begin(), sine.end()) < 0.36F);

        std::mt19937 random(11);
        std::normal_distribution<float> loud(0.0F, 0.2F);
        SampleBuffer buffer;
        buffer.channels.assign(2, std::vector<float>(96'000));
        std::vector<float> interleaved(2 * 96'000);
        for (std::size_t i = 0; i < 96'000; ++i) {
            for (std::size_t channel = 0; channel < 2; ++channel) {
                buffer.channels[channel][i] = interleaved[2 * i + channel] = loud(random);
            }
        }
        TruePeakMeter whole(2);
        whole.add(interleaved);
        QVERIFY2(std::abs(20.0 * std::log10(whole.peak() / truePeak(buffer))) < 0.3,
                 qPrintable(QString("%1 %2").arg(whole.peak()).arg(truePeak(buffer))));
        TruePeakMeter pieces(2);
        for (std::size_t from = 0; from < 96'000;) {
            const std::size_t n = std::min<std::size_t>(random() % 700 + 1, 96'000 - from);
            pieces.add(std::span(interleaved).subspan(2 * from, 2 * n));
            from += n;
        }
        QVERIFY(std::abs(pieces.peak() - whole.peak()) < 1e-6);
        TruePeakMeter silent(2);
        silent.add(std::vector<float>(200, 0.0F));
        QCOMPARE(silent.peak(), 0.0);
        LoudnessMeter meter(2, 48'000, true);
        meter.add(interleaved);
        QVERIFY(std::abs(meter.truePeak_db() - 20.0 * std::log10(whole.peak())) < 1e-9);
    }
};

} // namespace tst_measures

STONE_TEST(tst_measures, TestMeasures)
#include "tst_measures.moc"
