// SPDX-License-Identifier: GPL-3.0-or-later
#include "sounds.h"

#include <algorithm>

namespace vellmoor
{

namespace
{

const std::vector<Partial> ironBar{{1.0, 1.0, 0.5}, {2.76, 0.7, 0.3}, {5.4, 0.45, 0.2}, {8.93, 0.3, 0.12}};
const std::vector<Partial> bell{{0.5, 0.5, 3.2}, {1.0, 1.0, 2.4},  {1.19, 0.8, 2.0}, {1.5, 0.5, 1.6},
                                {2.0, 0.9, 1.5}, {2.74, 0.4, 0.8}, {3.0, 0.3, 0.7},  {4.1, 0.25, 0.4}};

/// Flaps that fall in flurries, row by row, over the motor that turns them.
std::vector<Track> flapClatter()
{
    Dice dice(201);
    constexpr double length = 9;
    Track track = silence(length);
    for (const double start : {0.4, 2.6, 5.5}) {
        const double duration = dice.between(1.0, 1.9);
        const int flaps = static_cast<int>(duration * 55);
        for (int i = 0; i < flaps; ++i) {
            // Many at first, then fewer: rows reach their letters one after the other.
            const double t = start + duration * std::pow(dice.unit(), 1.4);
            click(track, t, dice.between(1500, 3600), 1.6, dice.between(0.4, 1.0), 0.022, dice);
            click(track, t + 0.002, dice.between(420, 760), 3, 0.6, 0.04, dice);
        }
        add(track, start - 0.1, duration + 0.2, [=](double t) {
            const double fade = std::min({t / 0.08, (duration + 0.2 - t) / 0.15, 1.0});
            return 0.035 * fade * (std::sin(754 * t) + 0.5 * std::sin(1508 * t + 1) + 0.3 * std::sin(4524 * t));
        });
        click(track, start + duration, 240, 2, 1.4, 0.09, dice);
    }
    mix(track, bandPass(noise(length, dice), 120, 4), 0.02);
    return {track};
}

/// An urn near the boil: bubbles that rise in pitch, steam, a lid that trembles.
std::vector<Track> teaUrn()
{
    Dice dice(211);
    constexpr double length = 11;
    Track track = silence(length);
    for (int bubble = 0; bubble < 420; ++bubble) {
        const double f = dice.between(280, 1150);
        const double rise = dice.between(200, 3000);
        const double gain = 0.5 * std::pow(dice.unit(), 2.0);
        const double decay = dice.between(40, 110);
        add(track, dice.between(0, length), 0.09, [=](double t) {
            return gain * std::min(t / 0.003, 1.0) * std::exp(-decay * t) * std::sin(2 * std::numbers::pi * (f + rise * t) * t);
        });
    }
    mix(track, multiplied(highPass(noise(length, dice), 3800), wander(length, 0.5, 1.0, 7, dice)), 0.05);
    mix(track, multiplied(bandPass(noise(length, dice), 210, 3), wander(length, 0.3, 1.0, 9, dice)), 0.5);
    for (double t = 0; t < length; t += dice.between(0.05, 0.6)) {
        strike(track, t, dice.between(2300, 2900), 0.03, {{1, 1, 0.05}, {1.63, 0.6, 0.03}}, dice);
    }
    return {track};
}

/// A lamp on its ballast: the mains and its overtones, a buzz that comes and goes, a thread of whistle.
std::vector<Track> lampHum()
{
    Dice dice(221);
    constexpr double length = 8;
    Track track = tone(length, 100);
    for (int harmonic = 2; harmonic <= 12; ++harmonic) {
        mix(track, tone(length, 100.0 * harmonic, dice.between(0, 6)), 0.55 / harmonic);
    }
    Track buzz = silence(length);
    for (double t = 0; t < length - 1e-6; t += 0.01) {
        click(buzz, t, 2900, 2.5, 0.7, 0.006, dice);
    }
    mix(track, multiplied(buzz, wander(length, 0.2, 1.0, 9, dice)), 0.8);
    mix(track, multiplied(tone(length, 6130), wander(length, 0.0, 1.0, 5, dice)), 0.012);
    return {track};
}

/// Moths: wing beats as flutters of air, taps on the glass.
std::vector<Track> moths()
{
    Dice dice(231);
    constexpr double length = 10;
    Track track = silence(length);
    for (int visit = 0; visit < 22; ++visit) {
        const double at = dice.between(0, length);
        const double stays = dice.between(0.2, 0.9);
        const double beat = dice.between(24, 38);
        Track puff = bandPass(noise(stays + 0.1, dice), dice.between(500, 1400), 0.9);
        add(track, at, stays, [&](double t) {
            const double wing = std::pow(0.5 + 0.5 * std::sin(2 * std::numbers::pi * beat * t), 2.0);
            const double fade = std::sin(std::numbers::pi * t / stays);
            return 0.7 * wing * fade * puff[static_cast<std::size_t>(t * rate)];
        });
        for (int tap = 0; tap < 3; ++tap) {
            if (dice.unit() < 0.6) {
                strike(track, at + dice.between(0, stays), dice.between(2700, 3900), 0.12, {{1, 1, 0.03}, {2.4, 0.5, 0.02}},
                       dice);
            }
        }
    }
    mix(track, lowPass(highPass(noise(length, dice), 800), 5000), 0.002);
    return {track};
}

/// A porter's trolley: iron tyres on a floor with joints, one wheel that squeaks each time round, parcels that rattle.
std::vector<Track> trolley()
{
    Dice dice(261);
    constexpr double length = 9.6;
    Track track = multiplied(lowPass(noise(length, dice), 260), wander(length, 0.6, 1.0, 15, dice));
    mix(track, multiplied(bandPass(noise(length, dice), 1100, 0.7), wander(length, 0.4, 1.0, 21, dice)), 0.25);
    for (double t = 0; t < length - 0.01; t += 0.6) {
        click(track, t, 380, 2, 0.9, 0.07, dice);
        click(track, t + 0.13, 420, 2, 0.7, 0.07, dice);
        for (int k = 0; k < 3; ++k) {
            strike(track, t + dice.between(0, 0.3), dice.between(900, 2400), 0.05, {{1, 1, 0.06}, {2.7, 0.4, 0.04}}, dice);
        }
    }
    for (double t = 0.2; t < length - 0.3; t += 0.8) {
        const double f = 2050 + dice.between(-60, 60);
        add(track, t, 0.16, [=](double s) {
            const double shape = std::sin(std::numbers::pi * s / 0.16);
            return 0.06 * shape * std::sin(2 * std::numbers::pi * (f + 900 * s) * s);
        });
    }
    return {track};
}

/// The stationmaster's handbell: shaken, each blow a little different, the clapper's knock in it.
std::vector<Track> handbell()
{
    Dice dice(281);
    Track track = silence(7);
    double at = 0.02;
    for (int blow = 0; blow < 9; ++blow) {
        const double gain = dice.between(0.5, 1.0);
        strike(track, at, 1180 * (1 + dice.between(-0.001, 0.001)), gain, bell, dice);
        click(track, at, 5200, 1, 0.8 * gain, 0.015, dice);
        at += dice.between(0.24, 0.31);
    }
    return {track};
}

/// The signal box: a single stroke bell and its answer, levers that fall home, wires that run over pulleys.
std::vector<Track> signalBox()
{
    Dice dice(291);
    constexpr double length = 19;
    Track track = silence(length);
    for (const double at : {1.0, 1.7, 2.4, 8.0, 8.35, 9.4}) {
        strike(track, at, 940, 0.6, bell, dice);
        click(track, at, 3000, 1, 0.5, 0.02, dice);
    }
    for (const double at : {4.4, 12.2, 15.0}) {
        for (int notch = 0; notch < 5; ++notch) {
            click(track, at + 0.07 * notch, 900, 2, 0.35, 0.03, dice);
        }
        click(track, at + 0.42, 130, 1.5, 2.6, 0.2, dice);
        strike(track, at + 0.42, 310, 0.35, ironBar, dice);
        for (double t = 0.5; t < 1.3; t += 0.05) {
            strike(track, at + t, dice.between(1500, 1900), 0.03, ironBar, dice);
        }
    }
    mix(track, bandPass(noise(length, dice), 180, 2), 0.006);
    return {track};
}

/// The hall's clock: two different strokes to the second, wheels behind them, a hum of its case.
std::vector<Track> stationClock()
{
    Dice dice(301);
    constexpr double length = 8;
    Track track = silence(length);
    for (double t = 0.1; t < length; t += 1.0) {
        click(track, t, 2300, 5, 0.9, 0.03, dice);
        click(track, t, 600, 4, 0.8, 0.05, dice);
        click(track, t + 0.5, 1750, 5, 0.7, 0.03, dice);
        click(track, t + 0.5, 480, 4, 0.7, 0.05, dice);
        for (int wheel = 0; wheel < 4; ++wheel) {
            click(track, t + 0.125 * wheel + 0.06, 5200, 4, 0.06, 0.008, dice);
        }
    }
    mix(track, bandPass(noise(length, dice), 240, 8), 0.01);
    return {track};
}

/// A chain hoist in a draughty shed: links that run, boards that creak, wind in the slats.
std::vector<Track> shedChain()
{
    Dice dice(311);
    constexpr double length = 14;
    Track track = multiplied(bandPass(noise(length, dice), 520, 1.2), wander(length, 0, 1, 6, dice));
    for (double& x : track) {
        x *= 0.08;
    }
    for (const double at : {0.6, 4.9, 9.7}) {
        for (int link = 0; link < 16; ++link) {
            strike(track, at + link * 0.07 + dice.between(0, 0.02), dice.between(1700, 3300), dice.between(0.1, 0.3), ironBar,
                   dice);
        }
        double phase = 0;
        add(track, at + 1.6, 0.9, [&](double t) {
            phase += (95 + 55 * t + 5 * dice.normal()) / rate;
            return 0.25 * std::sin(std::numbers::pi * t / 0.9) * (phase - std::floor(phase) < 0.08 ? 1.0 : -0.08);
        });
    }
    return {track};
}

/// Cups and spoons in the tea room: china that rings, a spoon that stirs, a saucer set down.
std::vector<Track> cups()
{
    Dice dice(321);
    constexpr double length = 16;
    Track track = silence(length);
    const std::vector<Partial> china{{1, 1, 0.28}, {2.32, 0.6, 0.2}, {4.25, 0.35, 0.12}, {6.6, 0.2, 0.08}};
    for (int sound = 0; sound < 26; ++sound) {
        const double at = dice.between(0, length);
        strike(track, at, dice.between(1500, 3100), dice.between(0.1, 0.5), china, dice);
        click(track, at, 700, 2, 0.3, 0.05, dice);
    }
    for (const double at : {2.2, 7.9, 12.6}) {
        for (int turn = 0; turn < 9; ++turn) {
            strike(track, at + 0.21 * turn, dice.between(2250, 2450), 0.16, china, dice);
        }
    }
    mix(track, lowPass(noise(length, dice), 700), 0.003);
    return {track};
}

} // namespace

std::vector<Recipe> machineRecipes()
{
    return {{"flap-clatter.ogg", -3, flapClatter}, {"tea-urn.ogg", -5, teaUrn},
            {"lamp-hum.ogg", -9, lampHum},         {"moths.ogg", -9, moths},
            {"trolley.flac", -5, trolley},         {"handbell.flac", -3, handbell},
            {"signal-box.ogg", -4, signalBox},     {"station-clock.ogg", -6, stationClock},
            {"shed-chain.ogg", -5, shedChain},     {"cups.ogg", -6, cups}};
}

} // namespace vellmoor
