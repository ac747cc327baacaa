// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "synth.h"

#include <vector>

namespace vellmoor
{

/// One sound of the demo: how its file is called, how loud, how it is made.
struct Recipe {
    const char* file;
    double peak_db;
    std::vector<Track> (*make)();
};

/// The places' own sounds: air, rain, water, wind, crowd.
std::vector<Recipe> placeRecipes();
/// What people built: board, urn, lamps, clock, trolley, train, bells.
std::vector<Recipe> machineRecipes();
/// What falls, steps and passes in the night.
std::vector<Recipe> nightRecipes();
/// What is spoken; needs espeak-ng while it is made.
std::vector<Recipe> voiceRecipes();

} // namespace vellmoor
