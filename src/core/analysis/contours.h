// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/audibility_map.h"

#include <span>
#include <vector>

namespace stone
{

/// A line along which a level is the same everywhere.
struct Contour {
    double level_db = 0.0;
    bool closed = false;    ///< it ends where it begins; else at the grid's border
    std::vector<Vec2> line; ///< in the level, metres; at least two points, none twice
};

/// Lines of equal level through a map: by marching squares over the middles of its cells (W. E. Lorensen and H. E. Cline,
/// Marching Cubes, SIGGRAPH 1987, in the plane), straight between them in dB; where a square can be read two ways its mean
/// decides. Louder lies on the left of a line's way. What is softer than 12 dB below the lowest of the levels counts as that,
/// so that silence has a border. By level in the given order, longest first. Cost grows with the cells times the levels.
std::vector<Contour> contoursOf(const MapGrid& grid, std::span<const double> values, std::span<const double> levels_db);

/// Whole multiples of a step that lie between the softest (but no more than so much below the loudest) and the loudest cell.
std::vector<double> contourLevels_db(std::span<const double> values, double step_db, double deep_db = 60.0);

} // namespace stone
