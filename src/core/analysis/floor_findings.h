// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"
#include "hearing/model.h"

#include <functional>
#include <vector>

namespace stone
{

/// What the whole of the floor shows that one can walk on, asked a metre and a half apart over every storey: where nothing is
/// heard, who is heard nowhere, whose reach ends in the middle of its room, holes between zones, what matters and cannot be
/// made out. As if everything sounded, irregular things in the mean. `masking_db`: see MapQuestion; empty: masking is left out.
/// `progress`: 0 to 1, false stops, and nothing is found. Costs what maps of the storeys cost; any thread. Without geometry the
/// floor is the storey's, as far as the map goes.
std::vector<Finding> findOverFloor(const HearingModel& model, const std::vector<Bands>& masking_db, unsigned threads,
                                   const std::function<bool(double)>& progress = {});

} // namespace stone
