#pragma once

#include "hearing/model.h"
#include "media/sample_buffer.h"
#include "media/sound_bank.h"
#include "spatial/head_filters.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <set>
#include <string>
#include <vector>

namespace stone
{

/// Everything that the control thread needs to decide: a document's level with its hearing model and the sounds that
/// are in memory. Immutable; a change makes a new one.
struct Scene {
    HearingModel model;
    std::vector<SharedBuffer> audio; ///< by emitter; null while it is not loaded, missing or unreadable
    std::set<std::uint32_t> only{};  ///< when not empty: the emitters that may sound
    SharedHead head{};               ///< for binaural output; null: the built-in head
};

/// Where the sound files of a project are found.
using ResolveSound = std::function<std::filesystem::path(const Sound&)>;

/// A resolver that keeps to the project's folder. Empty paths for files that would lead outside.
ResolveSound soundsInside(const std::filesystem::path& folder);

enum class Loading {
    now,  ///< waits for every file
    later ///< takes what is there and asks for the rest
};

/// Puts a scene together. The project must have the level. `head`: for binaural output; null: the built-in one.
std::shared_ptr<const Scene> makeScene(std::shared_ptr<const Project> project, const LevelId& level, SoundBank& bank,
                                       const ResolveSound& resolve, Loading loading, SharedHead head = {});

} // namespace stone
