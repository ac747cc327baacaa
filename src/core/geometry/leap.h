// SPDX-License-Identifier: MPL-2.0
#pragma once

namespace stone
{

/// What is so much further away from one moment to the next was put there: it did not move there, and has no speed.
constexpr double leap_m = 20.0;

} // namespace stone
