// SPDX-License-Identifier: MPL-2.0
#include "project/edge_rules.h"

namespace stone
{

const char* wordOf(EdgeKind kind)
{
    constexpr const char* words[edgeKindCount] = {"drop", "wall", "kerb", "step", "water"};
    return words[static_cast<std::size_t>(kind)];
}

} // namespace stone
