// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <algorithm>

namespace stone
{

/// How far along from a to b the point nearest to p lies, 0 to 1. Vectors of any dimension.
template <class Vec> double alongSegment(const Vec& a, const Vec& b, const Vec& p)
{
    const Vec along = b - a;
    const double length2 = glm::dot(along, along);
    return length2 > 0.0 ? std::clamp(glm::dot(p - a, along) / length2, 0.0, 1.0) : 0.0;
}

template <class Vec> Vec nearestOnSegment(const Vec& a, const Vec& b, const Vec& p)
{
    return a + (b - a) * alongSegment(a, b, p);
}

/// The point of a triangle that is nearest (C. Ericson, Real-Time Collision Detection, 5.1.5).
Vec3 nearestOnTriangle(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& p);

} // namespace stone
