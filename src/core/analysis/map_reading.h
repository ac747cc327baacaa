// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/audibility_map.h"

#include <cstdint>
#include <span>
#include <string>
#include <vector>

/// What a map is read for: numbers that contours can be drawn through, and areas with names.
namespace stone
{

enum class MapShows {
    level,      ///< how loud all that counts is together, dB
    withRooms,  ///< the same with what rooms make of it
    difference, ///< against another map of the same grid, dB
    reverb,     ///< what rooms make of it against the rest, dB
    voices,     ///< how many sound
    loudest,    ///< who is loudest where
    silence,    ///< where nothing is heard
    ambiences,  ///< where two are as good as equally loud
    masked      ///< where something that matters cannot be made out
};
constexpr std::size_t mapShowsCount = 9;

/// Two ambiences collide where they are no further apart than this, and both are heard.
constexpr double collideWithin_db = 6.0;

/// Whether it has numbers; otherwise it has areas alone. Those of silence, voices and colliding come on top of either.
bool hasNumbers(MapShows what);
/// What has to be asked for, for that.
bool needsVoices(MapShows what);
/// Which emitters count where nobody chooses others: ambiences (beds and areas) collide with each other alone; else all.
std::vector<std::uint32_t> whichFor(MapShows what, const Level& level);

/// The numbers, by cell; minus infinity where there is none. `before`: of the other map, for differences: as many cells, else
/// there are none.
std::vector<double> mapNumbers(MapShows what, std::span<const MapCell> cells, std::span<const MapCell> before);

/// Areas: cells that hang together (by their sides) and say the same.
struct MapRegion {
    std::uint32_t first = MapCell::nobody;  ///< whose it is: into the level's emitters
    std::uint32_t second = MapCell::nobody; ///< of two that collide the softer, of who is masked by whom the latter
    std::size_t cells = 0;
    Vec2 middle{0.0}; ///< of the cell that lies deepest inside
};
/// What a cell says, as a number that is the same for the same answer; 0: nothing. `limit`: of voices.
std::vector<std::uint64_t> mapAnswers(MapShows what, std::span<const MapCell> cells, int limit);
/// The areas of answers, largest first; those of 0 are left out.
std::vector<MapRegion> mapRegions(const MapGrid& grid, std::span<const std::uint64_t> answers, std::size_t leastCells = 1);

/// A map's numbers along a line, at so many places evenly from its beginning to its end; between cells straight in dB. Minus
/// infinity outside the map and where there is none.
std::vector<double> alongLine(const MapGrid& grid, std::span<const double> numbers, const Vec2& from, const Vec2& to,
                              std::size_t places);

} // namespace stone
