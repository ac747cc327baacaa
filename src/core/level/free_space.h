// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/plan_cut.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace stone
{

/// What is free between the walls of a cut, on a grid, divided where it narrows. Regions are those of a watershed over the
/// distance to the walls (L. Vincent and P. Soille, IEEE PAMI 13, 1991), joined again where the way between two is nearly as
/// wide as the narrower of them.
class FreeSpace
{
public:
    /// Cells of this size, or larger where the level is so large that they would be more than four million.
    static constexpr double finest_m = 0.1;
    /// What is outside: it reaches the border of the grid.
    static constexpr std::uint32_t outside = 0;
    static constexpr std::uint32_t wall = UINT32_MAX;

    explicit FreeSpace(const PlanCut& cut);

    double cell_m() const { return cell_m_; }
    /// How many regions there are, the outside counted: they are numbered from it on.
    std::uint32_t regions() const { return regions_; }
    double area_m2(std::uint32_t region) const { return static_cast<double>(cells_[region].size()) * cell_m_ * cell_m_; }
    /// The cells of a region, by number; for at().
    const std::vector<std::uint32_t>& cells(std::uint32_t region) const { return cells_[region]; }
    /// The middle of a cell.
    Vec2 at(std::uint32_t cell) const;

    /// Where two regions touch.
    struct Gap {
        std::uint32_t one;
        std::uint32_t other;
        Vec2 at;        ///< where it is narrowest, in the middle
        Vec2 towards;   ///< unit vector to the wall beside it there
        double width_m; ///< from wall to wall
    };
    const std::vector<Gap>& gaps() const { return gaps_; }

    /// The outer outline of a region, counter-clockwise, straightened to three and a half cells, less where it is slender:
    /// doors leave no niches in it.
    std::vector<Vec2> outlineOf(std::uint32_t region) const;

private:
    void drawWalls(const PlanCut& cut);
    void measure();
    void flood();
    void findGaps();
    /// The narrowest place near a cell; nothing where no two walls face each other.
    std::optional<Gap> neckNear(std::uint32_t cell) const;
    double widthAt(const Vec2& place, const Vec2& way) const;

    std::uint32_t width_ = 0;
    std::uint32_t height_ = 0;
    double cell_m_ = finest_m;
    Vec2 origin_{0.0};
    std::vector<std::uint32_t> label_;   ///< by cell: region, or wall
    std::vector<float> distance_;        ///< by cell, in cells, to the nearest wall
    std::vector<std::uint32_t> nearest_; ///< by cell: that wall's cell
    std::vector<std::vector<std::uint32_t>> cells_;
    std::uint32_t regions_ = 1;
    std::vector<Gap> gaps_;
};

} // namespace stone
