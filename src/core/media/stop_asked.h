// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <functional>

namespace stone
{

/// Whether whoever reads is to stop: a window that closes does not wait for a file of hours.
using StopAsked = std::function<bool()>;

/// No file is longer.
constexpr double longestSound_s = 6.0 * 3600.0;

} // namespace stone
