// SPDX-License-Identifier: MPL-2.0
#include "level/edge_lines.h"

#include "level/welded.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <tuple>
#include <unordered_map>

namespace stone
{

namespace
{

constexpr double joins_m = 0.01; ///< ends no farther apart in the plan follow each other
constexpr double joinsUp_m = 0.05;
constexpr double overlaps_m = 2e-3;
constexpr double nearlyStraight_m = 2e-3;

std::uint64_t cellOf(const Vec2& at, double size_m)
{
    const auto part = [size_m](double v) {
        return static_cast<std::uint64_t>(static_cast<std::uint32_t>(static_cast<std::int64_t>(std::floor(v / size_m))));
    };
    return part(at.x) << 32U | part(at.y);
}

/// Pieces that lie on each other, made one.
class Overlaps
{
public:
    void add(const EdgeLine& line)
    {
        const Vec2 way = glm::normalize(Vec2(line.to - line.from));
        const double angle = std::atan2(way.y, way.x);
        // Off the round numbers that levels are built of.
        const auto grid = [](double v, double size) { return std::llround(v / size + 0.137); };
        // Round and round: half a turn is minus half a turn.
        const auto turn = grid(angle < -std::numbers::pi + 1e-3 ? angle + 2.0 * std::numbers::pi : angle, 2e-3);
        const auto key = std::make_tuple(line.kind, turn, grid(way.x * line.from.y - way.y * line.from.x, 4e-3));
        byLine_[key].push_back({glm::dot(Vec2(line.from), way), glm::dot(Vec2(line.to), way), line});
    }

    std::vector<EdgeLine> ones()
    {
        std::vector<EdgeLine> all;
        for (auto& [key, pieces] : byLine_) {
            std::sort(pieces.begin(), pieces.end(),
                      [](const Piece& a, const Piece& b) { return std::tie(a.from, a.to) < std::tie(b.from, b.to); });
            std::vector<Piece> open;
            for (const Piece& piece : pieces) {
                const auto over = std::find_if(open.begin(), open.end(), [&](const Piece& other) {
                    return piece.from < other.to - overlaps_m &&
                           std::abs(other.heightAt(piece.from) - piece.line.from.z) <= joinsUp_m;
                });
                if (over == open.end()) {
                    open.push_back(piece);
                    continue;
                }
                over->line.by_m = std::max(over->line.by_m, piece.line.by_m);
                if (piece.to > over->to) {
                    over->to = piece.to;
                    over->line.to = piece.line.to;
                }
            }
            for (const Piece& piece : open) {
                all.push_back(piece.line);
            }
        }
        return all;
    }

private:
    struct Piece {
        double from; ///< metres along the line
        double to;
        EdgeLine line;

        double heightAt(double along) const
        {
            return line.from.z + (line.to.z - line.from.z) * std::clamp((along - from) / (to - from), 0.0, 1.0);
        }
    };

    std::map<std::tuple<EdgeKind, long long, long long>, std::vector<Piece>> byLine_;
};

/// Pieces one after the other.
class Chains
{
public:
    explicit Chains(std::vector<EdgeLine> lines) : lines_(std::move(lines)), used_(lines_.size()), next_(lines_.size())
    {
        for (std::size_t i = 0; i < lines_.size(); ++i) {
            starts_.emplace(cellOf(Vec2(lines_[i].from), joins_m), i);
        }
        std::vector<bool> follows(lines_.size());
        for (std::size_t i = 0; i < lines_.size(); ++i) {
            next_[i] = after(i, follows);
            if (next_[i]) {
                follows[*next_[i]] = true;
            }
        }
        for (std::size_t i = 0; i < lines_.size(); ++i) {
            if (!follows[i]) {
                follow(i);
            }
        }
        for (std::size_t i = 0; i < lines_.size(); ++i) {
            follow(i); // round and round
        }
    }

    std::vector<FloorEdge> take() { return std::move(edges_); }

private:
    /// What begins where a piece ends, most nearly straight on.
    std::optional<std::size_t> after(std::size_t i, const std::vector<bool>& follows) const
    {
        const EdgeLine& line = lines_[i];
        const Vec2 way = glm::normalize(Vec2(line.to - line.from));
        std::optional<std::size_t> best;
        double straightest = -2.0;
        for (int dx = -1; dx <= 1; ++dx) {
            for (int dy = -1; dy <= 1; ++dy) {
                const auto [first, last] = starts_.equal_range(cellOf(Vec2(line.to) + joins_m * Vec2{dx, dy}, joins_m));
                for (auto start = first; start != last; ++start) {
                    const EdgeLine& other = lines_[start->second];
                    if (start->second == i || follows[start->second] || other.kind != line.kind ||
                        other.material != line.material || std::isfinite(other.by_m) != std::isfinite(line.by_m) ||
                        glm::length(Vec2(other.from - line.to)) > joins_m || std::abs(other.from.z - line.to.z) > joinsUp_m) {
                        continue;
                    }
                    const double straight = glm::dot(way, glm::normalize(Vec2(other.to - other.from)));
                    if (straight > straightest) {
                        straightest = straight;
                        best = start->second;
                    }
                }
            }
        }
        return best;
    }

    void follow(std::size_t first)
    {
        if (used_[first]) {
            return;
        }
        FloorEdge edge{.kind = lines_[first].kind, .points = {lines_[first].from}, .material = lines_[first].material};
        std::optional<std::size_t> at = first;
        while (at && !used_[*at]) {
            used_[*at] = true;
            edge.by_m = std::max(edge.by_m, lines_[*at].by_m);
            edge.points.push_back(lines_[*at].to);
            at = next_[*at];
        }
        if (at == first) {
            edge.points.pop_back();
            edge.closed = edge.points.size() > 2;
        }
        straighten(edge);
        if (edge.points.size() >= 2) {
            edges_.push_back(std::move(edge));
        }
    }

    static void straighten(FloorEdge& edge)
    {
        std::vector<Vec3>& p = edge.points;
        std::vector<Vec3> kept;
        for (std::size_t i = 0; i < p.size(); ++i) {
            const bool end = !edge.closed && (i == 0 || i + 1 == p.size());
            const Vec3& before = kept.empty() ? p[(i + p.size() - 1) % p.size()] : kept.back();
            const Vec3 way = p[(i + 1) % p.size()] - before;
            const double length_m = glm::length(way);
            const bool runsOn = length_m > 0.0 && glm::length(glm::cross(way, p[i] - before)) <= nearlyStraight_m * length_m &&
                                glm::dot(way, p[i] - before) >= 0.0;
            if (end || !runsOn) {
                kept.push_back(p[i]);
            }
        }
        p = std::move(kept);
    }

    std::vector<EdgeLine> lines_;
    std::vector<bool> used_;
    std::vector<std::optional<std::size_t>> next_;
    std::unordered_multimap<std::uint64_t, std::size_t> starts_; ///< by cell of where they begin
    std::vector<FloorEdge> edges_;
};

} // namespace

std::vector<TriangleSide> sidesOf(const Mesh& mesh, const std::function<bool(std::uint32_t)>& wanted)
{
    const std::vector<std::uint32_t> numbers = weldedPoints(mesh.points);
    std::vector<TriangleSide> sides;
    for (std::uint32_t triangle = 0; triangle < mesh.triangles.size(); ++triangle) {
        if (!wanted(triangle)) {
            continue;
        }
        const auto& corners = mesh.triangles[triangle].corners;
        for (std::uint8_t side = 0; side < 3; ++side) {
            const std::uint32_t from = numbers[corners[side]];
            const std::uint32_t to = numbers[corners[(side + 1U) % 3U]];
            if (from != to) {
                sides.push_back({std::min(from, to), std::max(from, to), triangle, side, from < to});
            }
        }
    }
    std::sort(sides.begin(), sides.end(), [](const TriangleSide& a, const TriangleSide& b) {
        return std::tie(a.low, a.high, a.triangle) < std::tie(b.low, b.high, b.triangle);
    });
    return sides;
}

std::vector<FloorEdge> edgesOf(const std::vector<EdgeLine>& lines)
{
    Overlaps overlaps;
    for (const EdgeLine& line : lines) {
        overlaps.add(line);
    }
    std::vector<EdgeLine> ones = overlaps.ones();
    const auto byPlace = [](const Vec3& a, const Vec3& b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); };
    std::sort(ones.begin(), ones.end(), [&](const EdgeLine& a, const EdgeLine& b) {
        return a.from != b.from ? byPlace(a.from, b.from) : byPlace(a.to, b.to);
    });
    std::vector<FloorEdge> edges = Chains(std::move(ones)).take();
    std::stable_sort(edges.begin(), edges.end(),
                     [&](const FloorEdge& a, const FloorEdge& b) { return byPlace(a.points.front(), b.points.front()); });
    return edges;
}

} // namespace stone
