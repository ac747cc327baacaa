// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/measure_store.h"
#include "media/peak_pyramid.h"

#include <memory>

namespace stone
{

/// What a sound is drawn from.
struct GatheredPeaks {
    std::shared_ptr<const PeakPyramid> pyramid;
    double truePeak = 0.0; ///< see truePeak()
};

/// Takes time in proportion to the sound, unless it is not kept decoded and was gathered before; any thread.
/// `store`: where that is kept; may be null.
GatheredPeaks gatherPeaks(const SharedBuffer& buffer, const MeasureStore* store);

} // namespace stone
