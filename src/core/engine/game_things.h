// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <string_view>

namespace stone
{

/// What of a game is there beside what the document has, and what of the document it moves.
struct GameThings {
    /// Things that appeared, by name, and the pattern of which each is a copy, by id.
    std::map<std::string, PatternId> appeared;
    /// Names under which it told where something is.
    std::set<std::string> placed;

    bool operator==(const GameThings&) const = default;
};

/// Names under which a game may tell where something is: of emitters, by name and by id, and of what emitters and zones ride
/// on.
std::set<std::string> namesToPlace(const Level& level);

/// A document as it is heard while a game is followed: with what appeared, and with what the game moves riding on it.
std::shared_ptr<const Project> withThings(const std::shared_ptr<const Project>& project, const LevelId& level,
                                          const GameThings& things);

/// What a game calls what its character does: "jump", "land", "fall", "reset", "use"; nothing for any other word.
std::optional<Cause> actNamed(std::string_view word);
/// Null for what no character does.
const char* nameOfAct(Cause act);

} // namespace stone
