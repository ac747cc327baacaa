// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/sheet_shapes.h"

#include "geometry/drawing.h"

#include <cmath>

namespace stone
{

namespace
{

/// Along, up, and towards whoever looks.
Vec3 flat(Looking looking, const Vec3& p)
{
    return {onSheet(looking, p), looking == Looking::north ? -across(looking, p) : across(looking, p)};
}

/// The same for what faces into the sheet: aside, up, and against where it faces.
Vec3 ownOf(const Vec3& flat)
{
    return {flat.x, -flat.z, flat.y};
}

Vec3 tidy(const Vec3& p)
{
    return {toCentimetre(p.x), toCentimetre(p.y), toCentimetre(p.z)};
}

/// The rectangle that it covers, as deep as it is.
FlatShape blockOf(const DrawnShape& drawn, Looking looking, const Vec3& origin)
{
    const auto [low, high] = Solid(drawn.shape, drawn.frame).box();
    const Vec3 a = flat(looking, low) - origin;
    const Vec3 b = flat(looking, high) - origin;
    const double deep_m = toCentimetre(std::abs(b.z - a.z));
    const double middle_m = (a.z + b.z) / 2.0;
    const Prism prism{{{toCentimetre(a.x), toCentimetre(a.y)},
                       {toCentimetre(b.x), toCentimetre(a.y)},
                       {toCentimetre(b.x), toCentimetre(b.y)},
                       {toCentimetre(a.x), toCentimetre(b.y)}},
                      deep_m};
    const double across_m = toCentimetre(looking == Looking::north ? -middle_m : middle_m);
    return {prism, {.at = origin + Vec3{0.0, 0.0, middle_m - deep_m / 2.0}}, fromSheet(looking, Vec2{0.0}, across_m)};
}

} // namespace

std::optional<FlatShape> laidFlat(const DrawnShape& drawn, Looking looking)
{
    const Vec3 origin = flat(looking, drawn.frame.at);
    const auto laid = [&](const Vec3& own) { return tidy(flat(looking, placed(drawn.frame, own)) - origin); };
    if (std::holds_alternative<Hull>(drawn.shape)) {
        return {};
    }
    if (std::holds_alternative<Ball>(drawn.shape)) {
        return FlatShape{drawn.shape, {.at = origin}};
    }
    if (const auto* capsule = std::get_if<Capsule>(&drawn.shape)) {
        return FlatShape{Capsule{laid(capsule->from), laid(capsule->to), capsule->radius_m}, {.at = origin}};
    }
    if (const auto* ribbon = std::get_if<Ribbon>(&drawn.shape)) {
        Ribbon line{{}, ribbon->width_m, ribbon->closed};
        for (const Vec3& point : ribbon->points) {
            line.points.push_back(laid(point));
        }
        return FlatShape{line, {.at = origin}};
    }
    const auto* prism = std::get_if<Prism>(&drawn.shape);
    constexpr double facesIt = 0.9999;
    if (prism == nullptr || !prism->standing || std::abs(across(looking, drawn.frame.ahead)) < facesIt) {
        return blockOf(drawn, looking, origin);
    }
    Prism standing{{}, prism->height_m};
    for (const Vec2& corner : prism->corners) {
        standing.corners.emplace_back(laid({corner.x, 0.0, corner.y}));
    }
    return FlatShape{standing, {.at = origin - Vec3{0.0, 0.0, prism->height_m / 2.0}}};
}

Shape stoodUp(const Shape& flat)
{
    Shape shape = flat;
    if (auto* prism = std::get_if<Prism>(&shape)) {
        prism->standing = true;
    } else if (auto* capsule = std::get_if<Capsule>(&shape)) {
        capsule->from = ownOf(capsule->from);
        capsule->to = ownOf(capsule->to);
    } else if (auto* ribbon = std::get_if<Ribbon>(&shape)) {
        for (Vec3& point : ribbon->points) {
            point = ownOf(point);
        }
    }
    return shape;
}

} // namespace stone
