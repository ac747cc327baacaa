// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <utility>
#include <vector>

namespace stone
{

/// Ids and names of a list of the document, for fields in which one of its things is chosen.
template <class List> std::vector<std::pair<std::string, std::string>> namesOf(const List& list)
{
    std::vector<std::pair<std::string, std::string>> names;
    for (const auto& thing : list) {
        names.emplace_back(thing->id.text, thing->name);
    }
    return names;
}

} // namespace stone
