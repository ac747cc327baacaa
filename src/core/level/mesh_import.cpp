// SPDX-License-Identifier: MPL-2.0
#include "level/mesh_import.h"

#include "project/file_error.h"

#include <algorithm>
#include <cctype>

namespace stone
{

const Mesh::Node* Mesh::node(const std::string& name) const
{
    const auto found = std::find_if(nodes.begin(), nodes.end(), [&](const Node& node) { return node.name == name; });
    return found != nodes.end() ? &*found : nullptr;
}

std::array<Vec3, 2> Mesh::bounds() const
{
    if (points.empty()) {
        return {Vec3{0.0}, Vec3{0.0}};
    }
    std::array<Vec3, 2> box{points.front(), points.front()};
    for (const Vec3& p : points) {
        box[0] = {std::min(box[0].x, p.x), std::min(box[0].y, p.y), std::min(box[0].z, p.z)};
        box[1] = {std::max(box[1].x, p.x), std::max(box[1].y, p.y), std::max(box[1].z, p.z)};
    }
    return box;
}

void checkSize(const Mesh& mesh, const std::string& label)
{
    constexpr std::size_t most = 10'000'000;
    const std::size_t size = std::max(mesh.points.size(), mesh.triangles.size());
    if (size > most) {
        throw FileError(label + ": the level has more than " + std::to_string(most / 1'000'000) +
                        " million points or triangles; export a simpler one");
    }
}

Mesh importMesh(const std::filesystem::path& file, const MeshImport& how)
{
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (error) {
        throw FileError(file.string() + ": the level cannot be read (" + error.message() + "); choose the file again");
    }
    if (size == 0) {
        throw FileError(file.string() + ": the level is empty (0 bytes); export it again");
    }
    if (size > (1ULL << 30U)) {
        throw FileError(file.string() + ": the level is larger than 1 GiB; export a simpler one");
    }
    std::string ending = file.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
    if (ending == ".gltf" || ending == ".glb") {
        return importGltf(file, how);
    }
    if (ending == ".obj") {
        return importObj(file, how);
    }
    throw FileError(file.string() + ": not a level file that can be read; use .gltf, .glb or .obj");
}

} // namespace stone
