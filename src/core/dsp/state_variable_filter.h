// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <span>

namespace stone
{

/// Pressure gain at a frequency of the analogue Butterworth filters of second order (12 dB per octave, -3 dB at the
/// cut-off).
double butterworthLowPass(double frequency_hz, double cutoff_hz);
double butterworthHighPass(double frequency_hz, double cutoff_hz);

/// A second-order Butterworth low-pass or high-pass that stays stable and quiet while its cut-off moves: a state-variable
/// filter by trapezoidal integration (Zavalishin, "The Art of VA Filter Design", 2012, ch. 4). Its response at rest is
/// that of the Audio EQ Cookbook's filters at Q = 1/sqrt(2). Audio thread.
class StateVariableFilter
{
public:
    enum class Kind { lowPass, highPass };

    /// Filters in place; the cut-off glides from one to the other over the block, evenly in octaves, in sub-blocks of
    /// 32 frames. Cut-offs are held to 10 Hz up to 0.49 of the rate.
    void process(Kind kind, std::span<float> samples, double from_hz, double to_hz, double rate);

    void reset() { first_ = second_ = 0.0F; }

private:
    float first_ = 0.0F;
    float second_ = 0.0F;
};

} // namespace stone
