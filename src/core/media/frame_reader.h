// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sound_decoder.h"

#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace stone
{

/// Reads any frames of a sound file, exactly. Formats whose decoder cannot be trusted to go to a place (libsndfile lands up
/// to some hundred frames beside it in Ogg, and what it gives first is not yet settled) are found by what was there: on the
/// first pass a few frames are remembered every so often. For one thread at a time.
class FrameReader
{
public:
    /// `open` gives a decoder that stands at the start, each time anew.
    explicit FrameReader(std::function<std::unique_ptr<SoundDecoder>()> open);

    int rate() const { return decoder_->rate(); }
    std::size_t channels() const { return decoder_->channels(); }

    /// Reads everything once, from start to end. Before any read().
    void readThrough(const std::function<void(std::span<const float>)>& take);
    /// In place of readThrough(), by who knows how many frames there are: true when this format can do without.
    bool know(std::size_t frames);
    /// How many frames there are; known after readThrough().
    std::size_t frames() const { return frames_; }

    /// Whole frames from a place on, channels interleaved. Returns how many there were.
    std::size_t read(std::size_t first, std::span<float> interleaved);

private:
    void goTo(std::size_t frame);
    bool goByMark(std::size_t frame);
    void fromTheStart();
    void skip(std::size_t frames);

    std::function<std::unique_ptr<SoundDecoder>()> open_;
    std::unique_ptr<SoundDecoder> decoder_;
    std::size_t frames_ = 0;
    std::size_t next_ = 0;     ///< frame at which the decoder stands
    std::vector<float> marks_; ///< markFrames frames every markEvery
};

} // namespace stone
