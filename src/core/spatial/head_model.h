// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "spatial/head_filters.h"

namespace stone
{

/// The radius of the built-in head, metres.
constexpr double headRadius_m = 0.0875;

/// The arrival at an ear against the middle of the head, for a far source at an angle from the ear's axis (0 = at the
/// ear, 180 = opposite): -(a/c) cos t up to 90 degrees, (a/c)(t - pi/2) beyond. Between the ears that is Woodworth's
/// (a/c)(l + sin l) for a lateral angle l (Woodworth & Schlosberg 1954; Brown & Duda 1998). Seconds.
double earDelay_s(double fromEarAxis_deg);

/// The shadow of a sphere at an ear: |1 + j alpha w / 2w0| / |1 + j w / 2w0| with w0 = c/a and
/// alpha = 1.05 + 0.95 cos(t 180/150) (Brown & Duda, IEEE Trans. Speech Audio Proc. 6(5), 1998).
double headShadow(double fromEarAxis_deg, double frequency_hz);

/// Ahead, behind and above as the bands that make a sound seem to come from there (J. Blauert, Acustica 22, 1969/70):
/// ahead 280-560 Hz and 2.9-5.8 kHz, behind 720-1800 Hz and 10.3-14.9 kHz, above 7.2-9.6 kHz. Each group is raised where
/// the sound comes from its direction and lowered where it does not, by up to 4 dB, so that the sum stays about the same.
/// Pressure gain, the same at both ears.
double directionalBands(double azimuth_deg, double elevation_deg, double frequency_hz);

/// The built-in head. Its shadow has no phase of its own: the delay between the ears is the formula's at every
/// frequency. At each frequency the power of both ears together is the same from all sides.
HeadResponse builtInHead(double azimuth_deg, double elevation_deg, double rate);

/// The built-in head's filters; made once for each rate.
SharedHead builtInHeadFilters(double rate);

} // namespace stone
