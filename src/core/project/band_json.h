// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/material.h"
#include "project/object_reader.h"

namespace stone
{

/// Eight numbers, one for each octave band from 63 Hz to 8 kHz. Throws ValueError for any other count and for numbers out of
/// range.
BandValues readBands(ObjectReader& reader, const char* key, Range range);

} // namespace stone
