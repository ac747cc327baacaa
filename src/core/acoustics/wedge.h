#pragma once

#include "acoustics/air.h"

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
};

/// What gets round the edge, dB below the field that would be there without anything in the way (R. G. Kouyoumjian and P. H.
/// Pathak, Proc. IEEE 62, 1974: uniform theory of diffraction, rigid faces). The diffracted part alone: all there is in the
/// shadow. The transition function is Kawai's approximation as N. Tsingos and others give it (SIGGRAPH 2001).
double wedgeLoss_db(const WedgePath& path, double frequency_hz);

} // namespace stone
