// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>

namespace stone::cli
{

/// Lets Ctrl-C, and whoever asks politely, end long work in an orderly way while it lives: half a file is taken away. One at a
/// time.
class InterruptGuard
{
public:
    InterruptGuard();
    ~InterruptGuard();
    InterruptGuard(const InterruptGuard&) = delete;
    InterruptGuard& operator=(const InterruptGuard&) = delete;

private:
    std::array<void (*)(int), 3> before_{};
};

/// Whether somebody has asked for the end.
bool wasInterrupted();

} // namespace stone::cli
