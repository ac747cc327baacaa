// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace stone
{

/// The files that a level's main file names and that lie beside it: buffers and pictures of a glTF, material files of an OBJ
/// and the pictures of those. Each once, relative to the main file's folder, '/' between parts. Only regular files inside that
/// folder, links resolved: a level from a stranger names nothing else. Empty where the main file cannot be read.
std::vector<std::string> filesBeside(const std::filesystem::path& level);

/// Arrays and objects within each other in a glTF file, at most.
constexpr int deepestGltf = 128;

/// The JSON of a glTF file: all of a .gltf, the first chunk of a .glb. Empty where there is none.
std::string_view gltfJson(std::string_view bytes);

/// The files of the pictures that a glTF's JSON names, as they stand there. Empty where it cannot be read.
std::vector<std::string> picturesOfGltf(std::string_view json);

} // namespace stone
