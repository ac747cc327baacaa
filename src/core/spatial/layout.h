// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <array>
#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace stone
{

/// What comes out. Order of the channels: loudspeaker layouts as in WAVE files (ITU-R BS.775 and BS.2051 positions), the
/// AmbiX ones by ACN, binaural left and right.
enum class Layout { mono, stereo, binaural, quad, surround51, surround71, surround714, ambix1, ambix2, ambix3 };
constexpr std::size_t layoutCount = 10;

/// The most channels that any layout has.
constexpr std::size_t mostChannels = 16;

/// One pressure gain for each channel of a layout; those beyond its channels are 0.
using ChannelGains = std::array<float, mostChannels>;

/// Where a loudspeaker stands, seen from the ears: azimuth positive to the right, degrees.
struct Speaker {
    const char* name;
    double azimuth_deg;
    double elevation_deg;
    bool lowOnly = false; ///< for low-frequency effects: nothing is panned there
};

std::size_t channelsOf(Layout layout);
const char* nameOf(Layout layout);
std::optional<Layout> layoutNamed(std::string_view name);
/// The names of all layouts, for messages: "mono, stereo, ...".
std::string layoutNames();
/// The order of an AmbiX layout, 0 for the others.
int ambisonicOrder(Layout layout);
/// Empty for mono, binaural and AmbiX.
std::span<const Speaker> speakersOf(Layout layout);

/// A loudspeaker by its name, whatever layout has it; nothing when none does.
std::optional<Speaker> speakerNamed(std::string_view name);

/// A unit vector in the ears' frame (x right, y ahead, z above).
Vec3 unitOf(double azimuth_deg, double elevation_deg);

/// Where the channels of a file stand that has so many: 1 ahead, 2 stereo, 4 quad, 6 and 8 as in the layouts; any other
/// number evenly round the head. 0 to count - 1. Empty for one that carries low-frequency effects only.
std::optional<Vec3> fileChannelDirection(std::size_t channel, std::size_t count);

} // namespace stone
