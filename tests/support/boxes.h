// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "level/ground.h"

#include <memory>
#include <string>
#include <utility>

/// Levels made of boxes.
namespace fixture
{

using namespace stone;

/// Adds a closed box of a material.
void addBox(Mesh& mesh, const Vec3& low, const Vec3& high, std::uint32_t material = 0);

/// Adds one face with its front towards the side from which its corners go round counter-clockwise.
void addSheet(Mesh& mesh, const std::array<Vec3, 4>& corners, std::uint32_t material = 0);

/// A closed box as an OBJ file's text, z upwards; its corners are counted from the last before it, so that texts can be joined.
std::string boxObj(const std::string& material, const Vec3& low, const Vec3& high);

std::shared_ptr<const Ground> groundOf(Mesh mesh);

} // namespace fixture
