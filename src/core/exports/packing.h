// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/pack.h"
#include "project/document.h"
#include "project/sound_target.h"

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// What came of packing a project.
struct PackReport {
    std::size_t files = 0;
    std::uint64_t bytes = 0;          ///< of the pack
    std::vector<std::string> missing; ///< that the document names and that are not there: left out
};

/// Packs a project with every file that its document names: sounds, responses, geometry with what lies beside it, pictures.
/// `target`: its sounds are prepared so before, and the document names those; none: as they are. `resolve`: where a file of the
/// document lies. `progress`: 0 to 1; false stops, and there is no pack. Nothing if it was stopped. Throws FileError.
std::optional<PackReport> packProject(const Project& project, const std::filesystem::path& pack,
                                      const std::optional<SoundTarget>& target,
                                      const std::function<std::filesystem::path(const std::string&)>& resolve,
                                      const std::function<bool(double)>& progress = {});

} // namespace stone
