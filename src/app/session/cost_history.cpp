// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/cost_history.h"

#include <algorithm>
#include <ctime>

namespace stone
{

namespace
{

double processor_s(clockid_t of)
{
    timespec time{};
    clock_gettime(of, &time);
    return static_cast<double>(time.tv_sec) + 1e-9 * static_cast<double>(time.tv_nsec);
}

} // namespace

double CostHistory::Entry::rest_s() const
{
    return std::max(process_s - window_s - costs->total_s(), 0.0);
}

void CostHistory::interrupt()
{
    since_.invalidate();
}

void CostHistory::take(const std::shared_ptr<const Costs>& costs)
{
    if (!costs || (!entries_.empty() && entries_.back().costs == costs)) {
        return;
    }
    const double window_s = processor_s(CLOCK_THREAD_CPUTIME_ID);
    const double process_s = processor_s(CLOCK_PROCESS_CPUTIME_ID);
    if (since_.isValid()) {
        entries_.push_back(
            {costs, 1e-9 * static_cast<double>(since_.nsecsElapsed()), window_s - window_s_, process_s - process_s_});
        if (entries_.size() > kept) {
            entries_.pop_front();
        }
    }
    since_.start();
    window_s_ = window_s;
    process_s_ = process_s;
}

} // namespace stone
