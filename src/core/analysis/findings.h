// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"
#include "level/ground.h"
#include "level/read_geometry.h"
#include "project/document.h"
#include "project/read.h"
#include "spatial/layout.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// A way to put something right at once.
struct Remedy {
    std::string label; ///< as on a button
    std::function<Project(Project)> apply;
};

/// Something that a person should look at.
struct Finding {
    enum class Severity {
        note,    ///< worth knowing
        warning, ///< probably not what was meant
        error    ///< something is missing or cannot work
    };

    std::string code{}; ///< stable, for scripts: "sound-missing"
    Severity severity = Severity::note;
    std::string what{};
    std::string where{}; ///< the thing, or a JSON pointer
    std::string fix{};   ///< what to do
    LevelId level{};     ///< where to go, as far as it is known
    EmitterId emitter{};
    SoundId sound{};
    std::size_t file = 0;           ///< of the sound
    std::vector<Remedy> remedies{}; ///< empty: a person has to decide
};

const char* nameOf(Finding::Severity severity);

/// How a project is being listened to.
struct OutputInUse {
    Layout layout = Layout::stereo;
    unsigned cardChannels = 0; ///< 0: not known, or no card
    bool starved = false;      ///< a sound that is streamed was not there in time
    std::string broken{};      ///< whose sound was no numbers and was thrown away; empty: nobody's
    double over_db = 0.0;      ///< the highest peak beyond full scale since the last edit; 0: none
    double over_s = 0.0;       ///< when that was, since the level's start
    std::string loudest{};     ///< what was loudest then; empty: not known

    bool operator==(const OutputInUse&) const = default;
};

/// What findings are looked for in.
struct Examined {
    const Project& project;
    const std::vector<ReadNotice>& notices;
    const std::vector<LevelGeometry>& geometry;
    SoundBank& bank;
    ResolveFile resolve;
    Loading loading = Loading::now;      ///< later: sounds that are still being read are left out
    std::optional<OutputInUse> output{}; ///< nothing: nobody listens
};

/// Everything that the document, its levels and its sounds show without walking.
std::vector<Finding> findAll(const Examined& examined);

} // namespace stone
