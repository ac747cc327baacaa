// SPDX-License-Identifier: MPL-2.0
#include "hearing/occluder.h"

#include "acoustics/barrier.h"
#include "acoustics/wall_loss.h"
#include "dsp/decibel.h"
#include "project/chance.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

namespace stone
{

namespace
{

/// No loss counts for more than this: it is below any noise.
constexpr double most_db = 90.0;
/// Ways round that are longer than the straight one by more than this carry nothing that counts.
constexpr double furthestDetour_m = 25.0;
/// How far beside the line a way past a wall is looked for.
constexpr double furthestAside_m = 12.0;
/// The share of the reach over which the walls' part fades out.
constexpr double fading = 0.2;
/// Steeper lines than this have no top to go over: they are passed on all four sides alike.
constexpr double steep = 0.9;

double fract(double x)
{
    return x - std::floor(x);
}

double along(const Vec3& from, const std::vector<Vec3>& bends, const Vec3& to)
{
    double length = 0.0;
    Vec3 at = from;
    for (const Vec3& bend : bends) {
        length += glm::length(bend - at);
        at = bend;
    }
    return length + glm::length(to - at);
}

/// Lifts a way in the plan to where it goes: steadily from one end's height to the other's.
std::vector<Vec3> lifted(const Vec3& from, const std::vector<Vec2>& bends, const Vec3& to)
{
    double length = 0.0;
    std::vector<double> reached;
    Vec2 at(from);
    for (const Vec2& bend : bends) {
        length += glm::length(bend - at);
        reached.push_back(length);
        at = bend;
    }
    length += glm::length(Vec2(to) - at);
    std::vector<Vec3> way;
    for (std::size_t i = 0; i < bends.size(); ++i) {
        way.emplace_back(bends[i], from.z + (to.z - from.z) * reached[i] / length);
    }
    return way;
}

} // namespace

double Screened::level_db() const
{
    if (std::all_of(loss_db.begin(), loss_db.end(), [](double loss) { return loss == 0.0; })) {
        return 0.0; // mostly there is nothing in the way
    }
    double sum = 0.0;
    for (const double loss : loss_db) {
        sum += powerOf(loss);
    }
    return 10.0 * std::log10(sum / static_cast<double>(loss_db.size()));
}

Bands WaySeen::loss_db() const
{
    Bands loss{};
    std::transform(left.begin(), left.end(), loss.begin(),
                   [](double share) { return -10.0 * std::log10(std::max(share, 1e-12)); });
    return loss;
}

std::vector<Vec3> pointsInCube(int count, const std::string& id)
{
    // The root of x^4 = x + 1.
    constexpr double g = 1.2207440846057596;
    const Vec3 offset{chance(0, id, "rays", 0), chance(0, id, "rays", 1), chance(0, id, "rays", 2)};
    std::vector<Vec3> points;
    for (int i = 1; i <= count; ++i) {
        const double n = i;
        points.emplace_back(fract(offset.x + n / g), fract(offset.y + n / (g * g)), fract(offset.z + n / (g * g * g)));
    }
    return points;
}

std::vector<Vec3> pointsInBall(int count, const std::string& id)
{
    std::vector<Vec3> points{Vec3{0.0}};
    for (const Vec3& p : pointsInCube(count - 1, id)) {
        const double z = 2.0 * p.y - 1.0;
        const double turn = 2.0 * 3.14159265358979 * p.x;
        const double across = std::sqrt(std::max(1.0 - z * z, 0.0));
        points.push_back(Vec3{across * std::cos(turn), across * std::sin(turn), z} * std::cbrt(p.z));
    }
    return points;
}

Occluder::Occluder(std::shared_ptr<const Project> project, const Level& level, const std::shared_ptr<const Ground>& ground,
                   bool search)
    : project_(std::move(project)), settings_(project_->occlusion)
{
    if (!settings_.on || !ground || ground->mesh().triangles.empty()) {
        return;
    }
    obstacles_ = search ? ground->obstacles(settings_.slender_m) : ground->foundObstacles(settings_.slender_m);
    if (!obstacles_) {
        return;
    }
    for (const std::string& name : obstacles_->mesh().materials) {
        materials_.push_back(materialOf(project_->materials, project_->surfaces, name));
        const Bands loss = wallLoss_db(*materials_.back().material, 0.0);
        Energies table{};
        std::transform(loss.begin(), loss.end(), table.begin(), powerOf);
        tables_.push_back(table);
    }
    if (settings_.bends) {
        gatherStoreys(level, search);
    }
}

void Occluder::gatherStoreys(const Level& level, bool search)
{
    std::vector<Storey> storeys = level.storeys;
    std::sort(storeys.begin(), storeys.end(), [](const Storey& a, const Storey& b) { return a.floor_m < b.floor_m; });
    constexpr double below_m = 0.5;
    for (std::size_t i = 0; i < storeys.size(); ++i) {
        const double top = i + 1 < storeys.size() ? storeys[i + 1].floor_m - below_m : std::numeric_limits<double>::infinity();
        auto graph = search ? obstacles_->corners(storeys[i].cut_m) : obstacles_->foundCorners(storeys[i].cut_m);
        if (graph) {
            storeys_.push_back({storeys[i].floor_m - below_m, top, std::move(graph)});
        }
    }
}

std::shared_ptr<const CornerGraph> Occluder::cornersFor(double a_m, double b_m) const
{
    for (const StoreyCorners& storey : storeys_) {
        if (std::min(a_m, b_m) >= storey.from_m && std::max(a_m, b_m) < storey.to_m) {
            return storey.graph;
        }
    }
    return nullptr;
}

std::optional<std::uint32_t> Occluder::nodeOf(const std::string& name) const
{
    if (name.empty() || !active()) {
        return {};
    }
    const auto& nodes = obstacles_->mesh().nodes;
    const auto found = std::find_if(nodes.begin(), nodes.end(), [&](const Mesh::Node& node) { return node.name == name; });
    return found != nodes.end() ? std::optional(static_cast<std::uint32_t>(found - nodes.begin())) : std::nullopt;
}

Obstacles::Ray Occluder::rayTo(const Vec3& ears, const Vec3& to, const Source& source) const
{
    return {.from = ears, .to = to, .clearFrom_m = settings_.body_m, .clearTo_m = source.clear_m, .without = source.housing};
}

Occluder::Energies Occluder::throughWalls(const std::vector<Obstacles::Crossing>& crossings) const
{
    Energies left;
    left.fill(1.0);
    for (const Obstacles::Crossing& wall : crossings) {
        const Material& material = *materials_[wall.material].material;
        if (material.loss_db || material.density_kg_m3 <= 0.0) {
            for (std::size_t band = 0; band < left.size(); ++band) {
                left[band] *= tables_[wall.material][band];
            }
            continue;
        }
        const Bands loss = wallLoss_db(material, wall.leaves_m - wall.enters_m);
        for (std::size_t band = 0; band < left.size(); ++band) {
            left[band] *= powerOf(loss[band]);
        }
    }
    return left;
}

void Occluder::bendRoundCorners(const std::shared_ptr<const CornerGraph>& graph, const Vec3& ears, const Source& source,
                                Scratch& scratch, std::vector<WaySeen>& ways, bool tell) const
{
    const Vec3& to = source.centre;
    const Vec2 here(ears);
    if (scratch.spreadOf != graph || glm::length(here - scratch.spread.from) > scratch.staleBy_m) {
        graph->spreadFrom(here, settings_.body_m, *obstacles_, scratch.spread);
        scratch.spreadOf = graph;
    }
    const double direct_m = glm::length(to - ears);
    const CornerGraph::End end{Vec2(to), source.clear_m, source.housing};
    CornerGraph::Ways found;
    if (scratch.keepsSources && source.still) {
        scratch.known.resize(std::max<std::size_t>(scratch.known.size(), *source.still + 1));
        Scratch::Known& known = scratch.known[*source.still];
        if (known.graph != graph || !(known.seen.end == end)) {
            graph->look(end, *obstacles_, known.seen);
            known.graph = graph;
        }
        found = graph->waysTo(known.seen, scratch.spread, furthestDetour_m);
    } else {
        found = graph->waysTo(end, scratch.spread, *obstacles_, furthestDetour_m);
    }
    for (const auto& way : {found.left, found.right}) {
        if (!way) {
            continue;
        }
        const std::vector<Vec3> bends = lifted(ears, graph->bendsOf(*way, scratch.spread), to);
        WaySeen seen{{}, std::max(along(ears, bends, to) - direct_m, 0.0), {}};
        if (tell) {
            seen.points = bends;
        }
        ways.push_back(std::move(seen));
    }
}

Occluder::Energies Occluder::bent(const Vec3& ears, const Source& source, Scratch& scratch, Explained* told) const
{
    Energies energies{};
    if (!settings_.bends) {
        return energies;
    }
    const Vec3& to = source.centre;
    const Vec3 line = to - ears;
    const double direct_m = glm::length(line);
    std::vector<WaySeen> ways;
    if (scratch.middle.empty()) {
        // The middle is in sight: what is hidden lies right behind an edge.
        ways.push_back({{}, 0.0, {}});
    } else {
        const auto corners = cornersFor(ears.z, to.z);
        if (corners != nullptr) {
            bendRoundCorners(corners, ears, source, scratch, ways, told != nullptr);
        }
        const Vec3 direction = line / direct_m;
        const bool upright = std::abs(direction.z) > steep;
        const Vec3 right = glm::normalize(glm::cross(direction, upright ? Vec3{1.0, 0.0, 0.0} : Vec3{0.0, 0.0, 1.0}));
        const Vec3 up = glm::cross(right, direction);
        for (const auto& [aside, level] : {std::pair(up, false), {-up, false}, {right, true}, {-right, true}}) {
            if (level && corners != nullptr) {
                continue;
            }
            if (auto past = wayPast(*obstacles_, rayTo(ears, to, source), scratch.middle, aside, furthestAside_m)) {
                ways.push_back({std::move(past->bends), std::max(past->length_m - direct_m, 0.0), {}});
            }
        }
    }
    for (WaySeen& way : ways) {
        way.left = bendingShares(way.detour_m, direct_m);
        std::transform(energies.begin(), energies.end(), way.left.begin(), energies.begin(), std::plus<>());
        if (told != nullptr) {
            way.points.insert(way.points.begin(), ears);
            way.points.push_back(to);
            told->ways.push_back(way);
        }
    }
    return energies;
}

Occluder::Energies Occluder::throughOpenings(const Source& source, Explained* told)
{
    Energies energies{};
    for (const WaySeen& way : source.ways) {
        std::transform(energies.begin(), energies.end(), way.left.begin(), energies.begin(), std::plus<>());
        if (told != nullptr) {
            told->ways.push_back(way);
        }
    }
    return energies;
}

/// A ray that only leaves stop is itself the way through these openings: what that way brings is not added again.
void Occluder::takeStraightWays(const Source& source, const std::vector<const RoomMap::Hole*>& passed, Energies& left)
{
    constexpr double nearly_m = 1e-3;
    const auto within = [&](const Vec3& point) {
        return std::any_of(passed.begin(), passed.end(), [&](const RoomMap::Hole* hole) {
            return std::abs(glm::dot(point - hole->centre, hole->normal)) < nearly_m && hole->toEdge_m(point) > -nearly_m;
        });
    };
    for (const WaySeen& way : source.ways) {
        if (std::all_of(way.points.begin() + 1, way.points.end() - 1, within)) {
            std::transform(left.begin(), left.end(), way.left.begin(), left.begin(), std::minus<>());
        }
    }
}

/// From where what comes through openings is heard, and how much of all that is.
void Occluder::turn(const Vec3& ears, const Source& source, double weightHidden, const Energies& sum, Screened& screened)
{
    double carried = 0.0;
    for (const WaySeen& way : source.ways) {
        const double energy = std::accumulate(way.left.begin(), way.left.end(), 0.0);
        carried += energy;
        screened.detour_m += way.detour_m * energy;
        const Vec3 first = way.points[1] - ears;
        const double length = glm::length(first);
        screened.towards += length > 0.0 ? first / length * energy : Vec3{0.0};
    }
    const double all = std::accumulate(sum.begin(), sum.end(), 0.0);
    if (carried <= 0.0 || all <= 0.0) {
        screened.detour_m = 0.0;
    } else {
        screened.towards /= carried;
        screened.turned = std::min(weightHidden * carried / all, 1.0);
        screened.detour_m *= screened.turned / carried;
    }
}

Screened Occluder::screen(const Vec3& ears, const Source& source, Scratch& scratch, Explained* told) const
{
    Screened screened;
    const double distance_m = glm::length(source.centre - ears);
    if (!active() || distance_m >= settings_.reach_m || source.points.empty()) {
        return screened;
    }
    const auto cast = [&](const Vec3& to, std::vector<Obstacles::Crossing>& crossings) {
        obstacles_->through(rayTo(ears, to, source), crossings);
    };
    Energies open;
    open.fill(1.0);
    Energies sum{};
    double all = 0.0;
    double weightHidden = 0.0;
    scratch.stopped.clear();
    for (const Source::Point& point : source.points) {
        all += point.weight;
        cast(point.at, scratch.crossings);
        if (&point == source.points.data() && point.at == source.centre) {
            scratch.middle = scratch.crossings;
        }
        ++screened.rays;
        if (told != nullptr) {
            RaySeen ray{.to = point.at, .weight = point.weight, .walls = {}};
            const Vec3 direction = glm::normalize(point.at - ears);
            for (const Obstacles::Crossing& wall : scratch.crossings) {
                const double thickness_m = wall.leaves_m - wall.enters_m;
                ray.walls.push_back({ears + direction * wall.enters_m, thickness_m, wall.material,
                                     wallLoss_db(*materials_[wall.material].material, thickness_m)});
            }
            told->rays.push_back(std::move(ray));
        }
        Energies left = throughWalls(scratch.crossings);
        scratch.passed.clear();
        for (const Source::Leaf& leaf : source.leaves) {
            if (leaf.hole->passedBy(ears, point.at)) {
                std::transform(left.begin(), left.end(), leaf.passes.begin(), left.begin(), std::multiplies<>());
                scratch.passed.push_back(leaf.hole);
            }
        }
        if (told != nullptr) {
            told->rays.back().leaf = scratch.crossings.empty() && left != open;
        }
        if (left == open) {
            ++screened.free;
            for (double& energy : sum) {
                energy += point.weight;
            }
            continue;
        }
        if (scratch.crossings.empty()) {
            takeStraightWays(source, scratch.passed, left);
        }
        scratch.stopped.emplace_back(point.weight, left);
        weightHidden += point.weight;
    }
    if (weightHidden > 0.0) {
        if (source.points.front().at != source.centre) {
            cast(source.centre, scratch.middle);
        }
        const Energies bending = source.elsewhere ? throughOpenings(source, told) : bent(ears, source, scratch, told);
        for (const auto& [weight, through] : scratch.stopped) {
            for (std::size_t band = 0; band < sum.size(); ++band) {
                sum[band] += weight * std::clamp(through[band] + bending[band], 0.0, 1.0);
            }
        }
        if (source.elsewhere) {
            turn(ears, source, weightHidden, sum, screened);
        }
        const double faded = std::clamp((settings_.reach_m - distance_m) / (fading * settings_.reach_m), 0.0, 1.0);
        for (std::size_t band = 0; band < sum.size(); ++band) {
            screened.loss_db[band] = faded * std::min(-10.0 * std::log10(std::max(sum[band] / all, 1e-12)), most_db);
        }
    }
    if (told != nullptr) {
        for (RaySeen& ray : told->rays) {
            ray.weight /= all;
        }
        told->screened = screened;
    }
    return screened;
}

} // namespace stone
