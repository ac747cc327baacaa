// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/model.h"

#include <cstdint>
#include <span>

namespace stone
{

/// What gave way comes after what did not, the loudest of it first.
bool louder(const Heard& a, const Heard& b);

/// The loudest start of an emitter, which is what is shown of it; null when there is none of it.
const Heard* loudestIn(std::span<const Heard> all, std::uint32_t index);

} // namespace stone
