// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

#include <functional>

namespace stone
{

/// Ids that a document gave by name become ids.
struct SteeringReferences {
    std::function<ZoneId(const std::string&)> zone;
    std::function<SignalId(const std::string&)> signal;
    std::function<GameValueId(const std::string&)> value;
};

Condition readCondition(ObjectReader reader, const SteeringReferences& references);
Json toJson(const Condition& condition);

Starting readStarting(ObjectReader reader, const SteeringReferences& references);
Json toJson(const Starting& starting);

WalkEvent readWalkEvent(ObjectReader& reader, const SteeringReferences& references);
Json toJson(const WalkEvent& event);

/// Without its id and name.
void readGameValue(ObjectReader& reader, GameValue& value);
Json toJson(const GameValue& value);
Json toJson(const Signal& signal);

} // namespace stone
