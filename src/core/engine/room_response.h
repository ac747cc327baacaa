// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/uniform_convolver.h"
#include "media/sample_buffer.h"

#include <memory>
#include <span>
#include <vector>

namespace stone
{

/// An impulse response as rooms are convolved with it: spectra for each output. Files of fewer channels than four get as many
/// outputs all the same, so that they surround: those beyond their channels are alike in spectrum and decay and unlike in
/// course. Immutable. Making one costs some milliseconds for each second of it.
class RoomResponse
{
public:
    /// It is cut off after this.
    static constexpr double longest_s = 12.0;
    static constexpr std::size_t corners = 4;
    static constexpr std::size_t mostOutputs = 8;

    /// Of a decoded sound.
    explicit RoomResponse(SharedBuffer buffer);
    /// The same, made once for as long as anybody has it. Null for null. Any thread but the audio thread.
    static std::shared_ptr<const RoomResponse> of(const SharedBuffer& buffer);

    /// As the file has them, at most mostOutputs.
    std::size_t channels() const { return channels_; }
    /// The channels first.
    std::span<const UniformConvolver::Response> outputs() const { return outputs_; }
    /// How loudly an output answers: the square of its gain on the average of the octave at 1 kHz, where rooms' levels are
    /// reckoned. Of what has next to nothing there, a hundredth of what it has on the average.
    double power(std::size_t output) const { return powers_[output]; }
    double seconds() const { return seconds_; }

private:
    SharedBuffer buffer_;
    std::size_t channels_;
    std::vector<UniformConvolver::Response> outputs_;
    std::vector<double> powers_;
    double seconds_;
};

using SharedResponse = std::shared_ptr<const RoomResponse>;

} // namespace stone
