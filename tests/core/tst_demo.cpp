// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/findings.h"
#include "engine/offline.h"
#include "media/sound_file.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/replay.h"
#include "world/walk_pose.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace tst_demo
{

using namespace stone;

/// Vellmoor Halt as it is delivered: what its sounds hold, and that its walk passes everything.
class TestDemo : public QObject
{
    Q_OBJECT

    Project project_;
    std::map<std::string, SharedBuffer> sounds_;

    const Level& level() const { return *project_.levels[0]; }
    std::shared_ptr<const Ground> ground() const { return readGeometry(project_, DEMO)[0].ground; }

    /// Share of the energy above a corner of one pole: tells dull from bright without a transform.
    static double brightness(const std::vector<float>& x)
    {
        double state = 0.0;
        double low = 0.0;
        double all = 0.0;
        for (const float sample : x) {
            state += 0.12 * (sample - state); // about 1 kHz
            low += state * state;
            all += static_cast<double>(sample) * sample;
        }
        return 1.0 - low / all;
    }

    /// Levels of stretches of 100 ms, sorted.
    static std::vector<double> envelope_db(const std::vector<float>& x)
    {
        std::vector<double> levels;
        for (std::size_t at = 0; at + 4'800 <= x.size(); at += 4'800) {
            double sum = 1e-12;
            for (std::size_t i = at; i < at + 4'800; ++i) {
                sum += static_cast<double>(x[i]) * x[i];
            }
            levels.push_back(10.0 * std::log10(sum / 4'800));
        }
        std::sort(levels.begin(), levels.end());
        return levels;
    }

private slots:
    void initTestCase()
    {
        project_ = readProjectFile(DEMO).project;
        for (const auto& sound : project_.sounds) {
            for (const SoundFile& file : sound->files) {
                sounds_[sound->id.text] = readSoundFile(resolveInside(DEMO, file.file), 48'000, isLooped(*sound, file));
            }
        }
    }

    void thereIsEnoughAndItIsSmall()
    {
        QVERIFY(project_.sounds.size() >= 16);
        std::uintmax_t bytes = 0;
        for (const auto& entry : std::filesystem::recursive_directory_iterator(DEMO)) {
            bytes += entry.is_regular_file() ? entry.file_size() : 0;
        }
        QVERIFY(bytes < 8U << 20U);
    }

    void soundsAreOfTheRightShape()
    {
        for (const auto& emitter : level().emitters) {
            const SampleBuffer& sound = *sounds_.at(emitter->sound.text);
            const bool wide = emitter->kind == EmitterKind::bed || emitter->id.text == "rain";
            QVERIFY2(sound.channels.size() == (wide ? 2U : 1U), emitter->name.c_str());
            QVERIFY2(sound.facts.peak > 0.1F && sound.facts.peak < 0.95F, emitter->name.c_str());
        }
    }

    void loopsHaveNoSeam()
    {
        for (const auto& sound : project_.sounds) {
            if (!sound->loop) {
                continue;
            }
            for (const auto& x : sounds_.at(sound->id.text)->channels) {
                std::vector<double> steps;
                for (std::size_t i = 1; i < x.size(); ++i) {
                    steps.push_back(std::abs(x[i] - x[i - 1]));
                }
                const double seam = std::abs(x.front() - x.back());
                // No larger than what the sound itself does twice in a hundred samples, or than anybody hears.
                std::nth_element(steps.begin(), steps.begin() + static_cast<std::ptrdiff_t>(steps.size() * 98 / 100),
                                 steps.end());
                QVERIFY2(seam <= std::max(steps[steps.size() * 98 / 100], 2e-3), sound->name.c_str());
            }
        }
    }

    void soundsAreLikeWhatTheyStandFor()
    {
        const auto bright = [&](const char* id) { return brightness(sounds_.at(id)->mono()); };
        QVERIFY(bright("rain-on-roof") > 0.6); // drops ring
        QVERIFY(bright("night-air") < 0.35);   // the far town rumbles
        QVERIFY(bright("cups") > bright("tea-urn"));
        QVERIFY(bright("ventilators") < bright("moths"));
        // What comes and goes does, what goes on does.
        const auto range = [&](const char* id) {
            const auto levels = envelope_db(sounds_.at(id)->mono());
            return levels[levels.size() * 9 / 10] - levels[levels.size() / 10];
        };
        for (const char* steady : {"rain-on-roof", "ventilators", "lamp-hum", "night-air"}) {
            QVERIFY2(range(steady) < 8.0, steady);
        }
        for (const char* lively : {"flap-clatter", "cups", "station-clock", "sign-clap"}) {
            QVERIFY2(range(lively) > 15.0, lively);
        }
    }

    void theWalkPassesEverything()
    {
        const auto document = std::make_shared<const Project>(project_);
        SoundBank bank(48'000);
        const HearingModel model = makeScene(document, level().id, bank, filesInside(DEMO), Loading::now, ground())->model;
        const double seconds = level().walks[0]->seconds();
        QVERIFY(seconds >= 60.0 && seconds <= 120.0);
        // The first passes all that belongs to the halt; what is for those who do not see has a walk of its own.
        const auto loudestAlong = [&](const Walk& walk) {
            std::vector<double> loudest(model.level().emitters.size(), -300.0);
            Replay replay(model.sharedWorld(), walk, 256.0 / 48'000.0);
            for (double t = 0.0; t < walk.seconds(); t += 0.25) {
                const WorldState state = replay.at(t);
                const Ears ears = headOf(level().character, walkPose(walk, t));
                for (const Heard& heard : model.hearAll(model.world().momentOf(state, ears, TimeSpan::at(t)))) {
                    loudest[heard.index] = std::max(loudest[heard.index], heard.level_db);
                }
            }
            return loudest;
        };
        const auto round = loudestAlong(*level().walks[0]);
        const auto byEar = loudestAlong(*level().walks.find({"edge-by-ear"}));
        for (std::size_t i = 0; i < round.size(); ++i) {
            const Emitter& emitter = *model.level().emitters[i];
            // Nobody falls on a walk.
            const auto& starts = emitter.starting.starts;
            const SignalId& fallen = level().walks.find({"footbridge-run"})->run.onFall;
            if (starts.size() == 1 && starts.front().signal == fallen) {
                continue;
            }
            QVERIFY2((emitter.kind == EmitterKind::pulse ? byEar : round)[i] > -45.0, emitter.name.c_str());
        }
    }

    void theWalkChangesAsOneGoes()
    {
        SoundBank bank(48'000);
        OfflineJob job;
        job.scene =
            makeScene(std::make_shared<const Project>(project_), level().id, bank, filesInside(DEMO), Loading::now, ground());
        const Walk& walk = *level().walks[0];
        job.to_s = walk.seconds();
        followWalk(job, walk);
        const auto out = fixture::rendered(job);
        std::set<int> levels;
        for (double t = 0.0; t + 5.0 < walk.seconds(); t += 5.0) {
            const double level_db = fixture::energy_db(out, t, t + 5.0);
            QVERIFY2(level_db > -60.0 && level_db < -8.0, qPrintable(QString("%1 s: %2 dB").arg(t).arg(level_db)));
            levels.insert(static_cast<int>(level_db));
        }
        QVERIFY(levels.size() >= 6);
    }

    void nothingNeedsALook()
    {
        SoundBank bank(48'000);
        const auto geometry = readGeometry(project_, DEMO);
        QVERIFY(findAll({project_, {}, geometry, bank, filesInside(DEMO), Loading::now}).empty());
    }
};

} // namespace tst_demo

STONE_TEST(tst_demo, TestDemo)
#include "tst_demo.moc"
