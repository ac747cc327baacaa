// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "game/teller.h"

#include <functional>

namespace stone::game
{

/// Goes along a walk in real time and tells of each picture of it, with all that happens on it. `stop` is asked before each;
/// returns whether it came to the end.
bool walkAlong(Teller& teller, const Walk& walk, double picturesPerSecond, const std::function<bool()>& stop);

} // namespace stone::game
