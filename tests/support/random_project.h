// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

namespace fixture
{

/// A document with something of everything in it, the same for the same seed.
stone::Project randomProject(unsigned seed);

} // namespace fixture
