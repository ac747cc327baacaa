// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/lane_json.h"
#include "project/object_reader.h"

#include <algorithm>
#include <span>
#include <stdexcept>
#include <type_traits>

/// The keys of plain values, said once for reading and writing: a function describe(io, ...) names each member with its
/// key and range; a FieldReader fills them in, a FieldWriter puts down those that differ from the default, and forms learn
/// the range of a member by rangeOf().
namespace stone
{

template <class Thing> class FieldReader
{
public:
    FieldReader(ObjectReader& reader, Thing& thing) : reader_(reader), thing_(thing) {}

    void number(const char* key, double Thing::*member, Range range)
    {
        thing_.*member = reader_.number(key, thing_.*member, range);
    }
    /// The upper end of a pair: left out it is the usual one, or the lower end where that lies above.
    void upper(const char* key, double Thing::*member, Range range, double Thing::*lower)
    {
        thing_.*member = reader_.number(key, std::max(thing_.*member, thing_.*lower), range);
        if (thing_.*member < thing_.*lower) {
            reader_.fail(key, "the most is below the least; change the two round");
        }
    }
    void whole(const char* key, int Thing::*member, int least, int most)
    {
        thing_.*member = static_cast<int>(reader_.whole(key, static_cast<std::uint64_t>(thing_.*member),
                                                        static_cast<std::uint64_t>(least), static_cast<std::uint64_t>(most)));
    }
    void flag(const char* key, bool Thing::*member) { thing_.*member = reader_.flag(key, thing_.*member); }
    void text(const char* key, std::string Thing::*member) { thing_.*member = reader_.text(key, thing_.*member); }
    void place(const char* key, Vec3 Thing::*member) { thing_.*member = reader_.place(key, thing_.*member); }
    template <class ThingId> void id(const char* key, ThingId Thing::*member)
    {
        (thing_.*member).text = reader_.text(key, (thing_.*member).text);
    }
    template <class Word> void word(const char* key, Word Thing::*member, std::span<const char* const> words)
    {
        thing_.*member = static_cast<Word>(reader_.word(key, static_cast<std::size_t>(thing_.*member), words));
    }

private:
    ObjectReader& reader_;
    Thing& thing_;
};

template <class Thing> class FieldWriter
{
public:
    FieldWriter(Json& json, const Thing& thing) : json_(json), thing_(thing) {}

    void number(const char* key, double Thing::*member, Range) { add(key, member); }
    void upper(const char* key, double Thing::*member, Range, double Thing::*lower)
    {
        addUnless(json_, key, thing_.*member, std::max(usual_.*member, thing_.*lower));
    }
    void whole(const char* key, int Thing::*member, int, int) { add(key, member); }
    void flag(const char* key, bool Thing::*member) { add(key, member); }
    void text(const char* key, std::string Thing::*member) { add(key, member); }
    void place(const char* key, Vec3 Thing::*member)
    {
        const Vec3& at = thing_.*member;
        if (at != usual_.*member) {
            json_[key] = Json::array({at.x, at.y, at.z});
        }
    }
    template <class ThingId> void id(const char* key, ThingId Thing::*member)
    {
        addUnless(json_, key, (thing_.*member).text, std::string{});
    }
    template <class Word> void word(const char* key, Word Thing::*member, std::span<const char* const> words)
    {
        if (thing_.*member != usual_.*member) {
            json_[key] = words[static_cast<std::size_t>(thing_.*member)];
        }
    }

private:
    template <class Value> void add(const char* key, Value Thing::*member)
    {
        addUnless(json_, key, thing_.*member, usual_.*member);
    }

    Json& json_;
    const Thing& thing_;
    const Thing usual_{};
};

/// Finds the range of one member.
template <class Thing, class Number> class RangeFinder
{
public:
    RangeFinder(Number Thing::*wanted, Range& found) : wanted_(wanted), found_(found) {}

    void number(const char*, double Thing::*member, Range range) { note(member, range); }
    void upper(const char*, double Thing::*member, Range range, double Thing::*) { note(member, range); }
    void whole(const char*, int Thing::*member, int least, int most)
    {
        note(member, {static_cast<double>(least), static_cast<double>(most)});
    }
    void flag(const char*, bool Thing::*) {}
    void text(const char*, std::string Thing::*) {}
    void place(const char*, Vec3 Thing::*) {}
    template <class ThingId> void id(const char*, ThingId Thing::*) {}
    template <class Word> void word(const char*, Word Thing::*, std::span<const char* const>) {}

private:
    template <class Other> void note(Other Thing::*member, Range range)
    {
        if constexpr (std::is_same_v<Other, Number>) {
            found_ = member == wanted_ ? range : found_;
        }
    }

    Number Thing::*wanted_;
    Range& found_;
};

/// What rangeOf() gives, by the thing's describe().
template <class Thing, class Number> Range describedRange(Number Thing::*member)
{
    Range found{1.0, 0.0};
    const Thing usual{};
    describe(RangeFinder<Thing, Number>(member, found), usual);
    if (found.least > found.most) {
        throw std::logic_error("rangeOf: this member is not in the document");
    }
    return found;
}

/// A thing that is nothing but its described fields, and what else was written with them.
template <class Thing> Thing readThing(ObjectReader& reader)
{
    Thing thing;
    describe(FieldReader(reader, thing), thing);
    thing.extras = reader.rest();
    return thing;
}

template <class Thing> Json jsonOf(const Thing& thing)
{
    Json json = Json::object();
    describe(FieldWriter(json, thing), thing);
    addExtras(json, thing.extras);
    return json;
}

} // namespace stone
