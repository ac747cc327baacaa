// SPDX-License-Identifier: MPL-2.0
#include "spatial/sofa_apart.h"

#include <mysofa.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <csignal>
#include <cstdint>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <memory>
#include <poll.h>
#include <span>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace stone
{

namespace
{

/// One direction for each degree is 65 160 of them; a response of more than a second is no ear's.
constexpr std::size_t mostDirections = 100'000;
constexpr std::size_t mostFrames = 65'536;
constexpr std::size_t mostValues = 64U << 20U; // 256 MiB unpacked
constexpr float slowest_hz = 4'000.0F;         ///< below, bringing it to a usual rate would take for ever
constexpr float fastest_hz = 400'000.0F;
constexpr rlim_t mostMemory = 3ULL << 30U;

struct Freer {
    void operator()(MYSOFA_HRTF* set) const { mysofa_free(set); }
};
using SofaSet = std::unique_ptr<MYSOFA_HRTF, Freer>;

const char* reasonOf(int error)
{
    switch (error) {
    case MYSOFA_READ_ERROR: return "it cannot be read";
    case MYSOFA_NO_MEMORY: return "it claims to need more memory than there is";
    case MYSOFA_ONLY_THE_SAME_SAMPLING_RATE_SUPPORTED: return "its measurements have different rates";
    case MYSOFA_RECEIVERS_WITH_CARTESIAN_SUPPORTED: return "its ears are described in a way that is not supported";
    case MYSOFA_INVALID_RECEIVER_POSITIONS: return "the places of its ears make no sense";
    default: return "it is damaged or not a set of measured ears (SimpleFreeFieldHRIR)";
    }
}

std::vector<float> valuesOf(const MYSOFA_ARRAY& array, std::size_t most)
{
    return array.values == nullptr
               ? std::vector<float>{}
               : std::vector<float>(array.values, array.values + std::min<std::size_t>(array.elements, most));
}

SofaValues read(const std::filesystem::path& file, double rate)
{
    SofaValues values;
    const auto refused = [&](const std::string& reason) {
        values.trouble = reason;
        return values;
    };
    int failed = MYSOFA_OK;
    const SofaSet set(mysofa_load(file.c_str(), &failed));
    if (!set || failed != MYSOFA_OK) {
        return refused(reasonOf(failed));
    }
    const auto expected = [&] { return static_cast<std::size_t>(set->M) * set->R * set->N; };
    const bool complete = set->R == 2 && set->M >= 1 && set->N >= 1 && set->DataIR.values != nullptr &&
                          set->DataIR.elements >= expected() && set->SourcePosition.values != nullptr &&
                          set->SourcePosition.elements >= static_cast<std::size_t>(set->M) * 3;
    if (!complete || mysofa_check(set.get()) != MYSOFA_OK) {
        return refused(reasonOf(MYSOFA_INVALID_FORMAT));
    }
    const float own = set->DataSamplingRate.elements > 0 ? set->DataSamplingRate.values[0] : 0.0F;
    if (!(own >= slowest_hz && own <= fastest_hz)) {
        return refused("its rate is not within 4 to 400 kHz");
    }
    const double resampled = static_cast<double>(expected()) * std::max(1.0, rate / static_cast<double>(own));
    if (set->M > mostDirections || set->N > mostFrames || resampled > static_cast<double>(mostValues)) {
        return refused("it has more than " + std::to_string(mostDirections) + " directions, more than " +
                       std::to_string(mostFrames) + " samples a direction, or more than " + std::to_string(mostValues >> 20U) +
                       " million samples in all");
    }
    if (mysofa_resample(set.get(), static_cast<float>(rate)) != MYSOFA_OK || set->DataIR.elements < expected()) {
        return refused("its rate cannot be brought to " + std::to_string(static_cast<int>(rate)) + " Hz");
    }
    mysofa_tocartesian(set.get());
    values.directions = set->M;
    values.frames = set->N;
    values.positions = valuesOf(set->SourcePosition, values.directions * 3);
    values.responses = valuesOf(set->DataIR, expected());
    values.delays = valuesOf(set->DataDelay, values.directions * 2);
    return values;
}

/// How much follows: of positions and responses as much as there are directions and frames, then so many delays, then why
/// there is nothing.
struct Lengths {
    std::uint64_t directions;
    std::uint64_t frames;
    std::uint64_t delays;
    std::uint64_t trouble;
};

/// The other process: says what it read and ends, without anything of what this one would do at its end.
[[noreturn]] void readAndTell(const std::filesystem::path& file, double rate, unsigned most_s, int pipe)
{
    // What this process has already counts too.
    std::ifstream statm("/proc/self/statm");
    rlim_t pages = 0;
    statm >> pages;
    const rlim_t memory = pages * static_cast<rlim_t>(sysconf(_SC_PAGESIZE)) + mostMemory;
    const rlimit time{most_s, most_s};
    const rlimit space{memory, memory};
    const rlimit nothing{0, 0};
    setrlimit(RLIMIT_CPU, &time);
    setrlimit(RLIMIT_AS, &space);
    setrlimit(RLIMIT_CORE, &nothing);
    // A crash there is told by how the process ends, not by handlers that this one has set.
    for (const int signal : {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT, SIGXCPU}) {
        std::signal(signal, SIG_DFL);
    }
    std::signal(SIGPIPE, SIG_DFL);

    const SofaValues values = read(file, rate);
    const auto tell = [&](const void* from, std::size_t bytes) {
        const char* at = static_cast<const char*>(from);
        while (bytes > 0) {
            const ssize_t written = write(pipe, at, bytes);
            if (written <= 0) {
                _exit(1);
            }
            at += written;
            bytes -= static_cast<std::size_t>(written);
        }
    };
    const Lengths lengths{values.directions, values.frames, values.delays.size(), values.trouble.size()};
    tell(&lengths, sizeof lengths);
    for (const auto* numbers : {&values.positions, &values.responses, &values.delays}) {
        tell(numbers->data(), numbers->size() * sizeof(float));
    }
    tell(values.trouble.data(), values.trouble.size());
    _exit(0);
}

/// This process' end of the pipe.
class Listener
{
public:
    Listener(int pipe, const std::function<bool()>& stop) : pipe_(pipe), stop_(stop) {}

    /// False when there is no more, or nobody wants it any more.
    bool hear(void* to, std::size_t bytes)
    {
        constexpr int patience_ms = 50;
        char* at = static_cast<char*>(to);
        while (bytes > 0) {
            if (stop_ && stop_()) {
                stopped_ = true;
                return false;
            }
            pollfd waiting{pipe_, POLLIN, 0};
            if (const int ready = poll(&waiting, 1, patience_ms); ready == 0 || (ready < 0 && errno == EINTR)) {
                continue;
            }
            const ssize_t got = ::read(pipe_, at, bytes);
            if (got < 0 && errno == EINTR) {
                continue;
            }
            if (got <= 0) {
                return false;
            }
            at += got;
            bytes -= static_cast<std::size_t>(got);
        }
        return true;
    }

    bool hear(std::vector<float>& numbers, std::uint64_t count)
    {
        numbers.resize(count);
        return hear(numbers.data(), count * sizeof(float));
    }

    bool stopped() const { return stopped_; }

private:
    int pipe_;
    const std::function<bool()>& stop_;
    bool stopped_ = false;
};

/// False when what was said cannot be, or is not all of it.
bool hearAll(Listener& listener, SofaValues& values)
{
    constexpr std::uint64_t longestTrouble = 4096;
    Lengths lengths{};
    if (!listener.hear(&lengths, sizeof lengths) || lengths.directions > mostDirections || lengths.frames > mostValues ||
        lengths.directions * 2 * lengths.frames > mostValues || lengths.delays > 2 * mostDirections ||
        lengths.trouble > longestTrouble) {
        return false;
    }
    values.directions = lengths.directions;
    values.frames = lengths.frames;
    values.trouble.resize(lengths.trouble);
    return listener.hear(values.positions, lengths.directions * 3) &&
           listener.hear(values.responses, lengths.directions * 2 * lengths.frames) &&
           listener.hear(values.delays, lengths.delays) && listener.hear(values.trouble.data(), lengths.trouble);
}

} // namespace

SofaValues readSofaApart(const std::filesystem::path& file, double rate, const std::function<bool()>& stop, unsigned most_s)
{
    SofaValues values;
    std::array<int, 2> ends{};
    if (pipe2(ends.data(), O_CLOEXEC) != 0) {
        values.trouble = std::string("it cannot be read (") + std::strerror(errno) + ")";
        return values;
    }
    const pid_t child = fork();
    if (child == 0) {
        close(ends[0]);
        readAndTell(file, rate, most_s, ends[1]);
    }
    close(ends[1]);
    if (child < 0) {
        close(ends[0]);
        values.trouble = std::string("it cannot be read (") + std::strerror(errno) + ")";
        return values;
    }
    Listener listener(ends[0], stop);
    const bool heard = hearAll(listener, values);
    close(ends[0]);
    if (!heard) {
        kill(child, SIGKILL);
    }
    int status = 0;
    while (waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    if (!heard) {
        values = {};
        values.trouble = listener.stopped() ? "reading it was stopped"
                                            : "it is damaged, or takes more time or memory than a set of ears does";
    }
    return values;
}

} // namespace stone
