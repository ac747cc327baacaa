// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

namespace stone
{

/// Everything of a sound but its id and name. A single file may stand under "file", with its credit beside it.
void readSound(ObjectReader& reader, Sound& sound);
Json toJson(const Sound& sound);

} // namespace stone
