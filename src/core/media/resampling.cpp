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
}

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
    if (const int error = src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1); error != 0) {
        throw FileError(std::string("a sound cannot be resampled (") + src_strerror(error) +
                        "); convert it to the engine's rate");
    }
    const std::size_t skip = change.context() / change.unitFrom() * change.unitTo();
    out.resize(std::max(out.size(), skip + wanted), 0.0F);
    const auto first = out.begin() + static_cast<std::ptrdiff_t>(skip);
    return {first, first + static_cast<std::ptrdiff_t>(wanted)};
}

} // namespace stone
