// SPDX-License-Identifier: GPL-3.0-or-later
#include "mesh_builder.h"

#include <cmath>
#include <cstring>
#include <limits>
#include <stdexcept>

#define TINYGLTF_NO_INCLUDE_STB_IMAGE
#define TINYGLTF_NO_INCLUDE_STB_IMAGE_WRITE
#include <tiny_gltf.h>

namespace vellmoor
{

namespace
{

/// Appends values to the file's one buffer and describes them.
template <class Value> int addAccessor(tinygltf::Model& model, const std::vector<Value>& values, int target, int componentType,
                                       int type, std::size_t count)
{
    std::vector<unsigned char>& bytes = model.buffers.front().data;
    while (bytes.size() % 4 != 0) {
        bytes.push_back(0);
    }
    tinygltf::BufferView view;
    view.buffer = 0;
    view.byteOffset = bytes.size();
    view.byteLength = values.size() * sizeof(Value);
    view.target = target;
    bytes.resize(bytes.size() + view.byteLength);
    std::memcpy(bytes.data() + view.byteOffset, values.data(), view.byteLength);
    model.bufferViews.push_back(view);

    tinygltf::Accessor accessor;
    accessor.bufferView = static_cast<int>(model.bufferViews.size()) - 1;
    accessor.componentType = componentType;
    accessor.type = type;
    accessor.count = count;
    model.accessors.push_back(accessor);
    return static_cast<int>(model.accessors.size()) - 1;
}

} // namespace

void MeshBuilder::hexahedron(const std::string& material, const std::array<Vec3, 8>& c)
{
    static constexpr std::array<std::array<int, 4>, 6> faces{
        {{0, 3, 2, 1}, {4, 5, 6, 7}, {0, 1, 5, 4}, {1, 2, 6, 5}, {2, 3, 7, 6}, {3, 0, 4, 7}}};
    Surface& surface = parts_[current_][material];
    for (const auto& face : faces) {
        const auto first = static_cast<std::uint32_t>(surface.points.size());
        for (const int corner : face) {
            surface.points.push_back(c[static_cast<std::size_t>(corner)]);
        }
        for (const std::uint32_t i : {0U, 1U, 2U, 0U, 2U, 3U}) {
            surface.indices.push_back(first + i);
        }
    }
}

void MeshBuilder::box(const std::string& material, const Vec3& l, const Vec3& h)
{
    hexahedron(material, {Vec3{l.x, l.y, l.z},
                          {h.x, l.y, l.z},
                          {h.x, h.y, l.z},
                          {l.x, h.y, l.z},
                          {l.x, l.y, h.z},
                          {h.x, l.y, h.z},
                          {h.x, h.y, h.z},
                          {l.x, h.y, h.z}});
}

void MeshBuilder::wall(const std::string& material, const Vec2& a, const Vec2& b, double thickness, double low, double high)
{
    const Vec2 along = (b - a) / glm::length(b - a);
    const Vec2 aside = Vec2{-along.y, along.x} * (thickness / 2.0);
    const std::array<Vec2, 4> foot{a - aside, b - aside, b + aside, a + aside};
    std::array<Vec3, 8> corners;
    for (std::size_t i = 0; i < 4; ++i) {
        corners[i] = {foot[i].x, foot[i].y, low};
        corners[i + 4] = {foot[i].x, foot[i].y, high};
    }
    hexahedron(material, corners);
}

void MeshBuilder::post(const std::string& material, const Vec2& at, double radius, double low, double high, int sides)
{
    Surface& surface = parts_[current_][material];
    const auto first = static_cast<std::uint32_t>(surface.points.size());
    const auto n = static_cast<std::uint32_t>(sides);
    for (std::uint32_t i = 0; i < n; ++i) {
        const double angle = 2.0 * std::numbers::pi * i / n;
        const Vec2 p = at + Vec2{std::cos(angle), std::sin(angle)} * radius;
        surface.points.push_back({p.x, p.y, low});
        surface.points.push_back({p.x, p.y, high});
    }
    for (std::uint32_t i = 0; i < n; ++i) {
        const std::uint32_t a = first + 2 * i;
        const std::uint32_t b = first + 2 * ((i + 1) % n);
        for (const std::uint32_t index : {a, b, b + 1, a, b + 1, a + 1}) {
            surface.indices.push_back(index);
        }
        if (i >= 2) {
            const std::uint32_t before = first + 2 * (i - 1);
            for (const std::uint32_t index : {first, a, before, first + 1, before + 1, a + 1}) {
                surface.indices.push_back(index);
            }
        }
    }
}

void MeshBuilder::beam(const std::string& material, const Vec3& a, const Vec3& b, double width)
{
    const Vec3 along = glm::normalize(b - a);
    const Vec3 helper = std::abs(along.z) > 0.9 ? Vec3{1, 0, 0} : Vec3{0, 0, 1};
    const Vec3 aside = glm::normalize(glm::cross(helper, along)) * (width / 2.0);
    const Vec3 above = glm::cross(along, aside);
    hexahedron(material, {a - aside - above, b - aside - above, b + aside - above, a + aside - above, a - aside + above,
                          b - aside + above, b + aside + above, a + aside + above});
}

void MeshBuilder::stairs(const std::string& material, const Vec3& foot, double width_y, double rise, double run_x, double base)
{
    const int steps = static_cast<int>(std::ceil(rise / 0.2));
    for (int i = 0; i < steps; ++i) {
        const double x0 = foot.x + run_x * i / steps;
        const double x1 = foot.x + run_x * (i + 1) / steps;
        box(material, {std::min(x0, x1), foot.y, base}, {std::max(x0, x1), foot.y + width_y, foot.z + rise * (i + 1) / steps});
    }
}

std::size_t MeshBuilder::triangles() const
{
    std::size_t count = 0;
    for (const auto& [name, surfaces] : parts_) {
        for (const auto& [material, surface] : surfaces) {
            count += surface.indices.size() / 3;
        }
    }
    return count;
}

void MeshBuilder::writeGlb(const std::filesystem::path& file) const
{
    tinygltf::Model model;
    model.asset.version = "2.0";
    model.asset.generator = "vellmoor-maker";
    model.buffers.emplace_back();
    tinygltf::Scene scene;
    std::map<std::string, int> materials;
    for (const auto& [name, surfaces] : parts_) {
        // A part's points are kept relative to its corner, which its node puts back: files of real tools do the same.
        Vec3 origin{std::numeric_limits<double>::infinity()};
        for (const auto& [material, surface] : surfaces) {
            for (const Vec3& p : surface.points) {
                origin = {std::min(origin.x, p.x), std::min(origin.y, p.y), std::min(origin.z, p.z)};
            }
        }
        tinygltf::Mesh mesh;
        mesh.name = name;
        for (const auto& [material, surface] : surfaces) {
            if (!materials.contains(material)) {
                materials[material] = static_cast<int>(model.materials.size());
                model.materials.emplace_back();
                model.materials.back().name = material;
            }
            std::vector<float> positions;
            std::vector<double> low(3, std::numeric_limits<double>::infinity());
            std::vector<double> high(3, -std::numeric_limits<double>::infinity());
            for (const Vec3& p : surface.points) {
                const Vec3 local = p - origin;
                // Z up to Y up: (x, y, z) becomes (x, z, -y).
                const std::array<float, 3> out{static_cast<float>(local.x), static_cast<float>(local.z),
                                               static_cast<float>(-local.y)};
                for (std::size_t i = 0; i < 3; ++i) {
                    positions.push_back(out[i]);
                    low[i] = std::min(low[i], static_cast<double>(out[i]));
                    high[i] = std::max(high[i], static_cast<double>(out[i]));
                }
            }
            tinygltf::Primitive primitive;
            primitive.mode = TINYGLTF_MODE_TRIANGLES;
            primitive.material = materials[material];
            primitive.attributes["POSITION"] =
                addAccessor(model, positions, TINYGLTF_TARGET_ARRAY_BUFFER, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC3,
                            surface.points.size());
            model.accessors.back().minValues = low;
            model.accessors.back().maxValues = high;
            primitive.indices = addAccessor(model, surface.indices, TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER,
                                            TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT, TINYGLTF_TYPE_SCALAR, surface.indices.size());
            mesh.primitives.push_back(primitive);
        }
        tinygltf::Node node;
        node.name = name;
        node.mesh = static_cast<int>(model.meshes.size());
        node.translation = {origin.x, origin.z, -origin.y};
        model.meshes.push_back(mesh);
        scene.nodes.push_back(static_cast<int>(model.nodes.size()));
        model.nodes.push_back(node);
    }
    for (const auto& [name, at] : places_) {
        tinygltf::Node node;
        node.name = name;
        node.translation = {at.x, at.z, -at.y};
        scene.nodes.push_back(static_cast<int>(model.nodes.size()));
        model.nodes.push_back(node);
    }
    model.scenes.push_back(scene);
    model.defaultScene = 0;
    tinygltf::TinyGLTF writer;
    if (!writer.WriteGltfSceneToFile(&model, file.string(), false, true, false, true)) {
        throw std::runtime_error(file.string() + ": cannot be written");
    }
}

} // namespace vellmoor
