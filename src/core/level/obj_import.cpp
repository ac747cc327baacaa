#include "level/mesh_import.h"

#include "project/file_error.h"

#include <tiny_obj_loader.h>

#include <cmath>

namespace stone
{

Mesh importObj(const std::filesystem::path& file, const MeshImport& how)
{
    const std::string label = file.string();
    tinyobj::ObjReader reader;
    tinyobj::ObjReaderConfig config;
    config.triangulate = true;
    config.vertex_color = false;
    config.mtl_search_path = file.parent_path().string();
    bool read = false;
    std::string error;
    try {
        read = reader.ParseFromFile(label, config);
        error = reader.Error();
    } catch (const std::exception& failure) {
        error = failure.what();
    }
    if (!read) {
        throw FileError(label + ": not a readable OBJ level (" + error.substr(0, error.find('\n')) + "); export it again");
    }

    Mesh mesh;
    const auto& vertices = reader.GetAttrib().vertices;
    mesh.points.reserve(vertices.size() / 3);
    for (std::size_t i = 0; i + 2 < vertices.size(); i += 3) {
        const Vec3 p = Vec3{vertices[i], vertices[i + 1], vertices[i + 2]} * how.metresPerUnit;
        const Vec3 placed = how.zUp ? p : Vec3{p.x, -p.z, p.y};
        if (!(std::abs(p.x) <= 1e6 && std::abs(p.y) <= 1e6 && std::abs(p.z) <= 1e6)) {
            throw FileError(label + ": point " + std::to_string(i / 3 + 1) +
                            " is not a number or farther than a thousand kilometres away; export it again");
        }
        mesh.points.push_back(placed);
    }
    for (const tinyobj::material_t& material : reader.GetMaterials()) {
        mesh.materials.push_back(material.name);
    }
    const auto unnamed = static_cast<std::uint32_t>(mesh.materials.size());
    mesh.materials.emplace_back();
    for (const tinyobj::shape_t& shape : reader.GetShapes()) {
        const std::size_t first = mesh.triangles.size();
        for (std::size_t face = 0; face < shape.mesh.indices.size() / 3; ++face) {
            Mesh::Triangle triangle{};
            for (std::size_t corner = 0; corner < 3; ++corner) {
                const int index = shape.mesh.indices[3 * face + corner].vertex_index;
                if (index < 0 || static_cast<std::size_t>(index) >= mesh.points.size()) {
                    throw FileError(label + ": a face refers to point " + std::to_string(index + 1) + ", but there are " +
                                    std::to_string(mesh.points.size()) + "; export it again");
                }
                triangle.corners[corner] = static_cast<std::uint32_t>(index);
            }
            const int material = face < shape.mesh.material_ids.size() ? shape.mesh.material_ids[face] : -1;
            triangle.material = material >= 0 && static_cast<std::uint32_t>(material) < unnamed
                                    ? static_cast<std::uint32_t>(material)
                                    : unnamed;
            mesh.triangles.push_back(triangle);
        }
        if (!shape.name.empty() && mesh.triangles.size() > first) {
            // An OBJ has no nodes: its objects stand where their first corner is.
            mesh.nodes.push_back(
                {shape.name, mesh.points[mesh.triangles[first].corners[0]], first, mesh.triangles.size() - first});
        }
    }
    return mesh;
}

} // namespace stone
