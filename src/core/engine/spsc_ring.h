// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// A fixed ring of slots between one writing and one reading thread. Wait-free on both sides; nothing is allocated
/// after construction. A slot is filled and read in place.
template <class Slot, std::size_t capacity> class SlotRing
{
public:
    static constexpr std::size_t most = capacity; ///< slots

    /// Writer: the next free slot, or null when the ring is full. publish() hands it over.
    Slot* free()
    {
        const auto written = written_.load(std::memory_order_relaxed);
        return written - read_.load(std::memory_order_acquire) < capacity ? &slots_[written % capacity] : nullptr;
    }
    void publish() { written_.store(written_.load(std::memory_order_relaxed) + 1, std::memory_order_release); }

    /// Reader: the oldest slot, or null when there is none. It stays the reader's until release().
    Slot* front()
    {
        const auto read = read_.load(std::memory_order_relaxed);
        return read != written_.load(std::memory_order_acquire) ? &slots_[read % capacity] : nullptr;
    }
    void release() { read_.store(read_.load(std::memory_order_relaxed) + 1, std::memory_order_release); }

    /// Either side: how many are handed over and not yet released.
    std::size_t waiting() const { return written_.load(std::memory_order_acquire) - read_.load(std::memory_order_acquire); }

    /// Before either side starts: prepares every slot.
    template <class Prepare> void prepare(Prepare&& prepare)
    {
        for (Slot& slot : slots_) {
            prepare(slot);
        }
    }

private:
    std::array<Slot, capacity> slots_{};
    alignas(64) std::atomic<std::size_t> written_{0};
    alignas(64) std::atomic<std::size_t> read_{0};
};

/// A ring of samples between one writing and one reading thread. Wait-free; what does not fit is dropped and counted.
class SampleRing
{
public:
    explicit SampleRing(std::size_t capacity) : samples_(capacity) {}

    /// Writer: all of them or none.
    bool write(std::span<const float> samples)
    {
        const auto written = written_.load(std::memory_order_relaxed);
        if (samples.size() > samples_.size() - (written - read_.load(std::memory_order_acquire))) {
            dropped_.fetch_add(samples.size(), std::memory_order_relaxed);
            return false;
        }
        const std::size_t at = written % samples_.size();
        const std::size_t first = std::min(samples.size(), samples_.size() - at);
        std::copy_n(samples.begin(), first, samples_.begin() + static_cast<std::ptrdiff_t>(at));
        std::copy(samples.begin() + static_cast<std::ptrdiff_t>(first), samples.end(), samples_.begin());
        written_.store(written + samples.size(), std::memory_order_release);
        return true;
    }

    /// Reader: up to out.size() samples; how many there were.
    std::size_t read(std::span<float> out)
    {
        const auto read = read_.load(std::memory_order_relaxed);
        const std::size_t n = std::min(out.size(), written_.load(std::memory_order_acquire) - read);
        for (std::size_t i = 0; i < n; ++i) {
            out[i] = samples_[(read + i) % samples_.size()];
        }
        read_.store(read + n, std::memory_order_release);
        return n;
    }

    std::size_t dropped() const { return dropped_.load(std::memory_order_relaxed); }

private:
    std::vector<float> samples_;
    alignas(64) std::atomic<std::size_t> written_{0};
    alignas(64) std::atomic<std::size_t> read_{0};
    std::atomic<std::size_t> dropped_{0};
};

} // namespace stone
