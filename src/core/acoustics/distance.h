// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

namespace stone
{

/// Pressure gain at a distance by one of the distance models of the W3C Web Audio API (PannerNode, "Distance effects"),
/// without the end of reach. Exactly as there: the maximum distance ends the linear model only, reference and maximum
/// are put in order for it, its factor is held to 0..1; a reference of 0 gives silence in the other two.
/// distance_m >= 0. In [0, 1].
double distanceGain(const DistanceFormula& formula, double distance_m);

/// Pressure gain of the end of reach, ours and not the standard's: 1 up to four fifths of `silentAt_m`, then down to 0
/// there along a half cosine, so that leaving a sound's reach is never a cut. 1 everywhere when silentAt_m is 0.
double reachGain(const DistanceFormula& formula, double distance_m);

/// From here on the formula gives exact silence; infinity when it never does.
double silentFrom_m(const DistanceFormula& formula);

/// Up to here the level is that of the emitter.
double fullUpTo_m(const DistanceFormula& formula);

/// The distance at which the level has fallen to `level_db` (below 0), or infinity when it never falls so far.
double distanceOfLevel_m(const DistanceFormula& formula, double level_db);

} // namespace stone
