// SPDX-License-Identifier: MPL-2.0
#include "project/lane_json.h"

#include "project/fields.h"
#include "project/settings.h"

#include <algorithm>

namespace stone
{

namespace
{

constexpr std::size_t mostPoints = 1000;

constexpr const char* properties[] = {"level", "low_pass", "high_pass", "spread",   "placement",
                                      "send",  "nearness", "priority",  "interval", "pitch"};
constexpr const char* inputs[] = {"distance", "off_front", "direction", "speed", "time", "depth", "game_value", "gaze"};
constexpr const char* models[] = {"inverse", "linear", "exponential"};
constexpr const char* shapes[] = {"formula", "two_angles", "curve"};
constexpr const char* segments[] = {"straight", "smooth", "slow_start", "slow_end", "hold"};

} // namespace

template <class Io> void describe(Io io, const DistanceFormula&)
{
    io.word("model", &DistanceFormula::model, models);
    io.number("reference_m", &DistanceFormula::reference_m, ranges::length);
    io.number("maximum_m", &DistanceFormula::maximum_m, ranges::length);
    io.number("factor", &DistanceFormula::factor, {0.0, 1000.0});
    io.number("silent_at_m", &DistanceFormula::silentAt_m, ranges::length);
    io.number("stays_from_m", &DistanceFormula::staysFrom_m, ranges::length);
}

template <class Io> void describe(Io io, const TwoAngles&)
{
    io.number("inner_deg", &TwoAngles::inner_deg, {0.0, 360.0});
    io.number("outer_deg", &TwoAngles::outer_deg, {0.0, 360.0});
}

namespace
{

template <class Word, std::size_t count>
Word word(ObjectReader& reader, const std::string& key, Word usual, const char* const (&words)[count])
{
    return static_cast<Word>(reader.word(key, static_cast<std::size_t>(usual), words));
}

} // namespace

Curve readCurve(ObjectReader& reader, const char* key, Range values)
{
    Curve curve;
    reader.each(key, [&](ObjectReader& item) {
        CurvePoint point;
        point.x = item.number("x", 0.0, laneInputs);
        point.y = item.number("y", 0.0, values);
        point.segment = word(item, "to_next", Segment::straight, segments);
        if (!curve.empty() && point.x < curve.back().x) {
            item.fail("x", "the points of a curve go in order of x; this one lies before the one above it");
        }
        if (!item.rest().empty()) {
            item.fail("", "a curve point has x, y and to_next only; take the other keys out");
        }
        curve.push_back(point);
        if (curve.size() > mostPoints) {
            reader.fail(key, "a curve has at most " + std::to_string(mostPoints) + " points");
        }
    });
    return curve;
}

Json toJson(const Curve& curve)
{
    Json points = Json::array();
    for (const CurvePoint& point : curve) {
        Json item{{"x", point.x}, {"y", point.y}};
        if (point.segment != Segment::straight) {
            item["to_next"] = segments[static_cast<std::size_t>(point.segment)];
        }
        points.push_back(std::move(item));
    }
    return points;
}

Range rangeOf(LaneProperty property)
{
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send: return ranges::level_db;
    case LaneProperty::lowPass:
    case LaneProperty::highPass: return ranges::cutoff_hz;
    case LaneProperty::spread: return {0.0, 360.0};
    case LaneProperty::placement: return ranges::share;
    case LaneProperty::nearness: return {0.01, 100.0};
    case LaneProperty::priority: return {-3.0, 3.0};
    case LaneProperty::interval: return {0.02, 10.0};
    case LaneProperty::pitch: return ranges::semitones;
    }
    return ranges::metres;
}

template <> Range rangeOf(double DistanceFormula::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double TwoAngles::*member)
{
    return describedRange(member);
}

Lane readLane(ObjectReader& reader)
{
    Lane lane;
    lane.property = word(reader, "property", LaneProperty::level, properties);
    lane.over = word(reader, "over", LaneInput::distance, inputs);
    if (lane.over == LaneInput::gameValue) {
        lane.value.text = reader.text("value");
    }
    lane.on = reader.flag("on", true);
    const bool formulaFits = lane.property == LaneProperty::level && lane.over == LaneInput::distance;
    const bool anglesFit = lane.over == LaneInput::offFront || lane.over == LaneInput::gaze;
    const bool nears =
        lane.property == LaneProperty::nearness && lane.over != LaneInput::gaze && lane.over != LaneInput::gameValue;
    if (nears || (lane.property == LaneProperty::priority && lane.over != LaneInput::gaze)) {
        reader.fail("over",
                    "nearness and priority follow the gaze, nearness of a family a game value; draw this lane over \"gaze\"");
    }
    const bool ofBeats = lane.property == LaneProperty::interval || lane.property == LaneProperty::pitch;
    if (ofBeats && lane.over != LaneInput::distance) {
        reader.fail("over", "interval and pitch are of a pulse's beats, over the distance to what they tell of; draw this lane "
                            "over \"distance\"");
    }
    const LaneShape usualShape = formulaFits ? LaneShape::formula : anglesFit ? LaneShape::twoAngles : LaneShape::curve;
    lane.shape = word(reader, "shape", reader.has("points") ? LaneShape::curve : usualShape, shapes);
    if (lane.shape == LaneShape::formula && !formulaFits) {
        reader.fail("shape", "a formula is for the level over distance; draw this lane as a curve");
    }
    if (lane.shape == LaneShape::twoAngles && !anglesFit) {
        reader.fail("shape", "two angles are for lanes over off_front or gaze; draw this lane as a curve");
    }
    describe(FieldReader(reader, lane.formula), lane.formula);
    const Range values = rangeOf(lane.property);
    const bool anglesUsed = lane.shape == LaneShape::twoAngles;
    const TwoAngles angles = anglesUsed ? usualAngles(lane.property) : TwoAngles{};
    lane.angles = angles;
    describe(FieldReader(reader, lane.angles), lane.angles);
    lane.angles.inside = reader.number("inside", angles.inside, anglesUsed ? values : ranges::metres);
    lane.angles.behind = reader.number("behind", angles.behind, anglesUsed ? values : ranges::metres);
    lane.curve = readCurve(reader, "points", values);
    if (lane.shape == LaneShape::curve && lane.curve.empty()) {
        reader.fail("points", "a curve needs at least one point, as in {\"x\": 0, \"y\": 0}");
    }
    lane.extras = reader.rest();
    return lane;
}

const char* wordOf(DistanceModel model)
{
    return models[static_cast<std::size_t>(model)];
}

Json toJson(const Lane& lane)
{
    Json json{{"property", properties[static_cast<std::size_t>(lane.property)]},
              {"over", inputs[static_cast<std::size_t>(lane.over)]}};
    addUnless(json, "value", lane.value.text, std::string{});
    addUnless(json, "on", lane.on, true);
    json["shape"] = shapes[static_cast<std::size_t>(lane.shape)];
    if (lane.shape == LaneShape::formula || !(lane.formula == DistanceFormula{})) {
        json["model"] = models[static_cast<std::size_t>(lane.formula.model)];
        json["reference_m"] = lane.formula.reference_m;
        json["maximum_m"] = lane.formula.maximum_m;
        json["factor"] = lane.formula.factor;
        addUnless(json, "silent_at_m", lane.formula.silentAt_m, 0.0);
        addUnless(json, "stays_from_m", lane.formula.staysFrom_m, 0.0);
    }
    if (lane.shape == LaneShape::twoAngles || !(lane.angles == TwoAngles{})) {
        json["inner_deg"] = lane.angles.inner_deg;
        json["outer_deg"] = lane.angles.outer_deg;
        json["inside"] = lane.angles.inside;
        json["behind"] = lane.angles.behind;
    }
    if (!lane.curve.empty()) {
        json["points"] = toJson(lane.curve);
    }
    addExtras(json, lane.extras);
    return json;
}

void readFalloffLanes(ObjectReader& reader, Falloff& falloff)
{
    if (reader.has("lanes")) {
        falloff.lanes.clear();
        reader.each("lanes", [&](ObjectReader& item) {
            Lane lane = readLane(item);
            if (lane.over != LaneInput::distance) {
                item.fail("over", "a falloff's lanes follow the distance; put this one under the emitter's own \"lanes\"");
            }
            for (const Lane& other : falloff.lanes) {
                if (other.property == lane.property) {
                    item.fail("property", "a falloff draws each property once; merge the two lanes");
                }
            }
            falloff.lanes.push_back(std::move(lane));
        });
        const auto level = std::find_if(falloff.lanes.begin(), falloff.lanes.end(),
                                        [](const Lane& lane) { return lane.property == LaneProperty::level; });
        if (level == falloff.lanes.end()) {
            Lane flat;
            flat.on = false;
            falloff.lanes.insert(falloff.lanes.begin(), flat);
        } else {
            std::rotate(falloff.lanes.begin(), level, level + 1);
        }
    }
    falloff.extras = reader.rest();
}

Json toJson(const Falloff& falloff)
{
    Json json = Json::object();
    addUnless(json, "id", falloff.id.text, std::string{});
    addUnless(json, "name", falloff.name, std::string{});
    json["lanes"] = Json::array();
    for (const Lane& lane : falloff.lanes) {
        json["lanes"].push_back(toJson(lane));
    }
    addExtras(json, falloff.extras);
    return json;
}

void addExtras(Json& object, const Extras& extras)
{
    for (const auto& [key, text] : extras) {
        object[key] = Json::parse(text);
    }
}

} // namespace stone
