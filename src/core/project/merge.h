// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <vector>

namespace stone
{

/// A thing that two people changed in two ways.
struct Clash {
    std::string what;        ///< "Emitter \"Lamp\""
    bool oursGone = false;   ///< we took it out
    bool theirsGone = false; ///< they did

    bool operator==(const Clash&) const = default;
};

/// Who has it where both changed the same thing.
enum class Wins { ours, theirs };

struct Merged {
    Project project;
    std::vector<Clash> clashes;
};

/// Puts together what two documents made of a third: by thing, which is known by its id. What only one of them changed, added
/// or took out is as that one has it; what both did alike is done once; where both changed one thing, or one took out what the
/// other changed, it is a clash and goes as `wins` says: for all, or for each in the order in which they are told, which is the
/// same whoever wins; those beyond the list are ours. Fields of the project and of a level, beside their things, are
/// merged one by one. Throws FileError where the two together break a rule of documents.
Merged merged(const Project& base, const Project& ours, const Project& theirs, Wins wins = Wins::ours);
Merged merged(const Project& base, const Project& ours, const Project& theirs, const std::vector<Wins>& wins);

} // namespace stone
