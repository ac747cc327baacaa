// SPDX-License-Identifier: MPL-2.0
#include "level/mesh_import.h"

#include "project/file_error.h"

#include <tiny_obj_loader.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <iterator>
#include <sstream>
#include <unordered_set>
#include <vector>

namespace stone
{

namespace
{

constexpr std::size_t mostFaceCorners = 500; ///< of a face; cutting it into triangles takes their square

/// Names of materials come from the faces themselves. The files that "mtllib" names are never opened: they hold colours, and
/// a level from a stranger may name anything there.
class NamesOnly : public tinyobj::MaterialReader
{
public:
    explicit NamesOnly(const std::vector<std::string>& names) : names_(names) {}

    bool operator()(const std::string&, std::vector<tinyobj::material_t>* materials, std::map<std::string, int>* index,
                    std::string*, std::string*) override
    {
        for (const std::string& name : names_) {
            if (index->emplace(name, static_cast<int>(materials->size())).second) {
                materials->emplace_back();
                materials->back().name = name;
            }
        }
        return true;
    }

private:
    const std::vector<std::string>& names_;
};

/// The materials that "usemtl" names, each once, in order. Throws FileError where a face has too many corners.
std::vector<std::string> materialsOf(std::string_view text, const std::string& label)
{
    std::vector<std::string> materials;
    std::unordered_set<std::string> known;
    std::size_t line = 0;
    for (std::size_t at = 0; at < text.size();) {
        ++line;
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string_view rest = text.substr(at, end - at);
        at = end + 1;
        const auto word = [&rest] {
            const std::size_t from = std::min(rest.find_first_not_of(" \t\r"), rest.size());
            const std::size_t to = std::min(rest.find_first_of(" \t\r", from), rest.size());
            const std::string_view found = rest.substr(from, to - from);
            rest.remove_prefix(to);
            return found;
        };
        const std::string_view first = word();
        if (first == "usemtl") {
            const std::string name(word());
            if (!name.empty() && known.insert(name).second) {
                materials.push_back(name);
            }
        } else if (first == "f") {
            std::size_t corners = 0;
            while (!word().empty()) {
                ++corners;
            }
            if (corners > mostFaceCorners) {
                throw FileError(label + ":" + std::to_string(line) + ": a face has " + std::to_string(corners) +
                                " corners, at most " + std::to_string(mostFaceCorners) +
                                " can be read; export the level in triangles");
            }
        }
    }
    return materials;
}

} // namespace

Mesh importObj(const std::filesystem::path& file, const MeshImport& how)
{
    const std::string label = file.string();
    std::ifstream stream(file, std::ios::binary);
    std::string text{std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
    const std::vector<std::string> used = materialsOf(text, label);
    NamesOnly names(used);
    // Makes the library ask for materials before the first face, whether the file names a material file or not.
    std::istringstream lines("mtllib names\n" + std::move(text));
    tinyobj::attrib_t attributes;
    std::vector<tinyobj::shape_t> shapes;
    std::vector<tinyobj::material_t> materials;
    std::string warning;
    std::string error;
    bool read = false;
    try {
        constexpr bool triangulate = true;
        constexpr bool colours = false;
        read = tinyobj::LoadObj(&attributes, &shapes, &materials, &warning, &error, &lines, &names, triangulate, colours);
    } catch (const std::exception&) {
        read = false;
    }
    if (!read) {
        throw FileError(label + ": not a readable OBJ level; its faces or points are damaged: export it again");
    }

    Mesh mesh;
    const auto& vertices = attributes.vertices;
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
    for (const tinyobj::material_t& material : materials) {
        mesh.materials.push_back(material.name);
    }
    const auto unnamed = static_cast<std::uint32_t>(mesh.materials.size());
    mesh.materials.emplace_back();
    for (const tinyobj::shape_t& shape : shapes) {
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
    checkSize(mesh, label);
    return mesh;
}

} // namespace stone
