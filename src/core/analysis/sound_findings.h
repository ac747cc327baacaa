// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips of a sound as a recipe and of its files. `files`: what was read, by file; null where nothing was.
void findInSound(const Sound& sound, const std::vector<SharedBuffer>& files, std::vector<Finding>& found);

/// Level offsets for a sound's files with which all are equally loud: the mean of all stays as it is. Those of files that
/// were not read or are silent stay. As many as files.
std::vector<double> matchedLevels_db(const Sound& sound, const std::vector<SharedBuffer>& files);

} // namespace stone
