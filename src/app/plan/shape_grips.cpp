// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/shape_grips.h"

#include "geometry/drawing.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

Vec2 own(const Solid::Frame& frame, const Vec2& to)
{
    const Vec3 way{to.x - frame.at.x, to.y - frame.at.y, 0.0};
    return {toCentimetre(glm::dot(way, frame.aside)), toCentimetre(glm::dot(way, frame.ahead))};
}

template <class Points, class Place>
void addOutline(std::vector<ShapeGrip>& grips, const Points& points, bool closed, Place&& place)
{
    const std::size_t n = points.size();
    for (std::size_t i = 0; i < n; ++i) {
        grips.push_back({ShapeGrip::Kind::corner, i, place(points[i])});
    }
    for (std::size_t i = 0; i + (closed ? 0 : 1) < n; ++i) {
        grips.push_back({ShapeGrip::Kind::side, i, (place(points[i]) + place(points[(i + 1) % n])) / 2.0});
    }
}

} // namespace

std::vector<ShapeGrip> gripsOf(const Shape& shape, const Solid::Frame& frame, double turnAway_m)
{
    std::vector<ShapeGrip> grips;
    const auto place = [&](const Vec3& p) { return placed(frame, p); };
    if (const auto* box = std::get_if<Box>(&shape)) {
        const double x = box->size_m.x / 2.0;
        const double y = box->size_m.y / 2.0;
        const Vec3 corners[] = {{-x, -y, 0}, {x, -y, 0}, {x, y, 0}, {-x, y, 0}};
        for (std::size_t i = 0; i < 4; ++i) {
            grips.push_back({ShapeGrip::Kind::size, i, place(corners[i])});
        }
    } else if (const auto* ball = std::get_if<Ball>(&shape)) {
        grips.push_back({ShapeGrip::Kind::size, 0, place({ball->radius_m, 0, 0})});
    } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
        grips.push_back({ShapeGrip::Kind::corner, 0, place(capsule->from)});
        grips.push_back({ShapeGrip::Kind::corner, 1, place(capsule->to)});
        const Vec3 way = capsule->to - capsule->from;
        const double length = std::hypot(way.x, way.y);
        const Vec3 side = length > 0.0 ? Vec3{way.y, -way.x, 0.0} / length : Vec3{1, 0, 0};
        grips.push_back({ShapeGrip::Kind::size, 0, place((capsule->from + capsule->to) / 2.0 + side * capsule->radius_m)});
    } else if (const auto* prism = std::get_if<Prism>(&shape)) {
        addOutline(grips, prism->corners, true, [&](const Vec2& p) { return place({p.x, p.y, 0.0}); });
    } else if (const auto* ribbon = std::get_if<Ribbon>(&shape)) {
        addOutline(grips, ribbon->points, ribbon->closed, place);
    }
    if (!grips.empty() && !std::holds_alternative<Ball>(shape)) {
        grips.push_back({ShapeGrip::Kind::turn, 0, place({0.0, Solid(shape, {}).box()[1].y + turnAway_m, 0.0})});
    }
    return grips;
}

Shape dragged(const Shape& shape, const Solid::Frame& frame, const ShapeGrip& grip, const Vec2& to)
{
    Shape next = shape;
    const Vec2 p = own(frame, to);
    if (auto* box = std::get_if<Box>(&next)) {
        // About its middle: the opposite corner goes as far the other way.
        box->size_m.x = 2.0 * std::abs(p.x);
        box->size_m.y = 2.0 * std::abs(p.y);
    } else if (auto* ball = std::get_if<Ball>(&next)) {
        ball->radius_m = toCentimetre(glm::length(p));
    } else if (auto* capsule = std::get_if<Capsule>(&next)) {
        if (grip.kind == ShapeGrip::Kind::size) {
            const Vec2 a{capsule->from.x, capsule->from.y};
            const Vec2 b{capsule->to.x, capsule->to.y};
            const Vec2 way = b - a;
            const double length = glm::length(way);
            capsule->radius_m =
                toCentimetre(length > 0.0 ? std::abs((p.x - a.x) * way.y - (p.y - a.y) * way.x) / length : glm::length(p - a));
        } else {
            Vec3& end = grip.index == 0 ? capsule->from : capsule->to;
            end = {p.x, p.y, end.z};
        }
    } else if (auto* prism = std::get_if<Prism>(&next)) {
        if (grip.kind == ShapeGrip::Kind::side) {
            prism->corners.insert(prism->corners.begin() + static_cast<std::ptrdiff_t>(grip.index) + 1, p);
        } else if (grip.index < prism->corners.size()) {
            prism->corners[grip.index] = p;
        }
    } else if (auto* ribbon = std::get_if<Ribbon>(&next)) {
        auto& points = ribbon->points;
        if (grip.kind == ShapeGrip::Kind::side) {
            const double z = (points[grip.index].z + points[(grip.index + 1) % points.size()].z) / 2.0;
            points.insert(points.begin() + static_cast<std::ptrdiff_t>(grip.index) + 1, Vec3{p.x, p.y, z});
        } else if (grip.index < points.size()) {
            points[grip.index] = {p.x, p.y, points[grip.index].z};
        }
    }
    return next;
}

std::optional<DraggedBox> boxFromFarCorner(const Shape& shape, const Solid::Frame& frame, const ShapeGrip& grip, const Vec2& to)
{
    const auto* box = std::get_if<Box>(&shape);
    if (box == nullptr || grip.kind != ShapeGrip::Kind::size || grip.index > 3) {
        return {};
    }
    constexpr double least_m = 0.1;
    const Vec2 sides[] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
    const Vec2 side = sides[grip.index];
    const Vec2 far = -side * Vec2(box->size_m) / 2.0;
    // Never past the corner that stays.
    const Vec2 size = glm::max((own(frame, to) - far) * side, Vec2{least_m});
    const Vec2 middle = far + side * size / 2.0;
    Box next = *box;
    next.size_m = {toCentimetre(size.x), toCentimetre(size.y), box->size_m.z};
    return DraggedBox{next, frame.aside * middle.x + frame.ahead * middle.y};
}

std::optional<Shape> withoutCorner(const Shape& shape, std::size_t index)
{
    Shape next = shape;
    if (auto* prism = std::get_if<Prism>(&next);
        prism != nullptr && prism->corners.size() > 3 && index < prism->corners.size()) {
        prism->corners.erase(prism->corners.begin() + static_cast<std::ptrdiff_t>(index));
        return next;
    }
    if (auto* ribbon = std::get_if<Ribbon>(&next);
        ribbon != nullptr && ribbon->points.size() > 2 && index < ribbon->points.size()) {
        ribbon->points.erase(ribbon->points.begin() + static_cast<std::ptrdiff_t>(index));
        return next;
    }
    return {};
}

} // namespace stone
