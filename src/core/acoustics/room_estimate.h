// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"

#include <span>

namespace stone
{

/// A part of a room's surface.
struct RoomSurface {
    double area_m2;
    Bands absorption; ///< by octave band, 0 to 1
};

/// RT60 by octave band, seconds, after W. C. Sabine: 24 ln 10 / c V / (sum of S alpha + 4 m V), with the air's m in 1/m from
/// its loss in dB per metre (H. Kuttruff, Room Acoustics). Infinite for a room that absorbs nothing.
Bands sabine_s(double volume_m3, std::span<const RoomSurface> surfaces, const Bands& air_db_m);
/// After C. F. Eyring: -S ln(1 - mean alpha) instead of the sum; nearer the truth for dull rooms.
Bands eyring_s(double volume_m3, std::span<const RoomSurface> surfaces, const Bands& air_db_m);

} // namespace stone
