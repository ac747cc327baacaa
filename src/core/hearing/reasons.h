// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/model.h"

#include <string>
#include <vector>

namespace stone
{

/// Why a line of the Ledger has its value, in plain words ("11.7 m away, full up to 4 m").
std::string reasonOf(const HearingModel& model, const Heard& heard, const Term& term);

/// Why something is silent whatever its level and its place: muted, something else is solo, it shares its voice. The model's
/// own reason, as the Ledger has it; empty where nothing of the kind is so.
std::string silencedBy(const HearingModel& model, const Heard& heard);

/// What besides the level reaches the ears changed: filters, width, side, air, send, one each ("Low-pass 5.1 kHz"). Nothing
/// for what has no effect.
std::vector<std::string> effectsOf(const HearingModel& model, const Heard& heard);

/// What a lane will do, in plain words ("full to 4 m, then down to nothing at 30 m").
std::string inWords(const Lane& lane);

/// A value of a property with its unit ("2.4 kHz", "40°", "-6.0 dB").
std::string valueText(LaneProperty property, double value);

/// The names of properties and of what they may follow, as people read them.
const char* propertyName(LaneProperty property);
const char* inputName(LaneInput input);

} // namespace stone
