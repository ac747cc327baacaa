// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sample_buffer.h"

namespace stone
{

/// The largest value that the sound reaches between its samples, by four-fold oversampling as ITU-R BS.1770 (annex 2)
/// measures it; 1 is full scale. Takes time in proportion to the sound; any thread but the audio thread.
double truePeak(const SampleBuffer& buffer);

} // namespace stone
