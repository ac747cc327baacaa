// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "spatial/layout.h"

#include <vector>

namespace stone
{

/// Vector-base amplitude panning over a set of loudspeakers (V. Pulkki, J. Audio Eng. Soc. 45(6), 1997): the two (in one
/// plane) or three loudspeakers around a direction p with p = sum g_i l_i, scaled to sum g_i^2 = 1. Width by several
/// virtual sources over the cap (MDAP; Pulkki 1999).
///
/// Where four loudspeakers span one flat face, an imaginary one in its middle hands its gain to the four. Sets without
/// loudspeakers above or below bring such directions to the horizon; towards the pole they open up to all round, so that
/// a sound passing overhead does not flip.
class Vbap
{
public:
    explicit Vbap(std::span<const Speaker> speakers);

    /// `direction`: any length above 0. `width_deg`: 0 a point, 360 all round. Sum of squares 1, all gains >= 0.
    ChannelGains gains(const Vec3& direction, double width_deg) const;

private:
    struct Face {
        std::array<Vec3, 3> inverse; ///< rows: g_i = dot(row i, p)
        std::array<std::size_t, 3> corners;
    };

    void addFace(std::array<std::size_t, 3> corners);
    void makeRing();
    void makeHull();
    void add(const Vec3& unit, double weight, std::array<double, mostChannels>& sums) const;

    std::vector<Vec3> points_;                    ///< loudspeakers, then imaginary ones
    std::vector<std::vector<std::size_t>> feeds_; ///< by point: the channels that it plays through
    std::vector<Face> faces_;
    std::size_t realPoints_ = 0;
    bool ring_ = true;
};

} // namespace stone
