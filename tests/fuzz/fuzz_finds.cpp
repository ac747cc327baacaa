// SPDX-License-Identifier: GPL-3.0-or-later
#include "level/finds.h"

#include <cmath>
#include <cstdlib>
#include <memory>

/// What a stranger's pack says was found is taken whole or not at all, and leaves numbers that are some.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    static const auto ground = [] {
        stone::Mesh mesh;
        mesh.points = {{0.0, 0.0, 0.0}, {4.0, 0.0, 0.0}, {4.0, 4.0, 0.0}, {0.0, 4.0, 0.0}};
        mesh.triangles.push_back({{0, 1, 2}});
        mesh.triangles.push_back({{0, 2, 3}});
        mesh.materials = {"stone"};
        return std::make_shared<const stone::Ground>(std::make_shared<const stone::Mesh>(std::move(mesh)));
    }();
    stone::giveFinds(*ground, {reinterpret_cast<const char*>(data), size});
    for (const auto& [ends, way] : ground->foundWays()) {
        for (const stone::Vec3& corner : way) {
            if (!std::isfinite(corner.x)) {
                std::abort();
            }
        }
    }
    return 0;
}
