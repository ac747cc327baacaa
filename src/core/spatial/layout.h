#pragma once

#include "geometry/vec.h"

#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>

namespace stone
{

/// What comes out: how many channels, and how a direction becomes their gains.
enum class Layout { mono, stereo };

/// The most channels that any layout has.
constexpr std::size_t mostChannels = 2;

/// One pressure gain for each channel of a layout; those beyond its channels are 0.
using ChannelGains = std::array<float, mostChannels>;

std::size_t channelsOf(Layout layout);
const char* nameOf(Layout layout);
std::optional<Layout> layoutNamed(std::string_view name);
/// The names of all layouts, for messages: "mono, stereo".
std::string layoutNames();

/// Constant-power stereo: th = (pan + 1) 45 degrees, left = cos th, right = sin th. pan is held to [-1, 1].
ChannelGains stereoPan(double pan);

/// Gains for a sound from a direction in the ears' frame (x right, y ahead, z above) whose length says how much it is
/// a point (1) or all round (0).
///
/// Stereo follows the W3C Web Audio API's "equalpower" panner with one change: pan is the angle towards the side,
/// asin(x), over 90 degrees. On the horizon that is the standard's azimuth with the rear folded to the front; above and
/// below it stays continuous where the standard's azimuth turns over.
ChannelGains directionGains(Layout layout, const Vec3& direction);

/// Gains for one channel of a bed's file, which has `fileChannels`: channel 0 to the left, 1 to the right, any other
/// and the only one to both at equal power.
ChannelGains bedGains(Layout layout, std::size_t fileChannel, std::size_t fileChannels);

} // namespace stone
