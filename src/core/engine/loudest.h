// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// The largest sample in the files of each playable of a scene, 1 = full scale; 0 where nothing is known yet.
std::vector<double> recordedPeaks(const Scene& scene);

/// The emitter of whose sound the highest peaks can come: the one whose recorded peak and level at the ears reach furthest.
/// None: nothing is heard. `peaks`: recordedPeaks() of the scene it is heard in. Any thread.
std::optional<std::uint32_t> loudestOf(std::span<const Heard> heard, std::span<const double> peaks);

} // namespace stone
