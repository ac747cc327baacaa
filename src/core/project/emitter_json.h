// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/starting_json.h"

#include <functional>

namespace stone
{

/// How references by id or name are settled while the rest of the document is being read.
struct References {
    std::function<SoundId(const std::string&)> sound;
    std::function<FalloffId(const std::string&)> falloff;
    std::function<FamilyId(const std::string&)> family;
    SteeringReferences steering;
};

/// Reads the settings whose keys are there over those in `settings`, and says which they were.
SettingSet readSettings(ObjectReader& reader, const References& references, EmitterSettings& settings);

/// Adds the settings in `which` to an object. Of those not in `always`, only what differs from the default.
void addSettings(Json& json, const EmitterSettings& settings, SettingSet which, SettingSet always);

Json toJson(const Emitter& emitter);
Json toJson(const Pattern& pattern);
Json toJson(const Family& family);

/// Where an emitter faces.
void readPose(ObjectReader& reader, Emitter& emitter);

/// A family without its id and name.
/// Solo was part of projects once; now it is for listening only.
void dropSolo(ObjectReader& reader);
void readFamily(ObjectReader& reader, Family& family, const SteeringReferences& references);

} // namespace stone
