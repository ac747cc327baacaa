// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Counts what may not happen on the audio thread. While the trap is set on a thread, every call there that allocates,
/// frees, locks, waits or wakes is counted, and so is every system call, whoever makes it. Not with the sanitizers, which
/// bring their own versions of these functions.
namespace realtime_trap
{

struct Caught {
    int allocations = 0; ///< and what is freed
    int locks = 0;       ///< mutexes, condition variables, semaphores
    int systemCalls = 0;
    long lastSystemCall = -1; ///< its number

    bool operator==(const Caught&) const = default;
};

/// Whether functions can be trapped in this build.
bool works();
/// Whether system calls are counted too: by Linux' system call user dispatch, on x86-64.
bool seesSystemCalls();

/// Sets the trap on the calling thread, and takes it away.
void set();
void release();

/// What was caught on all threads since reset().
Caught caught();
void reset();

} // namespace realtime_trap
