// SPDX-License-Identifier: MPL-2.0
#include "world/plant_spots.h"

#include "project/chance.h"
#include "world/carriage.h"
#include "world/placed_solid.h"

#include <fnmatch.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <functional>
#include <unordered_map>
#include <unordered_set>

namespace stone
{

namespace
{

/// So far below a place its floor is looked for.
constexpr double floorWithin_m = 20.0;
/// A floor counts for what stands a little below it: places on lines that were drawn by hand.
constexpr double plantedStep_m = 0.5;
/// What is strewn has so much air above it.
constexpr double airAbove_m = 0.3;
/// A floor is not steeper: the z of its unit normal.
constexpr double plantedFlat = 0.5;
/// Tries in a row of the length of the least distance. More fill the last gaps and cost their square.
constexpr double triesInARow = 3.0;
constexpr std::size_t mostTries = 600'000;

std::string placeKey(const Vec3& at)
{
    // Adding zero turns -0.00 into 0.00.
    const auto rounded = [](double x) { return std::round(x * 100.0) / 100.0 + 0.0; };
    std::array<char, 96> text{};
    std::snprintf(text.data(), text.size(), "%.2f,%.2f,%.2f", rounded(at.x), rounded(at.y), rounded(at.z));
    return text.data();
}

PlantSpot spotAt(const Vec3& at, double heading_deg)
{
    return {placeKey(at), at, heading_deg};
}

/// Every so far along a line, with what is left over in equal parts at both ends; round a closed one as nearly so far as
/// comes out even.
void addAlong(std::vector<Vec3> points, bool closed, double every_m, std::vector<PlantSpot>& found)
{
    if (closed && !points.empty()) {
        points.push_back(points.front());
    }
    double length_m = 0.0;
    for (std::size_t i = 1; i < points.size(); ++i) {
        length_m += glm::distance(points[i - 1], points[i]);
    }
    if (length_m <= 0.0) {
        return;
    }
    const double steps = closed ? std::max(std::round(length_m / every_m), 1.0) : std::floor(length_m / every_m + 1e-9);
    const double step_m = closed ? length_m / steps : every_m;
    const double first_m = closed ? 0.0 : (length_m - steps * every_m) / 2.0;
    const auto count = static_cast<std::size_t>(std::min(steps, 1e7)) + (closed ? 0 : 1);
    double before_m = 0.0;
    std::size_t piece = 1;
    for (std::size_t i = 0; i < count && found.size() <= mostPlanted; ++i) {
        const double wanted_m = first_m + static_cast<double>(i) * step_m;
        double piece_m = glm::distance(points[piece - 1], points[piece]);
        while (wanted_m > before_m + piece_m && piece + 1 < points.size()) {
            before_m += piece_m;
            ++piece;
            piece_m = glm::distance(points[piece - 1], points[piece]);
        }
        const Vec3 way = points[piece] - points[piece - 1];
        const double share = piece_m > 0.0 ? std::clamp((wanted_m - before_m) / piece_m, 0.0, 1.0) : 0.0;
        found.push_back(spotAt(points[piece - 1] + way * share, headingAlong(way)));
    }
}

/// Where a line bends, facing the middle of its two ways there.
void addBends(const std::vector<Vec3>& points, bool closed, double bend_deg, std::vector<PlantSpot>& found)
{
    const std::size_t n = points.size();
    for (std::size_t i = closed ? 0 : 1; i < (closed ? n : n - 1) && n > 2; ++i) {
        const Vec2 in = Vec2(points[i]) - Vec2(points[(i + n - 1) % n]);
        const Vec2 out = Vec2(points[(i + 1) % n]) - Vec2(points[i]);
        if (glm::length(in) <= 0.0 || glm::length(out) <= 0.0) {
            continue;
        }
        const double before_deg = headingAlong(Vec3(in, 0.0));
        const double turn_deg = wrapDegrees(headingAlong(Vec3(out, 0.0)) - before_deg);
        if (std::abs(turn_deg) >= bend_deg) {
            found.push_back(spotAt(points[i], wrapDegrees(before_deg + turn_deg / 2.0)));
        }
    }
}

/// Keeps what is placed apart from each other, by cubes as long as that.
class Apart
{
public:
    explicit Apart(double apart_m) : apart_m_(apart_m) {}

    bool room(const Vec3& at) const
    {
        const auto cell = cellOf(at);
        for (std::int64_t x = cell[0] - 1; x <= cell[0] + 1; ++x) {
            for (std::int64_t y = cell[1] - 1; y <= cell[1] + 1; ++y) {
                for (std::int64_t z = cell[2] - 1; z <= cell[2] + 1; ++z) {
                    const auto there = cells_.find(keyOf({x, y, z}));
                    if (there != cells_.end() &&
                        std::any_of(there->second.begin(), there->second.end(),
                                    [&](const Vec3& other) { return glm::distance(other, at) < apart_m_; })) {
                        return false;
                    }
                }
            }
        }
        return true;
    }
    void take(const Vec3& at) { cells_[keyOf(cellOf(at))].push_back(at); }

private:
    using Cell = std::array<std::int64_t, 3>;
    Cell cellOf(const Vec3& at) const
    {
        const auto whole = [this](double x) { return static_cast<std::int64_t>(std::floor(x / apart_m_)); };
        return {whole(at.x), whole(at.y), whole(at.z)};
    }
    /// Cells that share a key are far from each other, and what is in them is looked at exactly.
    static std::uint64_t keyOf(const Cell& cell)
    {
        const auto part = [](std::int64_t x) { return static_cast<std::uint64_t>(x) & 0x1FFFFFU; };
        return part(cell[0]) << 42U | part(cell[1]) << 21U | part(cell[2]);
    }

    double apart_m_;
    std::unordered_map<std::uint64_t, std::vector<Vec3>> cells_;
};

/// All floors at a place of the plan on which something can stand, the highest first.
class Floors
{
public:
    explicit Floors(const Ground& ground) : ground_(ground) {}

    template <class Found> void eachAt(const Vec2& at, const Found& found)
    {
        ground_.column(at, surfaces_);
        const Mesh& mesh = ground_.mesh();
        double above_m = boundless;
        for (const Ground::Surface& surface : surfaces_) {
            const Mesh::Triangle& triangle = mesh.triangles[surface.triangle];
            const Vec3& a = mesh.points[triangle.corners[0]];
            const Vec3 normal = glm::cross(mesh.points[triangle.corners[1]] - a, mesh.points[triangle.corners[2]] - a);
            if (normal.z > plantedFlat * glm::length(normal) && above_m - surface.height_m > airAbove_m) {
                found(Vec3(at, surface.height_m), mesh.materials[triangle.material]);
            }
            above_m = surface.height_m;
        }
    }
    bool stands(const Vec3& at) const { return !ground_.insideSolid(at + Vec3(0.0, 0.0, airAbove_m / 2.0)); }

private:
    const Ground& ground_;
    std::vector<Ground::Surface> surfaces_;
};

/// Finds the places of one rule.
class SpotFinder
{
public:
    SpotFinder(const Plant& plant, const PlantSurroundings& around) : plant_(plant), around_(around)
    {
        if (around_.zone) {
            zone_ = placedSolid(around_.zone->shape, around_.zone->at, around_.zone->heading_deg, around_.ground.get());
        }
    }

    PlantSpots find()
    {
        if (needsGeometry(plant_.where) && around_.ground == nullptr) {
            result_.trouble = PlantTrouble::noGeometry;
        } else if (needsEdges(plant_.where) && around_.edges == nullptr) {
            result_.trouble = PlantTrouble::waits;
        } else if (plant_.where == Plant::Where::route && around_.roamer == nullptr) {
            result_.trouble = PlantTrouble::noRoamer;
        }
        if (result_.trouble == PlantTrouble::none) {
            look();
            keep();
        }
        return std::move(result_);
    }

private:
    void look()
    {
        switch (plant_.where) {
        case Plant::Where::line: alongRibbon(); break;
        case Plant::Where::edges:
        case Plant::Where::corners: alongEdges(); break;
        case Plant::Where::shape:
        case Plant::Where::surface: strew(); break;
        case Plant::Where::nodes:
            for (const Mesh::Node& node : around_.ground->mesh().nodes) {
                addNamed(node.name, node.name, node.at, node.heading_deg);
            }
            break;
        case Plant::Where::openings:
            for (const auto& opening : around_.openings) {
                const Vec3 way(opening->to - opening->from, 0.0);
                addNamed(opening->name, opening->id.text, Vec3((opening->from + opening->to) / 2.0, opening->sill_m),
                         headingAlong(way));
            }
            break;
        case Plant::Where::route: {
            const Route route(around_.roamer->roaming, around_.seed, around_.roamer->id.text, around_.ground.get(),
                              around_.ways);
            result_.settled = !route.waysMissing();
            addAlong(route.line(), false, plant_.every_m, found_);
            break;
        }
        }
        if (plant_.onFloor && !strews(plant_.where) && around_.ground) {
            for (PlantSpot& spot : found_) {
                if (const auto floor = around_.ground->floorBelow(spot.at + Vec3(0.0, 0.0, plantedStep_m), floorWithin_m)) {
                    spot.at.z = floor->height_m;
                    spot.key = named_ ? spot.key : placeKey(spot.at);
                }
            }
        }
    }

    void alongRibbon()
    {
        const auto* ribbon = std::get_if<Ribbon>(&plant_.shape);
        if (ribbon == nullptr) {
            return;
        }
        const Carriage turn{plant_.at, plant_.heading_deg, true};
        std::vector<Vec3> points;
        for (const Vec3& point : ribbon->points) {
            points.push_back(turn.placed(point));
        }
        addAlong(std::move(points), ribbon->closed, plant_.every_m, found_);
    }

    void alongEdges()
    {
        const auto& materials = around_.ground->mesh().materials;
        for (const FloorEdge& edge : around_.edges->all()) {
            if (!plant_.edges[static_cast<std::size_t>(edge.kind)] ||
                (!plant_.surface.empty() && materials[edge.material] != plant_.surface)) {
                continue;
            }
            if (plant_.where == Plant::Where::edges) {
                addAlong(edge.points, edge.closed, plant_.every_m, found_);
            } else {
                addBends(edge.points, edge.closed, plant_.bend_deg, found_);
            }
            if (found_.size() > mostPlanted) {
                return;
            }
        }
    }

    void addNamed(const std::string& name, const std::string& key, const Vec3& at, double heading_deg)
    {
        named_ = true;
        if (fnmatch(plant_.names.c_str(), name.c_str(), 0) == 0) {
            found_.push_back({key, at, heading_deg});
        }
    }

    void strew()
    {
        const bool inShape = plant_.where == Plant::Where::shape;
        const Solid shape = placedSolid(plant_.shape, plant_.at, plant_.heading_deg, around_.ground.get());
        const auto box = inShape ? shape.box() : around_.ground->mesh().bounds();
        const double cell_m = plant_.apart_m / triesInARow;
        const auto first = [&](int axis) { return std::floor(box[0][axis] / cell_m); };
        const auto count = [&](int axis) { return std::floor(box[1][axis] / cell_m) - first(axis) + 1.0; };
        if (count(0) * count(1) > static_cast<double>(mostTries)) {
            result_.trouble = PlantTrouble::tooMany;
            return;
        }
        const bool toFloors = !inShape || plant_.onFloor;
        if (toFloors && around_.ground) {
            floors_.emplace(*around_.ground);
        }
        struct Ranked {
            double rank;
            PlantSpot spot;
        };
        std::vector<Ranked> ranked;
        const double low_m = plant_.at.z + 1e-6; // a shape's own floor belongs to it
        for (double x = 0.0; x < count(0); ++x) {
            for (double y = 0.0; y < count(1); ++y) {
                const auto cell = static_cast<std::int64_t>((first(0) + x) * 4'194'304.0 + (first(1) + y));
                const auto drawn = [&](const char* what) {
                    return chance(around_.seed, plant_.id.text, what, static_cast<std::uint64_t>(cell));
                };
                const Vec2 at((first(0) + x + drawn("aside")) * cell_m, (first(1) + y + drawn("ahead")) * cell_m);
                const auto add = [&](const Vec3& place) { ranked.push_back({drawn("rank"), {{}, place, plant_.heading_deg}}); };
                if (!floors_) { // of a shape: a surface has floors
                    if (shape.contains(Vec3(at, low_m))) {
                        add(Vec3(at, plant_.at.z));
                    }
                    continue;
                }
                floors_->eachAt(at, [&](const Vec3& place, const std::string& material) {
                    if ((plant_.surface.empty() || material == plant_.surface) &&
                        (!inShape || shape.contains(place + Vec3(0.0, 0.0, 1e-6)))) {
                        add(place);
                    }
                });
            }
        }
        std::stable_sort(ranked.begin(), ranked.end(), [](const Ranked& a, const Ranked& b) { return a.rank < b.rank; });
        for (Ranked& one : ranked) {
            one.spot.key = placeKey(one.spot.at);
            found_.push_back(std::move(one.spot));
        }
    }

    /// Of what was found that which holds by all conditions.
    void keep()
    {
        std::unordered_set<std::string> keys;
        Apart apart(std::max(plant_.apart_m, 0.01));
        for (PlantSpot& spot : found_) {
            if (spot.at.z < plant_.lowest_m || spot.at.z > plant_.highest_m ||
                (around_.zone && !zone_.contains(spot.at + Vec3(0.0, 0.0, 1e-6)))) {
                continue;
            }
            if (named_) {
                // Two nodes of one name are told apart by their order.
                const std::string name = spot.key;
                for (int n = 2; !keys.insert(spot.key).second; ++n) {
                    spot.key = name + '#' + std::to_string(n);
                }
            } else if (!keys.insert(spot.key).second) {
                continue;
            }
            if ((plant_.apart_m > 0.0 && !apart.room(spot.at)) || (floors_ && !floors_->stands(spot.at))) {
                continue;
            }
            if (result_.spots.size() == mostPlanted) {
                result_.trouble = PlantTrouble::tooMany;
                break;
            }
            apart.take(spot.at);
            if (plant_.chance >= 1.0 || chance(around_.seed, plant_.id.text, spot.key) < plant_.chance) {
                result_.spots.push_back(std::move(spot));
            }
        }
    }

    const Plant& plant_;
    const PlantSurroundings& around_;
    Solid zone_;
    PlantSpots result_;
    std::vector<PlantSpot> found_;
    std::optional<Floors> floors_; ///< on which what was strewn stands
    bool named_ = false;
};

} // namespace

bool PlantSurroundings::operator==(const PlantSurroundings& other) const
{
    return seed == other.seed && ground == other.ground && edges == other.edges && zone == other.zone &&
           roamer == other.roamer && openings.shares(other.openings) && ways == other.ways;
}

PlantSpots spotsOf(const Plant& plant, const PlantSurroundings& around)
{
    return SpotFinder(plant, around).find();
}

} // namespace stone
