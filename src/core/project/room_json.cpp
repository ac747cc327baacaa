// SPDX-License-Identifier: MPL-2.0
#include "project/room_json.h"

#include "project/band_json.h"
#include "project/fields.h"
#include "project/shape_json.h"

namespace stone
{

namespace
{

constexpr Range decay{0.05, 30.0};
constexpr Range answer{-96.0, 24.0};
constexpr const char* tails[] = {"network", "response", "none"};

} // namespace

template <class Io> void describe(Io io, const Reverb&)
{
    io.flag("on", &Reverb::on);
    io.word("tail", &Reverb::tail, tails);
    io.text("response", &Reverb::response);
    io.number("pre_delay_ms", &Reverb::preDelay_ms, {0.0, 250.0});
    io.number("early_db", &Reverb::early_db, answer);
    io.number("late_db", &Reverb::late_db, answer);
    io.number("width", &Reverb::width, {0.0, 1.0});
}

template <class Io> void describe(Io io, const Outside&)
{
    io.number("echoes_db", &Outside::echoes_db, answer);
}

template <class Io> void describe(Io io, const Room&)
{
    io.place("at", &Room::at);
    io.number("heading_deg", &Room::heading_deg, ranges::degrees);
}

template <class Io> void describe(Io io, const Opening&)
{
    io.number("sill_m", &Opening::sill_m, ranges::metres);
    io.number("head_m", &Opening::head_m, ranges::metres);
    io.number("open", &Opening::open, {0.0, 1.0});
    io.id("follows", &Opening::follows);
    io.id("opens_on", &Opening::opensOn);
    io.id("closes_on", &Opening::closesOn);
    io.number("swing_s", &Opening::swing_s, {0.0, 60.0});
    io.id("leaf", &Opening::leaf);
}

namespace
{

Reverb readReverb(ObjectReader reader)
{
    Reverb reverb;
    if (reader.has("rt60_s")) {
        reverb.rt60_s = readBands(reader, "rt60_s", decay);
    }
    describe(FieldReader(reader, reverb), reverb);
    reverb.extras = reader.rest();
    return reverb;
}

Json toJson(const Reverb& reverb)
{
    Json json = Json::object();
    addUnless(json, "rt60_s", reverb.rt60_s, Reverb{}.rt60_s);
    describe(FieldWriter(json, reverb), reverb);
    addExtras(json, reverb.extras);
    return json;
}

} // namespace

template <> Range rangeOf(double Reverb::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Outside::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Room::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Opening::*member)
{
    return describedRange(member);
}

void readRoom(ObjectReader& reader, Room& room)
{
    if (reader.has("shape")) {
        room.shape = readShape(reader.object("shape"));
    }
    describe(FieldReader(reader, room), room);
    if (reader.has("reverb")) {
        room.reverb = readReverb(reader.object("reverb"));
    }
    room.extras = reader.rest();
}

Json toJson(const Room& room)
{
    Json json{{"id", room.id.text}, {"name", room.name}};
    describe(FieldWriter(json, room), room);
    json["shape"] = toJson(room.shape);
    if (!(room.reverb == Reverb{})) {
        json["reverb"] = toJson(room.reverb);
    }
    addExtras(json, room.extras);
    return json;
}

Outside readOutside(ObjectReader reader)
{
    Outside outside;
    describe(FieldReader(reader, outside), outside);
    outside.extras = reader.rest();
    return outside;
}

Json toJson(const Outside& outside)
{
    Json json = Json::object();
    describe(FieldWriter(json, outside), outside);
    addExtras(json, outside.extras);
    return json;
}

void readOpening(ObjectReader& reader, Opening& opening)
{
    opening.from = reader.plane("from", opening.from);
    opening.to = reader.plane("to", opening.to);
    describe(FieldReader(reader, opening), opening);
    if (opening.head_m <= opening.sill_m) {
        reader.fail("head_m", "an opening's upper edge must lie above its lower one, sill_m");
    }
    if (opening.from == opening.to) {
        reader.fail("to", "an opening must have a width; give its line two different ends");
    }
    opening.extras = reader.rest();
}

Json toJson(const Opening& opening)
{
    Json json{{"id", opening.id.text},
              {"name", opening.name},
              {"from", Json::array({opening.from.x, opening.from.y})},
              {"to", Json::array({opening.to.x, opening.to.y})}};
    describe(FieldWriter(json, opening), opening);
    addExtras(json, opening.extras);
    return json;
}

} // namespace stone
