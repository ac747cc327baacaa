// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace stone
{

/// What a wall takes by its mass is shown for one of this thickness.
constexpr double usualThickness_m = 0.2;

} // namespace stone
