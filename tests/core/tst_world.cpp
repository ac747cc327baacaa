// SPDX-License-Identifier: GPL-3.0-or-later
#include "hearing/model.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"
#include "world/replay.h"
#include "world/world.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace tst_world
{

using namespace stone;

namespace
{

constexpr double step_s = 256.0 / 48'000.0;

Emitter emitterOf(const char* id, EmitterKind kind)
{
    Emitter emitter = fixture::pointAt(id, {0, 0, 0});
    emitter.kind = kind;
    return emitter;
}

Sound soundOf(const char* id, std::size_t files)
{
    Sound sound;
    sound.id = {id};
    sound.name = id;
    for (std::size_t i = 0; i < files; ++i) {
        sound.files.push_back({.file = std::to_string(i) + ".wav"});
    }
    sound.loop = false;
    return sound;
}

std::shared_ptr<const World> worldOf(const Project& project, double length_s = 1.0, std::shared_ptr<const Ground> ground = {})
{
    return std::make_shared<const World>(std::make_shared<const Project>(project), project.levels[0]->id, std::move(ground),
                                         [length_s](auto&&...) { return length_s; });
}

/// A box with its faces outwards, from low to high.
void addBox(Mesh& mesh, const Vec3& low, const Vec3& high, std::uint32_t material)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    for (unsigned i = 0; i < 8; ++i) {
        mesh.points.push_back({(i & 1U) ? high.x : low.x, (i & 2U) ? high.y : low.y, (i & 4U) ? high.z : low.z});
    }
    const std::array<std::array<std::uint32_t, 4>, 6> faces{
        {{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}}};
    for (const auto& f : faces) {
        mesh.triangles.push_back({{first + f[0], first + f[1], first + f[2]}, material});
        mesh.triangles.push_back({{first + f[0], first + f[2], first + f[3]}, material});
    }
}

/// A floor of two materials, west and east, and a wall along y = 10 with a gap at x from 8 to 10.
std::shared_ptr<const Ground> hallGround()
{
    auto mesh = std::make_shared<Mesh>();
    mesh->materials = {"tile", "planks", "brick"};
    addBox(*mesh, {-20, -20, -0.5}, {0, 40, 0}, 0);
    addBox(*mesh, {0, -20, -0.5}, {20, 40, 0}, 1);
    addBox(*mesh, {-20, 9.8, 0}, {8, 10.2, 3}, 2);
    addBox(*mesh, {10, 9.8, 0}, {20, 10.2, 3}, 2);
    return std::make_shared<const Ground>(mesh);
}

/// Lets a level go on for some time, calling look(state) after each step.
template <class Look> void live(const World& world, WorldState& state, double to_s, const std::function<Pose(double)>& feet,
                                Look&& look, std::vector<Happening> first = {})
{
    auto step = static_cast<std::uint64_t>(std::llround(std::max(state.time_s, 0.0) / step_s));
    for (; static_cast<double>(step + 1) * step_s <= to_s; ++step) {
        const double now_s = static_cast<double>(step + 1) * step_s;
        world.advance(state, {.to_s = now_s, .feet = feet(now_s), .happenings = first});
        first.clear();
        look(state);
    }
}

const auto still = [](double) { return Pose{}; };
const auto nothing = [](const WorldState&) {};

std::size_t playing(const WorldState& state)
{
    return static_cast<std::size_t>(std::count_if(state.starts.begin(), state.starts.end(), [&](const Start& start) {
        return start.began_s <= state.time_s && !start.over(state.time_s) && !start.pausedAt_s;
    }));
}

Zone boxZone(const char* id, const Vec3& at, const Vec3& size, const char* parent = "")
{
    Zone zone;
    zone.id = {id};
    zone.name = id;
    zone.at = at;
    zone.shape = Box{size};
    zone.parent = {parent};
    return zone;
}

Project withZones(Project project, const std::vector<Zone>& zones)
{
    return withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (const Zone& zone : zones) {
            level.zones.put(zone);
        }
    });
}

} // namespace

class TestWorld : public QObject
{
    Q_OBJECT

private slots:
    /// Ten thousand starts: intervals, places, variations, directions.
    void sprinklesKeepToWhatIsAsked_data()
    {
        QTest::addColumn<bool>("natural");
        QTest::addColumn<int>("where");
        QTest::newRow("even times in a ring") << false << int(Sprinkling::Where::ring);
        QTest::newRow("natural times in a ring") << true << int(Sprinkling::Where::ring);
        QTest::newRow("even times in a box") << false << int(Sprinkling::Where::box);
        QTest::newRow("natural times in a shape") << true << int(Sprinkling::Where::shape);
    }
    void sprinklesKeepToWhatIsAsked()
    {
        QFETCH(bool, natural);
        QFETCH(int, where);
        Emitter emitter = emitterOf("drip", EmitterKind::sprinkle);
        Sprinkling& s = emitter.sprinkling;
        s.least_s = 0.5;
        s.most_s = 1.5;
        s.naturalRate = natural;
        s.where = static_cast<Sprinkling::Where>(where);
        s.atOnce = 32;
        s.nearest_m = 5;
        s.farthest_m = 15;
        s.shape = Prism{{{-9, -9}, {9, -9}, {9, -5}, {-5, -5}, {-5, 9}, {-9, 9}}, 2.0};
        s.answer = {"drips"};
        Project project = fixture::projectWith({emitter});
        project.sounds.put(soundOf("drips", 4));
        project = withEmitter(project, {"level"}, {"drip"}, [](Emitter& e) { e.sound = {"drips"}; });
        const auto ground = hallGround();
        const auto world = worldOf(project, 0.3, ground);
        const Vec3 stand{2.0, 5.0, 0.0};
        const Pose feet{stand, 90.0, 0, 0};
        const Vec3 head = stand + Vec3{0, 0, 1.6};

        std::map<std::pair<int, std::uint64_t>, Start> starts;
        WorldState state;
        live(
            *world, state, 10'100.0, [&](double) { return feet; },
            [&](const WorldState& now) {
                for (const Start& start : now.starts) {
                    starts.emplace(std::pair(int(start.part), start.number), start);
                }
            });
        const SprinkleState& sprinkle = state.sprinkles.at(0);
        QVERIFY(sprinkle.begun > 8000);
        QCOMPARE(sprinkle.begun + sprinkle.skipped + sprinkle.placeless, sprinkle.next);
        // The mean of 10 000 intervals is within four standard errors; none is shorter than the least.
        const double mean_s = sprinkle.next_s / static_cast<double>(sprinkle.next + 1);
        QVERIFY2(std::abs(mean_s - 1.0) < 4 * (natural ? 0.5 : 0.29) / 100.0, qPrintable(QString::number(mean_s)));

        std::optional<Start> last;
        std::array<int, 8> sectors{};
        int calls = 0;
        for (const auto& [key, start] : starts) {
            QVERIFY(!ground->insideSolid(*start.at));
            const Vec3 way = *start.at - head;
            if (s.where == Sprinkling::Where::ring) {
                QVERIFY(glm::length(way) >= 5.0 - 1e-9 && glm::length(way) <= 15.0 + 1e-9);
                const double up = std::asin(way.z / glm::length(way));
                QVERIFY(up >= -1e-9 && up <= radians(20.0) + 1e-9);
            } else if (s.where == Sprinkling::Where::box) {
                // The player faces east: ahead is +x, aside -y.
                QVERIFY(std::abs(way.x) <= 10.0 && std::abs(way.y) <= 10.0 && start.at->z >= 0.0 && start.at->z <= 4.0);
            } else {
                const bool south = start.at->y <= -5.0 && std::abs(start.at->x) <= 9.0;
                QVERIFY(south || (start.at->x <= -5.0 && start.at->x >= -9.0));
            }
            if (start.part == Start::Part::own) {
                if (last && start.number == last->number + 1) {
                    const double interval_s = start.began_s - last->began_s;
                    QVERIFY(interval_s >= 0.5 - 1e-9 && (natural || interval_s <= 1.5 + 1e-9));
                }
                QVERIFY(!last || last->file != start.file);
                last = start;
                ++calls;
                const double angle = std::atan2(way.x, way.y);
                ++sectors[static_cast<std::size_t>((angle + M_PI) / (2 * M_PI) * 8.0) % 8];
            } else if (const auto call = starts.find({0, start.number}); call != starts.end()) {
                QVERIFY(call->second.file != start.file);
                QVERIFY(start.began_s - call->second.began_s >= 1.0 && start.began_s - call->second.began_s <= 3.0);
            }
        }
        if (s.where == Sprinkling::Where::ring) {
            // Directions take turns; those that fall into the wall are drawn again within their sector.
            for (const int count : sectors) {
                QVERIFY2(std::abs(count - calls / 8) < calls / 80, qPrintable(QString::number(count)));
            }
        }
    }

    void sprinklesWaitSkipAndEnd()
    {
        Emitter emitter = emitterOf("drip", EmitterKind::sprinkle);
        emitter.sprinkling.least_s = emitter.sprinkling.most_s = 1.0;
        const auto startsIn = [&](double seconds, double length_s) {
            const auto world = worldOf(fixture::projectWith({emitter}, false), length_s);
            WorldState state;
            std::set<std::uint64_t> starts;
            std::size_t most = 0;
            live(*world, state, seconds, still, [&](const WorldState& now) {
                most = std::max(most, playing(now));
                for (const Start& start : now.starts) {
                    starts.insert(start.number);
                }
            });
            return std::pair(starts.size(), most);
        };
        QCOMPARE(startsIn(100.5, 0.5), std::pair(std::size_t(100), std::size_t(1)));
        // Ten seconds long and one a second, but no more than two at once.
        QVERIFY(startsIn(100.5, 10.0).second == 2);
        emitter.sprinkling.waitsForTail = true;
        QCOMPARE(startsIn(100.5, 3.0), std::pair(std::size_t(25), std::size_t(1)));
        emitter.sprinkling.waitsForTail = false;
        emitter.sprinkling.inAll = 7;
        QCOMPARE(startsIn(100.5, 0.5).first, std::size_t(7));
        emitter.sprinkling.inAll = 0;
        emitter.sprinkling.skipChance = 0.25;
        const std::size_t some = startsIn(1000.5, 0.5).first;
        QVERIFY(some > 690 && some < 810);
    }

    /// The same seed is the same night; a neighbour more changes nothing; another seed is another night.
    void chanceBelongsToEachAlone()
    {
        Emitter a = emitterOf("a", EmitterKind::sprinkle);
        Emitter b = emitterOf("b", EmitterKind::sprinkle);
        const auto heard = [&](const std::vector<Emitter>& emitters, std::uint64_t seed) {
            Project project = fixture::projectWith(emitters, false);
            project.seed = seed;
            const auto world = worldOf(project);
            std::vector<std::tuple<double, double, double>> starts;
            WorldState state;
            std::set<std::uint64_t> known;
            live(*world, state, 120.0, still, [&](const WorldState& now) {
                for (const Start& start : now.starts) {
                    if (world->level().emitters[start.emitter]->id.text == "a" && known.insert(start.number).second) {
                        starts.emplace_back(start.began_s, start.at->x, start.at->y);
                    }
                }
            });
            return starts;
        };
        const auto alone = heard({a}, 7);
        QVERIFY(alone.size() > 8);
        QVERIFY(heard({a}, 7) == alone);
        QVERIFY(heard({b, a}, 7) == alone);
        QVERIFY(heard({a}, 8) != alone);
    }

    void zonesFadeOneInTheOther()
    {
        // Three deep, all about the origin.
        const Project project = withZones(fixture::projectWith({}), {boxZone("yard", {0, 0, 0}, {60, 60, 6}),
                                                                     boxZone("hall", {0, 0, 0}, {30, 30, 5}, "yard"),
                                                                     boxZone("booth", {0, 0, 0}, {10, 10, 4}, "hall")});
        const auto world = worldOf(project);
        const ZoneMap& zones = world->zones();
        const auto fadesAt = [&](double x) {
            ZonesAt at;
            zones.at(
                {x, 0, 1.6}, [](const Riding&) { return Carriage{}; }, at);
            std::array<double, 3> level{};
            for (std::uint32_t i = 0; i < 3; ++i) {
                level[i] = zones.fadesOf(i, at, [](const GameValueId&) { return 0.0; }).level_db;
            }
            return level;
        };
        QCOMPARE(fadesAt(20.0), (std::array{0.0, 0.0, 0.0}));
        QVERIFY(std::abs(fadesAt(12.5)[0] + 18.0) < 0.1 && fadesAt(12.5)[1] == 0.0);
        // Deep in the booth both are silent, and the booth has all of it.
        QVERIFY(fadesAt(0.0)[0] < -90.0 && fadesAt(0.0)[1] < -90.0 && fadesAt(0.0)[2] == 0.0);
        for (double x = 35.0; x > 0.0; x -= 0.01) {
            const auto here = fadesAt(x);
            const auto next = fadesAt(x - 0.01);
            for (std::size_t i = 0; i < 3; ++i) {
                // No steeper than the lane: 78 dB over 2.5 m, eased.
                QVERIFY(std::abs(std::max(here[i], -95.0) - std::max(next[i], -95.0)) < 0.6);
            }
        }
        ZonesAt in;
        zones.at(
            {0, 0, 1.6}, [](const Riding&) { return Carriage{}; }, in);
        QVERIFY(!zones.sprinklesIn(0, in) && !zones.sprinklesIn(1, in) && zones.sprinklesIn(2, in));
        zones.at(
            {12, 0, 1.6}, [](const Riding&) { return Carriage{}; }, in);
        QVERIFY(!zones.sprinklesIn(0, in) && zones.sprinklesIn(1, in));
    }

    void zonesWithoutAnOrderShare()
    {
        const Project project =
            withZones(fixture::projectWith({}), {boxZone("a", {0, 0, 0}, {20, 20, 5}), boxZone("b", {12, 0, 0}, {20, 20, 5})});
        const auto world = worldOf(project);
        const ZoneMap& zones = world->zones();
        double last[2] = {1.0, 1.0};
        for (double x = -15.0; x < 27.0; x += 0.01) {
            ZonesAt at;
            zones.at(
                {x, 0, 1.6}, [](const Riding&) { return Carriage{}; }, at);
            const double share[2] = {zones.shareOf(0, at), zones.shareOf(1, at)};
            if (at.depth(0) > 2.0 && at.depth(1) > 2.0) {
                QVERIFY(std::abs(share[0] + share[1] - 1.0) < 1e-9);
            }
            for (int i = 0; i < 2; ++i) {
                QVERIFY(std::abs(share[i] - last[i]) < 0.02);
                last[i] = share[i];
            }
        }
        QCOMPARE(last[0], 1.0);
    }

    /// With one signal for each way, and with one for both.
    void valuesGoWhereSignalsSendThem()
    {
        Project project = fixture::projectWith({}, false);
        for (const char* id : {"high", "low", "turn"}) {
            project.signalNames.put({{id}, id, {}});
        }
        GameValue value;
        value.id = {"fog"};
        value.least = -4.0;
        value.rest = 1.0;
        value.most = 5.0;
        value.smoothing_s = 2.0;
        value.mostOn = {"high"};
        value.restOn = {"low"};
        project.gameValues.put(value);
        value.id = {"lens"};
        value.smoothing_s = 0.0;
        value.mostOn = value.restOn = {"turn"};
        project.gameValues.put(value);
        const auto world = worldOf(project, 10.0);
        WorldState state;
        const auto at = [&](const char* id) {
            return world->valueAt(world->momentOf(state, Ears{}, TimeSpan::at(state.time_s)), {id});
        };
        const auto send = [&](const char* id) {
            live(*world, state, state.time_s + step_s, still, nothing, {{Cause::signal, {id}}});
        };
        live(*world, state, 1.0, still, nothing);
        QCOMPARE(at("fog"), 1.0);
        QCOMPARE(at("lens"), 1.0);
        send("high");
        send("turn");
        QCOMPARE(at("lens"), 5.0);
        live(*world, state, state.time_s + 1.0, still, nothing);
        QVERIFY(std::abs(at("fog") - 3.0) < 0.05); // halfway in half its time
        live(*world, state, state.time_s + 2.0, still, nothing);
        send("high"); // once more changes nothing
        QCOMPARE(at("fog"), 5.0);
        send("turn");
        QCOMPARE(at("lens"), 1.0);
        send("turn");
        QCOMPARE(at("lens"), 5.0);
        send("low");
        live(*world, state, state.time_s + 3.0, still, nothing);
        QCOMPARE(at("fog"), 1.0);
        QCOMPARE(at("lens"), 5.0);
    }

    void ruledBySignalsValuesAndConditions()
    {
        Emitter bell = emitterOf("bell", EmitterKind::point);
        bell.starting.starts = {{.cause = Cause::signal, .zone = {}, .signal = {"ring"}}};
        bell.starting.stops = {{.cause = Cause::signal, .zone = {}, .signal = {"hush"}}};
        bell.starting.rearms = {{.cause = Cause::reset, .zone = {}, .signal = {}}};
        Project project = fixture::projectWith({bell}, false);
        project.signalNames.put({{"ring"}, "ring", {}});
        GameValue wind;
        wind.id = {"wind"};
        wind.smoothing_s = 1.0;
        project.gameValues.put(wind);
        const Happening ring{Cause::signal, {"ring"}};
        const auto after = [&](const std::function<void(Starting&)>& rule,
                               const std::vector<std::pair<double, Happening>>& what, double seconds) {
            Project ruled = withEmitter(project, {"level"}, {"bell"}, [&](Emitter& e) { rule(e.starting); });
            const auto world = worldOf(ruled, 10.0);
            WorldState state;
            for (const auto& [t, happening] : what) {
                live(*world, state, t, still, nothing);
                live(*world, state, t + step_s * 1.5, still, nothing, {happening});
            }
            live(*world, state, seconds, still, nothing);
            return state;
        };
        const auto as = [](SecondStart second) { return [second](Starting& s) { s.second = second; }; };
        const auto none = [](Starting&) {};
        QCOMPARE(playing(after(none, {}, 5.0)), std::size_t(0));
        QCOMPARE(playing(after(none, {{1.0, ring}}, 5.0)), std::size_t(1));
        QCOMPARE(playing(after(none, {{1.0, ring}}, 12.0)), std::size_t(0));
        QCOMPARE(playing(after(none, {{1.0, ring}, {2.0, {Cause::signal, {"hush"}}}}, 2.1)), std::size_t(1)); // fading
        QCOMPARE(playing(after(none, {{1.0, ring}, {2.0, {Cause::signal, {"hush"}}}}, 3.0)), std::size_t(0));
        // The second one.
        const std::vector<std::pair<double, Happening>> twice{{1.0, ring}, {3.0, ring}};
        const WorldState again = after(as(SecondStart::restart), twice, 5.0);
        QVERIFY(playing(again) == 1 && std::abs(again.starts[0].began_s - 3.0) < 0.01);
        QVERIFY(std::abs(after(as(SecondStart::ignore), twice, 5.0).starts[0].began_s - 1.0) < 0.01);
        QCOMPARE(playing(after(as(SecondStart::stop), twice, 5.0)), std::size_t(0));
        QCOMPARE(playing(after(as(SecondStart::another), twice, 5.0)), std::size_t(2));
        QCOMPARE(playing(after(as(SecondStart::pauseAndResume), twice, 30.0)), std::size_t(0));
        const WorldState resumed = after(as(SecondStart::pauseAndResume), {{1.0, ring}, {3.0, ring}, {20.0, ring}}, 27.0);
        QVERIFY(playing(resumed) == 1 && std::abs(resumed.starts[0].began_s - 18.0) < 0.02);
        // Once, until re-armed; and not too soon after one another.
        const auto once = [](Starting& s) { s.once = true; };
        QCOMPARE(playing(after(once, {{1.0, ring}, {12.0, ring}}, 13.0)), std::size_t(0));
        QCOMPARE(playing(after(once, {{1.0, ring}, {11.5, {Cause::reset, {}}}, {12.0, ring}}, 13.0)), std::size_t(1));
        const auto heldOff = [](Starting& s) {
            s.holdOff_s = 4.0;
            s.second = SecondStart::another;
        };
        QCOMPARE(playing(after(heldOff, {{1.0, ring}, {2.0, ring}, {6.0, ring}}, 7.0)), std::size_t(2));
        // Only in the wind, which takes a second to rise.
        const auto windy = [](Starting& s) { s.conditions = {{{"wind"}, Comparison::atLeast, 0.5}}; };
        const Happening rise{Cause::signal, {}, std::pair(GameValueId{"wind"}, 1.0)};
        QCOMPARE(playing(after(windy, {{1.0, ring}}, 2.0)), std::size_t(0));
        QCOMPARE(playing(after(windy, {{1.0, rise}, {1.3, ring}}, 2.0)), std::size_t(0));
        QCOMPARE(playing(after(windy, {{1.0, rise}, {1.7, ring}}, 2.0)), std::size_t(1));
        QVERIFY(std::abs(after(none, {{1.0, rise}}, 1.5).values[0].at(1.5) - 0.5) < 0.01);
    }

    void startedByWhatTheCharacterDoes()
    {
        const auto ground = hallGround();
        std::vector<Emitter> emitters;
        const std::map<std::string, Trigger> triggers{
            {"entered", {.cause = Cause::enter, .zone = {"room"}, .signal = {}}},
            {"left", {.cause = Cause::leave, .zone = {"room"}, .signal = {}}},
            {"jumped", {.cause = Cause::jump, .zone = {}, .signal = {}}},
            {"landed", {.cause = Cause::land, .zone = {}, .signal = {}}},
            {"fell", {.cause = Cause::fall, .zone = {}, .signal = {}}},
            {"touched", {.cause = Cause::interact, .zone = {}, .signal = {}, .within_m = 2.0}}};
        for (const auto& [name, trigger] : triggers) {
            emitters.push_back(emitterOf(name.c_str(), EmitterKind::point));
            emitters.back().at = {5, 0, 1};
            emitters.back().starting.starts = {trigger};
        }
        const auto world =
            worldOf(withZones(fixture::projectWith(emitters, false), {boxZone("room", {5, 0, 0}, {4, 4, 3})}), 100.0, ground);
        const auto names = [&](const WorldState& state) {
            std::string all;
            for (const Start& start : state.starts) {
                all += world->level().emitters[start.emitter]->name + ' ';
            }
            return QString::fromStdString(all);
        };
        WorldState state;
        live(
            *world, state, 1.0,
            [](double) {
                return Pose{{5, 0, 0}, 0, 0, 0};
            },
            nothing);
        QCOMPARE(names(state), QString("entered ")); // it starts inside
        live(
            *world, state, 2.0,
            [](double t) {
                return Pose{{5 - 9 * (t - 1), 0, 0}, 0, 0, 0};
            },
            nothing);
        QCOMPARE(names(state), QString("entered left "));
        live(*world, state, 3.0, [](double) { return Pose{{-4, 0, 0}, 0, 0, 0}; }, nothing, {{Cause::interact, {}}});
        QCOMPARE(names(state), QString("entered left ")); // too far away
        live(
            *world, state, 4.0,
            [](double t) {
                return Pose{{-4, 0, std::max(3 * (t - 3) - 5 * (t - 3) * (t - 3), 0.0)}, 0, 0, 0};
            },
            nothing);
        QCOMPARE(names(state), QString("entered left jumped landed "));
        // Walked off the edge of the floor at y = -20.
        live(
            *world, state, 5.0,
            [](double t) {
                return Pose{{-4, -21, -5 * (t - 4) * (t - 4)}, 0, 0, 0};
            },
            nothing);
        QVERIFY(names(state).contains("fell"));
        live(*world, state, 6.0, [](double) { return Pose{{4, 0, 0}, 0, 0, 0}; }, nothing, {{Cause::reset, {}}});
        live(*world, state, 7.0, [](double) { return Pose{{4, 0, 0}, 0, 0, 0}; }, nothing, {{Cause::interact, {}}});
        QVERIFY(names(state).contains("touched"));
    }

    void stepsFallOnSurfaces()
    {
        Emitter steps = emitterOf("steps", EmitterKind::steps);
        steps.stepping.surfaces = {{"planks", {"planks"}, -3.0}};
        Project project = fixture::projectWith({steps}, false);
        project.sounds.put(soundOf("planks", 3));
        const auto world = worldOf(project, 0.2, hallGround());
        std::map<std::uint64_t, Start> starts;
        const auto look = [&](const WorldState& now) {
            for (const Start& start : now.starts) {
                starts.emplace(start.number, start);
            }
        };
        WorldState state;
        // West to east over the border of the two floors, at walking speed: 20 m in strides of 0.75 m.
        live(
            *world, state, 20.0 / 1.4,
            [](double t) {
                return Pose{{-10 + 1.4 * t, 0, 0}, 90, 0, 0};
            },
            look);
        QVERIFY2(starts.size() >= 26 && starts.size() <= 27, qPrintable(QString::number(starts.size())));
        std::optional<Start> last;
        for (const auto& [number, start] : starts) {
            const bool planks = start.at->x > 0.0;
            QCOMPARE(QString::fromStdString(world->playables()[start.playable].sound->id.text),
                     QString(planks ? "planks" : "tone"));
            if (last) {
                QVERIFY(std::abs(start.at->x - last->at->x - 0.75) < 0.02);
                QVERIFY(std::abs(start.began_s - last->began_s - 0.75 / 1.4) < 0.02);
                QVERIFY(!planks || last->at->x <= 0.0 || start.file != last->file);
            }
            last = start;
        }
        // None in the air, none beyond the floor's edge.
        const std::size_t before = starts.size();
        live(
            *world, state, 20.0,
            [](double t) {
                return Pose{{0, 1.4 * (t - 14), 1.0}, 0, 0, 0};
            },
            look);
        live(
            *world, state, 24.0,
            [](double t) {
                return Pose{{0, -30 - 1.4 * (t - 20), 0}, 0, 0, 0};
            },
            look);
        QCOMPARE(starts.size(), before);
    }

    void roamersKeepTheirTimetable()
    {
        Roaming roaming;
        roaming.stops = {{{0, 0, 0}, {}, {}}, {{10, 0, 0}, {}, {}}, {{10, 10, 0}, 5.0, {}}};
        roaming.speed_m_s = 2.0;
        roaming.ease = 0.0;
        roaming.wait_s = 1.0;
        const Route inTurn(roaming, 1, "r", nullptr);
        QVERIFY(std::abs(inTurn.at(3.5).at.x - 5.0) < 1e-9);
        QVERIFY(std::abs(inTurn.at(1.0 + 5.0 + 0.5).at.x - 10.0) < 1e-9);
        QVERIFY(std::abs(inTurn.at(1 + 5 + 1 + 2.5).at.y - 5.0) < 1e-9);
        QVERIFY(std::abs(inTurn.at(1 + 5 + 1 + 5 + 4.9).at.y - 10.0) < 1e-9); // this stop has its own wait
        std::vector<Route::Arrival> arrivals;
        inTurn.arrivals(0.0, 60.0, arrivals);
        QVERIFY(std::abs(arrivals[0].time_s - 6.0) < 1e-9 && arrivals[0].stop == 1);
        QVERIFY(std::abs(arrivals[1].time_s - 12.0) < 1e-9 && arrivals[1].stop == 2);
        QCOMPARE(arrivals[2].stop, std::size_t(0));
        for (std::size_t i = 0; i < arrivals.size(); ++i) {
            QCOMPARE(arrivals[i].number, std::uint64_t(i));
        }

        // Whatever it does, it goes on without a jump, no faster than it may, and turns steadily.
        for (int variant = 0; variant < 6; ++variant) {
            Roaming other = roaming;
            other.order = static_cast<Roaming::Order>(variant % 3);
            other.ease = variant < 3 ? 0.3 : 0.0;
            other.byTime = variant == 4;
            other.period_s = variant == 5 ? 40.0 : 0.0;
            const Route route(other, 9, "r", nullptr);
            Route::Place last = route.at(0.0);
            for (double t = 0.01; t < 200.0; t += 0.01) {
                const Route::Place place = route.at(t);
                QVERIFY(glm::length(place.at - last.at) < (other.byTime ? 0.03 : 0.0201));
                // Half a turn over 0.8 m at 2 m/s is 450 degrees a second.
                QVERIFY2(std::abs(wrapDegrees(place.heading_deg - last.heading_deg)) < 6.0,
                         qPrintable(QString("%1 at %2").arg(variant).arg(t)));
                last = place;
            }
        }
        // Shuffled: all stops before any again, and none twice running.
        roaming.stops.push_back({{0, 10, 0}, {}, {}});
        roaming.order = Roaming::Order::shuffled;
        Route(roaming, 3, "r", nullptr).arrivals(0.0, 4000.0, arrivals);
        QVERIFY(arrivals.size() > 200);
        std::map<std::size_t, int> counts;
        for (std::size_t i = 0; i < arrivals.size(); ++i) {
            QVERIFY(i == 0 || arrivals[i].stop != arrivals[i - 1].stop);
            ++counts[arrivals[i].stop];
        }
        for (const auto& [stop, count] : counts) {
            QVERIFY(std::abs(count - int(arrivals.size()) / 4) <= 2);
        }
        // Hours on it is where it would have come step by step.
        const Route walked(roaming, 3, "r", nullptr);
        for (double t = 0.0; t <= 14'400.0; t += 60.0) {
            walked.at(t);
        }
        const Route asked(roaming, 3, "r", nullptr);
        QCOMPARE(asked.at(14'400.0).at, walked.at(14'400.0).at);
        QCOMPARE(asked.at(14'400.0).next, walked.at(14'400.0).next);
        QCOMPARE(asked.at(10.0).at, walked.at(10.0).at);
        // Two rounds, and it stands.
        roaming.order = Roaming::Order::inTurn;
        roaming.rounds = 2;
        const Route twice(roaming, 3, "r", nullptr);
        QVERIFY(std::isfinite(twice.ends_s()) && twice.at(twice.ends_s() + 100.0).over);
        QVERIFY(apartFrom(twice.at(1e6).at, {0, 0, 0}) < 1e-6);
    }

    void roamersFindTheirWayRoundWalls()
    {
        const auto ground = hallGround();
        Roaming roaming;
        roaming.stops = {{{0, 0, 0}, {}, {}}, {{0, 20, 0}, {}, {}}};
        roaming.aroundWalls = true;
        const Route route(roaming, 1, "r", ground.get());
        QVERIFY(route.blocked().empty());
        const std::vector<Vec3> line = route.line();
        for (std::size_t i = 1; i < line.size(); ++i) {
            QVERIFY(ground->clear(line[i - 1] + Vec3{0, 0, 1}, line[i] + Vec3{0, 0, 1}));
        }
        // Through the gap at x = 8 to 10, a body's width clear of its edges.
        const bool through = std::any_of(line.begin(), line.end(), [](const Vec3& p) { return p.x > 8.1 && p.x < 9.9; });
        QVERIFY(through);
        double length = 0.0;
        for (std::size_t i = 1; i < line.size() / 2 + 1; ++i) {
            length += glm::length(line[i] - line[i - 1]);
        }
        QVERIFY2(length < 28.0, qPrintable(QString::number(length))); // the tightest string is 26.0 m
        roaming.stops[1].at = {0, 60, 0};
        QCOMPARE(Route(roaming, 1, "r", ground.get()).blocked().size(), std::size_t(2));
    }

    /// Who may not wait takes straight ways until somebody has found them, and then those; an edit finds none again.
    void waysAreKept()
    {
        const auto ground = hallGround();
        Emitter trolley = emitterOf("trolley", EmitterKind::roamer);
        trolley.roaming.stops = {{{0, 0, 0}, {}, {}}, {{0, 20, 0}, {}, {}}};
        trolley.roaming.aroundWalls = true;
        const Route before(trolley.roaming, 1, "r", ground.get(), Ways::foundOnly);
        QVERIFY(before.waysMissing() && before.blocked().empty());
        for (const Vec3& p : before.line()) {
            QVERIFY(p.x == 0.0); // straight through
        }
        for (const auto& [from, to] : legsOf(trolley.roaming)) {
            ground->way(trolley.roaming.stops[from].at, trolley.roaming.stops[to].at);
        }
        const Route after(trolley.roaming, 1, "r", ground.get(), Ways::foundOnly);
        QVERIFY(!after.waysMissing());
        const std::vector<Vec3> found = Route(trolley.roaming, 1, "r", hallGround().get()).line();
        QVERIFY(after.line() == found && found.size() > 3);
    }

    void thingsRide()
    {
        Emitter trolley = emitterOf("trolley", EmitterKind::roamer);
        trolley.roaming.stops = {{{0, 0, 0}, {}, {}}, {{10, 0, 0}, {}, {}}};
        trolley.roaming.wait_s = 0.0;
        Emitter lamp = emitterOf("lamp", EmitterKind::point);
        lamp.at = {0, 2, 1};
        lamp.riding = {Riding::On::roamer, {"trolley"}, "", true};
        Emitter bag = emitterOf("bag", EmitterKind::point);
        bag.at = {1, 0, 1};
        bag.riding = {Riding::On::character, {}, "", true};
        const auto world = worldOf(fixture::projectWith({trolley, lamp, bag}));
        WorldState state;
        live(
            *world, state, 4.0,
            [](double) {
                return Pose{{50, 0, 0}, 180, 0, 0};
            },
            nothing);
        const Moment moment = world->momentOf(state, Ears{}, TimeSpan::at(4.0));
        const Route::Place place = world->roamerAt(0, moment);
        // It goes east: ahead of it is east, and the lamp goes two metres ahead.
        const Carriage carriage = world->carriageOf(world->level().emitters[1]->riding, moment);
        QVERIFY(apartFrom(carriage.placed({0, 2, 1}), place.at + Vec3{2, 0, 1}) < 1e-6);
        QVERIFY(apartFrom(carriage.own(carriage.placed({3, 4, 5})), {3, 4, 5}) < 1e-9);
        // Facing south, the right hand is west.
        const Carriage body = world->carriageOf(world->level().emitters[2]->riding, moment);
        QVERIFY(apartFrom(body.placed({1, 0, 1}), {49, 0, 1}) < 1e-9);
    }

    /// What was found by going to a moment from anywhere is the same.
    void aReplayedMomentIsThatMoment()
    {
        Emitter emitter = emitterOf("drip", EmitterKind::sprinkle);
        emitter.sprinkling.least_s = 0.2;
        emitter.sprinkling.most_s = 0.9;
        Project project = fixture::projectWith({emitter}, false);
        Walk walk;
        walk.id = {"walk"};
        walk.points = {{0, {0, 0, 0}, {}, 0, {}}, {20, {30, 10, 0}, {}, 0, {}}};
        const auto world = worldOf(project, 0.7);
        Replay forwards(world, walk, step_s);
        Replay anyhow(world, walk, step_s);
        std::vector<double> began;
        for (double t = 0.0; t < 20.0; t += 0.37) {
            const WorldState state = forwards.at(t);
            began.push_back(state.starts.empty() ? -1.0 : state.starts.back().began_s);
        }
        std::size_t i = began.size();
        for (double t = 0.37 * static_cast<double>(i - 1); i-- > 0; t -= 0.37) {
            const WorldState state = anyhow.at(std::max(t, 0.0));
            QCOMPARE(state.starts.empty() ? -1.0 : state.starts.back().began_s, began[i]);
        }
    }

    /// Whatever a document holds, it can be lived in: numbers stay finite, and nothing takes for ever.
    void anyDocumentCanBeLivedIn()
    {
        for (unsigned seed = 0; seed < 120; ++seed) {
            const auto project = std::make_shared<const Project>(fixture::randomProject(seed));
            for (const auto& level : project->levels) {
                const auto world = std::make_shared<const World>(project, level->id, seed % 2 == 0 ? hallGround() : nullptr,
                                                                 [](auto&&...) { return 0.5; });
                const HearingModel model(world);
                WorldState state;
                const Vec3 start = level->emitters.empty() ? Vec3{0.0} : level->emitters[0]->at;
                std::vector<Happening> happenings;
                for (const auto& signal : project->signalNames) {
                    happenings.push_back({Cause::signal, signal->id});
                }
                happenings.push_back({Cause::reset, {}});
                happenings.push_back({Cause::interact, {}});
                for (int i = 0; i < 40; ++i) {
                    const Pose feet{start + Vec3{0.3 * i, -0.2 * i, std::sin(0.3 * i)}, 9.0 * i, 0, 0};
                    world->advance(state, {.to_s = 0.25 * i, .feet = feet, .happenings = happenings});
                    QVERIFY(state.starts.size() < 4000);
                    const Moment moment = world->momentOf(state, Ears(feet), TimeSpan::at(state.time_s));
                    for (const Heard& heard : model.hearAll(moment)) {
                        QVERIFY2(!std::isnan(heard.level_db) && std::isfinite(heard.direction.x) &&
                                     glm::length(heard.direction) < 1.0001,
                                 qPrintable(QString("seed %1").arg(seed)));
                    }
                }
            }
        }
    }

private:
    static double apartFrom(const Vec3& a, const Vec3& b) { return glm::length(a - b); }
};

} // namespace tst_world

STONE_TEST(tst_world, TestWorld)
#include "tst_world.moc"
