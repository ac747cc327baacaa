// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"

#include <vector>

namespace stone
{

/// A run of joined points of a cut, in metres east and north.
struct Outline {
    std::vector<Vec2> points; ///< of a closed outline the last point joins the first
    bool closed = false;
    bool filled = false; ///< closed round something solid, or round a hole in something solid
};

/// What a horizontal plane meets.
struct PlanCut {
    double height_m = 0.0;
    std::vector<Outline> outlines;
};

/// Cuts a mesh at any height. Construction sorts the triangles once; a cut then looks at the heights of all triangles
/// but touches only those that it meets. Immutable afterwards: any number of threads may cut at once.
class PlanCutter
{
public:
    PlanCutter() = default;
    explicit PlanCutter(const Mesh& mesh);

    /// Outlines joined at a tenth of a millimetre, solid on their left. Fill the `filled` ones together by the non-zero
    /// rule: overlapping walls then become one, and rooms inside out stay empty.
    PlanCut at(double height_m) const;

private:
    struct Corners {
        Vec3 a, b, c;
    };
    struct Reach {
        float low;
        float high;
    };

    std::vector<Reach> reach_; ///< heights of each triangle, apart from its corners so that a scan stays in the cache
    std::vector<Corners> triangles_;
};

} // namespace stone
