// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

#include <memory>
#include <optional>
#include <set>
#include <vector>

namespace stone
{

/// What is heard otherwise than the document has it, for whoever listens: apart from who is silent (see ForEars). Nothing of it
/// is in the document or in renders.
struct Otherwise {
    bool bare = false;     ///< no sound has its filters and effects
    bool gazing = true;    ///< somebody looks somewhere
    bool answering = true; ///< rooms answer
    /// The same for single emitters.
    std::set<EmitterId> bareOnes;
    std::set<EmitterId> dryOnes;    ///< into no room
    std::set<EmitterId> openOnes;   ///< no wall stops them
    std::set<EmitterId> handedOnes; ///< started and stopped by hand: the level's start alone does not rule them any more
    /// Other lanes for an emitter and all who share its falloff.
    struct Lanes {
        EmitterId emitter;
        std::vector<Lane> lanes;

        bool operator==(const Lanes&) const = default;
    };
    std::optional<Lanes> falloff{};

    /// Whether the document is heard as it is.
    bool nothing() const { return *this == Otherwise{}; }
    bool operator==(const Otherwise&) const = default;
};

/// The document as it is heard. It is the same pointer where nothing is otherwise.
std::shared_ptr<const Project> heardOtherwise(const std::shared_ptr<const Project>& document, const LevelId& level,
                                              const Otherwise& otherwise);

} // namespace stone
