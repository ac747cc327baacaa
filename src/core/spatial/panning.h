// SPDX-License-Identifier: MPL-2.0
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
/// - binaural: gains of the bus that wide sounds go through, see BinauralBus; the part of a point is not in them.
ChannelGains directionGains(Layout layout, const Vec3& direction);

/// Gains for one channel of a file, which has `fileChannels`, fixed to the head: stereo as it is to left and right,
/// others from where their loudspeaker stands. A single channel comes from `single`, a direction in the ears' frame.
ChannelGains headGains(Layout layout, std::size_t fileChannel, std::size_t fileChannels, const Vec3& single);

/// Gains for a sound that has a loudspeaker of its own: that one where the layout has it, else the direction in which it
/// stands elsewhere. Unknown names: ahead.
ChannelGains speakerGains(Layout layout, std::string_view name);

/// Puts two sets of gains together for one signal whose power is split between two ways: `share` of it the first.
ChannelGains blendGains(Layout layout, const ChannelGains& a, const ChannelGains& b, double share);

/// The channels of the mix that become binaural: 0 and 1 go to the ears as they are, the others are filtered for the ears once
/// for all sounds. Of what is wide, one signal comes from many directions. At low frequencies these add in phase at both ears,
/// so there two channels carry it whole: its pressure, and how far it lies to the side. Above, a channel for each corner of an
/// icosahedron around the head carries its power; EarConvolver makes them unlike each other, so that powers add. See
/// docs/decisions/0032-wide-on-headphones.md.
struct BinauralBus {
    static constexpr std::size_t first = 2;
    static constexpr std::size_t speakers = 12;
    static constexpr std::size_t pressure = first + speakers;
    static constexpr std::size_t side = pressure + 1;
    static constexpr std::size_t channels = speakers + 2; ///< from `first` on
    static std::span<const Speaker> directions();

    /// How much of a sound's amplitude takes its own filters, by the length of its direction; the square of what the bus has
    /// above the low frequencies is what is missing to 1. Wide sounds are wholly in the bus from the angle between two of its
    /// corners on. Powers go linearly with the length: with the square of the sine of half the width's half, without a step.
    static double pointShare(double length);
};

} // namespace stone
