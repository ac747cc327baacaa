// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

namespace stone
{

/// The settings in which two emitters differ.
SettingSet differing(const EmitterSettings& a, const EmitterSettings& b);

/// Copies some settings.
void takeSettings(EmitterSettings& to, const EmitterSettings& from, SettingSet which);

/// A setting's name as people read it.
const char* settingName(Setting setting);

/// What two angles mean for a property until somebody says otherwise: full inside, half of it behind.
TwoAngles usualAngles(LaneProperty property);

} // namespace stone
