// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <semaphore.h>

#include <chrono>
#include <ctime>

namespace stone
{

/// Wakes one thread that waits, from a thread that must not: to wake takes no lock and never blocks (POSIX lets even signal
/// handlers post a semaphore).
class Wakeup
{
public:
    Wakeup() { sem_init(&posted_, 0, 0); }
    ~Wakeup() { sem_destroy(&posted_); }
    Wakeup(const Wakeup&) = delete;
    Wakeup& operator=(const Wakeup&) = delete;

    /// Any thread.
    void wake() noexcept { sem_post(&posted_); }

    /// Until somebody has woken it since it last waited, or for so long. One thread.
    void wait(std::chrono::nanoseconds most) noexcept
    {
        constexpr long second_ns = 1'000'000'000;
        timespec until{};
        clock_gettime(CLOCK_MONOTONIC, &until);
        until.tv_sec += static_cast<std::time_t>(most.count() / second_ns);
        until.tv_nsec += static_cast<long>(most.count() % second_ns);
        if (until.tv_nsec >= second_ns) {
            ++until.tv_sec;
            until.tv_nsec -= second_ns;
        }
        sem_clockwait(&posted_, CLOCK_MONOTONIC, &until);
        while (sem_trywait(&posted_) == 0) {
            // Woken several times in between: once is enough.
        }
    }

private:
    sem_t posted_{};
};

} // namespace stone
