// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "project/material.h"

namespace stone
{

/// What a wall of so many kg/m2 takes from sound that falls on it from the front, dB: 10 lg(1 + (pi f m / (rho c))^2), the
/// mass law, with rho c = 412.97 (air of 1.204 kg/m3).
double massLawNormal_db(double density_kg_m2, double frequency_hz);
/// From all sides, as in a room: 5 dB less, not below 0.
double massLaw_db(double density_kg_m2, double frequency_hz);

/// What a wall of a material takes in each band, dB: by its table, else by the mass law. `thickness_m`: as a ray finds it;
/// it counts for materials that know their density as such; a single sheet counts as `sheet_m`.
constexpr double sheet_m = 0.01;
Bands wallLoss_db(const Material& material, double thickness_m);

} // namespace stone
