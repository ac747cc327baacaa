// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/list.h"

#include <string>
#include <unordered_map>
#include <unordered_set>

namespace stone
{

/// The names of a list's things, to give others names that are unlike them. Each takes about the same time however many there
/// are.
class NamesTaken
{
public:
    template <class Thing> explicit NamesTaken(const List<Thing>& list)
    {
        for (const auto& thing : list) {
            taken_.insert(thing->name);
        }
    }

    /// The wanted name or, where it is taken, the same with the next free number behind it; taken from then on.
    std::string unlike(const std::string& wanted);

private:
    std::unordered_set<std::string> taken_;
    std::unordered_map<std::string, int> last_; ///< the number last tried, by what stands before it
};

/// The same for ids, made of names.
class IdsTaken
{
public:
    template <class Thing> explicit IdsTaken(const List<Thing>& list)
    {
        for (const auto& thing : list) {
            taken_.insert(thing->id.text);
        }
    }

    /// An id that nothing has yet; taken from then on.
    std::string fresh(const std::string& name);

private:
    std::unordered_set<std::string> taken_;
};

} // namespace stone
