// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "world/planting.h"

#include <cstddef>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// The draft's name in a file.
constexpr const char* gltfEmitterExtension = "KHR_audio_emitter";

/// A level as a glTF 2.0 file, with its geometry and its emitters as the Khronos draft KHR_audio_emitter has them.
struct GltfLevel {
    std::string bytes;                  ///< of a .glb
    std::size_t emitters = 0;           ///< that the draft can say: they sound in any player of it
    std::vector<std::string> inPart{};  ///< of which it cannot say everything, by name: the rest is in the node's extras
    std::vector<std::string> without{}; ///< that are nodes with extras alone, or none at all
};

/// Puts it together. `planted`: the level with what its rules put there; `ground`: null for none. `uri`: what a sound's file is
/// called beside the glTF; empty where it is not written. Every node is named after its emitter. Metres, Y up, as glTF has it.
GltfLevel gltfOf(const Project& planted, const LevelId& level, const Ground* ground,
                 const std::function<std::string(const Sound&, const SoundFile&)>& uri);

/// Emitters that were found in a glTF file, for a level that is brought in.
struct GltfEmitters {
    std::vector<Emitter> emitters; ///< ids are those of the file where it is one of ours, else made of names
    std::vector<Falloff> falloffs; ///< that they share
    /// Their sounds: `file` of each as the file names it, relative to it.
    std::vector<Sound> sounds;
};

/// Reads what a .gltf or .glb has of KHR_audio_emitter, and of our own extras. `metresPerUnit` as for the geometry. Empty where
/// it has none, or where it cannot be read: the geometry's importer says why.
GltfEmitters emittersInGltf(const std::filesystem::path& file, double metresPerUnit);

/// A project with them in one of its levels, under ids of their own; falloffs that are the same ones are shared. `placeOf`:
/// where a sound's file lies in the project now; empty: nowhere, and the sound has none.
Project withEmittersOf(Project project, const LevelId& level, const GltfEmitters& found,
                       const std::function<std::string(const std::string& file)>& placeOf);

/// A file as a URI names it, relative to another one's folder: with its spaces and the like as the RFC 3986 has them.
std::string uriOf(const std::filesystem::path& file, const std::filesystem::path& fromFolder);

} // namespace stone
