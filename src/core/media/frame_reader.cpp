// SPDX-License-Identifier: MPL-2.0
#include "media/frame_reader.h"

#include "media/sample_buffer.h"

#include <algorithm>
#include <utility>

namespace stone
{

namespace
{

constexpr std::size_t markEvery = 16'384;
constexpr std::size_t markFrames = 64;
/// How far beside the wanted place a decoder may land.
constexpr std::size_t astray = 4'096;

} // namespace

FrameReader::FrameReader(std::function<std::unique_ptr<SoundDecoder>()> open) : open_(std::move(open)), decoder_(open_())
{
}

void FrameReader::readThrough(const std::function<void(std::span<const float>)>& take)
{
    const std::size_t width = channels();
    // Every chunk but the last is full, so that marks lie at their starts.
    static_assert(chunkFrames == markEvery);
    std::vector<float> chunk(chunkFrames * width);
    std::size_t got = 0;
    do {
        got = 0;
        while (got < chunkFrames) {
            const std::size_t n = decoder_->read(std::span(chunk).subspan(got * width));
            if (n == 0) {
                break;
            }
            got += n;
        }
        if (!decoder_->seeksExactly() && got >= markFrames) {
            marks_.insert(marks_.end(), chunk.begin(), chunk.begin() + static_cast<std::ptrdiff_t>(markFrames * width));
        }
        take(std::span(chunk).first(got * width));
        frames_ += got;
    } while (got == chunkFrames);
    next_ = frames_;
}

bool FrameReader::know(std::size_t frames)
{
    if (decoder_->seeksExactly()) {
        frames_ = frames;
    }
    return decoder_->seeksExactly();
}

void FrameReader::fromTheStart()
{
    decoder_ = open_();
    next_ = 0;
}

void FrameReader::skip(std::size_t frames)
{
    std::vector<float> away(std::min(frames, chunkFrames) * channels());
    while (frames > 0) {
        const std::size_t got = decoder_->read(std::span(away).first(std::min(frames, chunkFrames) * channels()));
        if (got == 0) {
            return;
        }
        frames -= got;
        next_ += got;
    }
}

/// Goes to a mark well before the frame, looks where it really is, and reads on from there. False when that cannot be told.
bool FrameReader::goByMark(std::size_t frame)
{
    const std::size_t width = channels();
    const std::size_t mark = (frame - std::min(frame, 2 * astray + markFrames)) / markEvery;
    if (mark == 0 || (mark + 1) * markFrames * width > marks_.size() || !decoder_->seek(mark * markEvery - astray)) {
        return false;
    }
    std::vector<float> around((2 * astray + markFrames) * width);
    const std::size_t got = decoder_->read(around);
    const auto wanted = std::span(marks_).subspan(mark * markFrames * width, markFrames * width);
    std::size_t found = 0;
    std::size_t times = 0;
    for (std::size_t at = 0; at + markFrames <= got; ++at) {
        if (std::equal(wanted.begin(), wanted.end(), around.begin() + static_cast<std::ptrdiff_t>(at * width))) {
            found = at;
            ++times;
        }
    }
    if (times != 1) {
        return false;
    }
    next_ = mark * markEvery + got - found;
    if (next_ > frame) {
        return false;
    }
    skip(frame - next_);
    return next_ == frame;
}

void FrameReader::goTo(std::size_t frame)
{
    if (frame == next_) {
        return;
    }
    if (decoder_->seeksExactly() && decoder_->seek(frame)) {
        next_ = frame;
        return;
    }
    const bool soon = frame > next_ && frame - next_ < 2 * markEvery;
    if (!soon && !goByMark(frame)) {
        fromTheStart();
    }
    skip(frame - next_);
}

std::size_t FrameReader::read(std::size_t first, std::span<float> interleaved)
{
    goTo(first);
    const std::size_t got = decoder_->read(interleaved);
    next_ += got;
    return got;
}

} // namespace stone
