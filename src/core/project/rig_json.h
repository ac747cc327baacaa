// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/rig.h"

namespace stone
{

/// Without its id and name.
void readRig(ObjectReader& reader, Rig& rig);
Json toJson(const Rig& rig);

Counting readCounting(ObjectReader reader);
Json toJson(const Counting& counting);

} // namespace stone
