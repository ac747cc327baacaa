// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace stone
{

/// Lets the calling thread, and those that it starts from then on, give way to all others: the audio and what is looked at come
/// first. On Linux a thread has a niceness of its own. Not for threads that somebody else gets again.
inline void theLastToRun()
{
    constexpr int niceness = 15;
    setpriority(PRIO_PROCESS, static_cast<id_t>(syscall(SYS_gettid)), niceness);
}

} // namespace stone
