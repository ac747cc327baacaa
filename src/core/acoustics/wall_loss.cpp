// SPDX-License-Identifier: MPL-2.0
#include "acoustics/wall_loss.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

constexpr double impedance = 412.97; ///< of air, rho c, Pa s/m
constexpr double fieldIncidence_db = 5.0;

} // namespace

double massLawNormal_db(double density_kg_m2, double frequency_hz)
{
    const double a = std::numbers::pi * frequency_hz * density_kg_m2 / impedance;
    return 10.0 * std::log10(1.0 + a * a);
}

double massLaw_db(double density_kg_m2, double frequency_hz)
{
    return std::max(massLawNormal_db(density_kg_m2, frequency_hz) - fieldIncidence_db, 0.0);
}

Bands wallLoss_db(const Material& material, double thickness_m)
{
    if (material.loss_db) {
        return *material.loss_db;
    }
    const bool byThickness = material.density_kg_m3 > 0.0;
    const double density_kg_m2 = byThickness ? material.density_kg_m3 * std::max(thickness_m, sheet_m) : material.density_kg_m2;
    Bands loss{};
    for (std::size_t band = 0; band < loss.size(); ++band) {
        loss[band] = massLaw_db(density_kg_m2, octaveBands_hz[band]);
    }
    return loss;
}

} // namespace stone
