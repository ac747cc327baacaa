// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

namespace stone
{

/// A project as the JSON of its document.
Json documentJson(const Project& project);

} // namespace stone
