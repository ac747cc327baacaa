// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/limit.h"
#include "project/object_reader.h"

namespace stone
{

/// The words of a document for who gives way, in the order of GivesWay.
std::span<const char* const> givesWayWords();

/// Reads the key "limit" of a sound or a family, where it is there.
void readLimit(ObjectReader& reader, Limit& limit);
/// And writes it, unless it is the usual one.
void addLimit(Json& json, const Limit& limit);

} // namespace stone
