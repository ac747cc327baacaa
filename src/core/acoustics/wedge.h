// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"

#include <array>

namespace stone
{

/// A straight rigid edge between a source and a place behind it, seen along the edge.
struct WedgePath {
    double exterior = 2.0;   ///< angle of the air round the edge, in half turns: 2 for a thin screen, 1.5 for a house's corner
    double source_m = 1.0;   ///< from the source to the edge, across it; > 0
    double receiver_m = 1.0; ///< from the edge to the place, across it; > 0
    double source_rad = 1.0; ///< round the edge, from the face on the source's side
    double receiver_rad = 5.0; ///< the same; more than pi beyond the source's angle is in the shadow
    double along_m = 0.0;      ///< between the two, along the edge

    /// From the source over the edge to the place.
    double round_m() const;
    /// The same straight through whatever is in the way; `off_rad`: from the source to the place, round the edge.
    double direct_m(double off_rad) const;
};

/// What gets round an edge, dB below the field that would be there without anything in the way (R. G. Kouyoumjian and P. H.
/// Pathak, Proc. IEEE 62, 1974: uniform theory of diffraction, rigid faces). The diffracted part alone: all there is in the
/// shadow. The transition function is Kawai's approximation as N. Tsingos and others give it (SIGGRAPH 2001).
class WedgeLoss
{
public:
    /// What does not depend on the frequency is found here, once for all bands.
    explicit WedgeLoss(const WedgePath& path);
    double at_db(double frequency_hz) const;
    /// The same as a share of the power.
    double shareAt(double frequency_hz) const;
    /// The same in each octave band, several at once.
    std::array<double, 8> shares() const;

private:
    /// One of the four terms of the coefficient.
    struct Term {
        double cotangent; ///< that it is weighed by
        double a;         ///< how far from the border, 0 to 2
    };
    static Term termOf(double n, double beta, double sign);
    template <std::size_t count> std::array<double, count> sharesAt(const std::array<double, count>& hz) const;

    double perWavenumber_; ///< of the distance parameter
    double power_; ///< of the field at a wavenumber of 1, where the terms add up to 1, against the field without the edge
    std::array<Term, 4> terms_;
};

/// The same for one frequency.
inline double wedgeLoss_db(const WedgePath& path, double frequency_hz)
{
    return WedgeLoss(path).at_db(frequency_hz);
}

} // namespace stone
