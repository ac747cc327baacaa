// SPDX-License-Identifier: MPL-2.0
#include "geometry/solid.h"

#include "geometry/nearest.h"
#include "geometry/polygon.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

constexpr double pi = std::numbers::pi;
/// What covers less than this is seen as its nearest point.
constexpr double thin_sr = 1e-9;
/// So near a floor or ceiling the depth shrinks to nothing.
constexpr double uprightMargin_m = 0.5;
/// Sides of a circle where it is drawn.
constexpr int circleSides = 48;

double angleBetween(const Vec3& a, const Vec3& b)
{
    return std::atan2(glm::length(glm::cross(a, b)), glm::dot(a, b));
}

/// Signed: positive when the corners run counter-clockwise as seen from the origin.
double solidAngleOf(const Vec3& a, const Vec3& b, const Vec3& c)
{
    const double la = glm::length(a);
    const double lb = glm::length(b);
    const double lc = glm::length(c);
    const double volume = glm::dot(a, glm::cross(b, c));
    const double other = la * lb * lc + glm::dot(a, b) * lc + glm::dot(b, c) * la + glm::dot(c, a) * lb;
    return 2.0 * std::atan2(volume, other);
}

/// Half the sum over the edges of the angle times the edge's normal.
Vec3 vectorOf(const Vec3& a, const Vec3& b, const Vec3& c)
{
    Vec3 sum{0.0};
    const std::array<Vec3, 3> corners{a, b, c};
    for (std::size_t i = 0; i < 3; ++i) {
        const Vec3 normal = glm::cross(corners[i], corners[(i + 1) % 3]);
        if (const double length = glm::length(normal); length > 0.0) {
            sum += normal * (0.5 * angleBetween(corners[i], corners[(i + 1) % 3]) / length);
        }
    }
    return sum;
}

Vec3 normalised(const Vec3& v)
{
    const double length = glm::length(v);
    return length > 0.0 ? v / length : Vec3{0.0};
}

/// A line of no width, with the share of its cap that a radius round it adds: weight is the integral of ds / r^2, vector
/// that of r ds / r^3.
Seen seenLine(const Vec3& from, const Vec3& to, const Vec3& p, double radius)
{
    const Vec3 a = from - p;
    const Vec3 b = to - p;
    const Vec3 way = b - a;
    const double length = glm::length(way);
    const Vec3 near = nearestOnSegment(a, b, Vec3{0.0});
    const double nearest = std::max(glm::length(near), 1e-9);
    const double reach = std::min(radius / nearest, 1.0);
    // A ball of this radius at the nearest place covers a cap of this half-angle; its mean direction is so long.
    const double cap = 2.0 * pi * (1.0 - std::sqrt(1.0 - reach * reach));
    const double capLength = (1.0 + std::sqrt(1.0 - reach * reach)) / 2.0;
    const Vec3 direction = way / std::max(length, 1e-300);
    const double la = std::max(glm::length(a), 1e-9);
    const double lb = std::max(glm::length(b), 1e-9);
    if (length < 1e-9 * nearest || length == 0.0) {
        return {normalised(near) * (capLength * cap), cap, cap};
    }
    const double foot = glm::dot(a, direction);
    const Vec3 across = a - direction * foot;
    const double h = glm::length(across);
    Seen seen;
    if (h > 1e-9 * (la + lb)) {
        seen.weight = (std::atan2(foot + length, h) - std::atan2(foot, h)) / h;
        seen.vector = across * (((foot + length) / lb - foot / la) / (h * h)) + direction * (1.0 / la - 1.0 / lb);
    } else {
        const double sign = foot > 0.0 ? 1.0 : -1.0;
        seen.weight = std::abs(1.0 / la - 1.0 / lb);
        seen.vector = direction * (sign * seen.weight);
    }
    // What the tube covers: its width across, along all of its length, and half a cap at each end.
    const double covered = std::min(seen.weight * 2.0 * radius + cap, 4.0 * pi);
    const double scale = radius > 0.0 ? covered / std::max(seen.weight, 1e-300) : 1.0;
    seen.vector *= scale * capLength;
    seen.weight *= scale;
    seen.solidAngle_sr = radius > 0.0 ? covered : 0.0;
    return seen;
}

} // namespace

void Seen::add(const Seen& other)
{
    vector += other.vector;
    weight += other.weight;
    solidAngle_sr += other.solidAngle_sr;
}

Vec3 meanOf(const Seen& seen, const Vec3& towardsNearest)
{
    return (seen.vector + normalised(towardsNearest) * thin_sr) / (seen.weight + thin_sr);
}

Solid::Solid(const Shape& shape, const Frame& frame) : frame_(frame)
{
    const auto placed = [&](const Vec3& p) { return frame.at + frame.aside * p.x + frame.ahead * p.y + frame.up * p.z; };
    if (const auto* box = std::get_if<Box>(&shape)) {
        const double x = box->size_m.x / 2.0;
        const double y = box->size_m.y / 2.0;
        // Walls from corner to corner: ahead, right, behind, left.
        addPrism(std::array<Vec2, 4>{Vec2{-x, y}, {x, y}, {x, -y}, {-x, -y}}, box->size_m.z);
    } else if (const auto* ball = std::get_if<Ball>(&shape)) {
        lines_ = {{frame.at, frame.at}};
        radius_ = ball->radius_m;
    } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
        lines_ = {{placed(capsule->from), placed(capsule->to)}};
        radius_ = capsule->radius_m;
    } else if (const auto* prism = std::get_if<Prism>(&shape)) {
        if (prism->standing) {
            frame_ = {frame.at + frame.ahead * (prism->height_m / 2.0), frame.aside, frame.up, -frame.ahead};
        }
        addPrism(prism->corners, prism->height_m);
    } else if (const auto* ribbon = std::get_if<Ribbon>(&shape)) {
        radius_ = ribbon->width_m / 2.0;
        const auto& points = ribbon->points;
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            lines_.push_back({placed(points[i]), placed(points[i + 1])});
        }
        if (ribbon->closed && points.size() > 2) {
            lines_.push_back({placed(points.back()), placed(points.front())});
        }
        if (lines_.empty()) {
            const Vec3 only = points.empty() ? frame.at : placed(points.front());
            lines_ = {{only, only}};
        }
    } else {
        addHull(std::get<Hull>(shape));
    }
    measure();
}

void Solid::addPrism(std::span<const Vec2> corners, double height_m)
{
    corners_.assign(corners.begin(), corners.end());
    height_ = height_m;
    sides_ = corners.size() + 2;
    const auto placed = [&](const Vec2& p, double z) {
        return frame_.at + frame_.aside * p.x + frame_.ahead * p.y + frame_.up * z;
    };
    const bool leftHanded = signedArea(corners) < 0.0;
    const auto add = [&](const Vec3& a, const Vec3& b, const Vec3& c, std::size_t side) {
        faces_.push_back({a, leftHanded ? c : b, leftHanded ? b : c, static_cast<std::uint32_t>(side)});
    };
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const Vec2& a = corners[i];
        const Vec2& b = corners[(i + 1) % corners.size()];
        add(placed(a, 0.0), placed(b, 0.0), placed(b, height_m), i);
        add(placed(a, 0.0), placed(b, height_m), placed(a, height_m), i);
    }
    for (const auto& [i, j, k] : triangulate(corners)) {
        const auto side = static_cast<std::uint32_t>(corners.size());
        faces_.push_back({placed(corners[i], 0.0), placed(corners[k], 0.0), placed(corners[j], 0.0), side});
        faces_.push_back({placed(corners[i], height_m), placed(corners[j], height_m), placed(corners[k], height_m), side + 1});
    }
}

void Solid::addHull(const Hull& hull)
{
    // The triangles of a node are where they are; those of a shape's own go with it.
    const auto placed = [&](int index) {
        const Vec3& p = hull.points[static_cast<std::size_t>(index)];
        return hull.node.empty() ? frame_.at + frame_.aside * p.x + frame_.ahead * p.y + frame_.up * p.z : p;
    };
    for (const Hull::Triangle& triangle : hull.triangles) {
        faces_.push_back({placed(triangle.a), placed(triangle.b), placed(triangle.c), 0});
    }
}

void Solid::measure()
{
    low_ = Vec3{boundless};
    high_ = Vec3{-boundless};
    const auto take = [this](const Vec3& p) {
        low_ = glm::min(low_, p - Vec3{radius_});
        high_ = glm::max(high_, p + Vec3{radius_});
    };
    for (const Line& line : lines_) {
        take(line.a);
        take(line.b);
    }
    for (const Triangle& face : faces_) {
        take(face.a);
        take(face.b);
        take(face.c);
    }
    if (lines_.empty() && faces_.empty()) {
        low_ = high_ = frame_.at;
    }
    bounds_ = {(low_ + high_) / 2.0, glm::length(high_ - low_) / 2.0};
}

Vec3 Solid::local(const Vec3& p) const
{
    const Vec3 way = p - frame_.at;
    return {glm::dot(way, frame_.aside), glm::dot(way, frame_.ahead), glm::dot(way, frame_.up)};
}

bool Solid::contains(const Vec3& p) const
{
    if (round()) {
        return radius_ > 0.0 && glm::length(p - nearestOnLines(p)) <= radius_;
    }
    if (glm::any(glm::lessThan(p, low_)) || glm::any(glm::greaterThan(p, high_))) {
        return false;
    }
    if (!corners_.empty()) {
        const Vec3 own = local(p);
        if (own.z < 0.0 || own.z > height_) {
            return false;
        }
        const Vec2 plan{own.x, own.y};
        return polygonContains(corners_, plan) || glm::length(nearestOnOutline(corners_, plan) - plan) < 1e-12;
    }
    // The winding number of a closed surface: 4 pi inside, 0 outside, something between near a hole.
    double around = 0.0;
    for (const Triangle& face : faces_) {
        around += solidAngleOf(face.a - p, face.b - p, face.c - p);
    }
    return around > 2.0 * pi;
}

Vec3 Solid::nearestOnLines(const Vec3& p) const
{
    Vec3 best = lines_.front().a;
    double least = boundless;
    for (const Line& line : lines_) {
        const Vec3 on = nearestOnSegment(line.a, line.b, p);
        if (const double distance = glm::length(p - on); distance < least) {
            least = distance;
            best = on;
        }
    }
    return best;
}

Vec3 Solid::nearestOnSurface(const Vec3& p) const
{
    if (round()) {
        const Vec3 axis = nearestOnLines(p);
        const Vec3 out = p - axis;
        const double distance = glm::length(out);
        return axis + (distance > 0.0 ? out * (radius_ / distance) : Vec3{radius_, 0.0, 0.0});
    }
    Vec3 best = frame_.at;
    double least = boundless;
    for (const Triangle& face : faces_) {
        const Vec3 on = nearestOnTriangle(face.a, face.b, face.c, p);
        if (const double distance = glm::length(p - on); distance < least) {
            least = distance;
            best = on;
        }
    }
    return best;
}

Vec3 Solid::nearest(const Vec3& p) const
{
    return contains(p) ? p : nearestOnSurface(p);
}

double Solid::signedDistance(const Vec3& p) const
{
    if (round()) {
        return glm::length(p - nearestOnLines(p)) - radius_;
    }
    const double distance = glm::length(p - nearestOnSurface(p));
    return contains(p) ? -distance : distance;
}

Seen Solid::seenFrom(const Vec3& p) const
{
    Seen seen;
    for (const Line& line : lines_) {
        seen.add(seenLine(line.a, line.b, p, radius_));
    }
    for (const Triangle& face : faces_) {
        const Vec3 a = face.a - p;
        const Vec3 b = face.b - p;
        const Vec3 c = face.c - p;
        // Faces run counter-clockwise seen from outside: from there the angle comes out negative.
        const double angle = -solidAngleOf(a, b, c);
        if (angle > 0.0) {
            seen.vector -= vectorOf(a, b, c);
            seen.weight += angle;
            seen.solidAngle_sr += angle;
        }
    }
    seen.solidAngle_sr = std::min(seen.solidAngle_sr, 4.0 * pi);
    return seen;
}

Met Solid::meet(const Vec3& p) const
{
    Met met;
    met.inside = contains(p);
    if (met.inside) {
        met.nearest = p;
        met.solidAngle_sr = 4.0 * pi;
        return met;
    }
    met.nearest = nearestOnSurface(p);
    met.distance_m = glm::length(p - met.nearest);
    const Seen seen = seenFrom(p);
    met.mean = meanOf(seen, met.nearest - p);
    met.solidAngle_sr = seen.solidAngle_sr;
    return met;
}

double Solid::distanceToSide(const Vec3& p, std::size_t side) const
{
    if (sides_ == 1) {
        return side == 0 ? glm::length(p - nearestOnSurface(p)) : boundless;
    }
    double least = boundless;
    for (const Triangle& face : faces_) {
        if (face.side == side) {
            least = std::min(least, glm::length(p - nearestOnTriangle(face.a, face.b, face.c, p)));
        }
    }
    return least;
}

double Solid::depth(const Vec3& p) const
{
    if (corners_.empty() || !contains(p)) {
        return -signedDistance(p);
    }
    const Vec3 own = local(p);
    const Vec2 plan{own.x, own.y};
    const double upright = std::min(own.z, height_ - own.z) / std::min(uprightMargin_m, height_ / 2.0);
    return glm::length(nearestOnOutline(corners_, plan) - plan) * std::clamp(upright, 0.0, 1.0);
}

template <class Flat> std::vector<std::vector<Vec2>> Solid::flattened(Flat flat, const Vec3& off) const
{
    constexpr double stands = 0.9999; // on the sheet, to a degree
    if (!corners_.empty() && std::abs(glm::dot(frame_.up, off)) > stands) {
        std::vector<Vec2> outline;
        for (const Vec2& corner : corners_) {
            outline.push_back(flat(frame_.at + frame_.aside * corner.x + frame_.ahead * corner.y));
        }
        return {outline};
    }
    std::vector<std::vector<Vec2>> outlines;
    const auto circle = [this](const Vec2& centre, std::vector<Vec2>& points) {
        for (int i = 0; i < circleSides; ++i) {
            const double angle = 2.0 * pi * i / circleSides;
            points.push_back({centre.x + radius_ * std::cos(angle), centre.y + radius_ * std::sin(angle)});
        }
    };
    for (const Line& line : lines_) {
        std::vector<Vec2> points;
        circle(flat(line.a), points);
        if (line.b != line.a) {
            circle(flat(line.b), points);
        }
        outlines.push_back(hullOf(std::move(points)));
    }
    if (lines_.empty()) {
        std::vector<Vec2> points;
        for (const Triangle& face : faces_) {
            for (const Vec3& p : {face.a, face.b, face.c}) {
                points.push_back(flat(p));
            }
        }
        outlines.push_back(hullOf(std::move(points)));
    }
    return outlines;
}

std::vector<std::vector<Vec2>> Solid::footprint() const
{
    return flattened([](const Vec3& p) { return Vec2{p.x, p.y}; }, {0.0, 0.0, 1.0});
}

std::vector<std::vector<Vec2>> Solid::outlineOn(Looking looking) const
{
    return flattened([looking](const Vec3& p) { return onSheet(looking, p); }, fromSheet(looking, Vec2{0.0}, 1.0));
}

double Solid::volume_m3() const
{
    if (round()) {
        double length_m = 0.0;
        for (const Line& line : lines_) {
            length_m += glm::length(line.b - line.a);
        }
        return std::numbers::pi * radius_ * radius_ * (length_m + 4.0 / 3.0 * radius_);
    }
    double six = 0.0;
    for (const Triangle& face : faces_) {
        six += glm::dot(face.a - low_, glm::cross(face.b - low_, face.c - low_));
    }
    return std::abs(six) / 6.0;
}

} // namespace stone
