// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

#include <array>
#include <string>

namespace stone
{

/// A kind of thing that stands in a list of the document: as the list is called, and as people call one of them.
struct ThingList {
    const char* key;
    const char* thing;
    bool named; ///< its things have ids: they are the same where these are; others are known by their place
};

constexpr std::array<ThingList, 21> thingLists{
    {{"sounds", "Sound", true},     {"falloffs", "Falloff", true},   {"families", "Family", true},
     {"patterns", "Pattern", true}, {"game_values", "Value", true},  {"signals", "Signal", true},
     {"rigs", "Ears", true},        {"materials", "Material", true}, {"gazes", "Gaze", true},
     {"levels", "Level", true},     {"emitters", "Emitter", true},   {"plants", "Plant rule", true},
     {"zones", "Zone", true},       {"rooms", "Room", true},         {"openings", "Opening", true},
     {"walks", "Walk", true},       {"posts", "Post", true},         {"sound_targets", "Way to export sounds", true},
     {"places", "Place", false},    {"storeys", "Storey", false},    {"surfaces", "Surface", false}}};

/// The kind of list under a key of the project or of a level; null: it is no list of things.
const ThingList* thingListOf(const std::string& key);

/// "Emitter "Lamp"", by the name or, without one, the id.
std::string calledThing(const ThingList& list, const Json& thing);

} // namespace stone
