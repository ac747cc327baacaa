// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/spread.h"
#include "spatial/panning.h"

namespace stone
{

/// In the headphones' bus a sound must be wide to be in it alone.
constexpr double busWidth_deg = 100.0;

/// Gains for a sound from a direction (a unit vector) that has no filters of its own: in headphones it is widened into the bus.
inline ChannelGains gainsWithoutHead(Layout layout, const Vec3& unit)
{
    return directionGains(layout, layout == Layout::binaural ? unit * widthToLength(busWidth_deg) : unit);
}

} // namespace stone
