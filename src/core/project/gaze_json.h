// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/gaze.h"
#include "project/object_reader.h"

namespace stone
{

/// All but id and name. What it refers to may still be a name instead of an id.
void readGaze(ObjectReader& reader, Gaze& gaze);
Json toJson(const Gaze& gaze);

} // namespace stone
