// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/model.h"

namespace stone
{

/// What single reflections give of something that is heard.
struct Echoed {
    std::size_t count = 0;    ///< 0: none
    double first_s = 0.0;     ///< of the nearest, after the sound itself
    double level_db = -200.0; ///< of all together at the ears, at 1 kHz; energies add
};

/// Of a sound that is in one space with the ears. Where the level's own walls count some hundred rays are cast.
Echoed echoedAt(const HearingModel& model, const Moment& moment, const Heard& heard);

} // namespace stone
