// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/fold.h"
#include "media/sound_bank.h"
#include "media/sound_writer.h"
#include "project/file_error.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/world.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>

namespace tst_starts
{

using namespace stone;

namespace
{

constexpr double step_s = 256.0 / 48'000.0;

std::shared_ptr<const World> worldOf(const Project& project)
{
    return std::make_shared<const World>(std::make_shared<const Project>(project), project.levels[0]->id, nullptr,
                                         [](auto&&...) { return 1'000.0; });
}

/// Somebody walks along x at 2 m/s from -20 m on, for so long.
void walk(const World& world, WorldState& state, double to_s, std::vector<Happening> first = {})
{
    auto step = static_cast<std::uint64_t>(std::llround(std::max(state.time_s, 0.0) / step_s));
    for (; static_cast<double>(step + 1) * step_s <= to_s; ++step) {
        const double now_s = static_cast<double>(step + 1) * step_s;
        world.advance(state, {.to_s = now_s, .feet = Pose{{-20.0 + 2.0 * now_s, 0, 0}, 90, 0, 0}, .happenings = first});
        first.clear();
    }
}

std::size_t sounding(const WorldState& state)
{
    return static_cast<std::size_t>(std::count_if(state.starts.begin(), state.starts.end(), [&](const Start& start) {
        return start.stopped_s > state.time_s && !start.over(state.time_s);
    }));
}

} // namespace

/// What starts and stops without a zone or a signal: coming near, and hands.
class TestStarts : public QObject
{
    Q_OBJECT

    static Emitter waiting(const char* id, const Vec3& at)
    {
        Emitter emitter = fixture::pointAt(id, at);
        Trigger near;
        near.cause = Cause::near;
        near.within_m = 5.0;
        Trigger far = near;
        far.cause = Cause::far;
        emitter.starting.starts = {near};
        emitter.starting.stops = {far};
        emitter.starting.fadeOut_s = 0.0;
        return emitter;
    }

private slots:
    /// Heard between 5 m before it and 5.25 m behind, in the plan; not by who passes on another storey.
    void comingNearStartsAndGoingAwayStops()
    {
        const auto world = worldOf(fixture::projectWith({waiting("here", {0, 0, 1}), waiting("upstairs", {0, 0, 8})}));
        WorldState state;
        double began_s = 0.0;
        double ended_s = 0.0;
        for (double t = 0.5; t < 20.0; t += 0.01) {
            walk(*world, state, t);
            const std::size_t now = sounding(state);
            QVERIFY(now <= 1);
            began_s = now == 1 && began_s == 0.0 ? t : began_s;
            ended_s = now == 0 && began_s > 0.0 && ended_s == 0.0 ? t : ended_s;
        }
        QVERIFY2(std::abs(began_s - 7.5) < 0.03, qPrintable(QString::number(began_s)));
        QVERIFY2(std::abs(ended_s - 12.625) < 0.03, qPrintable(QString::number(ended_s)));
    }

    /// Who begins there has come near; an edit in between does not start it again.
    void whoBeginsThereHasComeNear()
    {
        const Project project = fixture::projectWith({waiting("here", {-20, 3, 1})});
        const auto world = worldOf(project);
        WorldState state;
        walk(*world, state, 0.1);
        QCOMPARE(sounding(state), std::size_t{1});
        Project edited = project;
        edited = withLevel(std::move(edited), {"level"}, [](Level& level) {
            Emitter other = fixture::pointAt("other", {50, 0, 0});
            level.emitters.put(other);
        });
        const auto next = worldOf(edited);
        WorldState carried = next->carriedOver(*world, state);
        const std::uint64_t count = carried.ruled.begin()->second.count;
        walk(*next, carried, 0.5);
        QCOMPARE(carried.ruled.begin()->second.count, count);
        QCOMPARE(sounding(carried), std::size_t{1});
    }

    /// It starts with the moving thing that it rides on.
    void whatMovesIsMeasuredWhereItIs()
    {
        Emitter rider = waiting("rider", {3, 0, 0}); // always three metres ahead
        rider.riding.on = Riding::On::character;
        const auto world = worldOf(fixture::projectWith({rider}));
        WorldState state;
        walk(*world, state, 8.0);
        QCOMPARE(sounding(state), std::size_t{1});
    }

    /// Whatever its rules and conditions say, and at once; what simply starts with the level is left to itself.
    void handsStartAndStopWhateverTheRulesSay()
    {
        Emitter bell = fixture::pointAt("bell", {0, 0, 0});
        bell.startAfter_s = 30.0;
        bell.starting.starts = {};
        bell.starting.conditions = {{{"value"}, Comparison::atLeast, 0.5}};
        bell.starting.holdOff_s = 100.0;
        bell.starting.once = true;
        Emitter simple = fixture::pointAt("simple", {0, 0, 0});
        Project project = fixture::projectWith({bell, simple});
        GameValue value;
        value.id = {"value"};
        project.gameValues.put(value);
        const auto world = worldOf(project);
        WorldState state;
        walk(*world, state, 1.0);
        QVERIFY(state.starts.empty());
        const auto hand = [](const char* id, bool starts) {
            Happening happening;
            happening.hand = Happening::Hand{{id}, starts};
            return happening;
        };
        walk(*world, state, 2.0, {hand("bell", true), hand("simple", false), hand("nobody", true)});
        QCOMPARE(sounding(state), std::size_t{1});
        QVERIFY(std::abs(state.starts[0].began_s - 1.0) < 2 * step_s);
        walk(*world, state, 3.0, {hand("bell", true)}); // from its beginning, one of it
        QCOMPARE(sounding(state), std::size_t{1});
        QVERIFY(std::abs(state.starts.back().began_s - 2.0) < 2 * step_s);
        walk(*world, state, 4.0, {hand("bell", false)});
        QCOMPARE(sounding(state), std::size_t{0});
    }

    /// A leg of its own time, between legs at the Roamer's pace.
    void aStopCanBeReachedInATimeOfItsOwn()
    {
        Emitter cat = fixture::pointAt("cat", {0, 0, 0});
        cat.kind = EmitterKind::roamer;
        cat.roaming.stops = {{.at = {0, 0, 0}, .wait_s = {}, .leg_s = {}, .extras = {}},
                             {.at = {10, 0, 0}, .wait_s = 0.0, .leg_s = 4.0, .extras = {}},
                             {.at = {20, 0, 0}, .wait_s = 0.0, .leg_s = {}, .extras = {}}};
        cat.roaming.speed_m_s = 1.0;
        cat.roaming.ease = 0.0;
        cat.roaming.wait_s = 0.0;
        cat.roaming.roundEnd = Roaming::RoundEnd::startsOver;
        const auto world = worldOf(fixture::projectWith({cat}));
        QVERIFY2(std::abs(world->routeOf(0).round_s() - 14.0) < 1e-9, qPrintable(QString::number(world->routeOf(0).round_s())));
    }

    /// The mean of the channels: what is alike keeps its level, opposites vanish, at the file's own rate.
    void aFileIsFoldedToItsMean()
    {
        QTemporaryDir folder;
        const auto path = [&](const char* name) { return std::filesystem::path(folder.filePath(name).toStdString()); };
        std::vector<float> frames;
        for (int i = 0; i < 40'000; ++i) {
            const auto a = static_cast<float>(0.5 * std::sin(0.05 * i));
            const auto b = static_cast<float>(0.25 * std::sin(0.31 * i));
            frames.insert(frames.end(), {a + b, a - b});
        }
        SoundWriter writer(path("two.wav"), 2, 44'100);
        writer.write(frames);
        writer.finish();
        foldToMono(path("two.wav"), path("one.wav"));
        const SharedBuffer folded = readSoundFile(path("one.wav").string(), 44'100, false);
        QCOMPARE(folded->channelCount(), std::size_t{1});
        QCOMPARE(folded->channels[0].size(), std::size_t{40'000});
        QVERIFY(std::abs(claimedSeconds(path("one.wav")) - 40'000.0 / 44'100.0) < 1e-9);
        for (std::size_t i = 0; i < 40'000; i += 97) {
            QVERIFY(std::abs(folded->channels[0][i] - 0.5 * std::sin(0.05 * static_cast<double>(i))) < 1e-6);
        }
        QCOMPARE(claimedSeconds(path("none.wav")), 0.0);
        QVERIFY_EXCEPTION_THROWN(foldToMono(path("none.wav"), path("x.wav")), FileError);
        QVERIFY(!std::filesystem::exists(path("x.wav")));
    }
};

} // namespace tst_starts

STONE_TEST(tst_starts, TestStarts)
#include "tst_starts.moc"
