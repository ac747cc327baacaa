// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/room_proposals.h"
#include "dsp/decibel.h"
#include "support/one_of_many.h"
#include "support/two_rooms.h"
#include "world/nesting.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <random>

namespace tst_room_ways
{

using namespace stone;
using namespace fixture;

namespace
{

Opening doorAt(const std::string& id, const Vec2& from, const Vec2& to)
{
    Opening door;
    door.id = {id};
    door.name = id;
    door.from = from;
    door.to = to;
    return door;
}

/// Three rooms of 6 x 6 m in a row and one along all of them to the north, with doors between neighbours.
Level threeAndAPassage()
{
    Project project = projectWith({});
    project = withLevel(std::move(project), {"level"}, [](Level& level) {
        level.rooms.put(boxRoom("a", {-6, 0, 0}, {6, 6, 3}));
        level.rooms.put(boxRoom("b", {0, 0, 0}, {6, 6, 3}));
        level.rooms.put(boxRoom("c", {6, 0, 0}, {6, 6, 3}));
        level.rooms.put(boxRoom("p", {0, 4, 0}, {18, 2, 3}));
        level.openings.put(doorAt("ab", {-3, -0.5}, {-3, 0.5}));
        level.openings.put(doorAt("bc", {3, -0.5}, {3, 0.5}));
        level.openings.put(doorAt("ap", {-7, 3}, {-6, 3}));
        level.openings.put(doorAt("cp", {6, 3}, {7, 3}));
    });
    return *project.levels[0];
}

} // namespace

/// Ways through openings, how deep one is in a nest of zones, and rooms that are found in a level.
class TestRoomWays : public QObject
{
    Q_OBJECT

private slots:
    /// Each pair of a first and a last opening has its way; none goes through a room to come back into it.
    void thereAreSeveralWays()
    {
        const Level level = threeAndAPassage();
        const RoomMap map(level);
        RoomWays ways;
        ways.spreadFrom(map, {-6, -1, 1.5}, map.roomAt({-6, -1, 1.5}));
        std::vector<RoomWay> found;
        ways.waysTo(map, {6, -1, 1.5}, map.roomAt({6, -1, 1.5}), found);
        std::vector<std::vector<std::uint32_t>> holes;
        for (const RoomWay& way : found) {
            holes.push_back(way.holes);
            double length = 0.0;
            Vec3 at{-6, -1, 1.5};
            for (const Vec3& point : way.points) {
                length += glm::length(point - at);
                at = point;
            }
            QVERIFY(std::abs(length + glm::length(Vec3{6, -1, 1.5} - at) - way.length_m) < 1e-9);
        }
        // Straight through b, and round by the passage.
        QCOMPARE(holes, (std::vector<std::vector<std::uint32_t>>{{0, 1}, {2, 3}}));
        // Into b: by its own door, or by the passage and c.
        found.clear();
        ways.waysTo(map, {0, -1, 1.5}, map.roomAt({0, -1, 1.5}), found);
        holes.clear();
        for (const RoomWay& way : found) {
            holes.push_back(way.holes);
        }
        QCOMPARE(holes, (std::vector<std::vector<std::uint32_t>>{{0}, {2, 3, 1}}));
        // And not into c, on through the passage, out into the yard and back into c.
        Level open = level;
        open.openings.put(doorAt("out", {-9, 4.2}, {-9, 4.8}));
        open.openings.put(doorAt("back", {9, -0.5}, {9, 0.5}));
        const RoomMap more(open);
        ways.spreadFrom(more, {0, -1, 1.5}, more.roomAt({0, -1, 1.5}));
        found.clear();
        ways.waysTo(more, {6, -1, 1.5}, more.roomAt({6, -1, 1.5}), found);
        for (const RoomWay& way : found) {
            QVERIFY(way.holes.back() != 5 || way.holes.front() != 1);
        }
        QVERIFY(std::any_of(found.begin(), found.end(), [](const RoomWay& way) { return way.holes.back() == 5; }));
    }

    /// Two doors: what comes through both adds, and as one walks from one to the other nothing jumps.
    void twoDoorsAddUp()
    {
        TwoRooms rooms(1.0, {4, 0, 1.6});
        rooms.change([](Level& level) {
            level.openings = {};
            level.openings.put(doorAt("south", {0, -3}, {0, -2}));
            level.openings.put(doorAt("north", {0, 2}, {0, 3}));
        });
        Mesh wall;
        wall.materials = {"brick"};
        for (const auto& [from, to] : {std::pair(-4.3, -3.0), {-2.0, 2.0}, {3.0, 4.3}}) {
            addBox(wall, {-0.2, from, 0}, {0.2, to, 2.1});
        }
        addBox(wall, {-0.2, -4.3, 2.1}, {0.2, 4.3, 4});
        rooms.ground = groundOf(wall);
        const HearingModel model = rooms.model();
        const auto told = [&](const Vec3& ears) {
            const Moment moment(earsAt(ears, 90), now);
            return model.explain(moment, model.hearOne(earsAt(ears, 90), now, 0));
        };
        const auto middle = told({-4, 0, 1.6});
        QVERIFY(middle && middle->ways.size() == 2);
        // Alike: together 3 dB more than each.
        double one = 0.0;
        double both = 0.0;
        for (const double loss : middle->ways[0].loss_db()) {
            one += powerOf(loss) / 8.0;
        }
        for (const double loss : middle->screened.loss_db) {
            both += powerOf(loss) / 8.0;
        }
        const double more_db = 10.0 * std::log10(both / one);
        QVERIFY2(std::abs(more_db - 3.0) < 0.7, qPrintable(QString::number(more_db)));
        double before = told({-4, -3.5, 1.6})->screened.level_db();
        double worst = 0.0;
        for (double y = -3.5; y <= 3.5; y += 0.02) {
            const double level = told({-4, y, 1.6})->screened.level_db();
            worst = std::max(worst, std::abs(level - before));
            before = level;
        }
        QVERIFY2(worst < 0.5, qPrintable(QString::number(worst)));
    }

    /// Everything that reaches the ears along 200 walks through a door at 2 m/s: the sound itself with its walls and ways as
    /// the engine follows them, and both rooms' answer.
    void walkingThroughNothingJumps()
    {
        const TwoRooms rooms(1.4, {3, 1, 1.6});
        const HearingModel model = rooms.model();
        std::mt19937 chance(17);
        std::uniform_real_distribution<double> aside(-0.5, 0.5), far(-3.5, 3.5);
        constexpr double step_s = 256.0 / 48'000.0;
        double worst_db = 0.0;
        std::vector<Heard> heard;
        for (int walk = 0; walk < 200; ++walk) {
            const Vec3 a{-4, far(chance), 1.6};
            const Vec3 door{0, aside(chance), 1.6};
            // Past the source, no nearer than a metre.
            const Vec3 b{4, far(chance) < 0 ? -2.5 : -1.0, 1.6};
            const double first = glm::length(door - a);
            const double length = first + glm::length(b - door);
            HearScratch scratch;
            scratch.memory.emplace();
            std::vector<double> levels;
            for (double t = 0.0; 2.0 * t < length; t += step_s) {
                const double m = 2.0 * t;
                const Vec3 at = m < first ? a + (door - a) * (m / first) : door + (b - door) * ((m - first) / (length - first));
                model.hear(Moment(earsAt(at), {t, t + step_s}), heard, scratch);
                levels.push_back(
                    10.0 * std::log10(std::pow(10.0, heard[0].level_db / 10.0) + std::pow(10.0, heard[0].reverb_db / 10.0)));
            }
            for (std::size_t i = 4; i < levels.size(); ++i) {
                worst_db = std::max(worst_db, std::abs(levels[i] - levels[i - 4]));
            }
        }
        qInfo("largest change in 21 ms: %.2f dB", worst_db);
        QVERIFY2(worst_db < 1.5, qPrintable(QString::number(worst_db)));
    }

    /// Who listens on and on asks what stands before an opening once in eight steps: walking past a door, what the room
    /// beyond brings stays within 1.5 dB of what is asked for every time (as of a sound behind a corner), and comes to the same
    /// where one stands.
    void whatIsRememberedOfAnOpeningStaysNear()
    {
        TwoRooms rooms(1.4, {3, 1, 1.6});
        const HearingModel model = rooms.model();
        const auto beyond = [&](const Moment& moment, HearScratch& scratch) {
            std::vector<Heard> heard;
            model.hear(moment, heard, scratch);
            for (const RoomHeard& room : scratch.roomsHeard) {
                if (model.level().rooms[room.room]->id == model.level().rooms[1]->id) {
                    return 10.0 * std::log10(room.share());
                }
            }
            return -200.0;
        };
        HearScratch listening;
        listening.memory.emplace();
        constexpr double step_s = 512.0 / 48'000.0;
        double worst_db = 0.0;
        int differ = 0;
        double t = 0.0;
        Vec3 at{-2.0, -3.5, 1.6};
        for (; at.y < 3.0; at.y += 1.4 * step_s, t += step_s) {
            const Moment moment(earsAt(at), {t, t + step_s});
            HearScratch once;
            const double exact = beyond(moment, once);
            const double kept = beyond(moment, listening);
            QVERIFY(exact > -100.0 && kept > -100.0);
            worst_db = std::max(worst_db, std::abs(kept - exact));
            differ += kept != exact ? 1 : 0;
        }
        QVERIFY2(worst_db < 1.5, qPrintable(QString::number(worst_db)));
        QVERIFY(differ > 50);
        HearScratch once;
        const double exact = beyond(Moment(earsAt(at), {t, t + step_s}), once);
        for (int i = 0; i < 100; ++i, t += step_s) {
            beyond(Moment(earsAt(at), {t, t + step_s}), listening);
        }
        QVERIFY(std::abs(beyond(Moment(earsAt(at), {t, t + step_s}), listening) - exact) < 1e-3);
        // As after a jump: at once.
        listening.memory->forget();
        QVERIFY(std::abs(beyond(Moment(earsAt(at), {t, t + step_s}), listening) - exact) < 1e-9);
    }

    /// A door swings open at one signal and shut at another, from where it stands, and sound comes through as far as it is
    /// open.
    void doorsSwingOnSignals()
    {
        TwoRooms rooms(1.0, {4, 0, 1.6}, 0.0);
        rooms.change([](Level& level) {
            Opening door = *level.openings[0];
            door.opensOn = {"open"};
            door.closesOn = {"shut"};
            door.swing_s = 2.0;
            level.openings.put(door);
        });
        const HearingModel model = rooms.model();
        const World& world = model.world();
        WorldState state;
        const Ears ears = earsAt({-4, 0, 1.6}, 90);
        const auto pass = [&](double to_s, const char* signal = nullptr) {
            std::vector<Happening> happenings;
            if (signal != nullptr) {
                happenings.push_back({Cause::signal, SignalId{signal}, {}});
            }
            world.advance(state, {.to_s = to_s, .feet = ears, .happenings = happenings});
            const Moment moment = world.momentOf(state, ears, TimeSpan::at(to_s));
            return std::pair(world.openShare(moment, 0), model.hearOne(moment, 0).screened.level_db());
        };
        QCOMPARE(pass(1.0).first, 0.0);
        const double shut_db = pass(1.1).second;
        QCOMPARE(pass(1.2, "other").first, 0.0);
        QVERIFY(std::abs(pass(2.2, "open").first - 0.5) < 1e-9); // since 1.2 s
        const double half_db = pass(2.2).second;
        QVERIFY(std::abs(pass(2.7, "shut").first - 0.375) < 1e-9); // back from half open, over the same time
        QCOMPARE(pass(5.0).first, 0.0);
        QCOMPARE(pass(5.1, "open").first, 0.05);
        QCOMPARE(pass(8.0).first, 1.0);
        const double open_db = pass(8.1).second;
        // Half open lets half of the energy through.
        QVERIFY2(std::abs(open_db - half_db - 3.0) < 0.5,
                 qPrintable(QString("%1 %2 %3").arg(shut_db).arg(half_db).arg(open_db)));
        QVERIFY(shut_db < half_db - 6.0);
        // One signal for both opens and shuts in turn.
        TwoRooms bell(1.0, {4, 0, 1.6}, 1.0);
        bell.change([](Level& level) {
            Opening door = *level.openings[0];
            door.opensOn = door.closesOn = {"bell"};
            door.swing_s = 0.0;
            level.openings.put(door);
        });
        const HearingModel turning = bell.model();
        WorldState turns;
        for (const double expected : {0.0, 1.0, 0.0}) {
            const std::vector<Happening> ring{{Cause::signal, SignalId{"bell"}, {}}};
            turning.world().advance(turns, {.to_s = turns.time_s + 1.5, .feet = ears, .happenings = ring});
            const Moment moment = turning.world().momentOf(turns, ears, TimeSpan::at(turns.time_s));
            QCOMPARE(turning.world().openShare(moment, 0), expected);
        }
        // After an edit it stands where it stood.
        rooms.change([](Level& level) { level.openings.put(doorAt("another", {-6, 9}, {-5, 9})); });
        const HearingModel edited = rooms.model();
        const WorldState carried = edited.world().carriedOver(world, state);
        QCOMPARE(edited.world().openShare(edited.world().momentOf(carried, ears, TimeSpan::at(8.1)), 0), 1.0);
    }

    /// Behind three doors one is far in, however near the wall to the outside is; and coming in nothing jumps.
    void depthIsCountedFromTheDoor()
    {
        Level level = threeAndAPassage();
        level.openings.put(doorAt("in", {-9, -0.5}, {-9, 0.5}));
        const auto zone = [](const char* id, const char* parent, const Vec3& size) {
            Zone made;
            made.id = {id};
            made.parent = {parent};
            made.at = {0, 0.5, -1};
            made.shape = Box{size};
            return made;
        };
        level.zones.put(zone("night", "", {60, 60, 10}));
        level.zones.put(zone("house", "night", {18.4, 9.4, 6}));
        std::vector<Solid> solids;
        for (const auto& z : level.zones) {
            solids.emplace_back(z->shape, Solid::Frame{.at = z->at});
        }
        const ZoneMap zones(level, solids);
        const RoomMap rooms(level);
        const NestingDepths depths(rooms, zones);
        const auto depth = [&](const Vec3& at) { return depths.depth_m(rooms, zones, 1, at); };
        QVERIFY(!depths.depth_m(rooms, zones, 0, {0, 0, 1.5})); // nothing above it
        QVERIFY(!depth({-12, 0, 1.5}));
        // The border lies 20 cm before the door.
        QVERIFY(std::abs(*depth({-8.9, 0, 1.5}) - 0.3) < 1e-9);
        QVERIFY(std::abs(*depth({-7, 0, 1.5}) - 2.2) < 1e-9);
        // In the far corner of c: through a and b, though the wall beside is the border.
        QVERIFY2(std::abs(*depth({8.8, 0, 1.5}) - 18.0) < 0.1, qPrintable(QString::number(*depth({8.8, 0, 1.5}))));
        // From outside through all three rooms, out of line with the doors.
        ZonesAt at;
        const auto counted = [&](const Vec3& place) {
            zones.at(
                place, [](const Riding&) { return Carriage{}; }, at,
                [&](std::uint32_t z) { return depths.depth_m(rooms, zones, z, place); });
            for (const Presence& presence : at.in) {
                if (presence.zone == 1) {
                    return presence.way_m;
                }
            }
            return 0.0;
        };
        const Vec3 stops[] = {{-12, 0.4, 1.5}, {-9, 0.4, 1.5}, {-6, 2, 1.5}, {-3, -0.4, 1.5},
                              {0, 1, 1.5},     {3, 0.3, 1.5},  {8, -2, 1.5}};
        double before = 0.0;
        for (std::size_t i = 0; i + 1 < std::size(stops); ++i) {
            const Vec3 way = stops[i + 1] - stops[i];
            const double length = glm::length(way);
            for (double m = 0.0; m < length; m += 0.01) {
                const double now_m = counted(stops[i] + way * (m / length));
                QVERIFY2(std::abs(now_m - before) < 0.03,
                         qPrintable(QString("%1 after %2 at %3.%4").arg(now_m).arg(before).arg(i).arg(m)));
                before = now_m;
            }
        }
        QVERIFY(before > 15.0);
    }

    /// Two rooms of bricks and the door between, to the centimetre; a yard without a roof is none.
    void roomsAreFoundInTheLevel()
    {
        const TwoRooms rooms(1.2);
        Project project = rooms.project;
        project = withLevel(std::move(project), {"level"}, [](Level& level) {
            level.rooms = {};
            level.openings = {};
        });
        const Storey storey{.name = "ground", .floor_m = 0.0, .cut_m = 1.5, .extras = {}};
        const auto found = proposeRooms(project, *project.levels[0], storey, *rooms.ground, {});
        QVERIFY(found);
        QCOMPARE(found->rooms.size(), std::size_t(2));
        for (const Room& room : found->rooms) {
            const auto& prism = std::get<Prism>(room.shape);
            QVERIFY(std::abs(room.at.z) < 0.01 && std::abs(prism.height_m - 4.0) < 0.01);
            const Solid solid(room.shape, Solid::Frame{.at = room.at});
            const double side = room.at.x < 0.0 ? -1.0 : 1.0;
            // 8 by 8 m from the wall's face, to a cell of the grid.
            for (const Vec3& corner :
                 {Vec3{side * 0.35, 3.85, 1}, {side * 0.35, -3.85, 1}, {side * 8.05, 3.85, 1}, {side * 8.05, -3.85, 1}}) {
                QVERIFY(solid.contains(corner));
            }
            QVERIFY(std::abs(solid.volume_m3() - 256.0) < 12.0);
            // Bricks give much back: it rings for longer than a furnished room, and less at the top, where the air takes its
            // part.
            QVERIFY(room.reverb.rt60_s[4] > 2.0 && room.reverb.rt60_s[7] < room.reverb.rt60_s[4]);
        }
        QCOMPARE(found->openings.size(), std::size_t(1));
        const Opening& door = found->openings[0];
        QVERIFY(std::abs(door.from.x) < 0.1 && std::abs(door.to.x) < 0.1);
        QVERIFY(std::abs(std::abs(door.from.y - door.to.y) - 1.2) < 0.01);
        QVERIFY(std::abs(door.sill_m) < 0.01 && std::abs(door.head_m - 2.1) < 0.01);
        // What is there already is not found again.
        const auto again = proposeRooms(rooms.project, *rooms.project.levels[0], storey, *rooms.ground, {});
        QVERIFY(again && again->rooms.empty() && again->openings.empty());
        // Stopped.
        QVERIFY(!proposeRooms(project, *project.levels[0], storey, *rooms.ground, [](double) { return false; }));
        // A slit behind a wall, closed all round: a narrow room, with an outline all the same.
        Mesh slit;
        slit.materials = {"brick"};
        addBox(slit, {-1, -8, -0.3}, {1, 8, 0});
        addBox(slit, {-1, -8, 3}, {1, 8, 3.3});
        addBox(slit, {-1, -8, 0}, {-0.2, 8, 3});
        addBox(slit, {0.2, -8, 0}, {1, 8, 3});
        addBox(slit, {-0.2, -8, 0}, {0.2, -7, 3});
        addBox(slit, {-0.2, 7, 0}, {0.2, 8, 3});
        const auto narrow = proposeRooms(project, *project.levels[0], storey, *groundOf(slit), {});
        QVERIFY(narrow && narrow->rooms.size() <= 1);
        for (const Room& room : narrow->rooms) {
            QVERIFY(std::get<Prism>(room.shape).corners.size() >= 3);
            QVERIFY(Solid(room.shape, {}).volume_m3() > 8.0);
        }
        // Four walls round a yard.
        Mesh yard;
        yard.materials = {"brick"};
        addBox(yard, {-10, -10, -0.3}, {10, 10, 0});
        for (const double x : {-6.0, 5.7}) {
            addBox(yard, {x, -6, 0}, {x + 0.3, 6, 3});
            addBox(yard, {-6, x, 0}, {6, x + 0.3, 3});
        }
        const auto open = proposeRooms(project, *project.levels[0], storey, *groundOf(yard), {});
        QVERIFY(open && open->rooms.empty() && open->openings.empty());
    }
};

} // namespace tst_room_ways

STONE_TEST(tst_room_ways, TestRoomWays)
#include "tst_room_ways.moc"
