// SPDX-License-Identifier: MPL-2.0
#include "project/plant_json.h"

#include "project/fields.h"
#include "project/shape_json.h"

#include <algorithm>

namespace stone
{

namespace
{

constexpr const char* plantWheres[plantWhereCount] = {"line",    "edges", "corners",  "shape",
                                                      "surface", "nodes", "openings", "route"};

OddCopy readException(ObjectReader& reader)
{
    OddCopy exception;
    exception.copy = reader.text("copy");
    if (exception.copy.empty()) {
        reader.fail("copy", "an exception says which copy it is of; take it out, or write the copy's name here");
    }
    exception.at = reader.place("at", exception.at);
    exception.leftOut = reader.flag("left_out", exception.leftOut);
    if (reader.has("level_db")) {
        exception.level_db = reader.number("level_db", 0.0, ranges::level_db);
    }
    exception.extras = reader.rest();
    return exception;
}

Json toJson(const OddCopy& exception)
{
    Json json{{"copy", exception.copy}, {"at", Json::array({exception.at.x, exception.at.y, exception.at.z})}};
    addUnless(json, "left_out", exception.leftOut, false);
    if (exception.level_db) {
        json["level_db"] = *exception.level_db;
    }
    addExtras(json, exception.extras);
    return json;
}

} // namespace

template <class Io> void describe(Io io, const Plant&)
{
    io.flag("on", &Plant::on);
    io.id("pattern", &Plant::pattern);
    io.word("where", &Plant::where, plantWheres);
    io.text("surface", &Plant::surface);
    io.text("names", &Plant::names);
    io.id("roamer", &Plant::roamer);
    io.place("at", &Plant::at);
    io.number("heading_deg", &Plant::heading_deg, ranges::degrees);
    io.number("every_m", &Plant::every_m, {0.05, 10'000.0});
    io.number("bend_deg", &Plant::bend_deg, {1.0, 180.0});
    io.number("apart_m", &Plant::apart_m, {0.0, 10'000.0});
    io.place("offset_m", &Plant::offset);
    io.flag("turns", &Plant::turns);
    io.number("turn_deg", &Plant::turn_deg, ranges::degrees);
    io.number("tilt_deg", &Plant::tilt_deg, {-90.0, 90.0});
    io.flag("on_floor", &Plant::onFloor);
    io.number("chance", &Plant::chance, ranges::share);
    io.id("zone", &Plant::zone);
    io.number("lowest_m", &Plant::lowest_m, {-10'000.0, 10'000.0});
    io.upper("highest_m", &Plant::highest_m, {-10'000.0, 10'000.0}, &Plant::lowest_m);
}

const char* wordOf(Plant::Where where)
{
    return plantWheres[static_cast<std::size_t>(where)];
}

template <> Range rangeOf(double Plant::*member)
{
    return describedRange(member);
}

void readPlant(ObjectReader& reader, Plant& plant)
{
    if (reader.has("shape")) {
        plant.shape = readShape(reader.object("shape"));
    }
    describe(FieldReader(reader, plant), plant);
    if (reader.has("edges")) {
        plant.edges.fill(false);
        for (const std::string& word : reader.texts("edges")) {
            std::size_t kind = 0;
            while (kind < edgeKindCount && word != wordOf(static_cast<EdgeKind>(kind))) {
                ++kind;
            }
            if (kind == edgeKindCount) {
                reader.fail("edges", "expected drop, wall, kerb, step or water, found \"" + word + '"');
            }
            plant.edges[kind] = true;
        }
    }
    if (strews(plant.where) && plant.apart_m <= 0.0) {
        reader.fail("apart_m", "what is strewn needs a least distance; write how far apart the copies are");
    }
    if (plant.where == Plant::Where::line && !std::holds_alternative<Ribbon>(plant.shape)) {
        reader.fail("shape", "what is planted along a line has a \"line\" as its shape");
    }
    reader.each("exceptions", [&](ObjectReader& item) { plant.exceptions.push_back(readException(item)); });
    plant.extras = reader.rest();
}

Json toJson(const Plant& plant)
{
    Json json{{"id", plant.id.text}, {"name", plant.name}};
    describe(FieldWriter(json, plant), plant);
    if (plant.edges != Plant{}.edges) {
        json["edges"] = Json::array();
        for (std::size_t kind = 0; kind < edgeKindCount; ++kind) {
            if (plant.edges[kind]) {
                json["edges"].push_back(wordOf(static_cast<EdgeKind>(kind)));
            }
        }
    }
    if (!(plant.shape == Plant{}.shape)) {
        json["shape"] = toJson(plant.shape);
    }
    for (const OddCopy& exception : plant.exceptions) {
        json["exceptions"].push_back(toJson(exception));
    }
    addExtras(json, plant.extras);
    return json;
}

} // namespace stone
