// SPDX-License-Identifier: GPL-3.0-or-later
#include "sounds.h"

#include <algorithm>

/// What falls, steps and passes in the night: short sounds in several variations, and the rooms' own air.
namespace vellmoor
{

namespace
{

using Made = std::vector<Track>;

/// A heel and a sole on glazed tile, with the ring of a hard hall's floor.
template <int n> Made stepOnTile()
{
    Dice dice(700 + n);
    Track track = silence(0.28);
    const double sole = dice.between(0.055, 0.085);
    click(track, 0.002, dice.between(2100, 2700), 1.4, 1.0, 0.03, dice);
    click(track, 0.004, dice.between(420, 560), 2.2, 1.1, 0.05, dice);
    click(track, sole, dice.between(2600, 3400), 1.1, 0.35, 0.025, dice);
    strike(track, 0.003, dice.between(880, 1040), 0.10, {{1, 1, 0.09}, {2.3, 0.5, 0.05}}, dice);
    return {track};
}

/// A board that gives, and its hollow below.
template <int n> Made stepOnPlanks()
{
    Dice dice(720 + n);
    Track track = silence(0.4);
    click(track, 0.002, dice.between(900, 1200), 1.2, 0.7, 0.03, dice);
    strike(track, 0.002, dice.between(118, 150), 1.0, {{1, 1, 0.22}, {1.74, 0.6, 0.14}, {2.9, 0.3, 0.08}}, dice);
    click(track, dice.between(0.07, 0.1), dice.between(600, 900), 1.5, 0.3, 0.05, dice);
    if (n % 2 == 1) {
        const double f = dice.between(310, 420);
        add(track, 0.1, 0.18, [=](double t) {
            const double fade = std::min({t / 0.03, (0.18 - t) / 0.05, 1.0});
            return 0.09 * fade * std::sin(2 * std::numbers::pi * (f + 220 * t) * t) * (1 + 0.8 * std::sin(310 * t));
        });
    }
    return {track};
}

/// Stones that roll under the shoe.
template <int n> Made stepOnBallast()
{
    Dice dice(740 + n);
    Track track = silence(0.45);
    for (int stone = 0; stone < 26; ++stone) {
        const double at = 0.002 + 0.2 * std::pow(dice.unit(), 1.6);
        click(track, at, dice.between(1300, 5200), 2.0, dice.between(0.1, 0.8) * (1.0 - 3.0 * at), 0.018, dice);
    }
    click(track, 0.004, 230, 1.5, 0.8, 0.06, dice);
    return {track};
}

/// A stair of riveted iron.
template <int n> Made stepOnIron()
{
    Dice dice(760 + n);
    Track track = silence(0.7);
    click(track, 0.002, dice.between(1800, 2600), 1.3, 0.6, 0.02, dice);
    strike(track, 0.002, dice.between(205, 255), 0.7, {{1, 1, 0.5}, {2.41, 0.7, 0.35}, {4.13, 0.5, 0.22}, {6.7, 0.25, 0.14}},
           dice);
    return {track};
}

/// The loose sign claps once or twice, and its hook answers.
template <int n> Made signClap()
{
    Dice dice(780 + n);
    Track track = silence(1.6);
    const int claps = 1 + n % 3;
    double at = 0.01;
    for (int i = 0; i < claps; ++i) {
        const double gain = 1.0 / (1 + i);
        strike(track, at, dice.between(610, 680), 0.6 * gain,
               {{1, 1, 0.45}, {1.58, 0.8, 0.4}, {2.71, 0.6, 0.3}, {4.4, 0.4, 0.2}}, dice);
        click(track, at, 2400, 1.2, 0.4 * gain, 0.02, dice);
        at += dice.between(0.16, 0.34);
    }
    const double f = dice.between(520, 700);
    add(track, at, 0.35, [=](double t) {
        const double fade = std::min({t / 0.06, (0.35 - t) / 0.12, 1.0});
        return 0.08 * fade * std::sin(2 * std::numbers::pi * (f - 260 * t) * t) * (1 + 0.6 * std::sin(190 * t));
    });
    return {track};
}

/// A rail that lets go of the day's warmth.
template <int n> Made jointTick()
{
    Dice dice(800 + n);
    Track track = silence(0.5);
    strike(track, 0.004, dice.between(2300, 3300), 0.5, {{1, 1, 0.28}, {1.47, 0.6, 0.2}, {2.09, 0.4, 0.12}}, dice);
    click(track, 0.003, 4200, 1.4, 0.5, 0.01, dice);
    if (n == 2) {
        strike(track, 0.11, dice.between(2300, 3300), 0.2, {{1, 1, 0.2}, {1.47, 0.6, 0.15}}, dice);
    }
    return {track};
}

/// Couplings that run along a rake of wagons, a mile off.
template <int n> Made shunting()
{
    Dice dice(820 + n);
    Track track = silence(5);
    double at = 0.1;
    double gap = dice.between(0.3, 0.45);
    for (int wagon = 0; wagon < 6 + 2 * n; ++wagon) {
        const double gain = 0.9 * std::pow(0.88, wagon);
        strike(track, at, dice.between(95, 130), gain, {{1, 1, 0.5}, {2.2, 0.5, 0.3}, {3.9, 0.3, 0.2}}, dice);
        click(track, at, dice.between(500, 800), 1.5, 0.6 * gain, 0.05, dice);
        at += gap;
        gap *= dice.between(0.86, 0.97);
    }
    return {lowPass(track, 1400)};
}

/// A drop from the vault into a puddle.
template <int n> Made drip()
{
    Dice dice(840 + n);
    Track track = silence(0.5);
    const double f = dice.between(900, 1500);
    const double rise = dice.between(3000, 6000);
    add(track, 0.02, 0.12, [=](double t) {
        return std::min(t / 0.002, 1.0) * std::exp(-45 * t) * std::sin(2 * std::numbers::pi * (f + rise * t) * t);
    });
    click(track, 0.003, dice.between(2800, 4500), 2, 0.4, 0.012, dice);
    return {track};
}

/// The air of a room: a band of noise that breathes, in two unlike channels.
Made roomAir(std::uint64_t seed, double length, double hz, double q, double low)
{
    Dice dice(seed);
    Made channels;
    for (int channel = 0; channel < 2; ++channel) {
        Track track = multiplied(bandPass(noise(length, dice), hz, q), wander(length, 0.55, 1.0, 5, dice));
        mix(track, multiplied(lowPass(noise(length, dice), low), wander(length, 0.4, 1.0, 7, dice)), 0.8);
        channels.push_back(track);
    }
    return channels;
}

/// The concourse's great volume, in two layers whose lengths do not divide one another.
Made concourseLow()
{
    return roomAir(861, 13.7, 190, 0.7, 120);
}
Made concourseHigh()
{
    return roomAir(862, 9.1, 900, 0.5, 260);
}
Made platformAir()
{
    Made channels = roomAir(863, 11.3, 420, 0.5, 160);
    Dice dice(864);
    for (Track& channel : channels) {
        mix(channel, multiplied(highPass(noise(11.3, dice), 4200), wander(11.3, 0.3, 1.0, 9, dice)), 0.12);
    }
    return channels;
}
Made officeAir()
{
    return roomAir(865, 7.9, 260, 1.2, 90);
}
Made teaRoomAir()
{
    return roomAir(871, 8.7, 520, 0.6, 140);
}

/// Rain on a wide roof of glass, as it is below it: drops on all panes, in two channels.
Made rainOnRoof()
{
    Dice dice(867);
    constexpr double length = 9.3;
    Made channels;
    for (int channel = 0; channel < 2; ++channel) {
        Track track = multiplied(bandPass(noise(length, dice), 3100, 0.5), wander(length, 0.6, 1.0, 9, dice));
        for (int drop = 0; drop < 900; ++drop) {
            click(track, dice.between(0, length), dice.between(1800, 6500), 4, 1.6 * std::pow(dice.unit(), 3.0), 0.012, dice);
        }
        channels.push_back(track);
    }
    return channels;
}

/// The train as one hears it from beside while it goes on and on: rumble, joints, a flange.
Made trainRolling()
{
    Dice dice(868);
    constexpr double length = 8;
    Track track = multiplied(lowPass(noise(length, dice), 220), wander(length, 0.6, 1.0, 7, dice));
    for (double at = 0.0; at < length - 0.01; at += 1.0) {
        for (const double beat : {0.0, 0.16, 0.52, 0.68}) {
            strike(track, at + beat, dice.between(140, 175), 0.35, {{1, 1, 0.16}, {2.7, 0.5, 0.1}}, dice);
            click(track, at + beat, dice.between(800, 1100), 1.6, 0.4, 0.03, dice);
        }
    }
    mix(track, multiplied(bandPass(noise(length, dice), 2350, 30), wander(length, 0.0, 1.0, 11, dice)), 0.5);
    return {track};
}

/// The trolley's stop: brake, parcels that shift.
Made trolleyStop()
{
    Dice dice(869);
    Track track = silence(1.2);
    click(track, 0.01, 320, 1.4, 1.0, 0.12, dice);
    for (int parcel = 0; parcel < 7; ++parcel) {
        click(track, 0.08 + 0.6 * dice.unit(), dice.between(180, 620), 1.6, dice.between(0.2, 0.6), 0.07, dice);
    }
    strike(track, 0.02, 740, 0.2, {{1, 1, 0.4}, {2.4, 0.5, 0.25}}, dice);
    return {track};
}

} // namespace

std::vector<Recipe> nightRecipes()
{
    return {{"step-tile-1.flac", -12, stepOnTile<1>},
            {"step-tile-2.flac", -12, stepOnTile<2>},
            {"step-tile-3.flac", -12, stepOnTile<3>},
            {"step-tile-4.flac", -12, stepOnTile<4>},
            {"step-planks-1.flac", -12, stepOnPlanks<1>},
            {"step-planks-2.flac", -12, stepOnPlanks<2>},
            {"step-planks-3.flac", -12, stepOnPlanks<3>},
            {"step-planks-4.flac", -12, stepOnPlanks<4>},
            {"step-ballast-1.flac", -12, stepOnBallast<1>},
            {"step-ballast-2.flac", -12, stepOnBallast<2>},
            {"step-ballast-3.flac", -12, stepOnBallast<3>},
            {"step-ballast-4.flac", -12, stepOnBallast<4>},
            {"step-iron-1.flac", -12, stepOnIron<1>},
            {"step-iron-2.flac", -12, stepOnIron<2>},
            {"step-iron-3.flac", -12, stepOnIron<3>},
            {"step-iron-4.flac", -12, stepOnIron<4>},
            {"sign-clap-1.flac", -8, signClap<1>},
            {"sign-clap-2.flac", -8, signClap<2>},
            {"sign-clap-3.flac", -8, signClap<3>},
            {"sign-clap-4.flac", -8, signClap<4>},
            {"joint-tick-1.flac", -10, jointTick<1>},
            {"joint-tick-2.flac", -10, jointTick<2>},
            {"joint-tick-3.flac", -10, jointTick<3>},
            {"joint-tick-4.flac", -10, jointTick<4>},
            {"shunting-1.ogg", -6, shunting<1>},
            {"shunting-2.ogg", -6, shunting<2>},
            {"shunting-3.ogg", -6, shunting<3>},
            {"drip-1.flac", -10, drip<1>},
            {"drip-2.flac", -10, drip<2>},
            {"drip-3.flac", -10, drip<3>},
            {"drip-4.flac", -10, drip<4>},
            {"concourse-low.ogg", -10, concourseLow},
            {"concourse-high.ogg", -12, concourseHigh},
            {"platform-air.ogg", -10, platformAir},
            {"office-air.ogg", -12, officeAir},
            {"tea-room-air.ogg", -12, teaRoomAir},
            {"rain-on-roof.ogg", -6, rainOnRoof},
            {"train-rolling.ogg", -3, trainRolling},
            {"trolley-stop.flac", -6, trolleyStop}};
}

} // namespace vellmoor
