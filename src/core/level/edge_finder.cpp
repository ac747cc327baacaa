// SPDX-License-Identifier: MPL-2.0
#include "level/edge_finder.h"

#include "level/edge_islands.h"
#include "level/edge_lines.h"
#include "level/walk_surface.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <limits>

namespace stone
{

namespace
{

constexpr double steepestFloor = 0.7;  ///< least upward part of the normal of what is walked on
constexpr double uprightFace = 0.02;   ///< a face whose normal points up or down by no more has one line in the plan
constexpr double besideLine_m = 0.005; ///< so far from a line it is looked on either side
constexpr double sameHeight_m = 0.002; ///< surfaces that lie on each other
constexpr double between_m = 0.25;     ///< along a line, what lies between two places that are alike is alike
constexpr double bisected_m = 1e-3;
constexpr double chest_m = 1.2;      ///< above the feet
constexpr double islandShare = 0.1;  ///< of the largest floor is one that cannot be come to, at least
constexpr double waterline_m = 1e-4; ///< above the water the shore is cut
constexpr double overWater_m = 0.25; ///< so far from the shore it is water
constexpr double endless = std::numeric_limits<double>::infinity();

/// What is found at one place of a line.
struct Found {
    bool edge = false;
    EdgeKind kind = EdgeKind::drop;
    double height_m = 0.0; ///< of the floor
    double by_m = 0.0;
    std::uint32_t floor = 0; ///< triangle
};

bool alike(const Found& a, const Found& b)
{
    constexpr double stairs_m = 0.05; ///< a floor that changes by more between two places has an edge itself
    return a.edge == b.edge &&
           (!a.edge || (a.kind == b.kind && (a.floor == b.floor || std::abs(a.height_m - b.height_m) <= stairs_m)));
}

class EdgeFinder
{
public:
    EdgeFinder(const Ground& ground, const EdgeRules& rules, const std::atomic<bool>* stop)
        : ground_(ground), mesh_(ground.mesh()), rules_(rules), stop_(stop), islands_(mesh_.triangles.size())
    {
        for (const std::string& name : mesh_.materials) {
            water_.push_back(isWater(rules, name));
        }
        normals_.reserve(mesh_.triangles.size());
        for (const Mesh::Triangle& triangle : mesh_.triangles) {
            const Vec3& a = mesh_.points[triangle.corners[0]];
            const Vec3 across = glm::cross(mesh_.points[triangle.corners[1]] - a, mesh_.points[triangle.corners[2]] - a);
            const double length = glm::length(across);
            normals_.push_back(length > 0.0 ? across / length : Vec3{0.0});
        }
    }

    std::vector<FloorEdge> find(const std::optional<Vec3>& stands)
    {
        floorBorders();
        faces();
        shores();
        if (stopped()) {
            return {};
        }
        keepReached(stands);
        return edgesOf(lines_);
    }

private:
    using Column = std::vector<Ground::Surface>;

    bool stopped() const { return stop_ != nullptr && stop_->load(std::memory_order_relaxed); }
    bool carries(std::uint32_t triangle) const { return normals_[triangle].z >= steepestFloor; }
    bool wet(std::uint32_t triangle) const { return water_[mesh_.triangles[triangle].material]; }
    const Vec3& corner(std::uint32_t triangle, std::size_t i) const
    {
        return mesh_.points[mesh_.triangles[triangle].corners[i]];
    }

    /// Whether one can stand on a surface of a column: it carries, is not water, and nothing lies over it.
    bool standsOn(const Column& column, std::size_t i) const
    {
        if (!carries(column[i].triangle) || wet(column[i].triangle)) {
            return false;
        }
        for (std::size_t over = i; over-- > 0;) {
            const double room_m = column[over].height_m - column[i].height_m;
            if (room_m > sameHeight_m) {
                return room_m >= floorHeadroom_m;
            }
        }
        return true;
    }

    /// The highest floor at a place of the plan that one can stand on and whose height fits; null where there is none.
    template <class Fits> const Ground::Surface* floorAt(const Vec2& at, const Fits& fits)
    {
        ground_.column(at, here_);
        for (std::size_t i = 0; i < here_.size(); ++i) {
            if (fits(here_[i].height_m) && standsOn(here_, i)) {
                return &here_[i];
            }
        }
        return nullptr;
    }

    /// Above the feet: what is there stands in the way.
    double kneeHeight_m() const { return rules_.step_m + 2.0 * besideLine_m; }
    double chestHeight_m() const { return std::max(chest_m, kneeHeight_m()); }

    /// Across a line in the plan, to the right of the way along it: a unit vector.
    static Vec2 rightOf(const Vec2& way) { return Vec2{way.y, -way.x} / glm::length(way); }

    /// The highest surface that faces up, no higher than that.
    const Ground::Surface* groundIn(const Column& column, double most_m) const
    {
        const auto found = std::find_if(column.begin(), column.end(), [&](const Ground::Surface& surface) {
            return surface.height_m <= most_m && normals_[surface.triangle].z > 0.0;
        });
        return found == column.end() ? nullptr : &*found;
    }

    /// Whether something stands in the way right beyond a place of an edge.
    bool blocked(const Vec3& at, const Vec2& out) const
    {
        const auto hit = [&](double above_m) {
            const Vec3 from = at + Vec3{-2.0 * besideLine_m * out, above_m};
            return ground_.distanceTo(from, {out, 0.0}, 4.0 * besideLine_m).has_value();
        };
        return hit(kneeHeight_m()) || hit(chestHeight_m());
    }

    /// What is beyond a place of a floor, in a direction of the plan. May join islands.
    Found beyond(const Vec3& at, const Vec2& out, std::uint32_t floor)
    {
        Found found{.edge = true, .height_m = at.z, .floor = floor};
        if (blocked(at, out)) {
            found.kind = EdgeKind::wall;
            found.by_m = rises(at, out);
            return found;
        }
        double lowest_m = at.z;
        bool slope = false;
        constexpr double stride_m = 0.05;
        for (double d = besideLine_m; d <= rules_.stride_m + 1e-9; d += d < stride_m ? stride_m - besideLine_m : stride_m) {
            ground_.column(Vec2(at) + d * out, there_);
            const Ground::Surface* ahead = groundIn(there_, at.z + rules_.step_m);
            if (slope && climbed(at.z)) {
                found.kind = EdgeKind::wall;
                found.by_m = rules_.step_m;
                return found;
            }
            if (ahead == nullptr) {
                lowest_m = d > narrowGap_m ? -endless : lowest_m;
                continue;
            }
            if (wet(ahead->triangle)) {
                found.kind = EdgeKind::water;
                found.by_m = at.z - ahead->height_m;
                return found;
            }
            const double lower_m = at.z - ahead->height_m;
            if (!carries(ahead->triangle)) {
                slope = true;
                lowest_m = std::min(lowest_m, ahead->height_m);
                continue;
            }
            if (std::abs(lower_m) < rules_.kerb_m && (d <= narrowGap_m || at.z - lowest_m <= rules_.step_m)) {
                islands_.join(floor, ahead->triangle);
                found.edge = false;
                return found;
            }
            if (d <= narrowGap_m && lower_m > rules_.step_m && !slope && narrowGapAt(at, out)) {
                found.edge = false;
                return found;
            }
            return told(found, std::max(lower_m, at.z - lowest_m), lower_m, *ahead);
        }
        found.kind = EdgeKind::drop;
        found.by_m = at.z - lowest_m;
        if (slope && found.by_m <= rules_.step_m) {
            found.edge = false;
        }
        if (!slope) {
            found.by_m = endless;
        }
        return found;
    }

    /// What a difference in height is: from the lower side nothing is said of what is walked over.
    Found told(Found found, double deepest_m, double lower_m, const Ground::Surface& ahead)
    {
        found.by_m = deepest_m;
        if (deepest_m > rules_.step_m) {
            found.kind = EdgeKind::drop;
            if (deepest_m <= WalkSurface::mostFall_m) {
                islands_.fall(found.floor, ahead.triangle);
            }
            return found;
        }
        islands_.join(found.floor, ahead.triangle);
        found.kind = EdgeKind::kerb;
        found.by_m = std::abs(lower_m);
        found.edge = lower_m > 0.0;
        return found;
    }

    /// Whether the floor goes on at this height behind a gap that is stepped over.
    bool narrowGapAt(const Vec3& at, const Vec2& out)
    {
        ground_.column(Vec2(at) + narrowGap_m * out, beside_);
        const Ground::Surface* behind = groundIn(beside_, at.z + rules_.step_m);
        return behind != nullptr && carries(behind->triangle) && std::abs(behind->height_m - at.z) < rules_.kerb_m;
    }

    /// Whether the column that was looked at last has something between a step and the head.
    bool climbed(double floor_m) const
    {
        return std::any_of(there_.begin(), there_.end(), [&](const Ground::Surface& surface) {
            const double above_m = surface.height_m - floor_m;
            return above_m > rules_.step_m && above_m < floorHeadroom_m;
        });
    }

    /// How high what stands in the way rises, as far as its top shows; infinite where it does not.
    double rises(const Vec3& at, const Vec2& out)
    {
        ground_.column(Vec2(at) + 2.0 * besideLine_m * out, there_);
        const auto top = std::find_if(there_.rbegin(), there_.rend(), [&](const Ground::Surface& surface) {
            return surface.height_m > at.z + rules_.step_m && normals_[surface.triangle].z > 0.0;
        });
        return top == there_.rend() ? endless : top->height_m - at.z;
    }

    /// A lone difference or one of several: whether within a stride another one follows, up behind or down ahead.
    EdgeKind kerbOrStep(const Vec3& at, const Vec2& out, double by_m)
    {
        constexpr double almost = 0.75;
        constexpr double tread_m = 0.1;
        for (double d = tread_m; d <= rules_.stride_m + 1e-9; d += tread_m) {
            ground_.column(Vec2(at) - d * out, there_);
            const Ground::Surface* behind = groundIn(there_, at.z + rules_.step_m);
            if (behind != nullptr && behind->height_m >= at.z + almost * by_m && !flight(behind->triangle)) {
                return EdgeKind::step;
            }
            ground_.column(Vec2(at) + d * out, there_);
            const Ground::Surface* ahead = groundIn(there_, at.z);
            if (ahead != nullptr && ahead->height_m <= at.z - (1.0 + almost) * by_m &&
                ahead->height_m >= at.z - by_m - rules_.step_m && !flight(ahead->triangle)) {
                return EdgeKind::step;
            }
        }
        return EdgeKind::kerb;
    }
    /// A ramp is no flight of stairs.
    bool flight(std::uint32_t triangle) const { return normals_[triangle].z < 0.99; }

    /// Goes along a line in the plan and notes what is alike as one piece. `ask(share)`: what is found there.
    template <class Ask> void along(const Vec2& from, const Vec2& to, const Ask& ask)
    {
        const double length_m = glm::length(to - from);
        const auto parts = static_cast<int>(std::ceil(length_m / between_m));
        // Not the very ends: what lies beside those belongs to the next line as well.
        const double inset = std::min(bisected_m / length_m, 0.25);
        const auto shareOf = [&](int i) { return inset + (1.0 - 2.0 * inset) * i / parts; };
        double begins = 0.0;
        Found first = ask(shareOf(0));
        Found last = first;
        for (int i = 1; i <= parts; ++i) {
            const Found next = ask(shareOf(i));
            if (!alike(last, next)) {
                double low = shareOf(i - 1);
                double high = shareOf(i);
                Found beforeChange = last;
                Found afterChange = next;
                while ((high - low) * length_m > bisected_m) {
                    const double middle = (low + high) / 2.0;
                    const Found here = ask(middle);
                    if (alike(beforeChange, here)) {
                        low = middle;
                        beforeChange = here;
                    } else {
                        high = middle;
                        afterChange = here;
                    }
                }
                note(from, to, begins, low, first, beforeChange);
                begins = high;
                first = afterChange;
            }
            last = next;
        }
        note(from, to, begins, 1.0, first, last);
    }

    void note(const Vec2& from, const Vec2& to, double begins, double ends, const Found& first, const Found& last)
    {
        if (!first.edge || (ends - begins) * glm::length(to - from) < bisected_m) {
            return;
        }
        EdgeKind kind = first.kind;
        if (kind == EdgeKind::kerb) {
            const Vec3 middle{from + (begins + ends) / 2.0 * (to - from), (first.height_m + last.height_m) / 2.0};
            kind = kerbOrStep(middle, rightOf(to - from), (first.by_m + last.by_m) / 2.0);
        }
        lines_.push_back({.kind = kind,
                          .from = {from + begins * (to - from), first.height_m},
                          .to = {from + ends * (to - from), last.height_m},
                          .by_m = std::max(first.by_m, last.by_m),
                          .material = mesh_.triangles[first.floor].material,
                          .floor = first.floor});
    }

    /// Edges of triangles that are walked on and that do not go on in another one.
    void floorBorders()
    {
        std::vector<TriangleSide> sides = sidesOf(mesh_, [this](std::uint32_t triangle) { return carries(triangle); });
        for (std::size_t i = 0; i < sides.size() && !stopped();) {
            std::size_t end = i + 1;
            while (end < sides.size() && sides[end].sameLine(sides[i])) {
                ++end;
            }
            if (end - i == 2 && sides[i].forwards != sides[i + 1].forwards) {
                const std::uint32_t one = sides[i].triangle;
                const std::uint32_t other = sides[i + 1].triangle;
                if (wet(one) == wet(other)) {
                    islands_.join(one, other);
                    i = end;
                    continue;
                }
            }
            for (; i < end; ++i) {
                if (wet(sides[i].triangle)) {
                    waterBorder(sides[i].triangle, sides[i].side);
                } else {
                    border(sides[i].triangle, sides[i].side);
                }
            }
        }
    }

    void border(std::uint32_t triangle, std::size_t side)
    {
        const Vec3 a = corner(triangle, side);
        const Vec3 b = corner(triangle, (side + 1) % 3);
        const Vec2 way = Vec2(b) - Vec2(a);
        if (glm::length(way) < 2.0 * bisected_m) {
            return;
        }
        // Counter-clockwise seen from above: the floor is on the left.
        const Vec2 out = rightOf(way);
        along(Vec2(a), Vec2(b), [&](double share) {
            const Vec3 at = a + share * (b - a);
            // By its height: near a corner the next triangle of the same floor may lie there.
            const bool stands = floorAt(Vec2(at) - besideLine_m * out,
                                        [&](double height_m) { return std::abs(height_m - at.z) <= besideLine_m; }) != nullptr;
            return stands ? beyond(at, out, triangle) : Found{};
        });
    }

    /// Water that ends level with a floor that goes on below it: seen from the floor.
    void waterBorder(std::uint32_t triangle, std::size_t side)
    {
        const Vec3 a = corner(triangle, (side + 1) % 3);
        const Vec3 b = corner(triangle, side);
        const Vec2 way = Vec2(b) - Vec2(a);
        if (glm::length(way) < 2.0 * bisected_m) {
            return;
        }
        const Vec2 out = rightOf(way); // into the water
        along(Vec2(a), Vec2(b), [&](double share) {
            const Vec3 at = a + share * (b - a);
            ground_.column(Vec2(at) + besideLine_m * out, there_);
            const Ground::Surface* water = groundIn(there_, at.z + rules_.step_m);
            if (water == nullptr || !wet(water->triangle) || std::abs(water->height_m - at.z) > besideLine_m) {
                return Found{};
            }
            const Ground::Surface* floor = floorAt(Vec2(at) - besideLine_m * out,
                                                   [&](double height_m) { return std::abs(height_m - at.z) < rules_.kerb_m; });
            return floor != nullptr
                       ? Found{.edge = true, .kind = EdgeKind::water, .height_m = floor->height_m, .floor = floor->triangle}
                       : Found{};
        });
    }

    /// Faces that stand on floors.
    void faces()
    {
        for (std::uint32_t triangle = 0; triangle < mesh_.triangles.size() && !stopped(); ++triangle) {
            if (std::abs(normals_[triangle].z) < steepestFloor && normals_[triangle] != Vec3{0.0}) {
                face(triangle);
            }
        }
    }

    void face(std::uint32_t triangle)
    {
        const Vec3 normal = normals_[triangle];
        const Vec2 front = glm::normalize(Vec2(normal));
        const Vec2 way{front.y, -front.x}; // with the front on its left
        const Vec3 corners[] = {corner(triangle, 0), corner(triangle, 1), corner(triangle, 2)};
        const auto [left, right] =
            std::minmax({glm::dot(Vec2(corners[0]), way), glm::dot(Vec2(corners[1]), way), glm::dot(Vec2(corners[2]), way)});
        if (right - left < 2.0 * bisected_m) {
            return;
        }
        const double lowest_m = std::min({corners[0].z, corners[1].z, corners[2].z});
        const double highest_m = std::max({corners[0].z, corners[1].z, corners[2].z});
        const Vec2 foot = Vec2(corners[0]) - way * glm::dot(Vec2(corners[0]), way);
        // The floors that it may stand on, as they are at its middle and its ends: each is followed along it.
        const Vec2 from = foot + left * way;
        const Vec2 to = foot + right * way;
        std::vector<double> floors;
        constexpr double narrow_m = 1.0;
        floorsBefore((from + to) / 2.0, front, normal, lowest_m, highest_m, floors);
        if (right - left > narrow_m) {
            for (const double share : {0.02, 0.98}) {
                floorsBefore(from + share * (to - from), front, normal, lowest_m, highest_m, floors);
            }
        }
        for (const double floor_m : floors) {
            wallOver(triangle, from, to, floor_m);
        }
    }

    /// Where a face, gone on as a plane, is at a height: how far in front of its line in the plan.
    static double leans_m(const Vec3& normal, double height_m, double lineHeight_m)
    {
        const double level = glm::length(Vec2(normal));
        return -(height_m - lineHeight_m) * normal.z / level;
    }

    void floorsBefore(const Vec2& at, const Vec2& front, const Vec3& normal, double lowest_m, double highest_m,
                      std::vector<double>& floors)
    {
        // A face that leans has its foot elsewhere.
        const double lean_m = std::abs(normal.z) > uprightFace ? std::abs(leans_m(normal, lowest_m, highest_m)) : 0.0;
        for (double ahead_m = 2.0 * besideLine_m; ahead_m <= lean_m + 2.0 * besideLine_m;
             ahead_m += std::max(lean_m, besideLine_m)) {
            ground_.column(at + ahead_m * front, here_);
            for (std::size_t i = 0; i < here_.size(); ++i) {
                const double floor_m = here_[i].height_m;
                const bool reaches = highest_m > floor_m + rules_.step_m && lowest_m < floor_m + floorHeadroom_m;
                constexpr double same_m = 0.3;
                if (reaches && standsOn(here_, i) && std::none_of(floors.begin(), floors.end(), [&](double known_m) {
                        return std::abs(known_m - floor_m) < same_m;
                    })) {
                    floors.push_back(floor_m);
                }
            }
        }
    }

    /// A face as a wall over a floor of about that height, which it may follow up and down.
    void wallOver(std::uint32_t triangle, const Vec2& from, const Vec2& to, double about_m)
    {
        const Vec3 normal = normals_[triangle];
        const Vec2 front = glm::normalize(Vec2(normal));
        const double height0_m = corner(triangle, 0).z;
        double near_m = about_m;
        along(from, to, [&](double share) {
            const Vec2 line = from + share * (to - from);
            // Its foot: where it comes down to the floor.
            const Vec2 at = line + leans_m(normal, near_m, height0_m) * front;
            constexpr double follows_m = 0.6;
            const Ground::Surface* floor = floorAt(at + 2.0 * besideLine_m * front, [&](double height_m) {
                return std::abs(height_m - near_m) <= follows_m &&
                       (spans(triangle, line, height_m + kneeHeight_m()) || spans(triangle, line, height_m + chestHeight_m()));
            });
            if (floor == nullptr) {
                return Found{};
            }
            near_m = floor->height_m;
            return Found{.edge = true,
                         .kind = EdgeKind::wall,
                         .height_m = near_m,
                         .by_m = rises({at, near_m}, -front),
                         .floor = floor->triangle};
        });
    }

    /// Whether a face is there at a height, at a place of its line.
    bool spans(std::uint32_t triangle, const Vec2& line, double height_m) const
    {
        const Vec2 front = glm::normalize(Vec2(normals_[triangle]));
        const Vec2 way{front.y, -front.x};
        const double along = glm::dot(line, way);
        double low_m = endless;
        double high_m = -endless;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3& a = corner(triangle, i);
            const Vec3& b = corner(triangle, (i + 1) % 3);
            const double atA = glm::dot(Vec2(a), way) - along;
            const double atB = glm::dot(Vec2(b), way) - along;
            if (atA * atB > 0.0 || atA == atB) {
                continue;
            }
            const double z_m = a.z + (b.z - a.z) * atA / (atA - atB);
            low_m = std::min(low_m, z_m);
            high_m = std::max(high_m, z_m);
        }
        return low_m <= height_m && height_m <= high_m;
    }

    /// Where the ground rises out of water that lies level.
    void shores()
    {
        std::vector<double> levels_m;
        for (std::uint32_t triangle = 0; triangle < mesh_.triangles.size(); ++triangle) {
            constexpr double isLevel = 0.9999;
            if (wet(triangle) && normals_[triangle].z > isLevel) {
                levels_m.push_back(corner(triangle, 0).z);
            }
        }
        std::sort(levels_m.begin(), levels_m.end());
        levels_m.erase(std::unique(levels_m.begin(), levels_m.end(), [](double a, double b) { return b - a < sameHeight_m; }),
                       levels_m.end());
        if (levels_m.empty()) {
            return;
        }
        const PlanCutter cutter(mesh_);
        for (const double level_m : levels_m) {
            for (const Outline& outline : cutter.at(level_m + waterline_m).outlines) {
                const std::size_t n = outline.points.size();
                for (std::size_t i = 0; i + (outline.closed ? 0 : 1) < n && !stopped(); ++i) {
                    shore(outline.points[i], outline.points[(i + 1) % n], level_m);
                }
            }
        }
    }

    void shore(const Vec2& from, const Vec2& to, double level_m)
    {
        if (glm::length(to - from) < 2.0 * bisected_m) {
            return;
        }
        const Vec2 out = rightOf(to - from); // what is solid lies on the left
        along(from, to, [&](double share) {
            const Vec2 at = from + share * (to - from);
            ground_.column(at + overWater_m * out, there_);
            const Ground::Surface* water = groundIn(there_, level_m + rules_.step_m);
            if (water == nullptr || !wet(water->triangle)) {
                return Found{};
            }
            const Ground::Surface* floor =
                floorAt(at - besideLine_m * out, [&](double height_m) { return std::abs(height_m - level_m) < rules_.kerb_m; });
            return floor != nullptr
                       ? Found{.edge = true, .kind = EdgeKind::water, .height_m = level_m, .floor = floor->triangle}
                       : Found{};
        });
    }

    /// Only what one can come to, and nothing that lies within something solid.
    void keepReached(const std::optional<Vec3>& stands)
    {
        std::vector<double> areas(mesh_.triangles.size());
        for (std::uint32_t triangle = 0; triangle < mesh_.triangles.size(); ++triangle) {
            if (carries(triangle) && !wet(triangle)) {
                const Vec2 a = Vec2(corner(triangle, 1) - corner(triangle, 0));
                const Vec2 b = Vec2(corner(triangle, 2) - corner(triangle, 0));
                areas[islands_.of(triangle)] += std::abs(a.x * b.y - a.y * b.x) / 2.0;
            }
        }
        const auto largest = std::max_element(areas.begin(), areas.end());
        if (largest == areas.end() || *largest <= 0.0) {
            lines_.clear();
            return;
        }
        std::vector<bool> reached(areas.size());
        std::vector<bool> asked(areas.size());
        for (std::uint32_t triangle = 0; triangle < mesh_.triangles.size(); ++triangle) {
            const std::uint32_t island = islands_.of(triangle);
            if (!asked[island] && carries(triangle) && areas[island] >= islandShare * *largest) {
                asked[island] = true;
                reached[island] = areas[island] == *largest || covered(triangle);
            }
        }
        if (stands) {
            ground_.column(Vec2(*stands), here_);
            const Ground::Surface* floor = groundIn(here_, stands->z + rules_.step_m);
            if (floor != nullptr && carries(floor->triangle)) {
                reached[islands_.of(floor->triangle)] = true;
            }
        }
        islands_.spread(reached);
        lines_.erase(std::remove_if(lines_.begin(), lines_.end(),
                                    [&](const EdgeLine& line) {
                                        return !reached[islands_.of(line.floor)] || ground_.insideSolid(standing(line));
                                    }),
                     lines_.end());
    }

    bool covered(std::uint32_t triangle)
    {
        const Vec3 middle = (corner(triangle, 0) + corner(triangle, 1) + corner(triangle, 2)) / 3.0;
        ground_.column(Vec2(middle), here_);
        return !here_.empty() && here_.front().height_m > middle.z + floorHeadroom_m;
    }

    /// Over the floor beside the middle of a line.
    static Vec3 standing(const EdgeLine& line)
    {
        const Vec2 way = glm::normalize(Vec2(line.to - line.from));
        return (line.from + line.to) / 2.0 + Vec3{2.0 * besideLine_m * Vec2{-way.y, way.x}, chest_m};
    }

    const Ground& ground_;
    const Mesh& mesh_;
    const EdgeRules& rules_;
    const std::atomic<bool>* stop_;
    FloorIslands islands_;
    std::vector<bool> water_;   ///< by material
    std::vector<Vec3> normals_; ///< by triangle, unit; 0 for those without an area
    std::vector<EdgeLine> lines_;
    Column here_; ///< this side of a line
    Column there_;
    Column beside_;
};

} // namespace

bool isWater(const EdgeRules& rules, const std::string& material)
{
    const auto lower = [](std::string text) {
        std::transform(text.begin(), text.end(), text.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        return text;
    };
    return std::any_of(rules.water.begin(), rules.water.end(), [&](const std::string& part) {
        return !part.empty() && lower(material).find(lower(part)) != std::string::npos;
    });
}

std::vector<FloorEdge> findFloorEdges(const Ground& ground, const EdgeRules& rules, const std::optional<Vec3>& stands,
                                      const std::atomic<bool>* stop)
{
    return EdgeFinder(ground, rules, stop).find(stands);
}

} // namespace stone
