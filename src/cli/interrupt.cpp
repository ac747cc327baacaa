// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/interrupt.h"

#include <algorithm>
#include <csignal>

namespace stone::cli
{

namespace
{

volatile std::sig_atomic_t interrupted = 0;
constexpr std::array<int, 3> endings{SIGINT, SIGTERM, SIGHUP};

void interrupt(int)
{
    interrupted = 1;
}

} // namespace

InterruptGuard::InterruptGuard()
{
    std::transform(endings.begin(), endings.end(), before_.begin(), [](int which) { return std::signal(which, interrupt); });
}

InterruptGuard::~InterruptGuard()
{
    for (std::size_t i = 0; i < endings.size(); ++i) {
        std::signal(endings[i], before_[i]);
    }
}

bool wasInterrupted()
{
    return interrupted != 0;
}

} // namespace stone::cli
