// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/section/height_grips.h"

#include "geometry/drawing.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using Kind = HeightGrip::Kind;

double* heightOf(Shape& shape)
{
    if (auto* box = std::get_if<Box>(&shape)) {
        return &box->size_m.z;
    }
    auto* prism = std::get_if<Prism>(&shape);
    return prism != nullptr ? &prism->height_m : nullptr;
}

} // namespace

std::vector<HeightGrip> heightGripsOf(const Shape& shape, const Solid::Frame& frame)
{
    Shape copy = shape;
    if (heightOf(copy) != nullptr) {
        const auto [low, high] = Solid(shape, {}).box();
        const Vec3 middle = (low + high) / 2.0;
        return {{Kind::top, 0, placed(frame, {middle.x, middle.y, high.z})},
                {Kind::bottom, 0, placed(frame, {middle.x, middle.y, low.z})}};
    }
    if (const auto* ball = std::get_if<Ball>(&shape)) {
        return {{Kind::top, 0, placed(frame, {0.0, 0.0, ball->radius_m})}};
    }
    if (const auto* capsule = std::get_if<Capsule>(&shape)) {
        return {{Kind::end, 0, placed(frame, capsule->from)}, {Kind::end, 1, placed(frame, capsule->to)}};
    }
    std::vector<HeightGrip> grips;
    if (const auto* ribbon = std::get_if<Ribbon>(&shape)) {
        for (std::size_t i = 0; i < ribbon->points.size(); ++i) {
            grips.push_back({Kind::point, i, placed(frame, ribbon->points[i])});
        }
    }
    return grips;
}

FittedShape raised(const FittedShape& thing, const Solid::Frame& frame, const HeightGrip& grip, double height_m)
{
    FittedShape next = thing;
    const double own = toCentimetre(height_m - frame.at.z);
    if (double* height = heightOf(next.shape)) {
        if (grip.kind == Kind::top) {
            *height = std::max(own, 0.0);
        } else {
            const double up = std::min(own, *height);
            *height = toCentimetre(*height - up);
            next.at.z = toCentimetre(next.at.z + up);
        }
    } else if (auto* ball = std::get_if<Ball>(&next.shape)) {
        ball->radius_m = std::abs(own);
    } else if (auto* capsule = std::get_if<Capsule>(&next.shape)) {
        (grip.index == 0 ? capsule->from : capsule->to).z = own;
    } else if (auto* ribbon = std::get_if<Ribbon>(&next.shape); ribbon != nullptr && grip.index < ribbon->points.size()) {
        ribbon->points[grip.index].z = own;
    }
    return next;
}

} // namespace stone
