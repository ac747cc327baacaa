// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/eyes/level_model.h"

#include <cmath>
#include <map>
#include <numbers>
#include <tuple>

namespace stone
{

namespace
{

/// Edges at which two faces bend by less than this are not drawn.
const double flat = std::cos(20.0 * std::numbers::pi / 180.0);
constexpr double weld_m = 1e-3;

using Cell = std::tuple<long, long, long>;

Cell cellOf(const Vec3& p)
{
    return {std::lround(p.x / weld_m), std::lround(p.y / weld_m), std::lround(p.z / weld_m)};
}

void append(std::vector<float>& to, const Vec3& v)
{
    for (const double part : {v.x, v.y, v.z}) {
        to.push_back(static_cast<float>(part));
    }
}

/// What turns about the upright axis between two rings.
void lathe(std::vector<float>& faces, double low_m, double lowRadius_m, double high_m, double highRadius_m)
{
    constexpr int sides = 14;
    for (int i = 0; i < sides; ++i) {
        const auto at = [&](int k, double radius, double z) {
            const double turn = 2.0 * std::numbers::pi * k / sides;
            return Vec3{radius * std::sin(turn), radius * std::cos(turn), z};
        };
        const Vec3 corners[] = {at(i, lowRadius_m, low_m), at(i + 1, lowRadius_m, low_m), at(i + 1, highRadius_m, high_m),
                                at(i, highRadius_m, high_m)};
        const Vec3 normal = glm::normalize(glm::cross(corners[2] - corners[0], corners[1] - corners[3]));
        const Vec3 outward = glm::dot(normal, corners[0] + corners[2]) >= 0.0 ? normal : -normal;
        for (const int corner : {0, 1, 2, 0, 2, 3}) {
            append(faces, corners[corner]);
            append(faces, outward);
        }
    }
}

} // namespace

LevelModel levelModel(const Mesh& mesh, const std::function<bool(const std::string&)>& seeThrough)
{
    LevelModel model;
    std::vector<bool> glass;
    for (const std::string& material : mesh.materials) {
        glass.push_back(seeThrough(material));
    }
    struct Edge {
        Vec3 a;
        Vec3 b;
        Vec3 normal;
        bool drawn = true;
    };
    std::map<std::pair<Cell, Cell>, Edge> edges;
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        const Vec3 corners[] = {mesh.points[triangle.corners[0]], mesh.points[triangle.corners[1]],
                                mesh.points[triangle.corners[2]]};
        const Vec3 across = glm::cross(corners[1] - corners[0], corners[2] - corners[0]);
        const double length = glm::length(across);
        if (length <= 0.0) {
            continue;
        }
        const Vec3 normal = across / length;
        std::vector<float>& faces = triangle.material < glass.size() && glass[triangle.material] ? model.glass : model.faces;
        for (int i = 0; i < 3; ++i) {
            append(faces, corners[i]);
            append(faces, normal);
            const Vec3& a = corners[i];
            const Vec3& b = corners[(i + 1) % 3];
            const Cell from = cellOf(a);
            const Cell to = cellOf(b);
            const auto [known, fresh] = edges.emplace(std::pair(std::min(from, to), std::max(from, to)), Edge{a, b, normal});
            if (!fresh) {
                known->second.drawn = glm::dot(known->second.normal, normal) < flat;
            }
        }
    }
    for (const auto& [ends, edge] : edges) {
        if (edge.drawn) {
            append(model.edges, edge.a);
            append(model.edges, edge.b);
        }
    }
    return model;
}

std::vector<float> figureModel()
{
    std::vector<float> faces;
    lathe(faces, 0.0, 0.10, 0.45, 0.13);
    lathe(faces, 0.45, 0.13, 0.80, 0.15);
    lathe(faces, 0.80, 0.15, 0.84, 0.04);
    lathe(faces, 0.84, 0.05, 0.92, 0.075);
    lathe(faces, 0.92, 0.075, 1.0, 0.03);
    // The nose: a wedge that says which way it faces.
    const Vec3 tip{0.0, 0.16, 0.91};
    const Vec3 base[] = {{-0.03, 0.06, 0.90}, {0.03, 0.06, 0.90}, {0.0, 0.06, 0.95}};
    for (int i = 0; i < 3; ++i) {
        const Vec3& a = base[i];
        const Vec3& b = base[(i + 1) % 3];
        const Vec3 normal = glm::normalize(glm::cross(b - a, tip - a));
        for (const Vec3& corner : {a, b, tip}) {
            append(faces, corner);
            append(faces, normal);
        }
    }
    return faces;
}

} // namespace stone
