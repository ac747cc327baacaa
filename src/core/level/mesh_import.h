// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"

#include <filesystem>
#include <string>

namespace stone
{

struct MeshImport {
    double metresPerUnit = 1.0;
    bool zUp = false; ///< of an OBJ; glTF is Y-up by definition
};

/// Reads .gltf, .glb or .obj by its ending. Buffers beside a .gltf must lie in its folder. Throws FileError with one
/// line that says what is wrong and where. Safe on damaged files: indices, sizes, cycles and numbers are checked.
Mesh importMesh(const std::filesystem::path& file, const MeshImport& how);

Mesh importGltf(const std::filesystem::path& file, const MeshImport& how);
Mesh importObj(const std::filesystem::path& file, const MeshImport& how);

/// Throws FileError where a mesh has more points or triangles than a level may have: a small file can ask for any number of
/// them, by placing one thing many times.
void checkSize(const Mesh& mesh, const std::string& label);

} // namespace stone
