// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/masking.h"
#include "dsp/octave_bands.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/taken.h"
#include "takes/masking_watch.h"
#include "takes/take_findings.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

namespace tst_masking
{

using namespace stone;
using namespace fixture;

namespace
{

Bands only(std::size_t band, double level_db)
{
    Bands levels;
    levels.fill(-200.0);
    levels[band] = level_db;
    return levels;
}

} // namespace

/// What masks what: levels by band of real sounds, the spread upwards, and who could not be made out along a take.
class TestMasking : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) { return folder_.filePath(name).toStdString(); }

private slots:
    /// A sine's level is its RMS in its own band at every rate; noise's bands sum to its energy.
    void bandsOfSounds()
    {
        for (const int rate : {44'100, 48'000, 96'000}) {
            for (const double hz : {125.0, 1'000.0, 4'000.0}) {
                auto buffer = std::make_shared<SampleBuffer>();
                buffer->rate = rate;
                buffer->channels.assign(1, std::vector<float>(static_cast<std::size_t>(rate)));
                for (std::size_t i = 0; i < buffer->channels[0].size(); ++i) {
                    buffer->channels[0][i] =
                        0.25F * static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / rate));
                }
                const SharedBuffer shared = buffer;
                const Bands levels = octaveLevels_db({&shared, 1});
                const auto band = static_cast<std::size_t>(std::lround(std::log2(hz / 62.5)));
                QVERIFY2(std::abs(levels[band] - (20.0 * std::log10(0.25) - 3.01)) < 0.1,
                         qPrintable(QString("%1 at %2: %3").arg(hz).arg(rate).arg(levels[band])));
                QVERIFY(levels[band > 3 ? 1 : 6] < levels[band] - 60.0);
            }
        }
        std::mt19937 random(7);
        std::normal_distribution<float> noise(0.0F, 0.1F);
        auto buffer = std::make_shared<SampleBuffer>();
        buffer->channels.assign(2, std::vector<float>(240'000));
        for (auto& channel : buffer->channels) {
            for (float& x : channel) {
                x = noise(random);
            }
        }
        const std::vector<SharedBuffer> files{buffer, nullptr};
        const Bands levels = octaveLevels_db(files);
        // White: from an octave to the next twice the energy, and of the whole 2 x 20 dB down that of each octave's share.
        QVERIFY(std::abs(levels[6] - levels[5] - 3.01) < 0.3);
        const double share = bandCentre_hz(5) * (std::numbers::sqrt2 - 1.0 / std::numbers::sqrt2) / 24'000.0;
        QVERIFY(std::abs(levels[5] - (-20.0 + 10.0 * std::log10(share))) < 0.3);
        QCOMPARE(octaveLevels_db({})[0], -200.0);
    }

    /// Low masks high, high does not mask low; the louder, the further up.
    void maskingReachesUpwards()
    {
        QVERIFY(masking_db(only(2, -20.0))[3] > masking_db(only(2, -20.0))[4]);
        QCOMPARE(masking_db(only(5, -20.0))[4], -200.0);
        const double soft = masking_db(only(3, -60.0))[4] + 60.0;
        const double loud = masking_db(only(3, -10.0))[4] + 10.0;
        QVERIFY2(loud > soft + 10.0, qPrintable(QString("%1 %2").arg(loud).arg(soft)));
        // In closed form: 1 kHz to 2 kHz are 4.66 Bark; at 80 dB the slope is 24 + 0.23 - 16 = 8.23 dB each.
        QVERIFY(std::abs(masking_db(only(4, -20.0))[5] - (-20.0 - 8.23 * 4.53)) < 1.5);
        QVERIFY(standsOut_db(only(4, -30.0), only(4, -20.0)) < -maskedBelow_db);
        QVERIFY(standsOut_db(only(1, -30.0), only(5, -10.0)) > 100.0);
        QVERIFY(standsOut_db(only(4, -55.0), only(3, -10.0)) < -maskedBelow_db);
        QVERIFY(std::isinf(standsOut_db(only(4, -62.0), only(4, -20.0)))); // hardly noticed alone
        BandEnergies both;
        both.add(only(4, -20.0));
        both.add(only(4, -30.0));
        QVERIFY(std::abs(both.without_db(only(4, -30.0))[4] + 20.0) < 1e-6);
        QCOMPARE(both.without_db(only(4, -19.586073))[4] < -60.0, true);
    }

    /// From when to when, by whom, and by how much.
    void whoIsMaskedAndForHowLong()
    {
        const std::vector<Bands> sounds{only(4, -20.0), only(4, -12.0), only(7, -3.0)};
        const auto levelsOf = [&](std::uint32_t copy) -> const Bands& { return sounds[copy]; };
        MaskingWatch watch;
        std::vector<TakenMasking> over;
        for (int i = 0; i < 40; ++i) {
            BandsHeard heard;
            heard.t_s = i * maskingEvery_s;
            heard.copies = {{0, true, Bands{}}, {2, false, Bands{}}};
            if (i >= 8 && i < 24) {
                heard.copies.push_back({1, false, Bands{}});
            }
            const auto some = watch.add(heard, levelsOf);
            over.insert(over.end(), some.begin(), some.end());
        }
        QCOMPARE(over.size(), std::size_t(1));
        QCOMPARE(over[0].copy, 0U);
        QCOMPARE(over[0].by, 1U);
        QVERIFY(std::abs(over[0].from_s - 2.0) < 1e-9 && std::abs(over[0].to_s - 5.75) < 1e-9);
        QVERIFY(std::abs(over[0].under_db - 8.0) < 0.01);
        QVERIFY(watch.finish(10.0).empty());
        // What does not matter may be masked.
        BandsHeard heard;
        heard.copies = {{0, false, Bands{}}, {1, false, Bands{}}};
        watch.add(heard, levelsOf);
        QVERIFY(watch.finish(1.0).empty());
    }

    /// In a real take: a vital tone beside a louder one of the same pitch is a finding with its moment; beside one of another
    /// band it is not, though that is as loud.
    void aTakeSaysSo()
    {
        for (const bool samePitch : {true, false}) {
            Emitter lamp = pointAt("lamp", {0, 4, 1.6});
            lamp.priority = Priority::vital;
            Emitter loud = pointAt("loud", {0, 2, 1.6});
            loud.sound = {"other"};
            loud.level_db = 20.0;
            Project project = projectWith({lamp, loud});
            Sound other = *project.sounds.find({"tone"});
            other.id = {"other"};
            other.name = "Other";
            project.sounds.put(other);
            Walk walk;
            walk.id = {"walk"};
            walk.points = {{0.0, {0, 0, 0}, {}, 0.0, {}}, {4.0, {0, 0.5, 0}, {}, 0.0, {}}};
            project = withLevel(std::move(project), {"level"}, [&](Level& level) { level.walks.put(walk); });
            OfflineJob job;
            const auto scene = sceneOf(project, toneBuffer(1'000.0, 1.0, 0.1F));
            const auto playable = *scene->model.world().playableOf(1);
            auto material = std::make_shared<SoundMaterial>(*scene->materials[playable]);
            material->files = {toneBuffer(samePitch ? 1'000.0 : 8'000.0, 1.0, 0.1F)};
            scene->materials[playable] = material;
            job.scene = scene;
            job.to_s = 4.0;
            followWalk(job, *job.scene->model.level().walks[0]);
            TakeRecorder recorder(file("masked.take"), infoOf(project), false, true);
            recorder.beginAt(0.0);
            job.listener = &recorder;
            rendered(job);
            recorder.finish();
            const Take take(file("masked.take"));
            const auto found = findInTake(take);
            const auto masked =
                std::count_if(found.begin(), found.end(), [](const TakeFinding& f) { return f.code == "masked"; });
            QCOMPARE(masked, samePitch ? 1 : 0);
            QCOMPARE(take.masked().size(), samePitch ? std::size_t(1) : std::size_t(0));
            if (samePitch) {
                const TakenMasking& one = take.masked()[0];
                QVERIFY(one.from_s < 0.3 && one.to_s > 3.7);
                QCOMPARE(take.emitters()[take.copies()[one.by].emitter].name, std::string("loud"));
                // 20 dB, and nearer: twice as near at first.
                QVERIFY2(one.under_db > 25.0 && one.under_db < 28.5, qPrintable(QString::number(one.under_db)));
            }
        }
    }

    /// What comes round again is said where the take kept its sound.
    void repeatsAreFound()
    {
        TakeInfo info = infoOf(takenYard());
        info.channels = 1;
        for (const bool repeats : {true, false}) {
            std::mt19937 random(3);
            std::normal_distribution<float> noise(0.0F, 0.1F);
            std::vector<float> level(400);
            std::uniform_real_distribution<float> swing(0.05F, 1.0F);
            for (std::size_t i = 0; i < level.size(); ++i) {
                level[i] = repeats && i >= 50 ? level[i - 50] : swing(random); // a tenth of a second each: 5 s
            }
            std::vector<float> sound(static_cast<std::size_t>(40 * 48'000));
            for (std::size_t i = 0; i < sound.size(); ++i) {
                sound[i] = level[i / 4'800] * noise(random);
            }
            TakeRecorder recorder(file("repeats.take"), info, true, true);
            recorder.beginAt(0.0);
            recorder.sound(0.0, sound);
            recorder.finish();
            const auto found = findInTake(Take(file("repeats.take")));
            const auto said =
                std::find_if(found.begin(), found.end(), [](const TakeFinding& f) { return f.code == "repeats"; });
            QCOMPARE(said != found.end(), repeats);
            if (repeats) {
                QVERIFY2(said->what.find("5.0 s") != std::string::npos, said->what.c_str());
            }
        }
    }
};

} // namespace tst_masking

STONE_TEST(tst_masking, TestMasking)
#include "tst_masking.moc"
