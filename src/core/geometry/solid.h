// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "geometry/sphere_index.h"
#include "geometry/upright_sheet.h"

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// How a solid is met from a place.
struct Met {
    bool inside = false;
    double distance_m = 0.0; ///< to the solid; 0 inside
    Vec3 nearest{0.0};       ///< of the solid: the place itself when inside
    /// The mean of the directions in which the solid is seen, in level coordinates. Its length says how wide: 1 for a
    /// point, 0 for all round; see spread.h. Continuous outside and zero inside.
    Vec3 mean{0.0};
    double solidAngle_sr = 0.0; ///< covered: 0 to 4 pi. Parts of a concave solid that hide one another count once each.
};

/// What has to be added up to see several solids as one.
struct Seen {
    Vec3 vector{0.0};           ///< integral of the directions over what is seen
    double weight = 0.0;        ///< integral of one
    double solidAngle_sr = 0.0; ///< of the part of `weight` that is one

    void add(const Seen& other);
};

/// A shape that was put somewhere: answers where a place lies in relation to it. Immutable; any number of threads may
/// ask. Cost grows with the number of faces or lines.
///
/// The directions in which it is seen are those of its surface as far as it faces the place, each as much as the solid
/// angle that it covers; both integrals are closed forms over polygons: the solid angle by A. van Oosterom and
/// J. Strackee (IEEE Trans. Biomed. Eng. 30, 1983), the vector by Lambert's formula for the irradiance of a polygon (1760;
/// see D. R. Baum et al., SIGGRAPH 1989). A thin line is seen by the length of its pieces over the square of their
/// distance. So no direction jumps: a nearer part takes over from another as smoothly as it comes nearer.
class Solid
{
public:
    /// Where a shape's origin is, and the directions of its own x, y and z axes.
    struct Frame {
        Vec3 at{0.0};
        Vec3 aside{1.0, 0.0, 0.0};
        Vec3 ahead{0.0, 1.0, 0.0};
        Vec3 up{0.0, 0.0, 1.0};
    };
    struct Triangle {
        Vec3 a, b, c;
        std::uint32_t side; ///< which side of the shape it is part of
    };

    Solid() = default;
    /// A hull of a node must have been given its own triangles before.
    Solid(const Shape& shape, const Frame& frame);

    bool contains(const Vec3& p) const;
    /// Of the solid: p itself when inside.
    Vec3 nearest(const Vec3& p) const;
    Vec3 nearestOnSurface(const Vec3& p) const;
    /// To the surface; negative inside.
    double signedDistance(const Vec3& p) const;

    Met meet(const Vec3& p) const;
    Seen seenFrom(const Vec3& p) const;

    /// How many sides can be told apart: of a prism its walls in order, then floor and ceiling (of one that stands on its edge
    /// what is ahead and behind); of a box ahead (+y),
    /// right, behind, left, floor, ceiling. One for everything else.
    std::size_t sideCount() const { return sides_; }
    /// From a place to one side; infinite when there is no such side.
    double distanceToSide(const Vec3& p, std::size_t side) const;
    /// How deep a place lies behind the walls, metres; negative outside, as far as it is from the solid. A low ceiling does
    /// not keep one at the border: of prisms and boxes floor and ceiling count only within half a metre, over which the
    /// depth shrinks to nothing.
    double depth(const Vec3& p) const;

    /// Of lines and capsules that of their pieces, laid end to end. 0 for a mesh that is not closed.
    double volume_m3() const;

    /// Holds all of it.
    Sphere bounds() const { return bounds_; }
    std::array<Vec3, 2> box() const { return {low_, high_}; }

    /// Seen from above, or on an upright sheet by who looks that way: closed outlines, for drawing. Of what is no prism that
    /// stands on the sheet, the outline of its hull.
    std::vector<std::vector<Vec2>> footprint() const;
    std::vector<std::vector<Vec2>> outlineOn(Looking looking) const;

private:
    struct Line {
        Vec3 a, b;
    };

    bool round() const { return !lines_.empty(); }
    void addPrism(std::span<const Vec2> corners, double height_m);
    void addHull(const Hull& hull);
    Vec3 local(const Vec3& p) const;
    Vec3 nearestOnLines(const Vec3& p) const;
    /// Flattened onto a sheet, whose own direction is a unit vector.
    template <class Flat> std::vector<std::vector<Vec2>> flattened(Flat flat, const Vec3& off) const;
    void measure();

    Frame frame_;
    std::vector<Line> lines_; ///< of round ones
    double radius_ = 0.0;
    std::vector<Triangle> faces_;
    std::vector<Vec2> corners_; ///< of a prism or box, in its own frame
    double height_ = 0.0;
    std::size_t sides_ = 1;
    Vec3 low_{0.0};
    Vec3 high_{0.0};
    Sphere bounds_;
};

/// What a sum of what is seen comes to: the mean direction, with the nearest place for what is too thin to be seen.
Vec3 meanOf(const Seen& seen, const Vec3& towardsNearest);

} // namespace stone
