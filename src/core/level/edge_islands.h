// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/sets.h"

#include <utility>
#include <vector>

namespace stone
{

/// Which floors hang together, and which can be fallen onto from which.
class FloorIslands
{
public:
    explicit FloorIslands(std::size_t triangles) : islands_(triangles) {}

    /// The triangle that stands for an island.
    std::uint32_t of(std::uint32_t triangle) { return islands_.of(triangle); }
    void join(std::uint32_t a, std::uint32_t b) { islands_.join(a, b); }
    void fall(std::uint32_t from, std::uint32_t onto) { falls_.emplace_back(from, onto); }

    /// By triangle that stands for its island: whether it can be come to from one of those that are marked so.
    void spread(std::vector<bool>& reached)
    {
        for (bool more = true; more;) {
            more = false;
            for (const auto& [from, onto] : falls_) {
                if (reached[of(from)] && !reached[of(onto)]) {
                    reached[of(onto)] = true;
                    more = true;
                }
            }
        }
    }

private:
    Sets islands_;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> falls_;
};

} // namespace stone
