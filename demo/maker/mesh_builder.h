// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/vec.h"

#include <array>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace vellmoor
{

using stone::Vec2;
using stone::Vec3;

/// Builds named parts out of boxes, posts and slabs, each of a material, and writes them as one .glb. Metres, Z up;
/// faces are wound counter-clockwise seen from outside.
class MeshBuilder
{
public:
    /// What is added from here on belongs to this part (a node of the file).
    void part(const std::string& name) { current_ = name; }

    void box(const std::string& material, const Vec3& low, const Vec3& high);
    /// A box standing on a line from `a` to `b` (in the plan), with a thickness, between two heights.
    void wall(const std::string& material, const Vec2& a, const Vec2& b, double thickness, double low, double high);
    /// An upright post of many sides.
    void post(const std::string& material, const Vec2& at, double radius, double low, double high, int sides = 12);
    /// A beam between any two points, square across.
    void beam(const std::string& material, const Vec3& a, const Vec3& b, double width);
    /// Steps along +x or -x from `low` up to `high`, solid down to `base`.
    void stairs(const std::string& material, const Vec3& foot, double width_y, double rise, double run_x, double base);

    /// A named place without geometry.
    void place(const std::string& name, const Vec3& at) { places_[name] = at; }

    std::size_t triangles() const;
    void writeGlb(const std::filesystem::path& file) const;

private:
    struct Surface {
        std::vector<Vec3> points;
        std::vector<std::uint32_t> indices;
    };

    /// Corners: four below, four above, each counter-clockwise seen from above.
    void hexahedron(const std::string& material, const std::array<Vec3, 8>& corners);

    std::string current_ = "level";
    std::map<std::string, std::map<std::string, Surface>> parts_;
    std::map<std::string, Vec3> places_;
};

} // namespace vellmoor
