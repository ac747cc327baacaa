// SPDX-License-Identifier: MPL-2.0
#include "analysis/floor_findings.h"

#include "analysis/map_reading.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstdio>
#include <map>

namespace stone
{

namespace
{

constexpr double floorStep_m = 1.5;
constexpr std::uint32_t mostCells = 128;
/// Smaller spots are nobody's concern.
constexpr double leastSpot_m2 = 9.0;

/// Cells that somebody can stand in: with a floor a step up or down from the storey's, and nothing solid round the head.
std::vector<std::uint32_t> walkable(const Ground* ground, const MapGrid& grid, double floor_m)
{
    constexpr double step_m = 0.6;
    std::vector<std::uint32_t> cells;
    for (std::uint32_t cell = 0; cell < grid.cells(); ++cell) {
        const Vec3 ears = grid.at(cell % grid.columns, cell / grid.columns);
        if (ground != nullptr) {
            const auto floor = ground->floorBelow(ears, ears.z - floor_m + step_m);
            if (!floor || std::abs(floor->height_m - floor_m) > step_m || ground->insideSolid(ears)) {
                continue;
            }
        }
        cells.push_back(cell);
    }
    return cells;
}

class FloorSurvey
{
public:
    FloorSurvey(const HearingModel& model, const std::vector<Bands>& masking_db, unsigned threads,
                const std::function<bool(double)>& progress)
        : model_(model), level_(model.level()), masking_db_(masking_db), threads_(threads), progress_(progress),
          heard_(level_.emitters.size(), false)
    {
    }

    std::vector<Finding> findings()
    {
        const std::size_t storeys = std::max<std::size_t>(level_.storeys.size(), 1);
        const Ground* ground = model_.world().ground();
        for (std::size_t storey = 0; storey < storeys; ++storey) {
            MapGrid grid = gridOf(level_, storey, ground != nullptr ? &ground->mesh() : nullptr, mostCells);
            const double longer_m = grid.cell_m * std::max(grid.columns, grid.rows);
            const auto wanted = static_cast<std::uint32_t>(std::ceil(longer_m / floorStep_m));
            grid = gridOf(level_, storey, ground != nullptr ? &ground->mesh() : nullptr, std::min(wanted, mostCells));
            const double floor_m = storey < level_.storeys.size() ? level_.storeys[storey].floor_m : level_.character.start.z;
            const std::string name = storey < level_.storeys.size() ? level_.storeys[storey].name : level_.name;
            const double share = 1.0 / static_cast<double>(storeys);
            const double done = static_cast<double>(storey) * share;
            if (!survey(grid, walkable(ground, grid, floor_m), name, done, share)) {
                return {};
            }
        }
        tellMasked();
        findUnheard();
        return std::move(found_);
    }

private:
    bool survey(const MapGrid& grid, const std::vector<std::uint32_t>& floor, const std::string& storey, double done,
                double share)
    {
        const MapQuestion question{.voices = true, .masking_db = masking_db_, .mean = true};
        std::vector<MapCell> cells(grid.cells());
        const bool ended = mapCells(model_, grid, question, floor, cells, threads_,
                                    [&](double part) { return !progress_ || progress_(done + share * part); });
        if (!ended) {
            return false;
        }
        std::vector<bool> stood(grid.cells(), false);
        for (const std::uint32_t cell : floor) {
            stood[cell] = true;
        }
        findSpots(grid, cells, stood, storey);
        findHoles(grid, floor, storey);
        noteHeard(grid, floor, cells);
        findReaches(grid, floor);
        return true;
    }

    void findSpots(const MapGrid& grid, const std::vector<MapCell>& cells, const std::vector<bool>& stood,
                   const std::string& storey)
    {
        const auto leastCells = static_cast<std::size_t>(std::ceil(leastSpot_m2 / (grid.cell_m * grid.cell_m)));
        for (const MapShows what : {MapShows::silence, MapShows::masked}) {
            std::vector<std::uint64_t> answers = mapAnswers(what, cells, 0);
            for (std::size_t i = 0; i < answers.size(); ++i) {
                answers[i] = stood[i] ? answers[i] : 0;
            }
            const std::vector<MapRegion> regions = mapRegions(grid, answers, leastCells);
            if (what == MapShows::masked) {
                for (const MapRegion& region : regions) {
                    noteMasked(grid, region, storey);
                }
            } else if (!regions.empty()) {
                tellSilence(grid, regions.front(), storey); // the largest
            }
        }
    }

    static std::string spot(const MapGrid& grid, const MapRegion& region)
    {
        char text[96];
        std::snprintf(text, sizeof text, "%.0f m\u00b2 about %.0f, %.0f",
                      static_cast<double>(region.cells) * grid.cell_m * grid.cell_m, region.middle.x, region.middle.y);
        return text;
    }

    void tellSilence(const MapGrid& grid, const MapRegion& region, const std::string& storey)
    {
        found_.push_back({.code = "floor-silent",
                          .severity = Finding::Severity::note,
                          .what = "nothing is heard on " + spot(grid, region) + " where one can stand",
                          .where = "Storey \"" + storey + '"',
                          .fix = "let a bed or something with a longer reach be heard there, if it is not meant so",
                          .level = level_.id});
    }

    void noteMasked(const MapGrid& grid, const MapRegion& region, const std::string& storey)
    {
        Masked& masked = masked_[region.first];
        const double area_m2 = static_cast<double>(region.cells) * grid.cell_m * grid.cell_m;
        masked.area_m2 += area_m2;
        masked.by[region.second] += area_m2;
        if (area_m2 > masked.largest_m2) {
            masked.largest_m2 = area_m2;
            masked.spot = spot(grid, region) + " of " + storey;
        }
    }

    /// One finding for each that is masked somewhere, at its largest spot.
    void tellMasked()
    {
        for (const auto& [emitter, masked] : masked_) {
            const auto most = std::max_element(masked.by.begin(), masked.by.end(),
                                               [](const auto& a, const auto& b) { return a.second < b.second; });
            const std::size_t others = masked.by.size() - 1;
            const std::string more = others == 0   ? std::string()
                                     : others == 1 ? std::string(" and another")
                                                   : " and " + std::to_string(others) + " others";
            char area[48];
            std::snprintf(area, sizeof area, "%.0f m\u00b2 in all", masked.area_m2);
            found_.push_back(
                {.code = "floor-masked",
                 .severity = model_.priority(emitter) == Priority::vital ? Finding::Severity::warning : Finding::Severity::note,
                 .what = "it matters, and cannot be made out under " + level_.emitters[most->first]->name + more + ": on " +
                         masked.spot + ", " + area,
                 .where = "Emitter \"" + level_.emitters[emitter]->name + '"',
                 .fix = "raise it, let the others step back, or move them apart in pitch",
                 .level = level_.id,
                 .emitter = level_.emitters[emitter]->id});
        }
    }

    /// Where one is in no zone, with different zones at hand to two sides.
    void findHoles(const MapGrid& grid, const std::vector<std::uint32_t>& floor, const std::string& storey)
    {
        const ZoneMap& zones = model_.world().zones();
        if (zones.size() < 2) {
            return;
        }
        std::vector<std::int64_t> zoneOf(grid.cells(), -2); // -2: nobody stands there, -1: in none
        ZonesAt here;
        for (const std::uint32_t cell : floor) {
            here.clear();
            model_.world().zonesAt(
                Moment(Ears(Pose{grid.at(cell % grid.columns, cell / grid.columns), 0.0, 0.0, 0.0}), TimeSpan{}), here);
            zoneOf[cell] = -1;
            for (std::uint32_t zone = 0; zone < zones.size(); ++zone) {
                zoneOf[cell] = here.depth(zone) > 0.0 ? zone : zoneOf[cell];
            }
        }
        constexpr std::int64_t nearCells = 2;
        std::map<std::pair<std::int64_t, std::int64_t>, bool> told;
        for (const std::uint32_t cell : floor) {
            if (zoneOf[cell] != -1) {
                continue;
            }
            const auto towards = [&](std::int64_t columns, std::int64_t rows) -> std::int64_t {
                for (std::int64_t step = 1; step <= nearCells; ++step) {
                    const std::int64_t column = cell % grid.columns + columns * step;
                    const std::int64_t row = cell / grid.columns + rows * step;
                    if (column < 0 || row < 0 || column >= grid.columns || row >= grid.rows) {
                        break;
                    }
                    const std::int64_t zone = zoneOf[static_cast<std::size_t>(row * grid.columns + column)];
                    if (zone >= 0) {
                        return zone;
                    }
                }
                return -1;
            };
            for (const auto& [one, other] : {std::pair(towards(1, 0), towards(-1, 0)), {towards(0, 1), towards(0, -1)}}) {
                const auto pair = std::minmax(one, other);
                if (one >= 0 && other >= 0 && one != other && !std::exchange(told[pair], true)) {
                    const Vec3 at = grid.at(cell % grid.columns, cell / grid.columns);
                    char text[96];
                    std::snprintf(text, sizeof text, "a gap at %.0f, %.0f", at.x, at.y);
                    found_.push_back({.code = "zones-gap",
                                      .severity = Finding::Severity::warning,
                                      .what = std::string("between it and ") +
                                              zones.zone(static_cast<std::uint32_t>(other)).name + " there is " + text +
                                              " on " + storey + " where one is in neither",
                                      .where = "Zone \"" + zones.zone(static_cast<std::uint32_t>(one)).name + '"',
                                      .fix = "let the two meet or overlap",
                                      .level = level_.id});
                }
            }
        }
    }

    /// Who could be heard in some cell, by reach and walls.
    void noteHeard(const MapGrid& grid, const std::vector<std::uint32_t>& floor, const std::vector<MapCell>& cells)
    {
        // Of most the map says so: they are the loudest somewhere, or next to it.
        for (const std::uint32_t cell : floor) {
            const MapCell& here = cells[cell];
            for (const auto& [emitter, level_db] : {std::pair(here.loudest, here.loudest_db), {here.second, here.second_db}}) {
                if (level_db >= audible_db) {
                    heard_[emitter] = true;
                }
            }
        }
        for (std::uint32_t i = 0; i < level_.emitters.size(); ++i) {
            const Emitter& emitter = *level_.emitters[i];
            if (heard_[i] || isOfCharacter(emitter.kind)) {
                continue;
            }
            // One place is enough: asked for it alone until there is one.
            const MapAsker asker(model_, {.which = {i}, .voices = true, .mean = true});
            MapAsker::Scratch scratch;
            const bool near = emitter.kind == EmitterKind::point;
            for (const std::uint32_t cell : floor) {
                const Vec3 ears = grid.at(cell % grid.columns, cell / grid.columns);
                if (near && glm::length(emitter.at - ears) > model_.reach_m(i)) {
                    continue;
                }
                const MapCell there = asker.ask(ears, scratch);
                if (std::max(there.level_db, there.reverb_db) >= audible_db) {
                    heard_[i] = true;
                    break;
                }
            }
        }
    }

    /// Of whom only part of a room hears anything.
    void findReaches(const MapGrid& grid, const std::vector<std::uint32_t>& floor)
    {
        constexpr double leastShare = 0.3;
        constexpr double mostShare = 0.7;
        constexpr std::size_t fewPlaces = 12;
        const RoomMap& rooms = model_.world().rooms();
        std::map<std::uint32_t, std::vector<Vec3>> places; // by room
        for (const std::uint32_t cell : floor) {
            const Vec3 ears = grid.at(cell % grid.columns, cell / grid.columns);
            const std::uint32_t room = rooms.roomAt(ears);
            if (room != RoomMap::outside) {
                places[room].push_back(ears);
            }
        }
        for (std::uint32_t i = 0; i < level_.emitters.size(); ++i) {
            const Emitter& emitter = *level_.emitters[i];
            const std::uint32_t room = emitter.kind == EmitterKind::point && emitter.riding.on == Riding::On::nothing
                                           ? rooms.roomAt(emitter.at)
                                           : RoomMap::outside;
            const auto here = places.find(room);
            if (room == RoomMap::outside || here == places.end() || here->second.size() < fewPlaces) {
                continue;
            }
            const auto within = std::count_if(here->second.begin(), here->second.end(), [&](const Vec3& ears) {
                return glm::length(ears - emitter.at) < model_.reach_m(i);
            });
            const double share = static_cast<double>(within) / static_cast<double>(here->second.size());
            if (share > leastShare && share < mostShare) {
                char text[64];
                std::snprintf(text, sizeof text, "%.0f of 100 parts", 100.0 * share);
                found_.push_back({.code = "reach-ends-in-room",
                                  .severity = Finding::Severity::note,
                                  .what = std::string("its reach ends in the middle of ") + level_.rooms[room]->name + ": on " +
                                          text + " of the floor it is heard",
                                  .where = "Emitter \"" + emitter.name + '"',
                                  .fix = "let it reach to the walls, or end well before, if it is not meant so",
                                  .level = level_.id,
                                  .emitter = emitter.id});
            }
        }
    }

    void findUnheard()
    {
        for (std::uint32_t i = 0; i < level_.emitters.size(); ++i) {
            const Emitter& emitter = *level_.emitters[i];
            if (!heard_[i] && !isOfCharacter(emitter.kind) && !emitter.muted) {
                found_.push_back({.code = "heard-nowhere",
                                  .severity = Finding::Severity::warning,
                                  .what = "it is heard nowhere on the floor that one can walk on",
                                  .where = "Emitter \"" + emitter.name + '"',
                                  .fix = "let it reach further, raise it, or take it out",
                                  .level = level_.id,
                                  .emitter = emitter.id});
            }
        }
    }

    const HearingModel& model_;
    const Level& level_;
    const std::vector<Bands>& masking_db_;
    unsigned threads_;
    const std::function<bool(double)>& progress_;
    std::vector<bool> heard_; ///< by emitter: somewhere
    /// Where somebody that matters is masked.
    struct Masked {
        double area_m2 = 0.0;
        double largest_m2 = 0.0;
        std::string spot;
        std::map<std::uint32_t, double> by; ///< square metres by who masks it
    };
    std::map<std::uint32_t, Masked> masked_; ///< by emitter
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> findOverFloor(const HearingModel& model, const std::vector<Bands>& masking_db, unsigned threads,
                                   const std::function<bool(double)>& progress)
{
    return FloorSurvey(model, masking_db, threads, progress).findings();
}

} // namespace stone
