// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <compare>
#include <string>
#include <string_view>

namespace stone
{

/// Names one thing of one kind for ever: stable over save and load, unique among its kind in a project. Names are for
/// people and may repeat; ids are what references hold. The empty id refers to nothing.
template <class Kind> struct Id {
    std::string text;

    bool empty() const { return text.empty(); }
    auto operator<=>(const Id&) const = default;
};

using LevelId = Id<struct LevelKind>;
using EmitterId = Id<struct EmitterTag>;
using SoundId = Id<struct SoundKind>;
using FalloffId = Id<struct FalloffKind>;
using FamilyId = Id<struct FamilyKind>;
using PatternId = Id<struct PatternKind>;
using WalkId = Id<struct WalkKind>;
using ZoneId = Id<struct ZoneKind>;
using SignalId = Id<struct SignalKind>;
using GameValueId = Id<struct GameValueKind>;
using RigId = Id<struct RigKind>;
using MaterialId = Id<struct MaterialKind>;
using GazeId = Id<struct GazeKind>;
using RoomId = Id<struct RoomKind>;
using OpeningId = Id<struct OpeningKind>;
using PostId = Id<struct PostKind>;
using SoundTargetId = Id<struct SoundTargetKind>;
using PlantId = Id<struct PlantKind>;

/// Turns a name into the text of an id: lower case letters, digits and single hyphens. "thing" when nothing is left.
std::string slug(std::string_view name);

} // namespace stone
