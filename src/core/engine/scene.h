// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/course.h"
#include "engine/room_networks.h"
#include "engine/room_response.h"
#include "engine/sound_effects.h"
#include "hearing/model.h"
#include "media/sample_buffer.h"
#include "media/sound_bank.h"
#include "spatial/head_filters.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// A sound with the files that it plays. Immutable.
struct SoundMaterial {
    std::shared_ptr<const Sound> sound;
    std::vector<SharedBuffer> files; ///< by file of the sound; null where it is missing or unreadable
    EffectSettings effects{};

    /// What sounds when, by the chance of a project and an id.
    Course course(std::uint64_t seed, const std::string& id, const std::optional<std::size_t>& file = {}) const;
    double rate() const; ///< frames per second of the files; 0 when there are none
};

using SharedMaterial = std::shared_ptr<const SoundMaterial>;

/// Everything that the control thread needs to decide: a document's level with its hearing model and the sounds that
/// are in memory. Immutable; a change makes a new one.
struct Scene {
    HearingModel model;
    /// By playable; null while a file is being read, when none can be played, and for what no emitter plays.
    std::vector<SharedMaterial> materials;
    bool waits = false;                      ///< for sounds that are streamed, as renders do, instead of missing them
    SharedHead head{};                       ///< for binaural output; null: the built-in head
    std::vector<SharedNetwork> networks{};   ///< by room; null where it has a response instead
    std::vector<SharedResponse> responses{}; ///< by room; null where it has none, or while it is being read

    /// Of an emitter's own sound; null when there is none to play.
    SharedMaterial materialOf(std::uint32_t emitter) const
    {
        const auto playable = model.world().playableOf(emitter);
        return playable ? materials[*playable] : nullptr;
    }
};

/// How long the playables are whose materials are given; see LengthOf.
LengthOf lengthsOf(std::vector<SharedMaterial> materials, std::uint64_t seed);

/// Where the sound files of a project are found.
using ResolveFile = std::function<std::filesystem::path(const std::string&)>;

/// A resolver that keeps to the project's folder. Empty paths for files that would lead outside.
ResolveFile filesInside(const std::filesystem::path& folder);

enum class Loading {
    now,  ///< waits for every file and for every way round walls
    later ///< takes what is there and asks for the rest of the files
};

/// Whether a file of a sound is played as a loop of its own.
bool isLooped(const Sound& sound, const SoundFile& file);

/// Every file that sounds of a project and rooms of its levels name, as a bank keeps it.
std::vector<SoundBank::Key> filesOf(const Project& project, const ResolveFile& resolve);

/// Those of one sound.
std::vector<SoundBank::Key> filesOf(const Sound& sound, const ResolveFile& resolve);

/// The impulse responses of a level's rooms, by room; see Scene.
std::vector<SharedResponse> responsesOf(const Level& level, SoundBank& bank, const ResolveFile& resolve, Loading loading);

/// Puts a scene together. The project must have the level. `ground`: the level's geometry, if there
/// is any; `head`: for binaural output; null: the built-in one; `forEars`: what is silent for whoever listens; `before`: the
/// scene before an edit, from which is taken over what has not changed.
std::shared_ptr<const Scene> makeScene(const std::shared_ptr<const Project>& project, const LevelId& level, SoundBank& bank,
                                       const ResolveFile& resolve, Loading loading, std::shared_ptr<const Ground> ground = {},
                                       SharedHead head = {}, const ForEars& forEars = {}, const Scene* before = nullptr);

} // namespace stone
