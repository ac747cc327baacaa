// SPDX-License-Identifier: MPL-2.0
#include "level/level_files.h"

#include "project/json_place.h"
#include "project/read.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cctype>
#include <cstdint>
#include <cstring>
#include <fstream>
#include <initializer_list>
#include <iterator>
#include <sstream>

namespace stone
{

namespace
{

constexpr std::uintmax_t largestNaming = 256ULL << 20U; ///< a main file beyond this is not searched for names

std::string textOf(const std::filesystem::path& file)
{
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error) || std::filesystem::file_size(file, error) > largestNaming) {
        return {};
    }
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
}

/// "a%20b.bin" as "a b.bin" (RFC 3986).
std::string decoded(const std::string& uri)
{
    std::string plain;
    for (std::size_t i = 0; i < uri.size(); ++i) {
        const auto digit = [&](std::size_t at) {
            return at < uri.size() && std::isxdigit(static_cast<unsigned char>(uri[at])) != 0;
        };
        if (uri[i] == '%' && digit(i + 1) && digit(i + 2)) {
            plain += static_cast<char>(std::stoi(uri.substr(i + 1, 2), nullptr, 16));
            i += 2;
        } else {
            plain += uri[i];
        }
    }
    return plain;
}

/// The files that the things of some of a glTF's lists name; nothing where its JSON cannot be read. Only these lists are kept
/// in memory.
std::vector<std::string> namedIn(std::string_view json, std::initializer_list<const char*> lists)
{
    const auto ofLists = [lists](int depth, nlohmann::json::parse_event_t event, nlohmann::json& value) {
        return event != nlohmann::json::parse_event_t::key || depth != 1 ||
               std::any_of(lists.begin(), lists.end(), [&](const char* list) { return value == list; });
    };
    const auto root = nlohmann::json::parse(json.begin(), json.end(), ofLists, false);
    std::vector<std::string> names;
    if (!root.is_object()) {
        return names;
    }
    for (const char* list : lists) {
        const auto things = root.find(list);
        if (things == root.end() || !things->is_array()) {
            continue;
        }
        for (const auto& thing : *things) {
            const auto uri = thing.is_object() ? thing.find("uri") : thing.end();
            if (thing.is_object() && uri != thing.end() && uri->is_string()) {
                const auto name = uri->get<std::string>();
                if (name.rfind("data:", 0) != 0) {
                    names.push_back(decoded(name));
                }
            }
        }
    }
    return names;
}

/// Calls visit(first word, rest of the line) for each line.
template <class Visit> void eachLine(const std::string& text, Visit&& visit)
{
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        std::istringstream words(line);
        std::string first;
        std::string rest;
        words >> first >> std::ws;
        std::getline(words, rest);
        while (!rest.empty() && std::isspace(static_cast<unsigned char>(rest.back())) != 0) {
            rest.pop_back();
        }
        visit(first, rest);
    }
}

/// The pictures that a material file names: "map_Kd [options] NAME".
std::vector<std::string> namedByMaterials(const std::string& text)
{
    std::vector<std::string> names;
    eachLine(text, [&](const std::string& first, const std::string& rest) {
        const bool map =
            first.rfind("map_", 0) == 0 || first == "bump" || first == "disp" || first == "norm" || first == "decal";
        if (map && !rest.empty()) {
            names.push_back(rest.substr(rest.find_last_of(" \t") + 1));
        }
    });
    return names;
}

} // namespace

std::string_view gltfJson(std::string_view bytes)
{
    constexpr std::size_t headerSize = 20; // "glTF", version, length; then the first chunk's length and kind
    if (bytes.size() < 4 || std::memcmp(bytes.data(), "glTF", 4) != 0) {
        return bytes;
    }
    if (bytes.size() < headerSize) {
        return {};
    }
    std::uint32_t length = 0;
    std::memcpy(&length, bytes.data() + 12, sizeof length);
    return bytes.substr(headerSize, std::min<std::size_t>(length, bytes.size() - headerSize));
}

std::vector<std::string> picturesOfGltf(std::string_view json)
{
    return namedIn(json, {"images"});
}

std::vector<std::string> filesBeside(const std::filesystem::path& level)
{
    const std::filesystem::path folder = std::filesystem::absolute(level).parent_path();
    std::vector<std::string> files;
    const auto add = [&](const std::string& name) {
        const std::filesystem::path inside = resolveInside(folder, name);
        std::error_code ignored;
        const bool known = std::find(files.begin(), files.end(), name) != files.end();
        if (!inside.empty() && !known && std::filesystem::is_regular_file(inside, ignored)) {
            files.push_back(name);
            return inside;
        }
        return std::filesystem::path();
    };
    std::string ending = level.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
    const std::string text = textOf(level);
    if (ending == ".gltf" || ending == ".glb") {
        const std::string_view json = gltfJson(text);
        if (!troubleIn(json, deepestGltf)) {
            for (const std::string& name : namedIn(json, {"buffers", "images"})) {
                add(name);
            }
        }
    } else if (ending == ".obj") {
        eachLine(text, [&](const std::string& first, const std::string& rest) {
            if (first != "mtllib" || rest.empty()) {
                return;
            }
            // Usually one name that may have spaces in it; several are parted by them.
            std::vector<std::string> names{rest};
            std::istringstream words(rest);
            for (std::string word; words >> word;) {
                names.push_back(word);
            }
            for (const std::string& name : names) {
                const std::filesystem::path materials = add(name);
                if (!materials.empty()) {
                    for (const std::string& picture : namedByMaterials(textOf(materials))) {
                        add(picture);
                    }
                }
            }
        });
    }
    return files;
}

} // namespace stone
