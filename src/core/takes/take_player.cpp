// SPDX-License-Identifier: MPL-2.0
#include "takes/take_player.h"

#include "project/file_error.h"

#include <algorithm>
#include <chrono>
#include <cmath>

namespace stone
{

namespace
{

/// So much is read of a file at once.
constexpr double piece_s = 0.5;

} // namespace

TakePlayer::TakePlayer(const std::filesystem::path& take)
    : first_(std::make_unique<Track>(take)),
      limiter_(static_cast<std::size_t>(std::max(first_->take.info().channels, 1)), std::max(first_->take.info().rate, 1))
{
    const TakeInfo& info = first_->take.info();
    if (!first_->take.hasSound() || info.rate < 1 || info.channels > static_cast<int>(mostChannels)) {
        throw FileError(take.string() + ": no sound was kept in this take; record it with its sound to hear it again");
    }
}

TakePlayer::~TakePlayer()
{
    stop();
}

void TakePlayer::joinOther(const std::filesystem::path& other, Aligned inOther_s, Aligned inFirst_s)
{
    auto track = std::make_unique<Track>(other);
    const TakeInfo& info = track->take.info();
    if (!track->take.hasSound()) {
        throw FileError(other.string() +
                        ": no sound was kept in this take; record it with its sound to hear it beside another");
    }
    if (info.channels != first_->take.info().channels || info.rate != rate()) {
        throw FileError(other.string() + ": its sound has " + std::to_string(info.channels) + " channels at " +
                        std::to_string(info.rate) + " Hz, the other take's " + std::to_string(channels()) + " at " +
                        std::to_string(rate()) + " Hz; record both for the same output to change between them");
    }
    other_ = std::move(track);
    inOther_s_ = std::move(inOther_s);
    inFirst_s_ = std::move(inFirst_s);
}

void TakePlayer::seek(double t_s)
{
    sought_s_ = t_s;
    ++seeks_;
    const std::lock_guard lock(mutex_);
    wishes_.seek_s = t_s;
    wishes_.seek = seeks_;
}

void TakePlayer::hearOther(bool other)
{
    const std::lock_guard lock(mutex_);
    wishes_.other = other && other_ != nullptr;
}

double TakePlayer::position_s() const
{
    if (heardSeek_.load(std::memory_order_acquire) != seeks_) {
        return sought_s_; // what was made ready before is still to be heard
    }
    const std::uint64_t at = at_.load(std::memory_order_acquire);
    const double t_s = static_cast<double>(at / 2) / rate();
    return (at & 1U) != 0 ? inFirst_s_(t_s) : t_s;
}

void TakePlayer::start()
{
    if (!running_.exchange(true)) {
        thread_ = std::thread([this] { run(); });
    }
}

void TakePlayer::stop()
{
    if (running_.exchange(false)) {
        taken_.wake();
        thread_.join();
    }
}

void TakePlayer::run()
{
    while (running_.load(std::memory_order_acquire)) {
        pump();
        taken_.wait(std::chrono::milliseconds(10));
    }
}

void TakePlayer::pump()
{
    while (Block* block = blocks_.free()) {
        fill(*block);
        blocks_.publish();
    }
}

void TakePlayer::fill(Block& block)
{
    Wishes wishes;
    {
        const std::lock_guard lock(mutex_);
        wishes = wishes_;
        wishes_.seek_s.reset();
    }
    block.samples.fill(0.0F);
    const bool changes = wishes.seek_s || wishes.other != playsOther_;
    if (changes) {
        if (playing_) {
            addTo(block, heard(playsOther_), frame_, 1.0F, 0.0F);
        }
        // The place is kept where it only goes over to the other.
        double t_s = static_cast<double>(frame_) / rate();
        if (wishes.seek_s) {
            t_s = wishes.other ? inOther_s_(*wishes.seek_s) : *wishes.seek_s;
        } else {
            t_s = wishes.other ? inOther_s_(t_s) : inFirst_s_(t_s);
        }
        frame_ = static_cast<std::uint64_t>(std::llround(std::max(t_s, 0.0) * rate()));
        seek_ = wishes.seek;
        playsOther_ = wishes.other;
    }
    Track& track = heard(playsOther_);
    addTo(block, track, frame_, changes || !playing_ ? 0.0F : 1.0F, 1.0F);
    playing_ = true;
    block.frame = frame_;
    block.seek = seek_;
    block.other = playsOther_;
    block.beyond = frame_ >= track.take.soundFrames();
    frame_ += blockFrames;
}

std::span<const float> TakePlayer::framesOf(Track& track, std::uint64_t frame) const
{
    const std::size_t n = channels();
    const auto most = static_cast<std::uint64_t>(piece_s * rate());
    const std::uint64_t there = track.piece.size() / n;
    if (frame < track.from || frame + blockFrames > track.from + there) {
        track.piece = track.take.sound(frame, most);
        track.from = frame;
    }
    const std::span<const float> piece(track.piece);
    const std::size_t begin = std::min(static_cast<std::size_t>(frame - track.from) * n, piece.size());
    return piece.subspan(begin, std::min(blockFrames * n, piece.size() - begin));
}

void TakePlayer::addTo(Block& block, Track& track, std::uint64_t frame, float from, float to) const
{
    const std::span<const float> frames = framesOf(track, frame);
    const std::size_t n = channels();
    const float slope = (to - from) / static_cast<float>(blockFrames);
    for (std::size_t i = 0; i < frames.size(); ++i) {
        block.samples[i] += frames[i] * (from + slope * static_cast<float>(i / n));
    }
}

void TakePlayer::render(float* interleaved, std::size_t frames) noexcept
{
    const std::size_t n = channels();
    float* out = interleaved;
    std::size_t left = frames;
    while (left > 0) {
        const Block* block = blocks_.front();
        if (block == nullptr) {
            std::fill_n(out, left * n, 0.0F); // the file was too slow
            break;
        }
        const std::size_t some = std::min(left, blockFrames - offset_);
        std::copy_n(block->samples.data() + offset_ * n, some * n, out);
        out += some * n;
        left -= some;
        offset_ += some;
        over_.store(block->beyond, std::memory_order_release);
        heardSeek_.store(block->seek, std::memory_order_release);
        at_.store((block->frame + offset_) * 2 + (block->other ? 1U : 0U), std::memory_order_release);
        if (offset_ == blockFrames) {
            offset_ = 0;
            blocks_.release();
        }
    }
    limiter_.process(interleaved, frames);
    taken_.wake();
}

} // namespace stone
