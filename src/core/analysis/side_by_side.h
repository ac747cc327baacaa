// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <thread>
#include <vector>

namespace stone
{

/// Runs the same work on so many threads, the calling one among them, and waits for all of them. The work shares out what there
/// is to do by itself; it must not throw.
template <class Work> void sideBySide(unsigned threads, Work&& work)
{
    std::vector<std::thread> others;
    for (unsigned i = 1; i < threads; ++i) {
        others.emplace_back([&work] { work(); });
    }
    work();
    for (std::thread& other : others) {
        other.join();
    }
}

} // namespace stone
