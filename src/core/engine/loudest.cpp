// SPDX-License-Identifier: MPL-2.0
#include "engine/loudest.h"

#include <algorithm>
#include <cmath>

namespace stone
{

std::vector<double> recordedPeaks(const Scene& scene)
{
    std::vector<double> peaks;
    for (const SharedMaterial& material : scene.materials) {
        float largest = 0.0F;
        if (material) {
            for (const SharedBuffer& file : material->files) {
                largest = std::max(largest, file ? file->facts.peak : 0.0F);
            }
        }
        peaks.push_back(static_cast<double>(largest));
    }
    return peaks;
}

std::optional<std::uint32_t> loudestOf(std::span<const Heard> heard, std::span<const double> peaks)
{
    double most = 0.0;
    std::optional<std::uint32_t> loudest;
    for (const Heard& one : heard) {
        const double recorded = one.start.playable != Start::nothing ? peaks[one.start.playable] : 0.0;
        const double reaches = recorded * std::pow(10.0, one.level_db / 20.0);
        if (reaches > most) {
            most = reaches;
            loudest = one.index;
        }
    }
    return loudest;
}

} // namespace stone
