// SPDX-License-Identifier: MPL-2.0
#include "media/gathered_peaks.h"

#include "media/true_peak.h"

namespace stone
{

GatheredPeaks gatherPeaks(const SharedBuffer& buffer, const MeasureStore* store)
{
    // What is in memory is looked through faster than it is fetched from the disk.
    const bool keeps = store != nullptr && !buffer->decoded() && !buffer->content.empty();
    const MeasureStore::PeaksKey key{buffer->content, buffer->rate, buffer->loop, buffer->channelCount(),
                                     PeakPyramid::stretchesOf(buffer->frames())};
    if (keeps) {
        if (std::optional<MeasuredPeaks> known = store->findPeaks(key)) {
            return {std::make_shared<const PeakPyramid>(buffer, std::move(known->channels)), known->truePeak};
        }
    }
    GatheredPeaks gathered{std::make_shared<const PeakPyramid>(buffer), truePeak(*buffer)};
    if (keeps) {
        store->keepPeaks(key, {gathered.pyramid->finest(), gathered.truePeak});
    }
    return gathered;
}

} // namespace stone
