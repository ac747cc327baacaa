// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/realtime_trap.h"

#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <ctime>
#include <dlfcn.h>
#include <pthread.h>
#include <semaphore.h>
#include <sys/prctl.h>
#include <sys/syscall.h>
#include <ucontext.h>
#include <unistd.h>

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define STONE_CAN_TRAP 0
#else
#define STONE_CAN_TRAP 1
#endif
#if STONE_CAN_TRAP && defined(__x86_64__) && defined(PR_SET_SYSCALL_USER_DISPATCH)
#define STONE_SEES_CALLS 1
#else
#define STONE_SEES_CALLS 0
#endif

namespace
{

thread_local bool trapped = false;
std::atomic<int> allocations{0};
std::atomic<int> locks{0};
std::atomic<int> systemCalls{0};
std::atomic<long> lastSystemCall{-1};

#if STONE_CAN_TRAP
void countAllocation()
{
    allocations += trapped ? 1 : 0;
}

void countLock()
{
    locks += trapped ? 1 : 0;
}

/// The function that one here stands in front of.
template <typename Function> Function* real(const char* name)
{
    return reinterpret_cast<Function*>(dlsym(RTLD_NEXT, name));
}
#endif

#if STONE_SEES_CALLS
/// Read by the kernel before each system call of the thread that asked for it.
thread_local volatile char filter = SYSCALL_DISPATCH_FILTER_ALLOW;

/// A call that was held up: counted, and made after all.
void onSystemCall(int, siginfo_t* info, void* context)
{
    filter = SYSCALL_DISPATCH_FILTER_ALLOW;
    ++systemCalls;
    lastSystemCall = info->si_syscall;
    auto& registers = static_cast<ucontext_t*>(context)->uc_mcontext.gregs;
    const int before = errno;
    const long result = syscall(info->si_syscall, registers[REG_RDI], registers[REG_RSI], registers[REG_RDX],
                                registers[REG_R10], registers[REG_R8], registers[REG_R9]);
    registers[REG_RAX] = result == -1 ? -errno : result;
    errno = before;
}

/// Once a thread.
bool watchThisThread()
{
    struct sigaction action {
    };
    action.sa_sigaction = onSystemCall;
    action.sa_flags = SA_SIGINFO;
    return sigaction(SIGSYS, &action, nullptr) == 0 &&
           prctl(PR_SET_SYSCALL_USER_DISPATCH, PR_SYS_DISPATCH_ON, 0, 0, &filter) == 0;
}
#endif

} // namespace

#if STONE_CAN_TRAP
extern "C" {
void* __libc_malloc(std::size_t size);
void* __libc_calloc(std::size_t count, std::size_t size);
void* __libc_realloc(void* p, std::size_t size);
void* __libc_memalign(std::size_t alignment, std::size_t size);
void __libc_free(void* p);

void* malloc(std::size_t size)
{
    countAllocation();
    return __libc_malloc(size);
}
void* calloc(std::size_t count, std::size_t size)
{
    countAllocation();
    return __libc_calloc(count, size);
}
void* realloc(void* p, std::size_t size)
{
    countAllocation();
    return __libc_realloc(p, size);
}
void* aligned_alloc(std::size_t alignment, std::size_t size)
{
    countAllocation();
    return __libc_memalign(alignment, size);
}
int posix_memalign(void** made, std::size_t alignment, std::size_t size)
{
    countAllocation();
    *made = __libc_memalign(alignment, size);
    return *made != nullptr ? 0 : ENOMEM;
}
void free(void* p)
{
    allocations += trapped && p != nullptr ? 1 : 0;
    __libc_free(p);
}

int pthread_mutex_lock(pthread_mutex_t* mutex)
{
    static auto* const made = real<decltype(pthread_mutex_lock)>("pthread_mutex_lock");
    countLock();
    return made(mutex);
}
int pthread_rwlock_rdlock(pthread_rwlock_t* lock)
{
    static auto* const made = real<decltype(pthread_rwlock_rdlock)>("pthread_rwlock_rdlock");
    countLock();
    return made(lock);
}
int pthread_rwlock_wrlock(pthread_rwlock_t* lock)
{
    static auto* const made = real<decltype(pthread_rwlock_wrlock)>("pthread_rwlock_wrlock");
    countLock();
    return made(lock);
}
int pthread_cond_wait(pthread_cond_t* condition, pthread_mutex_t* mutex)
{
    static auto* const made = real<decltype(pthread_cond_wait)>("pthread_cond_wait");
    countLock();
    return made(condition, mutex);
}
int pthread_cond_timedwait(pthread_cond_t* condition, pthread_mutex_t* mutex, const timespec* until)
{
    static auto* const made = real<decltype(pthread_cond_timedwait)>("pthread_cond_timedwait");
    countLock();
    return made(condition, mutex, until);
}
int pthread_cond_signal(pthread_cond_t* condition)
{
    static auto* const made = real<decltype(pthread_cond_signal)>("pthread_cond_signal");
    countLock();
    return made(condition);
}
int pthread_cond_broadcast(pthread_cond_t* condition)
{
    static auto* const made = real<decltype(pthread_cond_broadcast)>("pthread_cond_broadcast");
    countLock();
    return made(condition);
}
int sem_wait(sem_t* semaphore)
{
    static auto* const made = real<decltype(sem_wait)>("sem_wait");
    countLock();
    return made(semaphore);
}
}
#endif

namespace realtime_trap
{

bool works()
{
    return STONE_CAN_TRAP != 0;
}

bool seesSystemCalls()
{
#if STONE_SEES_CALLS
    static thread_local const bool watched = watchThisThread();
    return watched;
#else
    return false;
#endif
}

void set()
{
    [[maybe_unused]] const bool watched = seesSystemCalls();
#if STONE_SEES_CALLS
    filter = watched ? SYSCALL_DISPATCH_FILTER_BLOCK : SYSCALL_DISPATCH_FILTER_ALLOW;
#endif
    trapped = true;
}

void release()
{
    trapped = false;
#if STONE_SEES_CALLS
    filter = SYSCALL_DISPATCH_FILTER_ALLOW;
#endif
}

Caught caught()
{
    return {allocations, locks, systemCalls, lastSystemCall};
}

void reset()
{
    allocations = 0;
    locks = 0;
    systemCalls = 0;
    lastSystemCall = -1;
}

} // namespace realtime_trap
