// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/object_reader.h"

namespace stone
{

/// All but id and name. References are as they were written.
void readPlant(ObjectReader& reader, Plant& plant);
Json toJson(const Plant& plant);

template <> Range rangeOf(double Plant::*member);

} // namespace stone
