// SPDX-License-Identifier: MPL-2.0
#include "engine/room_response.h"

#include "dsp/fft.h"

#include <algorithm>
#include <array>
#include <bit>
#include <complex>
#include <map>
#include <mutex>

namespace stone
{

namespace
{

/// Makes a response that is alike in its spectrum and its decay, and unlike in its course: through three all-passes of some
/// milliseconds, others for each output (M. R. Schroeder, JAES 10, 1962).
void scatter(std::span<float> response, std::size_t output, double rate)
{
    constexpr float gain = 0.55F;
    constexpr std::array<double, 3> lengths_s{0.0031, 0.0047, 0.0083};
    for (const double length_s : lengths_s) {
        std::vector<float> line(static_cast<std::size_t>(length_s * (1.0 + 0.23 * static_cast<double>(output)) * rate) | 1U);
        std::size_t at = 0;
        for (float& sample : response) {
            const float out = line[at] - gain * sample;
            line[at] = sample + gain * out;
            sample = out;
            at = at + 1 == line.size() ? 0 : at + 1;
        }
    }
}

/// See RoomResponse::power().
double powerAt1kHz(std::span<const float> response, double rate)
{
    constexpr double from_hz = 707.0;
    constexpr double to_hz = 1'414.0;
    RealFft fft(std::bit_ceil(std::max<std::size_t>(response.size(), 2)));
    std::copy(response.begin(), response.end(), fft.samples().begin());
    std::fill(fft.samples().begin() + static_cast<std::ptrdiff_t>(response.size()), fft.samples().end(), 0.0F);
    double energy = 0.0;
    for (const float sample : response) {
        energy += static_cast<double>(sample) * static_cast<double>(sample);
    }
    const double perBin_hz = rate / static_cast<double>(fft.samples().size());
    fft.forward();
    const auto first = static_cast<std::size_t>(from_hz / perBin_hz);
    const auto last = std::min(static_cast<std::size_t>(to_hz / perBin_hz) + 1, fft.bins().size() - 1);
    double power = 0.0;
    for (std::size_t bin = first; bin <= last; ++bin) {
        power += std::norm(std::complex<double>(fft.bins()[bin]));
    }
    return std::max(power / static_cast<double>(last - first + 1), energy / 100.0);
}

} // namespace

RoomResponse::RoomResponse(SharedBuffer buffer)
    : buffer_(std::move(buffer)), channels_(std::min(buffer_->channelCount(), mostOutputs))
{
    const auto most = static_cast<std::size_t>(longest_s * buffer_->rate);
    std::vector<float> samples(std::min(buffer_->frames(), most));
    for (std::size_t output = 0; output < std::max(channels_, corners); ++output) {
        buffer_->read(output % channels_, 0, samples);
        if (output >= channels_) {
            scatter(samples, output, buffer_->rate);
        }
        outputs_.emplace_back(samples);
        powers_.push_back(powerAt1kHz(samples, buffer_->rate));
    }
    seconds_ = static_cast<double>(samples.size()) / buffer_->rate;
}

std::shared_ptr<const RoomResponse> RoomResponse::of(const SharedBuffer& buffer)
{
    static std::mutex mutex;
    static std::map<const SampleBuffer*, std::weak_ptr<const RoomResponse>> made;
    if (!buffer) {
        return nullptr;
    }
    const std::lock_guard lock(mutex);
    // One that is still held keeps its sound, so that nothing else can lie there.
    std::erase_if(made, [](const auto& entry) { return entry.second.expired(); });
    std::weak_ptr<const RoomResponse>& known = made[buffer.get()];
    auto response = known.lock();
    if (!response) {
        response = std::make_shared<const RoomResponse>(buffer);
        known = response;
    }
    return response;
}

} // namespace stone
