// SPDX-License-Identifier: MPL-2.0
#include "level/free_space.h"

#include "geometry/polygon.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>

namespace stone
{

namespace
{

constexpr double mostPlanCells = 4e6;
constexpr double margin_m = 3.0;
/// Two regions are one where the way between is at least so wide as the narrower of them.
constexpr float nearlyAsWide = 0.7F;
/// What is nowhere wider than this (half of it in cells of the distance) is a niche of what it opens to.
constexpr double niche_m = 0.9;
/// Places where regions touch are one gap when they are no further apart.
constexpr double sameGap_m = 0.6;
/// So far from where regions touch the narrowest place is looked for: walls are no thicker.
constexpr double neckWithin_m = 0.8;
constexpr double widest_m = 12.0;
/// Outlines are straightened to so many cells, as far as no more of their area is lost than this share.
constexpr std::array<double, 3> straightenings{3.5, 1.5, 0.6};
constexpr double mostLost = 0.25;
constexpr std::uint32_t none = UINT32_MAX;

/// A forest of regions that grow together.
class Joined
{
public:
    std::uint32_t add()
    {
        parent_.push_back(static_cast<std::uint32_t>(parent_.size()));
        return parent_.back();
    }
    std::uint32_t find(std::uint32_t i)
    {
        while (parent_[i] != i) {
            i = parent_[i] = parent_[parent_[i]];
        }
        return i;
    }
    void join(std::uint32_t into, std::uint32_t from) { parent_[from] = into; }
    std::size_t size() const { return parent_.size(); }

private:
    std::vector<std::uint32_t> parent_;
};

/// The distance transform of P. Felzenszwalb and D. Huttenlocher (Theory of Computing 8, 2012) along one line: squares of
/// distances, and where they are measured to.
void transformLine(std::vector<float>& f, std::vector<std::uint32_t>& from)
{
    const std::size_t n = f.size();
    thread_local std::vector<std::size_t> v;
    thread_local std::vector<double> z;
    v.assign(n, 0);
    z.assign(n + 1, 0.0);
    std::size_t k = 0;
    const auto meet = [&](std::size_t q, std::size_t p) {
        const auto a = static_cast<double>(q);
        const auto b = static_cast<double>(p);
        return (static_cast<double>(f[q]) + a * a - static_cast<double>(f[p]) - b * b) / (2.0 * (a - b));
    };
    z[0] = -1e30;
    z[1] = 1e30;
    for (std::size_t q = 1; q < n; ++q) {
        double s = meet(q, v[k]);
        while (s <= z[k]) {
            --k;
            s = meet(q, v[k]);
        }
        ++k;
        v[k] = q;
        z[k] = s;
        z[k + 1] = 1e30;
    }
    k = 0;
    std::vector<float> squares(n);
    std::vector<std::uint32_t> source(n);
    for (std::size_t q = 0; q < n; ++q) {
        while (z[k + 1] < static_cast<double>(q)) {
            ++k;
        }
        const double off = static_cast<double>(q) - static_cast<double>(v[k]);
        squares[q] = static_cast<float>(off * off) + f[v[k]];
        source[q] = from[v[k]];
    }
    f = std::move(squares);
    from = std::move(source);
}

/// Leaves out what lies within `tolerance` of the line between what stays (D. Douglas and T. Peucker, 1973).
void thin(const std::vector<Vec2>& points, std::size_t first, std::size_t last, double tolerance, std::vector<bool>& keep)
{
    std::size_t furthest = first;
    double most = tolerance;
    for (std::size_t i = first + 1; i < last; ++i) {
        const Vec2& a = points[first];
        const Vec2 way = points[last % points.size()] - a;
        const double length2 = glm::dot(way, way);
        const double t = length2 > 0.0 ? std::clamp(glm::dot(points[i] - a, way) / length2, 0.0, 1.0) : 0.0;
        const double off = glm::length(points[i] - a - way * t);
        if (off > most) {
            most = off;
            furthest = i;
        }
    }
    if (furthest != first) {
        keep[furthest] = true;
        thin(points, first, furthest, tolerance, keep);
        thin(points, furthest, last, tolerance, keep);
    }
}

} // namespace

Vec2 FreeSpace::at(std::uint32_t cell) const
{
    const auto row = static_cast<double>(cell / width_);
    const auto column = static_cast<double>(cell % width_);
    return origin_ + Vec2{column + 0.5, row + 0.5} * cell_m_;
}

FreeSpace::FreeSpace(const PlanCut& cut)
{
    Vec2 low{1e30};
    Vec2 high{-1e30};
    for (const Outline& outline : cut.outlines) {
        for (const Vec2& point : outline.points) {
            low = glm::min(low, point);
            high = glm::max(high, point);
        }
    }
    cells_.resize(1);
    if (low.x > high.x) {
        return;
    }
    const Vec2 size = high - low + 2.0 * margin_m;
    cell_m_ = std::max(finest_m, std::sqrt(size.x * size.y / mostPlanCells));
    origin_ = low - margin_m;
    width_ = static_cast<std::uint32_t>(size.x / cell_m_) + 1;
    height_ = static_cast<std::uint32_t>(size.y / cell_m_) + 1;
    label_.assign(static_cast<std::size_t>(width_) * height_, none - 1);
    drawWalls(cut);
    measure();
    flood();
    findGaps();
}

void FreeSpace::drawWalls(const PlanCut& cut)
{
    const auto mark = [&](const Vec2& p) {
        const Vec2 cell = (p - origin_) / cell_m_;
        label_[static_cast<std::size_t>(cell.y) * width_ + static_cast<std::size_t>(cell.x)] = wall;
    };
    std::vector<std::vector<std::pair<double, int>>> crossings(height_);
    for (const Outline& outline : cut.outlines) {
        const std::size_t count = outline.points.size();
        for (std::size_t i = 0; i + (outline.closed ? 0 : 1) < count; ++i) {
            const Vec2& a = outline.points[i];
            const Vec2& b = outline.points[(i + 1) % count];
            const int steps = static_cast<int>(glm::length(b - a) / (0.4 * cell_m_)) + 1;
            for (int k = 0; k <= steps; ++k) {
                mark(a + (b - a) * (static_cast<double>(k) / steps));
            }
            if (!outline.filled) {
                continue;
            }
            const double from = (std::min(a.y, b.y) - origin_.y) / cell_m_ - 0.5;
            const double to = (std::max(a.y, b.y) - origin_.y) / cell_m_ - 0.5;
            for (auto row = static_cast<std::size_t>(std::max(std::ceil(from), 0.0)); static_cast<double>(row) < to; ++row) {
                const double y = origin_.y + (static_cast<double>(row) + 0.5) * cell_m_;
                crossings[row].emplace_back(a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y), b.y > a.y ? 1 : -1);
            }
        }
    }
    // What is solid, by the non-zero rule.
    for (std::size_t row = 0; row < height_; ++row) {
        std::sort(crossings[row].begin(), crossings[row].end());
        int winding = 0;
        for (std::size_t i = 0; i + 1 < crossings[row].size(); ++i) {
            winding += crossings[row][i].second;
            if (winding != 0) {
                const auto columnAt = [&](double x) {
                    return static_cast<std::size_t>(std::lround((x - origin_.x) / cell_m_));
                };
                const std::size_t from = columnAt(crossings[row][i].first);
                const std::size_t to = columnAt(crossings[row][i + 1].first);
                std::fill(label_.begin() + static_cast<std::ptrdiff_t>(row * width_ + from),
                          label_.begin() + static_cast<std::ptrdiff_t>(row * width_ + std::max(from, to)), wall);
            }
        }
    }
}

void FreeSpace::measure()
{
    constexpr float far = 1e12F;
    distance_.resize(label_.size());
    nearest_.resize(label_.size());
    std::vector<float> line;
    std::vector<std::uint32_t> from;
    for (std::uint32_t x = 0; x < width_; ++x) {
        line.resize(height_);
        from.resize(height_);
        for (std::uint32_t y = 0; y < height_; ++y) {
            const std::uint32_t cell = y * width_ + x;
            line[y] = label_[cell] == wall ? 0.0F : far;
            from[y] = cell;
        }
        transformLine(line, from);
        for (std::uint32_t y = 0; y < height_; ++y) {
            distance_[y * width_ + x] = line[y];
            nearest_[y * width_ + x] = from[y];
        }
    }
    for (std::uint32_t y = 0; y < height_; ++y) {
        const auto row = static_cast<std::ptrdiff_t>(y) * width_;
        line.assign(distance_.begin() + row, distance_.begin() + row + width_);
        from.assign(nearest_.begin() + row, nearest_.begin() + row + width_);
        transformLine(line, from);
        for (std::uint32_t x = 0; x < width_; ++x) {
            distance_[y * width_ + x] = std::sqrt(line[x]);
            nearest_[y * width_ + x] = from[x];
        }
    }
}

/// From what is widest down: each cell joins the region beside it or begins one; where two meet they stay apart or grow
/// together.
void FreeSpace::flood()
{
    std::vector<std::uint32_t> order;
    for (std::uint32_t cell = 0; cell < label_.size(); ++cell) {
        if (label_[cell] != wall) {
            order.push_back(cell);
        }
    }
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return distance_[a] != distance_[b] ? distance_[a] > distance_[b] : a < b;
    });
    Joined joined;
    std::vector<float> peak;
    std::vector<std::uint32_t> label(label_.size(), none);
    const auto niche = static_cast<float>(niche_m / 2.0 / cell_m_);
    const auto neighbours = [&](std::uint32_t cell, auto&& visit) {
        const std::uint32_t x = cell % width_;
        const std::uint32_t y = cell / width_;
        if (x > 0) {
            visit(cell - 1);
        }
        if (x + 1 < width_) {
            visit(cell + 1);
        }
        if (y > 0) {
            visit(cell - width_);
        }
        if (y + 1 < height_) {
            visit(cell + width_);
        }
    };
    for (const std::uint32_t cell : order) {
        std::uint32_t own = none;
        neighbours(cell, [&](std::uint32_t other) {
            if (label[other] == none) {
                return;
            }
            const std::uint32_t region = joined.find(label[other]);
            if (own == none) {
                own = region;
                return;
            }
            if (own == region) {
                return;
            }
            const std::uint32_t wider = peak[own] >= peak[region] ? own : region;
            const std::uint32_t narrower = wider == own ? region : own;
            if (peak[narrower] < niche || distance_[cell] >= nearlyAsWide * peak[narrower]) {
                joined.join(wider, narrower);
                own = wider;
            } else {
                own = wider;
            }
        });
        if (own == none) {
            own = joined.add();
            peak.push_back(distance_[cell]);
        }
        label[cell] = own;
    }
    // The outside first, then the others as they are met.
    std::vector<std::uint32_t> number(joined.size(), none);
    const auto reachesOut = [&](std::uint32_t cell) {
        if (label[cell] != none) {
            number[joined.find(label[cell])] = outside;
        }
    };
    for (std::uint32_t x = 0; x < width_; ++x) {
        reachesOut(x);
        reachesOut((height_ - 1) * width_ + x);
    }
    for (std::uint32_t y = 0; y < height_; ++y) {
        reachesOut(y * width_);
        reachesOut(y * width_ + width_ - 1);
    }
    for (std::uint32_t cell = 0; cell < label.size(); ++cell) {
        if (label[cell] == none) {
            continue;
        }
        std::uint32_t& region = number[joined.find(label[cell])];
        if (region == none) {
            region = regions_++;
            cells_.emplace_back();
        }
        label_[cell] = region;
        cells_[region].push_back(cell);
    }
}

void FreeSpace::findGaps()
{
    std::map<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::uint32_t>> touching;
    const auto meet = [&](std::uint32_t a, std::uint32_t b) {
        if (label_[a] != wall && label_[b] != wall && label_[a] != label_[b]) {
            touching[std::minmax(label_[a], label_[b])].push_back(distance_[a] > distance_[b] ? a : b);
        }
    };
    for (std::uint32_t y = 0; y < height_; ++y) {
        for (std::uint32_t x = 0; x < width_; ++x) {
            const std::uint32_t cell = y * width_ + x;
            if (x + 1 < width_) {
                meet(cell, cell + 1);
            }
            if (y + 1 < height_) {
                meet(cell, cell + width_);
            }
        }
    }
    for (auto& [pair, cells] : touching) {
        std::sort(cells.begin(), cells.end());
        cells.erase(std::unique(cells.begin(), cells.end()), cells.end());
        std::vector<bool> taken(cells.size());
        for (std::size_t first = 0; first < cells.size(); ++first) {
            if (taken[first]) {
                continue;
            }
            // All that hangs together.
            std::vector<std::size_t> cluster{first};
            taken[first] = true;
            for (std::size_t i = 0; i < cluster.size(); ++i) {
                for (std::size_t k = 0; k < cells.size(); ++k) {
                    if (!taken[k] && glm::length(at(cells[k]) - at(cells[cluster[i]])) < sameGap_m) {
                        taken[k] = true;
                        cluster.push_back(k);
                    }
                }
            }
            std::uint32_t widest = cells[first];
            for (const std::size_t i : cluster) {
                widest = distance_[cells[i]] > distance_[widest] ? cells[i] : widest;
            }
            if (auto gap = neckNear(widest)) {
                gap->one = pair.first;
                gap->other = pair.second;
                gaps_.push_back(*gap);
            }
        }
    }
}

/// How far it is to a wall, on the grid.
double FreeSpace::widthAt(const Vec2& place, const Vec2& way) const
{
    for (double far_m = 0.0; far_m < widest_m; far_m += 0.5 * cell_m_) {
        const Vec2 cell = (place + way * far_m - origin_) / cell_m_;
        if (cell.x < 0.0 || cell.y < 0.0 || cell.x >= width_ || cell.y >= height_) {
            break;
        }
        if (label_[static_cast<std::size_t>(cell.y) * width_ + static_cast<std::size_t>(cell.x)] == wall) {
            return far_m;
        }
    }
    return widest_m;
}

std::optional<FreeSpace::Gap> FreeSpace::neckNear(std::uint32_t cell) const
{
    struct Neck {
        Vec2 at;
        Vec2 way;
        double width_m;
    };
    std::vector<Neck> necks;
    const auto reach = static_cast<std::int64_t>(neckWithin_m / cell_m_);
    const std::int64_t x = cell % width_;
    const std::int64_t y = cell / width_;
    for (std::int64_t row = std::max<std::int64_t>(y - reach, 0); row <= std::min<std::int64_t>(y + reach, height_ - 1);
         ++row) {
        for (std::int64_t column = std::max<std::int64_t>(x - reach, 0);
             column <= std::min<std::int64_t>(x + reach, width_ - 1); ++column) {
            const auto here = static_cast<std::uint32_t>(row * width_ + column);
            const Vec2 way = at(nearest_[here]) - at(here);
            const double off_m = glm::length(way);
            if (label_[here] == wall || off_m <= 0.0) {
                continue;
            }
            const double width_m = off_m + widthAt(at(here), -way / off_m);
            // In the middle between two walls that face each other.
            if (width_m < widest_m && width_m < 2.3 * off_m + 2.0 * cell_m_) {
                necks.push_back({at(here), way / off_m, width_m});
            }
        }
    }
    if (necks.empty()) {
        return {};
    }
    const double least_m = std::min_element(necks.begin(), necks.end(), [](const Neck& a, const Neck& b) {
                               return a.width_m < b.width_m;
                           })->width_m;
    // As deep as the wall is thick: its middle.
    Vec2 middle{0.0};
    int count = 0;
    const Neck* some = nullptr;
    for (const Neck& neck : necks) {
        if (neck.width_m <= least_m + 1.5 * cell_m_) {
            middle += neck.at;
            ++count;
        }
    }
    middle /= count;
    for (const Neck& neck : necks) {
        if (neck.width_m <= least_m + 1.5 * cell_m_ &&
            (some == nullptr || glm::length(neck.at - middle) < glm::length(some->at - middle))) {
            some = &neck;
        }
    }
    return Gap{0, 0, some->at, some->way, some->width_m};
}

std::vector<Vec2> FreeSpace::outlineOf(std::uint32_t region) const
{
    const auto in = [&](std::int64_t x, std::int64_t y) {
        return x >= 0 && y >= 0 && x < static_cast<std::int64_t>(width_) && y < static_cast<std::int64_t>(height_) &&
               label_[static_cast<std::size_t>(y) * width_ + static_cast<std::size_t>(x)] == region;
    };
    // The lowest cell, of these the leftmost, has the outside below: from its lower left corner on, with the region on the
    // left.
    const std::uint32_t first = cells_[region].front();
    std::int64_t x = first % width_;
    std::int64_t y = first / width_;
    const std::int64_t startX = x;
    const std::int64_t startY = y;
    constexpr std::array<std::array<int, 2>, 4> ways{{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};
    std::size_t way = 0;
    std::vector<Vec2> points;
    do {
        points.push_back(origin_ + Vec2{static_cast<double>(x), static_cast<double>(y)} * cell_m_);
        x += ways[way][0];
        y += ways[way][1];
        // The cells ahead on the left and on the right of where it has come to.
        const auto ahead = [&](int aside) {
            const int dx = ways[way][0];
            const int dy = ways[way][1];
            const int ox = aside > 0 ? -dy : dy;
            const int oy = aside > 0 ? dx : -dx;
            return in(x + (dx + ox - 1) / 2, y + (dy + oy - 1) / 2);
        };
        if (ahead(-1)) {
            way = (way + 3) % 4;
        } else if (!ahead(1)) {
            way = (way + 1) % 4;
        }
    } while (x != startX || y != startY || way != 0);
    // From two places that are sure to be corners.
    std::size_t far = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
        far = glm::length(points[i] - points[0]) > glm::length(points[far] - points[0]) ? i : far;
    }
    std::vector<Vec2> outline;
    // What is slender is straightened less: something must be left of it.
    for (const double cells : straightenings) {
        std::vector<bool> keep(points.size());
        keep[0] = keep[far] = true;
        thin(points, 0, far, cells * cell_m_, keep);
        thin(points, far, points.size(), cells * cell_m_, keep);
        outline.clear();
        for (std::size_t i = 0; i < points.size(); ++i) {
            if (keep[i]) {
                outline.push_back(points[i]);
            }
        }
        if (outline.size() >= 3 && std::abs(signedArea(outline) - signedArea(points)) < mostLost * signedArea(points)) {
            break;
        }
    }
    return outline;
}

} // namespace stone
