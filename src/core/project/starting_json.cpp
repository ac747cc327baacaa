// SPDX-License-Identifier: MPL-2.0
#include "project/starting_json.h"

#include "project/fields.h"

namespace stone
{

namespace
{

constexpr const char* causes[] = {"level", "enter", "leave", "signal", "interact", "jump",
                                  "land",  "fall",  "reset", "near",   "far"};
constexpr const char* comparisons[] = {"at_least", "at_most"};
constexpr const char* seconds[] = {"restart", "pause_and_resume", "stop", "ignore", "another"};
constexpr const char* rounds[] = {"as_the_sound", "endless", "once"};
constexpr const char* events[] = {"signal", "value", "interact", "reset", "burst"};
constexpr const char* burstOf[] = {"emitter", "signal", "use"};
constexpr const char* burstWhere[] = {"own", "here", "around"};
constexpr Range number{-1e9, 1e9};

bool hasDistance(Cause cause)
{
    return cause == Cause::interact || cause == Cause::near || cause == Cause::far;
}

/// Only what belongs to the cause is kept: the rest would say nothing.
std::vector<Trigger> readTriggers(ObjectReader& reader, const char* key, const SteeringReferences& references)
{
    std::vector<Trigger> triggers;
    reader.each(key, [&](ObjectReader& item) {
        Trigger trigger;
        trigger.cause = static_cast<Cause>(item.word("on", 0, causes));
        if (trigger.cause == Cause::enter || trigger.cause == Cause::leave) {
            trigger.zone = references.zone(item.text("zone"));
        } else if (trigger.cause == Cause::signal) {
            trigger.signal = references.signal(item.text("signal"));
        } else if (hasDistance(trigger.cause)) {
            trigger.within_m = item.number("within_m", trigger.within_m, {0.01, 1000.0});
        }
        if (!item.rest().empty()) {
            item.fail("", "there are keys here that say nothing for this \"on\"; take them out");
        }
        triggers.push_back(trigger);
    });
    return triggers;
}

Json toJson(const std::vector<Trigger>& triggers)
{
    Json list = Json::array();
    for (const Trigger& trigger : triggers) {
        Json json{{"on", causes[static_cast<std::size_t>(trigger.cause)]}};
        if (trigger.cause == Cause::enter || trigger.cause == Cause::leave) {
            json["zone"] = trigger.zone.text;
        } else if (trigger.cause == Cause::signal) {
            json["signal"] = trigger.signal.text;
        } else if (hasDistance(trigger.cause)) {
            json["within_m"] = trigger.within_m;
        }
        list.push_back(std::move(json));
    }
    return list;
}

} // namespace

template <class Io> void describe(Io io, const Starting&)
{
    io.word("second", &Starting::second, seconds);
    io.flag("once", &Starting::once);
    io.number("hold_off_s", &Starting::holdOff_s, ranges::seconds);
    io.number("fade_out_s", &Starting::fadeOut_s, {0.0, 3600.0});
    io.word("rounds", &Starting::rounds, rounds);
}

template <class Io> void describe(Io io, const GameValue&)
{
    io.number("least", &GameValue::least, number);
    io.number("most", &GameValue::most, number);
    io.number("rest", &GameValue::rest, number);
    io.number("smoothing_s", &GameValue::smoothing_s, {0.0, 3600.0});
    io.id("most_on", &GameValue::mostOn);
    io.id("rest_on", &GameValue::restOn);
}

template <class Io> void describe(Io io, const Burst&)
{
    io.word("of", &Burst::of, burstOf);
    io.id("emitter", &Burst::emitter);
    io.flag("all_of_its_sound", &Burst::allOfItsSound);
    io.id("signal", &Burst::signal);
    io.word("where", &Burst::where, burstWhere);
    io.whole("count", &Burst::count, 1, 1000);
    io.number("every_s", &Burst::every_s, {0.001, 60.0});
    io.flag("irregular", &Burst::irregular);
}

template <> Range rangeOf(double Burst::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Burst::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Starting::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double GameValue::*member)
{
    return describedRange(member);
}

Condition readCondition(ObjectReader reader, const SteeringReferences& references)
{
    Condition condition;
    condition.value = references.value(reader.text("value"));
    condition.comparison = static_cast<Comparison>(reader.word("is", 0, comparisons));
    condition.number = reader.number("number", condition.number, number);
    return condition;
}

Json toJson(const Condition& condition)
{
    return {{"value", condition.value.text},
            {"is", comparisons[static_cast<std::size_t>(condition.comparison)]},
            {"number", condition.number}};
}

Starting readStarting(ObjectReader reader, const SteeringReferences& references)
{
    Starting starting;
    if (reader.has("starts")) {
        starting.starts = readTriggers(reader, "starts", references);
    }
    starting.stops = readTriggers(reader, "stops", references);
    starting.rearms = readTriggers(reader, "rearms", references);
    reader.each("conditions", [&](ObjectReader& item) { starting.conditions.push_back(readCondition(item, references)); });
    describe(FieldReader(reader, starting), starting);
    starting.extras = reader.rest();
    return starting;
}

Json toJson(const Starting& starting)
{
    const Starting usual;
    Json json = Json::object();
    if (starting.starts != usual.starts) {
        json["starts"] = toJson(starting.starts);
    }
    if (!starting.stops.empty()) {
        json["stops"] = toJson(starting.stops);
    }
    if (!starting.rearms.empty()) {
        json["rearms"] = toJson(starting.rearms);
    }
    for (const Condition& condition : starting.conditions) {
        json["conditions"].push_back(toJson(condition));
    }
    describe(FieldWriter(json, starting), starting);
    addExtras(json, starting.extras);
    return json;
}

WalkEvent readWalkEvent(ObjectReader& reader, const SteeringReferences& references)
{
    WalkEvent event;
    event.t_s = reader.number("t_s", 0.0, ranges::seconds);
    event.kind = static_cast<WalkEvent::Kind>(reader.word("is", 0, events));
    if (event.kind == WalkEvent::Kind::signal) {
        event.signal = references.signal(reader.text("signal"));
    } else if (event.kind == WalkEvent::Kind::value) {
        event.value = references.value(reader.text("value"));
        event.number = reader.number("to", 0.0, number);
    } else if (event.kind == WalkEvent::Kind::burst) {
        describe(FieldReader(reader, event.burst), event.burst);
        event.burst.signal = references.signal(event.burst.signal.text);
    }
    event.extras = reader.rest();
    return event;
}

Json toJson(const WalkEvent& event)
{
    Json json{{"t_s", event.t_s}, {"is", events[static_cast<std::size_t>(event.kind)]}};
    if (event.kind == WalkEvent::Kind::signal) {
        json["signal"] = event.signal.text;
    } else if (event.kind == WalkEvent::Kind::value) {
        json["value"] = event.value.text;
        json["to"] = event.number;
    } else if (event.kind == WalkEvent::Kind::burst) {
        describe(FieldWriter(json, event.burst), event.burst);
    }
    addExtras(json, event.extras);
    return json;
}

void readGameValue(ObjectReader& reader, GameValue& value)
{
    describe(FieldReader(reader, value), value);
    if (value.most < value.least) {
        reader.fail("most", "the most is below the least; change the two round");
    }
    if (value.rest < value.least || value.rest > value.most) {
        reader.fail("rest", "the rest value lies outside of least and most");
    }
    value.extras = reader.rest();
}

Json toJson(const GameValue& value)
{
    Json json{{"id", value.id.text}, {"name", value.name}};
    describe(FieldWriter(json, value), value);
    addExtras(json, value.extras);
    return json;
}

Json toJson(const Signal& signal)
{
    Json json{{"id", signal.id.text}, {"name", signal.name}};
    addExtras(json, signal.extras);
    return json;
}

} // namespace stone
