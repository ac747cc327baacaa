// SPDX-License-Identifier: MPL-2.0
#include "project/rig_json.h"

#include "project/fields.h"

namespace stone
{

namespace
{

constexpr const char* rigKinds[] = {"first_person", "over_shoulder", "from_above", "side_on"};
constexpr const char* facings[] = {"camera", "character", "fixed"};
constexpr const char* who[] = {"ears", "character", "camera"};

} // namespace

template <class Io> void describe(Io io, const Rig&)
{
    io.word("kind", &Rig::kind, rigKinds);
    io.number("distance_m", &Rig::distance_m, ranges::length);
    io.number("height_m", &Rig::height_m, {-1000.0, 1000.0});
    io.number("angle_deg", &Rig::angle_deg, {-180.0, 180.0});
    io.number("tilt_deg", &Rig::tilt_deg, {0.0, 90.0});
    io.flag("turns", &Rig::turns);
    io.number("heading_deg", &Rig::heading_deg, ranges::degrees);
    io.flag("kept_out_of_walls", &Rig::keptOutOfWalls);
    io.number("ears", &Rig::ears, {0.0, 1.0});
    io.number("raised_m", &Rig::raised_m, {-1000.0, 1000.0});
    io.word("facing", &Rig::facing, facings);
    io.number("fixed_deg", &Rig::fixed_deg, ranges::degrees);
}

template <class Io> void describe(Io io, const Counting&)
{
    io.word("entering", &Counting::entering, who);
    io.word("nearest", &Counting::nearest, who);
    io.word("gaze", &Counting::gaze, who);
}

template <> Range rangeOf(double Rig::*member)
{
    return describedRange(member);
}

void readRig(ObjectReader& reader, Rig& rig)
{
    describe(FieldReader(reader, rig), rig);
    rig.extras = reader.rest();
}

Json toJson(const Rig& rig)
{
    Json json{{"id", rig.id.text}, {"name", rig.name}};
    describe(FieldWriter(json, rig), rig);
    addExtras(json, rig.extras);
    return json;
}

Counting readCounting(ObjectReader reader)
{
    Counting counting;
    describe(FieldReader(reader, counting), counting);
    counting.extras = reader.rest();
    return counting;
}

Json toJson(const Counting& counting)
{
    Json json = Json::object();
    describe(FieldWriter(json, counting), counting);
    addExtras(json, counting.extras);
    return json;
}

} // namespace stone
