// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"

#include <vector>

namespace stone
{

/// All pages of the bench. The first that is of the selection is the one that is shown; the last always is. Another page is
/// added here, and nowhere else.
std::vector<Page*> makePages(Session& session, Playback& playback);

} // namespace stone
