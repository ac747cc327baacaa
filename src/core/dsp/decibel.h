// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cmath>
#include <limits>

namespace stone
{

/// The level of silence: minus infinity adds up in a ledger like any other level.
constexpr double silence_db = -std::numeric_limits<double>::infinity();

/// Pressure gain (factor on the sample values) and level in dB. gain 0 <-> silence_db.
inline double gainOf(double level_db)
{
    return std::pow(10.0, level_db / 20.0);
}
inline double levelOf(double gain)
{
    return gain > 0.0 ? 20.0 * std::log10(gain) : silence_db;
}

/// What is left of an energy after a loss in dB.
inline double powerOf(double loss_db)
{
    return std::pow(10.0, -loss_db / 10.0);
}

} // namespace stone
