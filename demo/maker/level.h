// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "mesh_builder.h"

namespace vellmoor
{

/// Vellmoor Halt: concourse, ticket office, tea room, two platforms, footbridge, underpass, signal box, goods shed.
/// +X east, +Y north, the concourse's south-west corner at the origin, its floor at 0.
MeshBuilder buildLevel();

} // namespace vellmoor
