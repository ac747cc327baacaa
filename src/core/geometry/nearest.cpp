// SPDX-License-Identifier: MPL-2.0
#include "geometry/nearest.h"

namespace stone
{

Vec3 nearestOnTriangle(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& p)
{
    const Vec3 ab = b - a;
    const Vec3 ac = c - a;
    const double d1 = glm::dot(ab, p - a);
    const double d2 = glm::dot(ac, p - a);
    if (d1 <= 0.0 && d2 <= 0.0) {
        return a;
    }
    const double d3 = glm::dot(ab, p - b);
    const double d4 = glm::dot(ac, p - b);
    if (d3 >= 0.0 && d4 <= d3) {
        return b;
    }
    const double d5 = glm::dot(ab, p - c);
    const double d6 = glm::dot(ac, p - c);
    if (d6 >= 0.0 && d5 <= d6) {
        return c;
    }
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) {
        return a + ab * (d1 / (d1 - d3));
    }
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) {
        return a + ac * (d2 / (d2 - d6));
    }
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 >= d3 && d5 >= d6) {
        return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
    }
    const double sum = va + vb + vc;
    return a + ab * (vb / sum) + ac * (vc / sum);
}

} // namespace stone
