// SPDX-License-Identifier: MPL-2.0
#include "project/ambience_json.h"

#include "project/fields.h"
#include "project/shape_json.h"

namespace stone
{

namespace
{

constexpr const char* wheres[] = {"ring", "box", "shape", "zone"};
constexpr const char* pulseLooks[] = {"ahead", "sides", "all"};
constexpr Range beats{0.02, 10.0}; ///< seconds from one to the next
constexpr const char* orders[] = {"in_turn", "there_and_back", "shuffled"};
constexpr const char* roundEnds[] = {"travels_back", "starts_over"};
constexpr const char* carriers[] = {"nothing", "character", "roamer", "node", "game"};
constexpr Range longTime{0.01, 1e6};
constexpr Range elevation{-90.0, 90.0};
constexpr Range speed{0.01, 1000.0};
constexpr std::size_t mostStops = 1000;

} // namespace

template <class Io> void describe(Io io, const Area&)
{
    io.number("glide_m_s", &Area::glide_m_s, {0.01, 1e6});
    io.flag("widens", &Area::widens);
    io.flag("shares_voice", &Area::sharesVoice);
}

template <class Io> void describe(Io io, const Sprinkling&)
{
    io.number("least_s", &Sprinkling::least_s, longTime);
    io.upper("most_s", &Sprinkling::most_s, longTime, &Sprinkling::least_s);
    io.flag("natural_rate", &Sprinkling::naturalRate);
    io.flag("waits_for_tail", &Sprinkling::waitsForTail);
    io.whole("at_once", &Sprinkling::atOnce, 1, 32);
    io.whole("in_all", &Sprinkling::inAll, 0, 1'000'000);
    io.number("skip_chance", &Sprinkling::skipChance, ranges::share);
    io.word("where", &Sprinkling::where, wheres);
    io.number("nearest_m", &Sprinkling::nearest_m, ranges::length);
    io.upper("farthest_m", &Sprinkling::farthest_m, ranges::length, &Sprinkling::nearest_m);
    io.number("from_angle_deg", &Sprinkling::fromAngle_deg, ranges::angle);
    io.upper("to_angle_deg", &Sprinkling::toAngle_deg, ranges::angle, &Sprinkling::fromAngle_deg);
    io.number("lowest_deg", &Sprinkling::lowest_deg, elevation);
    io.upper("highest_deg", &Sprinkling::highest_deg, elevation, &Sprinkling::lowest_deg);
    io.place("low_m", &Sprinkling::low_m);
    io.place("high_m", &Sprinkling::high_m);
    io.flag("evenly", &Sprinkling::evenly);
    io.flag("follows", &Sprinkling::follows);
    io.flag("inside_zone", &Sprinkling::insideZone);
    io.flag("outside_solids", &Sprinkling::outsideSolids);
    io.id("answer", &Sprinkling::answer);
    io.number("answer_least_s", &Sprinkling::answerLeast_s, longTime);
    io.upper("answer_most_s", &Sprinkling::answerMost_s, longTime, &Sprinkling::answerLeast_s);
    io.number("answer_chance", &Sprinkling::answerChance, ranges::share);
}

template <class Io> void describe(Io io, const Pulsing&)
{
    io.flag("drops", &Pulsing::drops);
    io.flag("walls", &Pulsing::walls);
    io.flag("water", &Pulsing::water);
    io.flag("kerbs", &Pulsing::kerbs);
    io.flag("steps", &Pulsing::steps);
    io.word("looks", &Pulsing::looks, pulseLooks);
    io.number("aside_deg", &Pulsing::aside_deg, {1.0, 80.0});
    io.number("within_m", &Pulsing::within_m, {0.1, 200.0});
    io.number("margin_m", &Pulsing::margin_m, {0.0, 100.0});
    io.number("nearest_s", &Pulsing::nearest_s, beats);
    io.number("farthest_s", &Pulsing::farthest_s, beats);
    io.id("drop_sound", &Pulsing::dropSound);
    io.id("wall_sound", &Pulsing::wallSound);
    io.id("water_sound", &Pulsing::waterSound);
    io.id("kerb_sound", &Pulsing::kerbSound);
    io.id("step_sound", &Pulsing::stepSound);
}

template <class Io> void describe(Io io, const Roaming&)
{
    io.word("order", &Roaming::order, orders);
    io.flag("by_time", &Roaming::byTime);
    io.number("speed_m_s", &Roaming::speed_m_s, speed);
    io.number("leg_s", &Roaming::leg_s, longTime);
    io.number("ease", &Roaming::ease, {0.0, 0.5});
    io.number("wait_s", &Roaming::wait_s, ranges::seconds);
    io.word("round_end", &Roaming::roundEnd, roundEnds);
    io.number("pause_s", &Roaming::pause_s, ranges::seconds);
    io.number("period_s", &Roaming::period_s, ranges::seconds);
    io.whole("rounds", &Roaming::rounds, 0, 1'000'000);
    io.flag("around_walls", &Roaming::aroundWalls);
    io.flag("only_moving", &Roaming::onlyMoving);
    io.id("arriving", &Roaming::arriving);
    io.number("arriving_after_s", &Roaming::arrivingAfter_s, ranges::seconds);
    io.number("arriving_for_s", &Roaming::arrivingFor_s, ranges::seconds);
    io.number("arriving_db", &Roaming::arriving_db, ranges::level_db);
}

template <class Io> void describe(Io io, const Riding&)
{
    io.word("on", &Riding::on, carriers);
    io.id("roamer", &Riding::roamer);
    io.text("node", &Riding::node);
    io.flag("turns_along", &Riding::turnsAlong);
    io.text("thing", &Riding::thing);
}

template <class Io> void describe(Io io, const Zone&)
{
    io.place("at", &Zone::at);
    io.number("heading_deg", &Zone::heading_deg, ranges::degrees);
    io.number("margin_m", &Zone::margin_m, ranges::length);
    io.id("parent", &Zone::parent);
    io.flag("holds_sprinkles", &Zone::holdsSprinkles);
}

template <> Range rangeOf(double Area::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Sprinkling::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Sprinkling::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Roaming::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Roaming::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Zone::*member)
{
    return describedRange(member);
}

Lane fadeOverDepth(double silentAt_m)
{
    Lane lane;
    lane.over = LaneInput::depth;
    lane.shape = LaneShape::curve;
    // Half a metre at full level keeps a doorway from being dull; -18 dB halfway sounds like leaving, not like a fader.
    lane.curve = {{0.0, 0.0, Segment::smooth}, {silentAt_m / 2.0, -18.0, Segment::smooth}, {silentAt_m, -96.0}};
    return lane;
}

Area readArea(ObjectReader reader)
{
    Area area;
    if (reader.has("shape")) {
        area.shape = readShape(reader.object("shape"));
    }
    describe(FieldReader(reader, area), area);
    area.extras = reader.rest();
    return area;
}

Json toJson(const Area& area)
{
    Json json{{"shape", toJson(area.shape)}};
    describe(FieldWriter(json, area), area);
    addExtras(json, area.extras);
    return json;
}

Sprinkling readSprinkling(ObjectReader reader, const SoundReference& sound)
{
    Sprinkling s;
    describe(FieldReader(reader, s), s);
    if (reader.has("shape")) {
        s.shape = readShape(reader.object("shape"));
    }
    if (!s.answer.empty()) {
        s.answer = sound(s.answer.text);
    }
    for (int axis = 0; axis < 3; ++axis) {
        if (s.high_m[axis] < s.low_m[axis]) {
            reader.fail("high_m", "the most is below the least; change the two round");
        }
    }
    s.extras = reader.rest();
    return s;
}

Json toJson(const Sprinkling& sprinkling)
{
    Json json = Json::object();
    describe(FieldWriter(json, sprinkling), sprinkling);
    if (!(sprinkling.shape == Sprinkling{}.shape)) {
        json["shape"] = toJson(sprinkling.shape);
    }
    addExtras(json, sprinkling.extras);
    return json;
}

Roaming readRoaming(ObjectReader reader, const SoundReference& sound)
{
    Roaming roaming;
    reader.each("stops", [&](ObjectReader& item) {
        Stop stop;
        stop.at = item.place("at", stop.at);
        if (item.has("wait_s")) {
            stop.wait_s = item.number("wait_s", 0.0, ranges::seconds);
        }
        if (item.has("leg_s")) {
            stop.leg_s = item.number("leg_s", longTime.least, longTime);
        }
        stop.extras = item.rest();
        roaming.stops.push_back(std::move(stop));
        if (roaming.stops.size() > mostStops) {
            reader.fail("stops", "a Roamer has at most " + std::to_string(mostStops) + " stops");
        }
    });
    describe(FieldReader(reader, roaming), roaming);
    if (!roaming.arriving.empty()) {
        roaming.arriving = sound(roaming.arriving.text);
    }
    roaming.extras = reader.rest();
    return roaming;
}

Json toJson(const Roaming& roaming)
{
    Json json = Json::object();
    for (const Stop& stop : roaming.stops) {
        Json item{{"at", Json::array({stop.at.x, stop.at.y, stop.at.z})}};
        if (stop.wait_s) {
            item["wait_s"] = *stop.wait_s;
        }
        if (stop.leg_s) {
            item["leg_s"] = *stop.leg_s;
        }
        addExtras(item, stop.extras);
        json["stops"].push_back(std::move(item));
    }
    describe(FieldWriter(json, roaming), roaming);
    addExtras(json, roaming.extras);
    return json;
}

Stepping readStepping(ObjectReader reader, const SoundReference& sound)
{
    Stepping stepping;
    reader.each("surfaces", [&](ObjectReader& item) {
        SurfaceSound surface;
        surface.surface = item.text("surface");
        surface.sound = sound(item.text("sound"));
        surface.level_db = item.number("level_db", 0.0, ranges::level_db);
        stepping.surfaces.push_back(std::move(surface));
    });
    if (reader.has("stride")) {
        stepping.stride.clear();
        reader.each("stride", [&](ObjectReader& item) {
            const double least = stepping.stride.empty() ? 0.0 : stepping.stride.back().x;
            stepping.stride.push_back(
                {item.number("speed_m_s", least, {least, 1000.0}), item.number("step_m", 0.75, {0.05, 100.0})});
        });
    }
    stepping.extras = reader.rest();
    return stepping;
}

Pulsing readPulsing(ObjectReader reader, const SoundReference& sound)
{
    auto pulsing = readThing<Pulsing>(reader);
    for (SoundId* id : {&pulsing.dropSound, &pulsing.wallSound, &pulsing.waterSound, &pulsing.kerbSound, &pulsing.stepSound}) {
        *id = id->empty() ? SoundId{} : sound(id->text);
    }
    return pulsing;
}

Json toJson(const Pulsing& pulsing)
{
    return jsonOf(pulsing);
}

template <> Range rangeOf(double Pulsing::*member)
{
    return describedRange(member);
}

Json toJson(const Stepping& stepping)
{
    Json json = Json::object();
    for (const SurfaceSound& surface : stepping.surfaces) {
        json["surfaces"].push_back(
            Json{{"surface", surface.surface}, {"sound", surface.sound.text}, {"level_db", surface.level_db}});
    }
    if (stepping.stride != Stepping{}.stride) {
        json["stride"] = Json::array();
        for (const CurvePoint& point : stepping.stride) {
            json["stride"].push_back(Json{{"speed_m_s", point.x}, {"step_m", point.y}});
        }
    }
    addExtras(json, stepping.extras);
    return json;
}

Riding readRiding(ObjectReader reader)
{
    Riding riding;
    describe(FieldReader(reader, riding), riding);
    return riding;
}

Json toJson(const Riding& riding)
{
    Json json = Json::object();
    describe(FieldWriter(json, riding), riding);
    return json;
}

void readZone(ObjectReader& reader, Zone& zone, const std::function<GameValueId(const std::string&)>& value)
{
    if (reader.has("shape")) {
        zone.shape = readShape(reader.object("shape"));
    }
    describe(FieldReader(reader, zone), zone);
    zone.margins = reader.lengths("margins_m");
    if (reader.has("fades")) {
        zone.fades.clear();
        reader.each("fades", [&](ObjectReader& item) {
            Lane lane = readLane(item);
            if (lane.over != LaneInput::depth && lane.over != LaneInput::gameValue) {
                item.fail("over", "what a zone's parent does follows \"depth\" or a \"game_value\"");
            }
            if (lane.property == LaneProperty::nearness) {
                item.fail("property", "nearness belongs to a gaze or a family; put this lane into the \"lanes\" of one");
            }
            lane.value = value(lane.value.text);
            zone.fades.push_back(std::move(lane));
        });
    }
    if (reader.has("riding")) {
        zone.riding = readRiding(reader.object("riding"));
    }
    zone.extras = reader.rest();
}

Json toJson(const Zone& zone)
{
    Json json{{"id", zone.id.text}, {"name", zone.name}};
    describe(FieldWriter(json, zone), zone);
    json["shape"] = toJson(zone.shape);
    if (!zone.margins.empty()) {
        json["margins_m"] = zone.margins;
    }
    if (zone.fades != Zone{}.fades) {
        json["fades"] = Json::array();
        for (const Lane& lane : zone.fades) {
            json["fades"].push_back(toJson(lane));
        }
    }
    if (!(zone.riding == Riding{})) {
        json["riding"] = toJson(zone.riding);
    }
    addExtras(json, zone.extras);
    return json;
}

} // namespace stone
