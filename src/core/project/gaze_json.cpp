// SPDX-License-Identifier: MPL-2.0
#include "project/gaze_json.h"

#include "project/fields.h"

#include <algorithm>

namespace stone
{

namespace
{

constexpr const char* whens[] = {"always", "signal", "zone"};

} // namespace

template <class Io> void describe(Io io, const Gaze&)
{
    io.flag("on", &Gaze::on);
    io.flag("horizontal", &Gaze::horizontal);
    io.number("rise_s", &Gaze::rise_s, {0.0, 60.0});
    io.number("fall_s", &Gaze::fall_s, {0.0, 60.0});
    io.word("when", &Gaze::when, whens);
    io.id("from", &Gaze::from);
    io.id("until", &Gaze::until);
    io.id("zone", &Gaze::zone);
}

namespace
{

template <class ThingId> std::vector<ThingId> ids(ObjectReader& reader, const char* key)
{
    std::vector<ThingId> all;
    for (const std::string& text : reader.texts(key)) {
        all.push_back({text});
    }
    return all;
}

template <class ThingId> void addIds(Json& json, const char* key, const std::vector<ThingId>& all)
{
    for (const ThingId& id : all) {
        json[key].push_back(id.text);
    }
}

} // namespace

template <> Range rangeOf(double Gaze::*member)
{
    return describedRange(member);
}

void readGaze(ObjectReader& reader, Gaze& gaze)
{
    describe(FieldReader(reader, gaze), gaze);
    reader.each("lanes", [&](ObjectReader& item) {
        Lane lane = readLane(item);
        const bool fits = lane.property == LaneProperty::level || lane.property == LaneProperty::nearness ||
                          lane.property == LaneProperty::priority;
        if (lane.over != LaneInput::gaze || !fits) {
            item.fail("over", "a gaze draws level, nearness and priority over \"gaze\"");
        }
        for (const Lane& other : gaze.lanes) {
            if (other.property == lane.property) {
                item.fail("property", "a gaze draws each property once; merge the two lanes");
            }
        }
        gaze.lanes.push_back(std::move(lane));
    });
    gaze.families = ids<FamilyId>(reader, "families");
    gaze.emitters = ids<EmitterId>(reader, "emitters");
    gaze.exempt = ids<EmitterId>(reader, "exempt");
    gaze.exemptFamilies = ids<FamilyId>(reader, "exempt_families");
    gaze.extras = reader.rest();
}

Json toJson(const Gaze& gaze)
{
    Json json{{"id", gaze.id.text}, {"name", gaze.name}};
    describe(FieldWriter(json, gaze), gaze);
    json["lanes"] = Json::array();
    for (const Lane& lane : gaze.lanes) {
        json["lanes"].push_back(toJson(lane));
    }
    addIds(json, "families", gaze.families);
    addIds(json, "emitters", gaze.emitters);
    addIds(json, "exempt", gaze.exempt);
    addIds(json, "exempt_families", gaze.exemptFamilies);
    addExtras(json, gaze.extras);
    return json;
}

} // namespace stone
