// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <atomic>
#include <chrono>

namespace stone
{

/// When a card asked for sound last: told on its thread, asked on any.
class LastAsked
{
public:
    void now() noexcept { at_.store(Clock::now().time_since_epoch().count(), std::memory_order_relaxed); }
    bool longerAgoThan(std::chrono::milliseconds time) const
    {
        return Clock::now().time_since_epoch() - Clock::duration(at_.load(std::memory_order_relaxed)) > time;
    }

private:
    using Clock = std::chrono::steady_clock;

    std::atomic<Clock::rep> at_{0};
};

} // namespace stone
