// SPDX-License-Identifier: MPL-2.0
#include "level/plan_cut.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace stone
{

namespace
{

constexpr double weldLines_m = 1e-4;

struct CutLine {
    Vec2 from;
    Vec2 to;
};

/// A cell of the welding grid as a key.
std::uint64_t cellOf(const Vec2& p)
{
    const auto part = [](double v) {
        return static_cast<std::uint64_t>(static_cast<std::uint32_t>(std::llround(v / weldLines_m)));
    };
    return part(p.x) << 32U | part(p.y);
}

double signedArea(const std::vector<Vec2>& points)
{
    double doubled = 0.0;
    for (std::size_t i = 0, last = points.size() - 1; i < points.size(); last = i++) {
        doubled += points[last].x * points[i].y - points[i].x * points[last].y;
    }
    return doubled / 2.0;
}

bool windsRound(const std::vector<Vec2>& points, const Vec2& p)
{
    bool inside = false;
    for (std::size_t i = 0, last = points.size() - 1; i < points.size(); last = i++) {
        const Vec2& a = points[i];
        const Vec2& b = points[last];
        if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) {
            inside = !inside;
        }
    }
    return inside;
}

/// Takes points out of the middle of straight runs, as they come from walls of many triangles.
void straighten(Outline& outline)
{
    std::vector<Vec2>& p = outline.points;
    std::vector<Vec2> kept;
    const std::size_t n = p.size();
    for (std::size_t i = 0; i < n; ++i) {
        const bool end = !outline.closed && (i == 0 || i + 1 == n);
        const Vec2& before = kept.empty() ? p[(i + n - 1) % n] : kept.back();
        const Vec2 in = p[i] - before;
        const Vec2 out = p[(i + 1) % n] - p[i];
        const double turn = in.x * out.y - in.y * out.x;
        const bool runsOn = std::abs(turn) <= weldLines_m * (glm::length(in) + glm::length(out)) && glm::dot(in, out) >= 0.0;
        if (end || !runsOn) {
            kept.push_back(p[i]);
        }
    }
    if (kept.size() >= (outline.closed ? 3U : 2U)) {
        p = std::move(kept);
    }
}

/// Numbers the cells of the welding grid that occur, in the order in which they are met. A flat table: the map of the
/// standard library took two thirds of a cut's time (bench_document, planCut).
class CellNumbers
{
public:
    explicit CellNumbers(std::size_t most)
    {
        std::size_t size = 16;
        while (size < 2 * most) {
            size *= 2;
        }
        cells_.resize(size);
        numbers_.assign(size, none);
    }

    std::uint32_t numberOf(std::uint64_t cell)
    {
        const std::size_t mask = cells_.size() - 1;
        // Multiplicative hashing (Knuth, The Art of Computer Programming 3, 6.4) with the golden ratio.
        std::size_t at = (cell * 0x9E3779B97F4A7C15ULL) >> 32U & mask;
        while (numbers_[at] != none && cells_[at] != cell) {
            at = (at + 1) & mask;
        }
        if (numbers_[at] == none) {
            cells_[at] = cell;
            numbers_[at] = count_++;
        }
        return numbers_[at];
    }

    std::uint32_t count() const { return count_; }

private:
    static constexpr std::uint32_t none = UINT32_MAX;
    std::vector<std::uint64_t> cells_;
    std::vector<std::uint32_t> numbers_;
    std::uint32_t count_ = 0;
};

std::vector<Outline> join(const std::vector<CutLine>& segments)
{
    constexpr std::uint32_t noLine = UINT32_MAX;
    const auto count = static_cast<std::uint32_t>(segments.size());
    CellNumbers cells(2 * segments.size());
    std::vector<std::uint32_t> from(count);
    std::vector<std::uint32_t> to(count);
    for (std::uint32_t i = 0; i < count; ++i) {
        from[i] = cells.numberOf(cellOf(segments[i].from));
        to[i] = cells.numberOf(cellOf(segments[i].to));
    }
    // The segments that leave each corner, as linked lists, and how many more leave it than arrive.
    std::vector<std::uint32_t> leaving(cells.count(), noLine);
    std::vector<std::uint32_t> next(count, noLine);
    std::vector<int> balance(cells.count(), 0);
    for (std::uint32_t i = count; i-- > 0;) {
        next[i] = leaving[from[i]];
        leaving[from[i]] = i;
        ++balance[from[i]];
        --balance[to[i]];
    }
    std::vector<bool> used(count, false);
    std::vector<Outline> outlines;
    const auto follow = [&](std::uint32_t first) {
        Outline outline;
        outline.points.push_back(segments[first].from);
        for (std::uint32_t at = first; at != noLine;) {
            used[at] = true;
            if (to[at] == from[first]) {
                outline.closed = outline.points.size() >= 3;
                break;
            }
            outline.points.push_back(segments[at].to);
            std::uint32_t onward = leaving[to[at]];
            while (onward != noLine && used[onward]) {
                onward = next[onward];
            }
            at = onward;
        }
        straighten(outline);
        outlines.push_back(std::move(outline));
    };
    // Open chains first, from the ends that nothing leads to; what is left closes on itself.
    for (std::uint32_t i = 0; i < count; ++i) {
        if (!used[i] && balance[from[i]] > 0) {
            follow(i);
        }
    }
    for (std::uint32_t i = 0; i < count; ++i) {
        if (!used[i]) {
            follow(i);
        }
    }
    return outlines;
}

void markFilled(std::vector<Outline>& outlines)
{
    std::vector<const Outline*> solids;
    for (Outline& outline : outlines) {
        if (outline.closed && signedArea(outline.points) > 0.0) {
            outline.filled = true;
            solids.push_back(&outline);
        }
    }
    // A clockwise outline is a hole only where something solid is round it; alone it is a shell seen from inside.
    for (Outline& outline : outlines) {
        if (outline.closed && !outline.filled) {
            outline.filled = std::any_of(solids.begin(), solids.end(), [&](const Outline* solid) {
                return windsRound(solid->points, outline.points.front());
            });
        }
    }
}

} // namespace

PlanCutter::PlanCutter(const Mesh& mesh)
{
    reach_.reserve(mesh.triangles.size());
    triangles_.reserve(mesh.triangles.size());
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        const Corners corners{mesh.points[triangle.corners[0]], mesh.points[triangle.corners[1]],
                              mesh.points[triangle.corners[2]]};
        const auto [low, high] = std::minmax({corners.a.z, corners.b.z, corners.c.z});
        // Rounded outwards, so that no triangle is missed for being stored as float.
        reach_.push_back(
            {std::nextafter(static_cast<float>(low), -INFINITY), std::nextafter(static_cast<float>(high), INFINITY)});
        triangles_.push_back(corners);
    }
}

PlanCut PlanCutter::at(double height_m) const
{
    std::vector<CutLine> segments;
    const auto h = static_cast<float>(height_m);
    for (std::size_t i = 0; i < reach_.size(); ++i) {
        if (reach_[i].low > h || reach_[i].high < h) {
            continue;
        }
        const Corners& t = triangles_[i];
        const Vec3 corners[3] = {t.a, t.b, t.c};
        Vec2 crossing[2];
        int crossings = 0;
        for (int edge = 0; edge < 3 && crossings < 2; ++edge) {
            // "On the plane" counts as above, so that a shared corner is met once and outlines stay closed.
            Vec3 p = corners[edge];
            Vec3 q = corners[(edge + 1) % 3];
            if ((p.z >= height_m) == (q.z >= height_m)) {
                continue;
            }
            // The same edge is reached from both its triangles: compute it one way round, to the same bits.
            if (p.z > q.z) {
                std::swap(p, q);
            }
            const double t01 = (height_m - p.z) / (q.z - p.z);
            crossing[crossings++] = Vec2{p.x + (q.x - p.x) * t01, p.y + (q.y - p.y) * t01};
        }
        if (crossings < 2 || cellOf(crossing[0]) == cellOf(crossing[1])) {
            continue;
        }
        const Vec3 normal = glm::cross(t.b - t.a, t.c - t.a);
        const Vec2 along = crossing[1] - crossing[0];
        // Solid on the left: the normal points to the right of the way.
        const bool forward = along.y * normal.x - along.x * normal.y >= 0.0;
        segments.push_back(forward ? CutLine{crossing[0], crossing[1]} : CutLine{crossing[1], crossing[0]});
    }
    PlanCut cut{height_m, join(segments)};
    markFilled(cut.outlines);
    return cut;
}

} // namespace stone
