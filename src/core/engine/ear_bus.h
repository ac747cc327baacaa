// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/all_pass.h"
#include "engine/ear_convolver.h"
#include "spatial/panning.h"

namespace stone
{

/// What both ears hear besides voices of their own: wide sounds and rooms share filters (BinauralBus). Brings all of it back
/// from spectra to sound. Audio thread, except the constructor.
class EarBus
{
public:
    using StepSamples = std::array<float, stepFrames>;

    explicit EarBus(double rate);

    /// Adds what wide sounds share; `channels` are those of BinauralBus, which are made unlike each other in place. Another
    /// head than in the step before is faded to.
    void add(const HeadFilters& head, StepSamples* channels, EarSums& sums) noexcept;

    /// Adds the sums to two channels, which so far hold what goes to the ears as it is: that waits as long as the filters do,
    /// so that a sound which is partly both adds up.
    void finish(const EarSums& sums, StepSamples& left, StepSamples& right) noexcept;

private:
    using Complex = HeadFilters::Complex;

    EarTransform transform_;
    std::size_t wait_;                          ///< frames by which every filter delays
    std::array<std::vector<float>, 2> waiting_; ///< by ear: what goes there as it is, the last wait_ frames
    std::vector<float> history_;
    std::vector<std::vector<AllPass>> unlike_; ///< by corner
    std::vector<Complex> filters_;             ///< by channel, left and right: those of the last step
    std::uint64_t head_ = 0;                   ///< id of their set
    std::size_t tail_ = 0;                     ///< steps for which there is still something to say
    std::size_t lasts_;                        ///< how many that is after a sound
};

} // namespace stone
