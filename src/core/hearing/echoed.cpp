// SPDX-License-Identifier: MPL-2.0
#include "hearing/echoed.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>

namespace stone
{

Echoed echoedAt(const HearingModel& model, const Moment& moment, const Heard& heard)
{
    constexpr std::size_t weighedBand = 4; ///< 1 kHz
    constexpr double nearest_m = 1.0;      ///< as the sound's own level is given
    const Reflections& reflections = model.reflections();
    Echoed echoed;
    if (heard.given_db < -199.0 || !reflections.any(heard.room) || model.rooms().map().roomAt(moment.ears.at) != heard.room) {
        return echoed;
    }
    RoomField::Scratch rooms;
    model.rooms().prepare(moment, rooms, 0.0);
    Reflections::Scratch scratch;
    Reflections::Known known;
    std::vector<Reflection> found;
    reflections.find(moment.ears.at, heard.at, heard.room, rooms.open, true, scratch, known, found);
    const double bounce = powerOf(reflections.loss_db(heard.room)[weighedBand]);
    double energy = 0.0;
    for (const Reflection& reflection : found) {
        const double pressure = reflection.share * reflections.gain(heard.room) / std::max(reflection.length_m, nearest_m);
        energy += pressure * pressure * std::pow(bounce, reflection.bounces);
    }
    if (energy > 0.0) {
        echoed.count = found.size();
        echoed.first_s = (found.front().length_m - glm::length(heard.at - moment.ears.at)) / speedOfSound_m_s;
        echoed.level_db = heard.given_db + 10.0 * std::log10(energy);
    }
    return echoed;
}

} // namespace stone
