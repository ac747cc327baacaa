// SPDX-License-Identifier: MPL-2.0
#include "media/resampling.h"

#include "project/file_error.h"

#include <samplerate.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <string>

namespace stone
{

namespace
{

constexpr std::size_t contextFrames = 512;

/// Throws FileError where libsamplerate says that something is wrong.
void check(int error)
{
    if (error != 0) {
        throw FileError(std::string("a sound cannot be resampled (") + src_strerror(error) +
                        "); convert it to the engine's rate");
    }
}

} // namespace

std::size_t RateChange::unitFrom() const
{
    return static_cast<std::size_t>(from / std::gcd(from, to));
}

std::size_t RateChange::unitTo() const
{
    return static_cast<std::size_t>(to / std::gcd(from, to));
}

std::size_t RateChange::context() const
{
    return unitFrom() * (1 + contextFrames / unitFrom());
}

std::size_t RateChange::framesOf(std::size_t frames) const
{
    return static_cast<std::size_t>(std::max<long>(1, std::lround(static_cast<double>(frames) * to / from)));
}

std::vector<float> resample(std::span<const float> padded, const RateChange& change, std::size_t wanted)
{
    const double ratio = static_cast<double>(change.to) / change.from;
    std::vector<float> out(static_cast<std::size_t>(std::ceil(static_cast<double>(padded.size()) * ratio)) + 16, 0.0F);
    SRC_DATA data{};
    data.data_in = padded.data();
    data.input_frames = static_cast<long>(padded.size());
    data.data_out = out.data();
    data.output_frames = static_cast<long>(out.size());
    data.src_ratio = ratio;
    check(src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1));
    const std::size_t skip = change.context() / change.unitFrom() * change.unitTo();
    out.resize(std::max(out.size(), skip + wanted), 0.0F);
    const auto first = out.begin() + static_cast<std::ptrdiff_t>(skip);
    return {first, first + static_cast<std::ptrdiff_t>(wanted)};
}

void Thinning::Free::operator()(SRC_STATE_tag* state) const
{
    src_delete(state);
}

Thinning::Thinning(std::size_t channels, std::size_t oneOf) : channels_(channels), oneOf_(oneOf)
{
    int error = 0;
    state_.reset(src_new(SRC_SINC_BEST_QUALITY, static_cast<int>(channels), &error));
    check(error);
}

std::span<const float> Thinning::add(std::span<const float> interleaved, bool last)
{
    const std::size_t frames = interleaved.size() / channels_;
    // What was waiting for its other side comes out with it.
    out_.resize((frames / oneOf_ + 2 * context) * channels_);
    SRC_DATA data{};
    data.data_in = interleaved.data();
    data.input_frames = static_cast<long>(frames);
    data.data_out = out_.data();
    data.output_frames = static_cast<long>(out_.size() / channels_);
    data.src_ratio = 1.0 / static_cast<double>(oneOf_);
    data.end_of_input = last ? 1 : 0;
    std::size_t done = 0;
    std::size_t made = 0;
    do {
        check(src_process(state_.get(), &data));
        done += static_cast<std::size_t>(data.input_frames_used);
        made += static_cast<std::size_t>(data.output_frames_gen);
        data.data_in = interleaved.data() + done * channels_;
        data.input_frames = static_cast<long>(frames - done);
        data.data_out = out_.data() + made * channels_;
        data.output_frames = static_cast<long>(out_.size() / channels_ - made);
    } while (done < frames && (data.input_frames_used > 0 || data.output_frames_gen > 0));
    return std::span<const float>(out_).first(made * channels_);
}

} // namespace stone
