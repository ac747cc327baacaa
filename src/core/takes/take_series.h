// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take_reader.h"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace stone
{

/// One value of a take over its time.
struct TakeSeries {
    std::string name; ///< "Lamp: Distance"
    std::string unit;
    std::vector<std::pair<double, double>> points; ///< seconds, value; nothing where there was none
};

/// What seriesOf() can be asked for besides lines of the Ledger and game values.
std::vector<std::string> seriesNames();

/// A value over time. `what`: "level", "copies", "gave-way", "distance-m" (of an emitter, or of all), "voices", "cpu",
/// "memory", "loudness", "short-term", "integrated", "peak", the name of a line of the Ledger ("walls", "distance"), or of a
/// game value. `emitter`: its name or id; empty: of all together, where that makes sense. Throws std::invalid_argument with one
/// line for the person.
TakeSeries seriesOf(const Take& take, const std::string& what, const std::string& emitter = {});

/// The take's number of an emitter by name or id; nothing where there is none.
std::optional<std::uint32_t> emitterIn(const Take& take, const std::string& nameOrId);

/// Levels of copies that sound together, dB: their powers add. Minus infinity of nothing.
double together_db(double a_db, double b_db);

} // namespace stone
