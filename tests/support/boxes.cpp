// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/boxes.h"

namespace fixture
{

void addBox(Mesh& mesh, const Vec3& low, const Vec3& high, std::uint32_t material)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    for (const double z : {low.z, high.z}) {
        for (const auto& [x, y] : {std::pair(low.x, low.y), {high.x, low.y}, {high.x, high.y}, {low.x, high.y}}) {
            mesh.points.emplace_back(x, y, z);
        }
    }
    constexpr std::uint32_t faces[12][3] = {{0, 2, 1}, {0, 3, 2}, {4, 5, 6}, {4, 6, 7}, {0, 1, 5}, {0, 5, 4},
                                            {1, 2, 6}, {1, 6, 5}, {2, 3, 7}, {2, 7, 6}, {3, 0, 4}, {3, 4, 7}};
    for (const auto& face : faces) {
        mesh.triangles.push_back({{first + face[0], first + face[1], first + face[2]}, material});
    }
}

void addSheet(Mesh& mesh, const std::array<Vec3, 4>& corners, std::uint32_t material)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    mesh.points.insert(mesh.points.end(), corners.begin(), corners.end());
    mesh.triangles.push_back({{first, first + 1, first + 2}, material});
    mesh.triangles.push_back({{first, first + 2, first + 3}, material});
}

std::shared_ptr<const Ground> groundOf(Mesh mesh)
{
    return std::make_shared<const Ground>(std::make_shared<const Mesh>(std::move(mesh)));
}

std::string boxObj(const std::string& material, const Vec3& low, const Vec3& high)
{
    std::string text = "o Box\nusemtl " + material + '\n';
    for (const double z : {low.z, high.z}) {
        for (const double y : {low.y, high.y}) {
            for (const double x : {low.x, high.x}) {
                text += "v " + std::to_string(x) + ' ' + std::to_string(y) + ' ' + std::to_string(z) + '\n';
            }
        }
    }
    return text + "f -8 -6 -5 -7\nf -4 -3 -1 -2\nf -8 -7 -3 -4\nf -6 -2 -1 -5\nf -8 -4 -2 -6\nf -7 -5 -1 -3\n";
}

} // namespace fixture
