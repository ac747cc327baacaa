// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "level/mesh.h"

#include <functional>
#include <string>
#include <vector>

namespace stone
{

/// A level as it is drawn in the walk-through view: faces with a normal each, and the edges at which they bend.
struct LevelModel {
    /// Per corner: place (3), normal (3).
    std::vector<float> faces;
    std::vector<float> glass; ///< the same, for what one sees through
    /// Per end: place (3).
    std::vector<float> edges;
    static constexpr int faceFloats = 6;
    static constexpr int edgeFloats = 3;
};

/// `seeThrough` is asked for each surface name.
LevelModel levelModel(const Mesh& mesh, const std::function<bool(const std::string&)>& seeThrough);

/// A plain figure, 1 m tall and facing north, to be scaled to a character: a body, a head, and a nose.
std::vector<float> figureModel();

} // namespace stone
