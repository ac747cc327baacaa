// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

#include <set>
#include <variant>

namespace stone
{

/// Emitters, of which any number can be selected together. The last one chosen is the one that is worked on.
struct SelectedEmitters {
    std::set<EmitterId> ids;
    EmitterId primary; ///< one of them; empty: none
    bool operator==(const SelectedEmitters&) const = default;
};

/// What is selected in a level: emitters (none of them: nothing is), or one thing of another kind.
using Selection = std::variant<SelectedEmitters, ZoneId, RoomId, OpeningId, WalkId, PlantId>;

} // namespace stone
