// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <optional>

namespace stone
{

/// The project with a level of it seen from the side, or from above again. From the side its character begins facing along
/// the sheet, and it is listened to through a rig that looks into the sheet, so that left and right are as on the screen.
Project seenFrom(Project project, const LevelId& level, const std::optional<Looking>& sideOn);

/// The same with ears that face into the sheet, or as the character does, along it: through a rig that is so already, or one
/// that is made.
Project heardSideOn(Project project, Looking looking, bool into);

/// Whether the rig in use listens into a sheet that is looked at so.
bool listensInto(const Project& project, Looking looking);

} // namespace stone
