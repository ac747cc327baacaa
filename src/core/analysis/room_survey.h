// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/room_estimate.h"
#include "level/ground.h"
#include "project/document.h"

#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// What a level's geometry says of a room.
struct RoomSurvey {
    double volume_m3 = 0.0;
    double surface_m2 = 0.0; ///< of what bounds it and stands in it
    double open_share = 0.0; ///< of it that is open: what went there did not come back
    struct Part {
        std::string material; ///< by its name
        double area_m2;
    };
    std::vector<Part> parts; ///< the largest first
    Bands sabine_s{};
    Bands eyring_s{};
};

/// Lays lines through a room, all directions and places alike. Of a convex room their chords are four times the volume over the
/// surface long on the average, and end on each surface as often as its area has it (A. Cauchy; C. W. Kosten, Acustica 10,
/// 1960): so the areas follow without anybody having to say where the walls are. Six thousand lines: a few percent, some ten
/// milliseconds. Nothing where the room has no volume or lines meet nothing.
std::optional<RoomSurvey> surveyRoom(const Project& project, const Room& room, const Ground& ground);

} // namespace stone
