// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take_reader.h"

#include <functional>
#include <string>

namespace stone
{

/// A take as one page for a browser: how it went, who was heard, what there is to listen to, and the sound. Needs no network
/// and nothing beside it. `other`: null, or a second take that it is compared with. `progress`: 0 to 1; false stops, and the
/// page is empty. Throws FileError where the take cannot be read.
std::string takePage(const Take& take, const Take* other = nullptr, const std::function<bool(double)>& progress = {});

} // namespace stone
