// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdint>
#include <numeric>
#include <vector>

namespace stone
{

/// Numbers that are joined into sets.
class Sets
{
public:
    explicit Sets(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), 0U); }

    /// The number that stands for a set.
    std::uint32_t of(std::uint32_t i)
    {
        while (parent_[i] != i) {
            parent_[i] = parent_[parent_[i]];
            i = parent_[i];
        }
        return i;
    }
    void join(std::uint32_t a, std::uint32_t b) { parent_[of(a)] = of(b); }

private:
    std::vector<std::uint32_t> parent_;
};

} // namespace stone
