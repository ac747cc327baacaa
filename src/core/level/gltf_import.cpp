// SPDX-License-Identifier: MPL-2.0
#include "level/mesh_import.h"

#include "geometry/pose.h"
#include "level/level_files.h"
#include "project/file_error.h"
#include "project/json_place.h"
#include "project/read.h"

#include <glm/gtc/quaternion.hpp>
#include <glm/mat4x4.hpp>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fstream>
#include <iterator>
#include <set>

#define TINYGLTF_NO_INCLUDE_STB_IMAGE
#define TINYGLTF_NO_INCLUDE_STB_IMAGE_WRITE
#include <tiny_gltf.h>

namespace stone
{

namespace
{

constexpr double farthest_m = 1e6;

/// What all buffers beside a file hold together at most: one that is named many times is read as many times.
constexpr std::uintmax_t mostBuffers = 1ULL << 30U;

/// Where buffers beside the file may be read from, and what came of it.
struct FileAccess {
    std::filesystem::path folder;
    std::set<std::filesystem::path> pictures{}; ///< play no part in what is heard: they are not even opened
    std::uintmax_t bytes = 0;                   ///< read so far
    std::string refused{};                      ///< leads outside the folder
    std::string missing{};                      ///< is not there, or no file
};

std::filesystem::path allowed(FileAccess& access, const std::string& path)
{
    const auto relative = std::filesystem::path(path).lexically_relative(access.folder).string();
    std::filesystem::path resolved = resolveInside(access.folder, relative);
    if (resolved.empty()) {
        access.refused = path;
    }
    return resolved;
}

bool readBytes(std::vector<unsigned char>* out, std::string* error, const std::string& path, void* user)
{
    FileAccess& access = *static_cast<FileAccess*>(user);
    const std::filesystem::path resolved = allowed(access, path);
    std::error_code ignored;
    if (resolved.empty() || !std::filesystem::is_regular_file(resolved, ignored)) {
        access.missing = path;
        *error = path;
        return false;
    }
    access.bytes += std::filesystem::file_size(resolved, ignored);
    if (access.bytes > mostBuffers) {
        *error = path;
        return false;
    }
    std::ifstream file(resolved, std::ios::binary);
    out->assign(std::istreambuf_iterator<char>(file), std::istreambuf_iterator<char>());
    return true;
}

bool fileExists(const std::string& path, void* user)
{
    FileAccess& access = *static_cast<FileAccess*>(user);
    // The library also looks beside where the program was started.
    const bool beside = path.rfind(access.folder.string(), 0) == 0;
    if (!beside || access.pictures.contains(path)) {
        return false;
    }
    std::error_code ignored;
    const std::filesystem::path resolved = allowed(access, path);
    const bool there = !resolved.empty() && std::filesystem::is_regular_file(resolved, ignored);
    if (!there) {
        access.missing = path;
    }
    return there;
}

std::string samePath(const std::string& path, void*)
{
    return path;
}

bool writeNothing(std::string*, const std::string&, const std::vector<unsigned char>&, void*)
{
    return false;
}

/// Textures play no part in what is heard.
bool skipImage(tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int, void*)
{
    return true;
}

/// Turns a checked model into one mesh.
class Converter
{
public:
    Converter(const tinygltf::Model& model, const std::string& label, const MeshImport& how)
        : model_(model), label_(label), scale_(how.metresPerUnit)
    {
    }

    Mesh convert()
    {
        for (const tinygltf::Material& material : model_.materials) {
            mesh_.materials.push_back(material.name);
        }
        mesh_.materials.emplace_back();
        state_.assign(model_.nodes.size(), State::untouched);
        for (const int root : roots()) {
            visit(root, glm::dmat4(1.0));
        }
        return std::move(mesh_);
    }

private:
    enum class State : unsigned char { untouched, open, done };

    [[noreturn]] void fail(const std::string& what) const
    {
        throw FileError(label_ + ": " + what + "; export the level again");
    }

    template <class Thing>
    const Thing& at(const std::vector<Thing>& things, int index, const char* kind, const std::string& where) const
    {
        if (index < 0 || static_cast<std::size_t>(index) >= things.size()) {
            fail(where + " refers to " + kind + ' ' + std::to_string(index) + ", but there are " +
                 std::to_string(things.size()));
        }
        return things[static_cast<std::size_t>(index)];
    }

    std::vector<int> roots() const
    {
        if (!model_.scenes.empty()) {
            return at(model_.scenes, std::max(model_.defaultScene, 0), "scene", "the file").nodes;
        }
        std::vector<bool> child(model_.nodes.size(), false);
        for (const tinygltf::Node& node : model_.nodes) {
            for (const int c : node.children) {
                at(model_.nodes, c, "node", "a node");
                child[static_cast<std::size_t>(c)] = true;
            }
        }
        std::vector<int> result;
        for (std::size_t i = 0; i < child.size(); ++i) {
            if (!child[i]) {
                result.push_back(static_cast<int>(i));
            }
        }
        return result;
    }

    glm::dmat4 transformOf(const tinygltf::Node& node, const std::string& where) const
    {
        const auto numbers = [&](const std::vector<double>& given, std::size_t count, const char* kind) {
            if (!given.empty() && given.size() != count) {
                fail(where + " has a " + kind + " of " + std::to_string(given.size()) + " numbers");
            }
            return !given.empty();
        };
        glm::dmat4 m(1.0);
        if (numbers(node.matrix, 16, "matrix")) {
            for (int i = 0; i < 16; ++i) {
                m[i / 4][i % 4] = node.matrix[static_cast<std::size_t>(i)];
            }
            return m;
        }
        if (numbers(node.rotation, 4, "rotation")) {
            m = glm::mat4_cast(glm::dquat(node.rotation[3], node.rotation[0], node.rotation[1], node.rotation[2]));
        }
        if (numbers(node.scale, 3, "scale")) {
            for (int i = 0; i < 3; ++i) {
                m[i] *= node.scale[static_cast<std::size_t>(i)];
            }
        }
        if (numbers(node.translation, 3, "translation")) {
            m[3] = glm::dvec4(node.translation[0], node.translation[1], node.translation[2], 1.0);
        }
        return m;
    }

    void visit(int index, const glm::dmat4& parent)
    {
        const tinygltf::Node& node = at(model_.nodes, index, "node", "the scene");
        const std::string where = "node " + std::to_string(index) + (node.name.empty() ? "" : " (" + node.name + ")");
        State& state = state_[static_cast<std::size_t>(index)];
        if (state != State::untouched) {
            fail(where + (state == State::open ? " is its own ancestor" : " has two parents"));
        }
        if (depth_ > 512) {
            fail("nodes are nested more than 512 deep");
        }
        state = State::open;
        ++depth_;
        const glm::dmat4 transform = parent * transformOf(node, where);
        if (!node.name.empty()) {
            const Vec3 at = place(transform, Vec3{0.0}, where);
            const glm::dvec4 ahead = transform * glm::dvec4(0.0, 0.0, -1.0, 0.0);
            mesh_.nodes.push_back({node.name, at, mesh_.triangles.size(), 0, headingAlong({ahead.x, -ahead.z, ahead.y})});
        }
        const std::size_t named = mesh_.nodes.size();
        if (node.mesh >= 0) {
            for (const tinygltf::Primitive& primitive : at(model_.meshes, node.mesh, "mesh", where).primitives) {
                add(primitive, transform, where);
            }
        }
        for (const int child : node.children) {
            visit(child, transform);
        }
        if (!node.name.empty()) {
            mesh_.nodes[named - 1].triangleCount = mesh_.triangles.size() - mesh_.nodes[named - 1].firstTriangle;
        }
        --depth_;
        state_[static_cast<std::size_t>(index)] = State::done;
    }

    /// glTF is Y-up with Z to the south: (x, y, z) becomes (x, -z, y).
    Vec3 place(const glm::dmat4& transform, const Vec3& local, const std::string& where) const
    {
        const glm::dvec4 p = transform * glm::dvec4(local, 1.0) * scale_;
        const Vec3 result{p.x, -p.z, p.y};
        if (!(std::abs(result.x) <= farthest_m && std::abs(result.y) <= farthest_m && std::abs(result.z) <= farthest_m)) {
            fail(where + " has a point that is not a number or farther than a thousand kilometres away");
        }
        return result;
    }

    /// A checked view of an accessor's bytes.
    struct Data {
        const unsigned char* bytes;
        std::size_t stride;
        std::size_t count;
        int componentType;
    };

    Data data(int accessorIndex, int type, const std::string& where) const
    {
        const tinygltf::Accessor& accessor = at(model_.accessors, accessorIndex, "accessor", where);
        const tinygltf::BufferView& view = at(model_.bufferViews, accessor.bufferView, "buffer view", where);
        const tinygltf::Buffer& buffer = at(model_.buffers, view.buffer, "buffer", where);
        if (accessor.type != type) {
            fail(where + " has an accessor of the wrong type");
        }
        const int component = tinygltf::GetComponentSizeInBytes(static_cast<std::uint32_t>(accessor.componentType));
        const int parts = tinygltf::GetNumComponentsInType(static_cast<std::uint32_t>(type));
        if (component <= 0 || parts <= 0) {
            fail(where + " has an accessor of an unknown kind");
        }
        const std::size_t element = static_cast<std::size_t>(component) * static_cast<std::size_t>(parts);
        const std::size_t stride = view.byteStride == 0 ? element : view.byteStride;
        const std::size_t size = buffer.data.size();
        // Written so that nothing can overflow, whatever the file claims.
        const bool fits =
            view.byteOffset <= size && view.byteLength <= size - view.byteOffset && accessor.byteOffset <= view.byteLength &&
            stride >= element &&
            (accessor.count == 0 || (element <= view.byteLength - accessor.byteOffset &&
                                     (accessor.count - 1) <= (view.byteLength - accessor.byteOffset - element) / stride));
        if (!fits) {
            fail(where + " has an accessor that reaches beyond its buffer");
        }
        return {buffer.data.data() + view.byteOffset + accessor.byteOffset, stride, accessor.count, accessor.componentType};
    }

    std::vector<std::uint32_t> indices(const tinygltf::Primitive& primitive, std::size_t points, const std::string& where) const
    {
        std::vector<std::uint32_t> result;
        if (primitive.indices < 0) {
            for (std::size_t i = 0; i < points; ++i) {
                result.push_back(static_cast<std::uint32_t>(i));
            }
            return result;
        }
        const Data source = data(primitive.indices, TINYGLTF_TYPE_SCALAR, where);
        result.reserve(source.count);
        for (std::size_t i = 0; i < source.count; ++i) {
            const unsigned char* bytes = source.bytes + i * source.stride;
            std::uint32_t value = 0;
            switch (source.componentType) {
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE: value = *bytes; break;
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT: {
                std::uint16_t narrow = 0;
                std::memcpy(&narrow, bytes, sizeof narrow);
                value = narrow;
                break;
            }
            case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT: std::memcpy(&value, bytes, sizeof value); break;
            default: fail(where + " has indices that are not whole numbers");
            }
            if (value >= points) {
                fail(where + " has an index " + std::to_string(value) + ", but only " + std::to_string(points) + " points");
            }
            result.push_back(value);
        }
        return result;
    }

    void add(const tinygltf::Primitive& primitive, const glm::dmat4& transform, const std::string& where)
    {
        const int mode = primitive.mode < 0 ? TINYGLTF_MODE_TRIANGLES : primitive.mode;
        const bool strip = mode == TINYGLTF_MODE_TRIANGLE_STRIP;
        const bool fan = mode == TINYGLTF_MODE_TRIANGLE_FAN;
        if (mode != TINYGLTF_MODE_TRIANGLES && !strip && !fan) {
            return; // points and lines enclose nothing
        }
        const auto position = primitive.attributes.find("POSITION");
        if (position == primitive.attributes.end()) {
            fail(where + " has a surface without positions");
        }
        const Data source = data(position->second, TINYGLTF_TYPE_VEC3, where);
        if (source.componentType != TINYGLTF_COMPONENT_TYPE_FLOAT) {
            fail(where + " has positions that are not floating-point numbers");
        }
        const std::vector<std::uint32_t> order = indices(primitive, source.count, where);
        const auto first = static_cast<std::uint32_t>(mesh_.points.size());
        for (std::size_t i = 0; i < source.count; ++i) {
            float p[3];
            std::memcpy(p, source.bytes + i * source.stride, sizeof p);
            mesh_.points.push_back(place(transform, Vec3{p[0], p[1], p[2]}, where));
        }
        const auto material = primitive.material >= 0 && static_cast<std::size_t>(primitive.material) < model_.materials.size()
                                  ? static_cast<std::uint32_t>(primitive.material)
                                  : static_cast<std::uint32_t>(model_.materials.size());
        const bool mirrored = glm::determinant(transform) < 0.0;
        const auto triangle = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
            if (mirrored) {
                std::swap(b, c);
            }
            mesh_.triangles.push_back({{first + a, first + b, first + c}, material});
        };
        checkSize(mesh_, label_);
        const std::size_t step = strip || fan ? 1 : 3;
        for (std::size_t i = 0; i + 2 < order.size(); i += step) {
            if (fan) {
                triangle(order[0], order[i + 1], order[i + 2]);
            } else if (strip && i % 2 == 1) {
                triangle(order[i + 1], order[i], order[i + 2]);
            } else {
                triangle(order[i], order[i + 1], order[i + 2]);
            }
        }
    }

    const tinygltf::Model& model_;
    const std::string& label_;
    double scale_;
    Mesh mesh_;
    std::vector<State> state_;
    int depth_ = 0;
};

} // namespace

Mesh importGltf(const std::filesystem::path& file, const MeshImport& how)
{
    const std::string label = file.string();
    FileAccess access{.folder = std::filesystem::absolute(file).parent_path()};
    tinygltf::TinyGLTF loader;
    tinygltf::FsCallbacks callbacks{};
    callbacks.FileExists = fileExists;
    callbacks.ExpandFilePath = samePath;
    callbacks.ReadWholeFile = readBytes;
    callbacks.WriteWholeFile = writeNothing;
    callbacks.user_data = &access;
    loader.SetFsCallbacks(callbacks);
    loader.SetImageLoader(skipImage, nullptr);

    std::ifstream stream(file, std::ios::binary);
    const std::vector<unsigned char> bytes{std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
    const std::string_view text = gltfJson({reinterpret_cast<const char*>(bytes.data()), bytes.size()});
    if (const auto trouble = troubleIn(text, deepestGltf)) {
        throw FileError(label + ":" + std::to_string(trouble->line) + ": not a readable glTF level: " + trouble->message +
                        "; export it again");
    }
    for (const std::string& name : picturesOfGltf(text)) {
        access.pictures.insert(access.folder / name);
    }
    tinygltf::Model model;
    std::string error;
    std::string warning;
    bool read = false;
    try {
        const auto size = static_cast<unsigned int>(bytes.size());
        const std::string folder = access.folder.string();
        if (bytes.size() >= 4 && std::memcmp(bytes.data(), "glTF", 4) == 0) {
            read = loader.LoadBinaryFromMemory(&model, &error, &warning, bytes.data(), size, folder);
        } else {
            read =
                loader.LoadASCIIFromString(&model, &error, &warning, reinterpret_cast<const char*>(bytes.data()), size, folder);
        }
    } catch (const std::exception&) {
        read = false;
    }
    if (!access.refused.empty()) {
        throw FileError(label + ": the buffer " + access.refused +
                        " lies outside the level's folder and is not read; put it beside the level");
    }
    if (access.bytes > mostBuffers) {
        throw FileError(label + ": its buffers are larger than 1 GiB together; export a simpler level");
    }
    if (!read && !access.missing.empty()) {
        throw FileError(label + ": " + std::filesystem::path(access.missing).filename().string() +
                        ", which it names, is not beside it; put it there, or export one .glb file");
    }
    if (!read) {
        // The library's own words name its insides: they would help nobody.
        throw FileError(label + ": not a readable glTF 2.0 level: a part that it needs is missing or cut off; export it again");
    }
    return Converter(model, label, how).convert();
}

} // namespace stone
