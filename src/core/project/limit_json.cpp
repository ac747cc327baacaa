// SPDX-License-Identifier: MPL-2.0
#include "project/limit_json.h"

#include "project/fields.h"

namespace stone
{

namespace
{

constexpr const char* givesWay[] = {"quietest", "oldest", "farthest", "newest"};
constexpr int mostAtOnce = 4096;

} // namespace

template <class Io> void describe(Io io, const Limit&)
{
    io.whole("at_once", &Limit::atOnce, 0, mostAtOnce);
    io.word("gives_way", &Limit::givesWay, givesWay);
    io.flag("each_emitter", &Limit::eachEmitter);
    io.number("hold_off_s", &Limit::holdOff_s, {0.0, 3600.0});
}

template <> Range rangeOf(double Limit::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Limit::*member)
{
    return describedRange(member);
}

std::span<const char* const> givesWayWords()
{
    return givesWay;
}

void readLimit(ObjectReader& reader, Limit& limit)
{
    if (reader.has("limit")) {
        ObjectReader object = reader.object("limit");
        describe(FieldReader(object, limit), limit);
        limit.extras = object.rest();
    }
}

void addLimit(Json& json, const Limit& limit)
{
    if (!(limit == Limit{})) {
        Json object = Json::object();
        describe(FieldWriter(object, limit), limit);
        addExtras(object, limit.extras);
        json["limit"] = std::move(object);
    }
}

} // namespace stone
