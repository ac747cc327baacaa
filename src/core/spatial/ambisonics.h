// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "spatial/layout.h"

namespace stone
{

/// AmbiX (Nachbar, Zotter, Deleflie, Sontacchi 2011): channels by ACN, SN3D normalisation, order 1 to 3. The convention
/// counts azimuth counter-clockwise; the ears' frame goes in (x right, y ahead, z above) and is turned here.
///
/// `direction`: any length above 0. A width scales each order by the mean of its Legendre polynomial over the cap, so
/// that all round leaves order 0 alone.
ChannelGains ambisonicGains(int order, const Vec3& direction, double width_deg);

} // namespace stone
