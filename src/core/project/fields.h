#pragma once

#include "project/lane_json.h"
#include "project/object_reader.h"

#include <span>

/// The keys of plain values, said once for reading and writing: a function describe(io, ...) names each member with its
/// key and range; a FieldReader fills them in, a FieldWriter puts down those that differ from the default.
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

} // namespace stone
