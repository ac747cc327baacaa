// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <vector>

namespace stone
{

/// A way for a sprinkle to begin with: our own, by what is to be heard.
struct SprinklePoint {
    const char* name;
    const char* words; ///< what it does
    Sprinkling values;
};
const std::vector<SprinklePoint>& sprinklePoints();

/// A way for a bed to begin with: how it sits round the player and how far it is heard outside its zone.
struct BedPoint {
    const char* name;
    const char* words;
    bool imageInWorld;
    double level_db;
    DistanceFormula outside; ///< becomes the bed's own falloff
};
const std::vector<BedPoint>& bedPoints();

} // namespace stone
