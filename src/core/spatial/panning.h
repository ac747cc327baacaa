#pragma once

#include "spatial/layout.h"

namespace stone
{

/// Constant-power stereo: th = (pan + 1) 45 degrees, left = cos th, right = sin th. pan is held to [-1, 1].
ChannelGains stereoPan(double pan);

/// Gains for a sound from a direction in the ears' frame (x right, y ahead, z above) whose length says how much it is
/// a point (1) or all round (0).
///
/// - stereo follows the W3C Web Audio API's "equalpower" panner with one change: pan is the angle towards the side,
///   asin(x), over 90 degrees. On the horizon that is the standard's azimuth with the rear folded to the front; above
///   and below it stays continuous where the standard's azimuth turns over.
/// - quad to 7.1.4: Vbap. AmbiX: ambisonicGains.
/// - binaural: gains of the virtual loudspeakers that wide sounds go through, see BinauralBus; the part of a point is
///   not in them.
ChannelGains directionGains(Layout layout, const Vec3& direction);

/// Gains for one channel of a file, which has `fileChannels`, fixed to the head: stereo as it is to left and right,
/// others from where their loudspeaker stands. A single channel comes from `single`, a direction in the ears' frame.
ChannelGains headGains(Layout layout, std::size_t fileChannel, std::size_t fileChannels, const Vec3& single);

/// Gains for a sound that has a loudspeaker of its own: that one where the layout has it, else the direction in which it
/// stands elsewhere. Unknown names: ahead.
ChannelGains speakerGains(Layout layout, std::string_view name);

/// Puts two sets of gains together for one signal whose power is split between two ways: `share` of it the first.
ChannelGains blendGains(const ChannelGains& a, const ChannelGains& b, double share);

/// The channels of the mix that become binaural: 0 and 1 go to the ears as they are, from `first` on one for each corner
/// of an icosahedron around the head, filtered for the ears once for all sounds.
struct BinauralBus {
    static constexpr std::size_t first = 2;
    static constexpr std::size_t speakers = 12;
    static std::span<const Speaker> directions();

    /// How much of a sound's amplitude takes its own filters, and how much the bus: squares add to 1. Wide sounds are
    /// wholly in the bus from the angle between two of its corners on.
    static double pointShare(double width_deg);
};

} // namespace stone
