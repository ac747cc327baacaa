// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/audibility_map.h"
#include "level/plan_cut.h"

#include <filesystem>

namespace stone::cli
{

/// A map as a picture (PNG): tinted by level, with the walls, contour lines and their figures every so many dB, emitters as
/// diamonds, a key and a scale. `walls`: what a cut through the storey meets. All of the grid must be there. Throws FileError.
void writeMapPicture(const std::filesystem::path& file, const Level& level, const MapGrid& grid, std::span<const MapCell> cells,
                     const PlanCut& walls, double step_db);

} // namespace stone::cli
