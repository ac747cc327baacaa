// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"
#include "project/document.h"
#include "world/route.h"

#include <memory>

namespace stone
{

/// The edges of a level's floor: looked for and waited for, or only those that have been found before. Null without a ground,
/// and while they are not found.
inline std::shared_ptr<const FloorEdges> edgesOf(const Level& level, const Ground* ground, Ways ways)
{
    if (ground == nullptr) {
        return {};
    }
    const Vec3& stands = level.character.start;
    return ways == Ways::find ? ground->edges(level.edges, stands) : ground->foundEdges(level.edges, stands);
}

} // namespace stone
