// SPDX-License-Identifier: MPL-2.0
#include "project/room.h"

namespace stone
{

const std::vector<ReverbPoint>& reverbPoints()
{
    const auto reverb = [](const BandValues& rt60_s, double preDelay_ms) {
        Reverb made;
        made.rt60_s = rt60_s;
        made.preDelay_ms = preDelay_ms;
        return made;
    };
    static const std::vector<ReverbPoint> points{
        {"Furnished room", "a parlour: carpets and curtains take the top",
         reverb({0.6, 0.55, 0.5, 0.45, 0.4, 0.4, 0.35, 0.3}, 6.0)},
        {"Small bare room", "an office with hard walls", reverb({0.8, 0.8, 0.75, 0.7, 0.65, 0.6, 0.5, 0.4}, 8.0)},
        {"Tiled passage", "an underpass or a washroom: bright and long for its size",
         reverb({1.4, 1.8, 2.2, 2.4, 2.4, 2.1, 1.5, 0.8}, 10.0)},
        {"Hall under glass", "a station: much space, hard floor, a roof that lets bass out",
         reverb({1.4, 1.9, 2.4, 2.6, 2.4, 2.0, 1.4, 0.8}, 28.0)},
        {"Timber shed", "boards give way to bass", reverb({0.6, 0.7, 0.8, 0.9, 0.9, 0.8, 0.7, 0.5}, 14.0)},
        {"Stone vault", "a crypt or a cistern", reverb({4.5, 4.2, 3.8, 3.3, 2.8, 2.2, 1.5, 0.8}, 22.0)}};
    return points;
}

} // namespace stone
