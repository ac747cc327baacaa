// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/starting_json.h"

namespace stone
{

/// What a level holds beside its emitters and spaces, and the air of a project, in the document's JSON, both ways.
Air readAir(ObjectReader reader);
Json toJson(const Air& air);
/// Which way one looks at a side-on level; nothing: it is none.
std::optional<Looking> readSideOn(ObjectReader& reader);
void addSideOn(Json& json, const std::optional<Looking>& sideOn);
Geometry readGeometry(ObjectReader reader);
Json toJson(const Geometry& geometry);
Character readCharacter(ObjectReader reader);
Json toJson(const Character& character);
EdgeRules readEdgeRules(ObjectReader reader);
Json toJson(const EdgeRules& rules);
Storey readStorey(ObjectReader& reader);
Json toJson(const Storey& storey);
Place readPlace(ObjectReader& reader);
Json toJson(const Place& place);
/// Without its id and name.
void readWalk(ObjectReader& reader, Walk& walk, const SteeringReferences& references);
Json toJson(const Walk& walk);

template <> Range rangeOf(double Level::*member);

} // namespace stone
