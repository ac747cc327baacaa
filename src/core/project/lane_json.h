// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/range.h"

namespace stone
{

/// As documents write it, and the W3C's Web Audio API and the Khronos draft: "inverse", "linear", "exponential".
const char* wordOf(DistanceModel model);

/// Lanes in the document's JSON, both ways.
Lane readLane(ObjectReader& reader);
Json toJson(const Lane& lane);

/// The points of a curve under a key; y within `values`.
Curve readCurve(ObjectReader& reader, const char* key, Range values);
Json toJson(const Curve& curve);

/// Everything of a falloff but its id and name. Puts a lane for the level first where the document has none.
void readFalloffLanes(ObjectReader& reader, Falloff& falloff);
Json toJson(const Falloff& falloff);

/// Writes a key only where it says more than the default.
template <class Value> void addUnless(Json& object, const char* key, const Value& value, const Value& usual)
{
    if (!(value == usual)) {
        object[key] = value;
    }
}

void addExtras(Json& object, const Extras& extras);

} // namespace stone
