// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/lane.h"
#include "hearing/reasons.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>

namespace tst_pulse
{

using namespace stone;
using fixture::addBox;

namespace
{

constexpr double step_s = 256.0 / 48'000.0;

/// A platform that ends at x = 0 with a drop, and to the north, at y = 4, at a wall.
std::shared_ptr<const Ground> platform()
{
    Mesh mesh;
    mesh.materials = {"stone"};
    addBox(mesh, {-40, -40, -1.2}, {0, 4, 0});
    addBox(mesh, {-40, 4, -1.2}, {40, 5, 3});
    addBox(mesh, {0, -40, -1.4}, {40, 4, -1.2});
    return fixture::groundOf(std::move(mesh));
}

/// Ten milliseconds of a tone, then nothing: its beginning can be found to a sample or two.
SharedBuffer tick()
{
    auto buffer = std::make_shared<SampleBuffer>();
    constexpr std::size_t frames = 480;
    buffer->rate = 48'000;
    buffer->channels.assign(1, std::vector<float>(frames));
    for (std::size_t i = 0; i < frames; ++i) {
        buffer->channels[0][i] =
            static_cast<float>(0.5 * std::cos(2.0 * 3.14159265 * 2000.0 * static_cast<double>(i) / 48'000.0));
    }
    return buffer;
}

Project withPulse(const Pulsing& pulsing, std::vector<Lane> lanes = {})
{
    Emitter pulse = fixture::pointAt("pulse", {0, 0, 0});
    pulse.kind = EmitterKind::pulse;
    pulse.pulsing = pulsing;
    Falloff falloff;
    falloff.lanes = {Lane{}};
    falloff.lanes.insert(falloff.lanes.end(), lanes.begin(), lanes.end());
    pulse.falloff = falloff;
    Project project = fixture::projectWith({pulse}, false);
    return withLevel(std::move(project), project.levels[0]->id, [](Level& level) { level.character.start = {-20, 0, 0}; });
}

Lane laneOf(LaneProperty property, Curve curve)
{
    Lane lane;
    lane.property = property;
    lane.shape = LaneShape::curve;
    lane.curve = std::move(curve);
    return lane;
}

/// All beats of somebody who goes so.
std::vector<Start> beatsOf(const Project& project, double to_s, const std::function<Pose(double)>& feet,
                           const std::function<void(const WorldState&)>& look = {})
{
    const auto scene = fixture::sceneOf(project, {tick()}, platform());
    const World& world = scene->model.world();
    std::map<std::uint64_t, Start> beats;
    WorldState state;
    for (int step = 1; step * step_s <= to_s; ++step) {
        world.advance(state, {.to_s = step * step_s, .feet = feet(step * step_s)});
        for (const Start& start : state.starts) {
            beats.emplace(start.number, start);
        }
        if (look) {
            look(state);
        }
    }
    std::vector<Start> all;
    for (const auto& [number, start] : beats) {
        all.push_back(start);
    }
    return all;
}

/// Where a tick begins in a channel of interleaved stereo, seconds.
std::vector<double> onsets(const std::vector<float>& sound, std::size_t channel)
{
    std::vector<double> found;
    constexpr double quiet_s = 0.03;
    for (std::size_t i = 0; 2 * i + channel < sound.size(); ++i) {
        const double t = static_cast<double>(i) / 48'000.0;
        if (std::abs(sound[2 * i + channel]) > 0.004 && (found.empty() || t - found.back() > quiet_s)) {
            found.push_back(t);
        }
    }
    return found;
}

#define NEAR(value, wanted, within)                                                                                            \
    QVERIFY2(std::abs((value) - (wanted)) <= (within), qPrintable(QString("%1, not %2").arg(value).arg(wanted)))

} // namespace

/// Pulses: beats that tell how near an edge is.
class TestPulse : public QObject
{
    Q_OBJECT

private slots:
    void standingStillItBeatsAsTheLaneSays()
    {
        const Lane lane = laneOf(LaneProperty::interval, {{0, 0.1}, {2, 0.3}, {6, 0.9}});
        const Project project = withPulse({}, {lane});
        // Facing the drop, 1, 2.5 and 5 m from it.
        for (const double away_m : {1.0, 2.5, 5.0}) {
            const auto beats = beatsOf(project, 5.0, [&](double) { return Pose{{-away_m, -10, 0}, 90, 0, 0}; });
            QVERIFY(beats.size() > 4);
            NEAR(beats.front().began_s, 0.0, step_s);
            for (std::size_t i = 1; i < beats.size(); ++i) {
                NEAR(beats[i].began_s - beats[i - 1].began_s, laneAt(lane, away_m), 1e-6);
                NEAR(beats[i].at->x, 0.0, 0.01);
                NEAR(beats[i].at->y, -10.0, 0.01);
                NEAR(beats[i].at->z, 1.6, 0.01);
            }
        }
        // Without a lane: straight between what is said of an edge and of the end of its reach.
        Pulsing plain;
        plain.within_m = 8.0;
        const auto beats = beatsOf(withPulse(plain), 5.0, [](double) { return Pose{{-2, -10, 0}, 90, 0, 0}; });
        NEAR(beats[2].began_s - beats[1].began_s, 0.12 + (1.0 - 0.12) * 0.25, 1e-6);
        // A lane that is switched off says nothing.
        Lane off = lane;
        off.on = false;
        NEAR(beatInterval_s(withPulse({}, {off}), *withPulse({}, {off}).levels[0]->emitters[0], 6.0), 1.0, 1e-9);
    }

    void theRenderedBeatsAreThoseOfTheLane()
    {
        const Lane lane = laneOf(LaneProperty::interval, {{0, 0.1}, {2, 0.3}, {6, 0.9}});
        OfflineJob job;
        job.scene = fixture::sceneOf(withPulse({}, {lane}), {tick()}, platform());
        job.to_s = 4.0;
        job.ears = [](double) { return Pose{{-2.5, -10, 1.6}, 90, 0, 0}; };
        const auto found = onsets(fixture::rendered(job), 0);
        QVERIFY(found.size() >= 9);
        for (std::size_t i = 1; i < found.size(); ++i) {
            NEAR(found[i] - found[i - 1], laneAt(lane, 2.5), 1e-3);
        }
    }

    void comingNearerTheBeatQuickensWithoutStarting()
    {
        const Lane lane = laneOf(LaneProperty::interval, {{0, 0.1}, {6, 1.0}});
        const auto away = [](double t) { return 6.5 - 0.7 * t; };
        const auto beats = beatsOf(withPulse({}, {lane}), 9.0, [&](double t) { return Pose{{-away(t), -10, 0}, 90, 0, 0}; });
        QVERIFY(beats.size() > 15);
        // From beat to beat as much of the lane goes by as makes one: the integral of 1 / interval.
        for (std::size_t i = 1; i < beats.size(); ++i) {
            double phase = 0.0;
            for (double t = beats[i - 1].began_s; t < beats[i].began_s; t += 1e-4) {
                phase += 1e-4 / laneAt(lane, away(t));
            }
            NEAR(phase, 1.0, 0.03);
            QVERIFY(i < 2 || beats[i].began_s - beats[i - 1].began_s < beats[i - 1].began_s - beats[i - 2].began_s + 1e-6);
        }
    }

    void theNearerOfTwoCountsByAMargin()
    {
        Pulsing how;
        how.looks = Pulsing::Looks::sides;
        how.margin_m = 0.5;
        Project project = withPulse(how);
        // Going east along the wall to the north, 3 m to the left: the drop ahead takes over when it is half a metre nearer.
        double changedAt_m = 0.0;
        bool wallFirst = false;
        const auto beats = beatsOf(
            project, 8.0,
            [](double t) {
                return Pose{{-6.0 + 0.7 * t, 1, 0}, 90, 0, 0};
            },
            [&](const WorldState& state) {
                const PulseState& pulse = state.pulses.at(0);
                if (!pulse.hazard) {
                    return;
                }
                wallFirst = wallFirst || (pulse.hazard->kind == EdgeKind::wall && changedAt_m == 0.0);
                if (pulse.hazard->kind == EdgeKind::drop && changedAt_m == 0.0) {
                    changedAt_m = -state.feet.at.x;
                }
            });
        QVERIFY(wallFirst);
        NEAR(changedAt_m, 2.5, 0.01);
        // The phase runs on where it changes: no interval is out of the range of its neighbours.
        for (std::size_t i = 1; i < beats.size(); ++i) {
            const double every_s = beats[i].began_s - beats[i - 1].began_s;
            QVERIFY2(every_s <= 0.12 + 0.88 * 3.0 / 6.0 + 1e-6 && every_s >= 0.1, qPrintable(QString::number(every_s)));
        }
    }

    void eachKindHasItsSoundAndItsSide()
    {
        Pulsing how;
        how.wallSound = {"knock"};
        Project project = withPulse(how);
        Sound knock = *project.sounds.find({"tone"});
        knock.id = {"knock"};
        knock.name = "Knock";
        project.sounds.put(knock);
        const auto scene = fixture::sceneOf(project, {tick()}, platform());
        const auto soundOf = [&](const Pose& feet) {
            const auto beats = beatsOf(project, 1.0, [&](double) { return feet; });
            return beats.empty() ? std::string() : scene->model.world().playables()[beats.front().playable].sound->id.text;
        };
        QCOMPARE(QString::fromStdString(soundOf({{-10, 2, 0}, 90, 0, 0})), QString("knock"));
        QCOMPARE(QString::fromStdString(soundOf({{-2, -10, 0}, 90, 0, 0})), QString("tone"));
        QCOMPARE(QString::fromStdString(soundOf({{-20, -20, 0}, 90, 0, 0})), QString());

        // The wall 2 m to the left, then to the right, as loudspeakers give it.
        for (const double heading : {90.0, -90.0}) {
            OfflineJob job;
            job.scene = scene;
            job.to_s = 2.0;
            job.ears = [heading](double) { return Pose{{-10, 2, 1.6}, heading, 0, 0}; };
            const auto sound = fixture::rendered(job);
            const double left = fixture::rms_db(sound, 0, 0, 2.0);
            const double right = fixture::rms_db(sound, 1, 0, 2.0);
            QVERIFY2(heading > 0 ? left > right + 20.0 : right > left + 20.0,
                     qPrintable(QString("%1 %2").arg(left).arg(right)));
        }
    }

    void levelFilterAndPitchFollowTheDistance()
    {
        const Project project = withPulse(
            {}, {laneOf(LaneProperty::pitch, {{0, 12}, {6, 0}}), laneOf(LaneProperty::lowPass, {{0, 20'000}, {6, 500}})});
        const auto beats = beatsOf(project, 2.0, [](double) { return Pose{{-3, -10, 0}, 90, 0, 0}; });
        NEAR(beats.front().pitch_st, 6.0, 1e-6);
        const auto peak = [&](double away_m) {
            OfflineJob job;
            job.scene = fixture::sceneOf(withPulse({}), {tick()}, platform());
            job.to_s = 1.0;
            job.ears = [away_m](double) { return Pose{{-away_m, -10, 1.6}, 90, 0, 0}; };
            const auto sound = fixture::rendered(job);
            float most = 0.0F;
            for (const float x : sound) {
                most = std::max(most, std::abs(x));
            }
            return 20.0 * std::log10(most);
        };
        NEAR(peak(2.0) - peak(4.0), 6.02, 0.1);
    }

    void itLooksTheWaysThatItSays()
    {
        const auto heard = [](Pulsing::Looks looks, double heading_deg) {
            Pulsing how;
            how.looks = looks;
            return !beatsOf(withPulse(how), 1.0, [&](double) { return Pose{{-2, -10, 0}, heading_deg, 0, 0}; }).empty();
        };
        // The drop is to the east.
        for (const auto& [looks, ahead, left, right, behind] : {std::tuple{Pulsing::Looks::ahead, true, false, false, false},
                                                                {Pulsing::Looks::sides, true, true, true, false},
                                                                {Pulsing::Looks::all, true, true, true, true}}) {
            QCOMPARE(heard(looks, 90), ahead);
            QCOMPARE(heard(looks, 180), left);
            QCOMPARE(heard(looks, 0), right);
            QCOMPARE(heard(looks, -90), behind);
        }
        Pulsing dropsAlone;
        dropsAlone.walls = false;
        QVERIFY(beatsOf(withPulse(dropsAlone), 1.0, [](double) { return Pose{{-20, 2, 0}, 0, 0, 0}; }).empty());
    }

    /// In a level seen from the side there is nothing beside: an edge that runs along the sheet is none, one behind is told.
    void fromTheSideItLooksAlongTheSheet()
    {
        for (const auto looks : {Pulsing::Looks::sides, Pulsing::Looks::all}) {
            Pulsing pulsing;
            pulsing.looks = looks;
            const Project above = withPulse(pulsing);
            const Project side = withLevel(above, above.levels[0]->id, [](Level& level) { level.sideOn = Looking::north; });
            std::optional<PulseState::Hazard> told;
            const auto look = [&](const WorldState& state) {
                told = state.pulses.empty() ? std::nullopt : state.pulses.begin()->second.hazard;
            };
            // The wall beside, a metre away, is nearer than the brink ahead.
            const auto facing = [](double heading_deg) {
                return [heading_deg](double) { return Pose{{-3, 3, 0}, heading_deg, 0, 0}; };
            };
            beatsOf(above, 0.2, facing(90), look);
            QVERIFY(told && told->kind == EdgeKind::wall);
            beatsOf(side, 0.2, facing(90), look);
            QVERIFY(told && told->kind == EdgeKind::drop && std::abs(told->distance_m - 3.0) < 0.02);
            QCOMPARE(told->way, std::size_t{0});
            beatsOf(side, 0.2, facing(-90), look);
            QVERIFY(told && told->kind == EdgeKind::drop);
            QCOMPARE(told->way, std::size_t{3});
        }
    }

    void rulesStartAndStopIt()
    {
        Project project = withPulse({});
        project.signalNames.put({{"on"}, "On", {}});
        project.signalNames.put({{"off"}, "Off", {}});
        project = withLevel(std::move(project), project.levels[0]->id, [](Level& level) {
            Emitter pulse = *level.emitters[0];
            Trigger on;
            on.cause = Cause::signal;
            on.signal = {"on"};
            Trigger off = on;
            off.signal = {"off"};
            pulse.starting.starts = {on};
            pulse.starting.stops = {off};
            level.emitters.put(pulse);
        });
        const auto scene = fixture::sceneOf(project, {tick()}, platform());
        WorldState state;
        std::set<std::uint64_t> beats;
        for (int step = 1; step < 600; ++step) {
            std::vector<Happening> happenings;
            if (step == 200 || step == 400) {
                happenings.push_back({Cause::signal, {step == 200 ? "on" : "off"}});
            }
            scene->model.world().advance(state,
                                         {.to_s = step * step_s, .feet = {{-1, -10, 0}, 90, 0, 0}, .happenings = happenings});
            for (const Start& start : state.starts) {
                beats.insert(start.number);
                QVERIFY(start.began_s > 198.9 * step_s && start.began_s < 400.1 * step_s);
            }
        }
        QVERIFY(beats.size() >= 3);
    }

    void withoutAFloorNothingIsTold()
    {
        const auto scene = fixture::sceneOf(withPulse({}), {tick()});
        OfflineJob job;
        job.scene = scene;
        job.to_s = 0.5;
        job.ears = [](double) { return Pose{{-1, -10, 1.6}, 90, 0, 0}; };
        QCOMPARE(fixture::energy_db(fixture::rendered(job), 0, 0.5) < -200.0, true);
        QVERIFY(scene->model.world().edges() == nullptr);
    }
};

} // namespace tst_pulse

STONE_TEST(tst_pulse, TestPulse)
#include "tst_pulse.moc"
