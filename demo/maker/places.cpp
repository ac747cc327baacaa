// SPDX-License-Identifier: GPL-3.0-or-later
#include "sounds.h"

namespace vellmoor
{

namespace
{

/// The far town at night: a rumble that breathes, a gust now and then, the hum of a yard somewhere.
std::vector<Track> nightAir()
{
    std::vector<Track> channels;
    Dice common(11);
    const Track swell = wander(26, 0.3, 1.0, 5, common);
    for (int channel = 0; channel < 2; ++channel) {
        Dice dice(100 + static_cast<std::uint64_t>(channel));
        Track rumble = lowPass(lowPass(noise(26, dice), 140), 220);
        Track gust = multiplied(bandPass(noise(26, dice), 420, 0.6), multiplied(wander(26, 0.0, 1.0, 7, dice), swell));
        Track track = multiplied(rumble, wander(26, 0.6, 1.0, 4, dice));
        mix(track, gust, 0.28);
        mix(track, multiplied(tone(26, 49.9, channel), swell), 0.015);
        mix(track, multiplied(tone(26, 99.8, 2.0 * channel), wander(26, 0.2, 1.0, 6, dice)), 0.008);
        mix(track, highPass(noise(26, dice), 3000), 0.003);
        channels.push_back(std::move(track));
    }
    return channels;
}

/// Ventilators under a high roof: blades, the duct's own tone, air rushing, a bearing that ticks.
std::vector<Track> ventilators()
{
    Dice dice(21);
    Track track = multiplied(lowPass(noise(12, dice), 320), wander(12, 0.85, 1.0, 9, dice));
    mix(track, bandPass(noise(12, dice), 900, 0.8), 0.16);
    mix(track, tone(12, 48), 0.05);
    mix(track, tone(12, 96, 1.0), 0.03);
    mix(track, multiplied(tone(12, 288, 0.3), wander(12, 0.4, 1.0, 5, dice)), 0.008);
    for (double t = 0; t < 12; t += 0.75) {
        click(track, t + dice.between(0, 0.02), 1900, 3, 0.1, 0.04, dice);
    }
    return {track};
}

/// A drip from the vault into a puddle, its two notes, over a tunnel that hums with the wind across its mouths.
std::vector<Track> underpassDrone()
{
    Dice dice(41);
    constexpr double length = 15;
    Track wind = noise(length, dice);
    Track track = multiplied(bandPass(wind, 62, 14), wander(length, 0.4, 1.0, 4, dice));
    mix(track, multiplied(bandPass(wind, 93, 18), wander(length, 0.2, 1.0, 5, dice)), 0.8);
    mix(track, multiplied(bandPass(wind, 187, 20), wander(length, 0.0, 1.0, 7, dice)), 0.4);
    mix(track, lowPass(noise(length, dice), 500), 0.02);
    for (const double at : {0.9, 3.1, 4.0, 6.6, 8.9, 9.7, 12.2, 14.1}) {
        const double f = dice.between(700, 1300);
        for (int echo = 0; echo < 5; ++echo) {
            const double gain = 0.16 * std::pow(0.5, echo);
            add(track, at + 0.11 * echo, 0.12,
                [=](double t) { return gain * std::exp(-t * 45) * std::sin(2 * std::numbers::pi * (f * t + 2600 * t * t)); });
        }
        click(track, at, 5200, 2, 0.12, 0.02, dice);
    }
    return {track};
}

/// Wires in the wind: some strings that sing in turn, the poles that carry it, a hiss above.
std::vector<Track> telegraphWires()
{
    Dice dice(51);
    constexpr double length = 18;
    Track air = noise(length, dice);
    Track track = multiplied(bandPass(air, 300, 0.9), wander(length, 0.2, 1.0, 5, dice));
    for (double& x : track) {
        x *= 0.12;
    }
    for (const double f : {218.0, 331.0, 437.5, 552.0, 874.0}) {
        Track song = bandPass(noise(length, dice), f, 90);
        mix(track, multiplied(song, wander(length, -0.3, 1.0, 6, dice)), 3.0 * std::sqrt(218.0 / f));
    }
    mix(track, multiplied(highPass(air, 4000), wander(length, 0.0, 1.0, 8, dice)), 0.02);
    return {track};
}

/// Many people and no words: voices as buzzes through moving formants, feet that shuffle, a cough of the hall.
std::vector<Track> murmur()
{
    Dice dice(61);
    constexpr double length = 20;
    Track track = silence(length);
    for (int speaker = 0; speaker < 9; ++speaker) {
        const double pitch = dice.between(90, 220);
        Track voice = silence(length);
        for (int harmonic = 1; harmonic <= 14; ++harmonic) {
            mix(voice, tone(length, pitch * harmonic, dice.between(0, 6)), 1.0 / harmonic);
        }
        mix(voice, noise(length, dice), 0.4);
        Track spoken = silence(length);
        for (double t = dice.between(0, 0.4); t < length;) {
            const double syllable = dice.between(0.09, 0.24);
            const bool pause = dice.unit() < 0.14;
            if (!pause) {
                const double gain = dice.between(0.4, 1.0);
                const double shape = dice.between(1.0, 3.0);
                add(spoken, t, syllable,
                    [=](double s) { return gain * std::pow(std::sin(std::numbers::pi * s / syllable), shape); });
            }
            t += syllable + (pause ? dice.between(0.2, 1.2) : 0.0);
        }
        Track colour = bandPass(voice, dice.between(420, 720), 2.2);
        mix(colour, bandPass(voice, dice.between(1000, 1900), 3), 0.6);
        mix(track, multiplied(colour, spoken), 1.0);
    }
    mix(track, multiplied(bandPass(noise(length, dice), 2600, 0.8), wander(length, 0.0, 1.0, 19, dice)), 0.05);
    for (int shuffle = 0; shuffle < 30; ++shuffle) {
        click(track, dice.between(0, length), dice.between(300, 1500), 0.8, 0.3, 0.14, dice);
    }
    return {lowPass(track, 4200)};
}

} // namespace

std::vector<Recipe> placeRecipes()
{
    return {{"night-air.flac", -8, nightAir},
            {"ventilators.ogg", -8, ventilators},
            {"underpass-drone.ogg", -6, underpassDrone},
            {"telegraph-wires.ogg", -6, telegraphWires},
            {"platform-murmur.ogg", -6, murmur}};
}

} // namespace vellmoor
