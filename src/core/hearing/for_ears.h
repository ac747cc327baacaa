// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"

#include <set>

namespace stone
{

/// What somebody silences or singles out for their own ears while they listen. Nothing of it is in the document, and renders
/// know of it only what their options say.
struct ForEars {
    std::set<EmitterId> muted;
    std::set<EmitterId> solo; ///< while anything is, only what is solo sounds
    std::set<FamilyId> soloFamilies;

    bool anySolo() const { return !solo.empty() || !soloFamilies.empty(); }
    bool empty() const { return muted.empty() && !anySolo(); }

    bool operator==(const ForEars&) const = default;
};

} // namespace stone
