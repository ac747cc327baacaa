// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/document_json.h"
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tst_bursts
{

using namespace stone;

namespace
{

constexpr double rate = 48'000.0;
constexpr double step_s = 256.0 / rate;

/// One sample of full scale, and silence.
SharedBuffer click()
{
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = 48'000;
    buffer->channels.assign(1, std::vector<float>(480, 0.0F));
    buffer->channels[0][0] = 1.0F;
    return buffer;
}

Project twoClickers(bool loop = false)
{
    Emitter left = fixture::pointAt("left", {-1, 0, 1.6});
    Emitter right = fixture::pointAt("right", {1, 0, 1.6});
    left.starting.starts = right.starting.starts = {};
    Project project = fixture::projectWith({left, right}, loop);
    project.seed = 7;
    return project;
}

/// The frames at which a channel has a click.
std::vector<double> clicksIn(const std::vector<float>& out, std::size_t channel)
{
    std::vector<double> found;
    for (std::size_t i = 0; 2 * i + channel < out.size(); ++i) {
        if (std::abs(out[2 * i + channel]) > 0.05F && (found.empty() || static_cast<double>(i) > found.back() + 8.0)) {
            found.push_back(static_cast<double>(i));
        }
    }
    return found;
}

std::vector<float> fired(const Project& project, const Burst& burst, double seconds)
{
    OfflineJob job;
    job.scene = fixture::sceneOf(project, click());
    job.to_s = seconds;
    job.ears = [](double) { return Pose{{0, 0, 1.6}, 0, 0, 0}; };
    job.happenings = [&](double from_s, double to_s) {
        return from_s <= 0.1 && to_s > 0.1 ? std::vector<Happening>{{.burst = burst}} : std::vector<Happening>{};
    };
    return fixture::rendered(job);
}

} // namespace

/// What is set off again and again: when, how often, where.
class TestBursts : public QObject
{
    Q_OBJECT

private slots:
    /// To the frame, and in turn where all emitters of the sound are meant.
    void aSteadyBurstIsSteadyInWhatComesOut()
    {
        Burst burst;
        burst.emitter = {"left"};
        burst.count = 25;
        burst.every_s = 0.04;
        const auto out = fired(twoClickers(), burst, 2.0);
        const auto left = clicksIn(out, 0);
        QCOMPARE(left.size(), std::size_t(25));
        QVERIFY(clicksIn(out, 1).empty());
        for (std::size_t i = 1; i < left.size(); ++i) {
            QVERIFY2(std::abs(left[i] - left[i - 1] - 0.04 * rate) <= 1.0, qPrintable(QString::number(left[i] - left[i - 1])));
        }
        burst.allOfItsSound = true;
        const auto both = fired(twoClickers(), burst, 2.0);
        QCOMPARE(clicksIn(both, 0).size(), std::size_t(13));
        QCOMPARE(clicksIn(both, 1).size(), std::size_t(12));
    }

    /// Irregular ones come at the same mean rate, spread as what comes on its own; the same each time.
    void anIrregularBurstKeepsItsMean()
    {
        Burst burst;
        burst.emitter = {"left"};
        burst.count = 1'000;
        burst.every_s = 0.05;
        burst.irregular = true;
        const auto world = std::make_shared<const World>(std::make_shared<const Project>(twoClickers()), LevelId{"level"},
                                                         nullptr, [](auto&&...) { return 0.01; });
        const auto times = [&] {
            WorldState state;
            std::vector<double> began;
            Happening first;
            first.burst = burst;
            for (std::uint64_t step = 0; began.size() < 1'000 && step < 40'000; ++step) {
                const std::span<const Happening> happenings =
                    step == 0 ? std::span<const Happening>(&first, 1) : std::span<const Happening>();
                world->advance(state, {.to_s = static_cast<double>(step + 1) * step_s, .feet = {}, .happenings = happenings});
                for (const Start& start : state.starts) {
                    if (std::find(began.begin(), began.end(), start.began_s) == began.end()) {
                        began.push_back(start.began_s);
                    }
                }
            }
            return began;
        };
        const auto began = times();
        QCOMPARE(began.size(), std::size_t(1'000));
        QVERIFY(began == times());
        double mean = 0.0;
        double square = 0.0;
        for (std::size_t i = 1; i < began.size(); ++i) {
            const double gap = began[i] - began[i - 1];
            mean += gap / 999.0;
            square += gap * gap / 999.0;
        }
        QVERIFY2(std::abs(mean - 0.05) < 0.005, qPrintable(QString::number(mean)));
        // Exponential gaps spread as far as their mean.
        QVERIFY2(std::abs(std::sqrt(square - mean * mean) - mean) < 0.15 * mean, qPrintable(QString::number(square)));
    }

    /// All round: each on a ring of 2 to 8 m about where one stood, on every side.
    void allRoundIsAllRound()
    {
        Burst burst;
        burst.emitter = {"left"};
        burst.where = Burst::Where::around;
        burst.count = 400;
        burst.every_s = 0.01;
        const auto world = std::make_shared<const World>(std::make_shared<const Project>(twoClickers()), LevelId{"level"},
                                                         nullptr, [](auto&&...) { return 100.0; });
        WorldState state;
        Happening first;
        first.burst = burst;
        const Pose feet{{30, 40, 2}, 0, 0, 0};
        world->advance(state, {.to_s = 0.01, .feet = feet});
        world->advance(state, {.to_s = 5.0, .feet = feet, .happenings = std::span(&first, 1)});
        QCOMPARE(state.starts.size(), std::size_t(400));
        int quadrants[4] = {};
        for (const Start& start : state.starts) {
            const Vec3 away = *start.at - feet.at;
            const double flat = std::hypot(away.x, away.y);
            QVERIFY(flat >= 2.0 && flat <= 8.0 && std::abs(away.z - 1.0) < 1e-9);
            ++quadrants[(away.x > 0 ? 1 : 0) + (away.y > 0 ? 2 : 0)];
        }
        QVERIFY(std::all_of(std::begin(quadrants), std::end(quadrants), [](int n) { return n > 70 && n < 130; }));
        // Ended, it leaves what has begun alone.
        Happening none;
        none.burst = Burst{};
        none.burst->count = 0;
        world->advance(state, {.to_s = 5.1, .feet = feet, .happenings = std::span(&none, 1)});
        QVERIFY(state.bursts.empty() && state.starts.size() == 400);
    }

    /// What goes on for ever is stopped after a while; what starts with the level is left alone.
    void aBurstOfALoopIsOverSomeDay()
    {
        Project project = twoClickers(true);
        project = withEmitter(project, {"level"}, {"right"}, [](Emitter& e) { e.starting.starts = {Trigger{}}; });
        Burst burst;
        burst.emitter = {"right"};
        burst.count = 3;
        burst.every_s = 0.5;
        OfflineJob job;
        job.scene = fixture::sceneOf(project, fixture::toneBuffer());
        job.to_s = 8.0;
        job.ears = [](double) { return Pose{{0, 0, 1.6}, 0, 0, 0}; };
        job.happenings = [&](double from_s, double to_s) {
            return from_s <= 1.0 && to_s > 1.0 ? std::vector<Happening>{{.burst = burst}} : std::vector<Happening>{};
        };
        std::vector<std::size_t> sounding;
        job.heard = [&](std::uint64_t, std::span<const Heard> heard) {
            sounding.push_back(static_cast<std::size_t>(
                std::count_if(heard.begin(), heard.end(), [](const Heard& one) { return one.audible; })));
        };
        const auto out = fixture::rendered(job);
        const auto at = [&](double t) { return sounding[static_cast<std::size_t>(t / step_s)]; };
        QVERIFY(at(0.9) == 1 && at(1.2) == 2 && at(2.3) == 4 && at(7.9) == 1);
        QVERIFY(std::abs(fixture::energy_db(out, 0.2, 0.9) - fixture::energy_db(out, 7.2, 7.9)) < 0.01);
    }

    /// Signals and uses set off whoever waits for them.
    void signalsAndUsesCanBeSetOffToo()
    {
        Project project = twoClickers();
        project.signalNames.put({{"gust"}, "Gust", {}});
        project = withEmitter(project, {"level"}, {"left"}, [](Emitter& e) {
            e.starting.starts = {{.cause = Cause::signal, .zone = {}, .signal = {"gust"}}};
            e.starting.second = SecondStart::another;
        });
        project = withEmitter(project, {"level"}, {"right"}, [](Emitter& e) {
            e.starting.starts = {{.cause = Cause::interact, .zone = {}, .signal = {}, .within_m = 5.0}};
            e.starting.second = SecondStart::another;
        });
        Burst burst;
        burst.of = Burst::Of::signal;
        burst.signal = {"gust"};
        burst.count = 7;
        const auto gusts = fired(project, burst, 1.5);
        QVERIFY(clicksIn(gusts, 0).size() == 7 && clicksIn(gusts, 1).empty());
        burst.of = Burst::Of::use;
        burst.count = 5;
        const auto uses = fired(project, burst, 1.5);
        QVERIFY(clicksIn(uses, 1).size() == 5 && clicksIn(uses, 0).empty());
    }

    /// On a walk it is part of the document, by name or id, and of what is rendered along it.
    void itIsWrittenOnAWalk()
    {
        const char* text = R"({"levels": [{"id": "l", "emitters": [{"id": "bell", "name": "Big bell", "sound": "a.wav"}],
            "walks": [{"id": "w", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 9, "at": [0, 9, 0]}],
                       "events": [{"t_s": 2, "is": "burst", "emitter": "Big bell", "where": "around", "count": 8,
                                   "every_s": 0.25, "irregular": true, "colour": "red"}]}]}]})";
        const Project project = readProjectText(text, "test").project;
        const WalkEvent& event = project.levels[0]->walks[0]->events[0];
        QVERIFY(event.kind == WalkEvent::Kind::burst && event.burst.emitter == EmitterId{"bell"} &&
                event.burst.where == Burst::Where::around && event.burst.count == 8 && event.burst.every_s == 0.25 &&
                event.burst.irregular && event.extras.size() == 1);
        QVERIFY(readProjectText(projectText(project), "again").project == project);
        const auto happened = happeningsOf(*project.levels[0]->walks[0], 1.9, 2.1);
        QVERIFY(happened.size() == 1 && happened[0].burst && *happened[0].burst == event.burst);
        const std::pair<const char*, const char*> wrong[] = {{R"("count": 8)", R"("count": 0)"},
                                                             {R"("count": 8)", R"("count": 1001)"},
                                                             {R"("every_s": 0.25)", R"("every_s": 0)"},
                                                             {R"("around")", R"("below")"}};
        for (const auto& [right, instead] : wrong) {
            const std::string bad = QString(text).replace(right, instead).toStdString();
            QVERIFY_EXCEPTION_THROWN(readProjectText(bad, "test"), std::exception);
        }
    }
};

} // namespace tst_bursts

STONE_TEST(tst_bursts, TestBursts)
#include "tst_bursts.moc"
