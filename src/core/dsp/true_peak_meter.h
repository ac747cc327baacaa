// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// The highest value that a sound reaches between its samples: four-fold oversampling by the filter of ITU-R BS.1770-4,
/// annex 2. May allocate: not for the audio thread.
class TruePeakMeter
{
public:
    explicit TruePeakMeter(std::size_t channels) : channels_(channels), before_(channels) {}

    /// Whole frames, channels interleaved.
    void add(std::span<const float> interleaved);
    /// Since the start; 1 is full scale.
    double peak() const { return peak_; }

    static constexpr std::size_t taps = 12;

private:
    static constexpr std::size_t stretch = 512; ///< frames looked at together

    std::size_t channels_;
    std::vector<std::array<float, taps - 1>> before_; ///< the last samples of each channel
    double peak_ = 0.0;
};

} // namespace stone
