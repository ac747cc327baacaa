// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

#include <functional>
#include <string>
#include <utility>

namespace stone
{

/// Changes a thing of the project that has a list of its own, if it is still there.
template <class Thing> Remedy onThing(const std::string& label, List<Thing> Project::*list, const decltype(Thing::id)& id,
                                      std::function<void(Thing&)> change)
{
    return {label, [list, id, change = std::move(change)](Project project) {
                if (const Thing* found = (project.*list).find(id)) {
                    Thing next = *found;
                    change(next);
                    (project.*list).put(std::move(next));
                }
                return project;
            }};
}

} // namespace stone
