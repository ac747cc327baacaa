// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/ear_limiter.h"
#include "engine/render_source.h"
#include "engine/spsc_ring.h"
#include "engine/wakeup.h"
#include "spatial/layout.h"
#include "takes/take_reader.h"

#include <array>
#include <atomic>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace stone
{

/// Plays the sound of a take, and of another one beside it: which of the two is heard changes without a click, and neither
/// loses its place by that. What goes over full scale is turned down as it is live.
class TakePlayer : public Played
{
public:
    /// The same moment in the other take, seconds.
    using Aligned = std::function<double(double t_s)>;

    /// Throws FileError where the take has no sound.
    explicit TakePlayer(const std::filesystem::path& take);
    ~TakePlayer() override;
    TakePlayer(const TakePlayer&) = delete;
    TakePlayer& operator=(const TakePlayer&) = delete;

    /// Puts another take beside it, before anything plays. Throws FileError where it has no sound, or one that cannot be played
    /// through the same output: of another rate, or for other channels.
    void joinOther(const std::filesystem::path& other, Aligned inOther_s, Aligned inFirst_s);
    bool hasOther() const { return other_ != nullptr; }

    /// Goes on from there. Window thread.
    void seek(double t_s);
    /// Which of the two is heard from now on, at the moment that it has come to. Window thread.
    void hearOther(bool other);

    /// Where it is, as it is heard, in the first take's time. Window thread.
    double position_s() const;
    /// All of it has been played.
    bool over() const { return heardSeek_.load(std::memory_order_acquire) == seeks_ && over_.load(std::memory_order_acquire); }

    int rate() const override { return first_->take.info().rate; }
    std::size_t channels() const override { return static_cast<std::size_t>(first_->take.info().channels); }
    void start() override;
    void stop() override;
    void pump() override;
    void render(float* interleaved, std::size_t frames) noexcept override;

private:
    static constexpr std::size_t blockFrames = 256; ///< in which one fades into the other
    static constexpr std::size_t blocksAhead = 12;  ///< 64 ms at 48 kHz: to read a piece of a file takes some of them

    struct Track {
        explicit Track(const std::filesystem::path& file) : take(file) {}
        Take take;
        std::uint64_t from = 0; ///< frame at which `piece` begins
        std::vector<float> piece;
    };
    struct Block {
        std::array<float, blockFrames * mostChannels> samples{};
        std::uint64_t frame = 0;
        std::uint32_t seek = 0; ///< that it comes after
        bool other = false;
        bool beyond = false; ///< all of the take lies before it
    };
    struct Wishes {
        std::optional<double> seek_s;
        std::uint32_t seek = 0;
        bool other = false;
    };

    void run();
    void fill(Block& block);
    /// Adds what a track has from a frame on, from one gain to another over the block.
    void addTo(Block& block, Track& track, std::uint64_t frame, float from, float to) const;
    std::span<const float> framesOf(Track& track, std::uint64_t frame) const;
    Track& heard(bool other) { return other ? *other_ : *first_; }

    std::unique_ptr<Track> first_;
    std::unique_ptr<Track> other_;
    Aligned inOther_s_;
    Aligned inFirst_s_;
    EarLimiter limiter_;
    SlotRing<Block, blocksAhead> blocks_;

    std::mutex mutex_;
    Wishes wishes_;

    // Window thread.
    std::uint32_t seeks_ = 0;
    double sought_s_ = 0.0;

    // Whoever pumps.
    bool playing_ = false; ///< something has been played before
    bool playsOther_ = false;
    std::uint64_t frame_ = 0;
    std::uint32_t seek_ = 0;

    // Audio thread.
    std::size_t offset_ = 0;

    /// Twice the frame that is heard, and one more where it is the other take's.
    std::atomic<std::uint64_t> at_{0};
    std::atomic<std::uint32_t> heardSeek_{0};
    std::atomic<bool> over_{false};
    std::atomic<bool> running_{false};
    Wakeup taken_;
    std::thread thread_;
};

} // namespace stone
