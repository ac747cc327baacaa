// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/offline.h"
#include "takes/take.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

namespace stone
{

/// A take of a walk, or of standing still, that is rendered instead of listened to.
struct WalkTaking {
    std::shared_ptr<const Scene> scene{}; ///< its sounds at the working rate
    const Walk* walk = nullptr;           ///< of the scene's level; null: one stands
    Pose feet{};                          ///< there
    double seconds = 0.0;                 ///< for so long
    Layout layout = Layout::stereo;
    int rate = 48'000;
    bool keepsSound = false;
    double soundBytes = 0.0; ///< what all sounds take in memory
    std::string note{};
};

/// Records it into a file. `progress`: 0 to 1; false stops, and the take goes as far as it went. Returns whether it ran to the
/// end. Throws FileError.
bool takeWalk(const WalkTaking& taking, const std::filesystem::path& file, const std::function<bool(double)>& progress);

} // namespace stone
