// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

#include <functional>

namespace stone
{

Area readArea(ObjectReader reader);
Json toJson(const Area& area);

/// `sound` settles a reference to a sound, by id, name or file.
using SoundReference = std::function<SoundId(const std::string&)>;
Sprinkling readSprinkling(ObjectReader reader, const SoundReference& sound);
Json toJson(const Sprinkling& sprinkling);
Roaming readRoaming(ObjectReader reader, const SoundReference& sound);
Json toJson(const Roaming& roaming);
Pulsing readPulsing(ObjectReader reader, const SoundReference& sound);
Json toJson(const Pulsing& pulsing);
Stepping readStepping(ObjectReader reader, const SoundReference& sound);
Json toJson(const Stepping& stepping);

/// The Roamer is left as the document has it: it may come later.
Riding readRiding(ObjectReader reader);
Json toJson(const Riding& riding);

/// Without its id and name; the parent is left as the document has it. `value` settles a game value.
void readZone(ObjectReader& reader, Zone& zone, const std::function<GameValueId(const std::string&)>& value);
Json toJson(const Zone& zone);

} // namespace stone
