// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/map_asker.h"

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace stone
{

/// The cells of a map: squares of one storey, with the ears in the middle of each.
struct MapGrid {
    Vec2 from{0.0};      ///< middle of the first cell; the others lie east and north of it
    double cell_m = 1.0; ///< > 0
    std::uint32_t columns = 0;
    std::uint32_t rows = 0;
    double ears_m = 1.6; ///< height, in the level

    std::size_t cells() const { return std::size_t{columns} * rows; }
    Vec3 at(std::uint32_t column, std::uint32_t row) const { return {from.x + column * cell_m, from.y + row * cell_m, ears_m}; }
    /// Rows of the i-th of n parts, from the south: [first, last).
    std::pair<std::uint32_t, std::uint32_t> rowsOf(std::uint32_t part, std::uint32_t parts) const
    {
        const auto border = [&](std::uint32_t i) { return static_cast<std::uint32_t>(std::uint64_t{rows} * i / parts); };
        return {border(part), border(part + 1)};
    }
};

/// The grid over a storey: so many cells along its longer side, over all of the level's mesh or, without one, over what is
/// placed in it. `storey`: into the level's; where it has none, about the character's start. `mesh`: null: none.
MapGrid gridOf(const Level& level, std::size_t storey, const Mesh* mesh, std::uint32_t cells);

/// What is heard in the cells of these rows, [first, last), from the south, each from the west. `goOn`: told how far it is, 0
/// to 1, from several threads; false stops, and what is there is of no use. Cost grows with the cells and with what is near
/// each. Any thread; uses `threads` of its own.
std::vector<MapCell> mapLevel(const HearingModel& model, const MapGrid& grid, const MapQuestion& question,
                              std::pair<std::uint32_t, std::uint32_t> rows, unsigned threads,
                              const std::function<bool(double)>& goOn = {});

/// The same for single cells, by number (row * columns + column): they are filled in, the others left alone. False when it was
/// stopped, which takes no longer than a few cells.
bool mapCells(const HearingModel& model, const MapGrid& grid, const MapQuestion& question, std::span<const std::uint32_t> which,
              std::span<MapCell> cells, unsigned threads, const std::function<bool(double)>& goOn = {});

/// Where a map of one model may differ from that of another, as after an edit that moved something: spheres in which the ears
/// are. Nothing: anywhere. Emitters must have the same numbers in both.
std::optional<std::vector<Sphere>> changedWithin(const HearingModel& before, const HearingModel& after);

std::vector<double> levelsOf(std::span<const MapCell> cells);

/// A map from coarse to fine: the cells of every `stride`-th row and column that no stride twice as wide has had; with
/// `first`, those too.
std::vector<std::uint32_t> cellsOfStride(const MapGrid& grid, std::uint32_t stride, bool first);
/// What is known after a stride, as a map of its own.
std::pair<MapGrid, std::vector<MapCell>> coarseMap(const MapGrid& grid, std::span<const MapCell> cells, std::uint32_t stride);

} // namespace stone
