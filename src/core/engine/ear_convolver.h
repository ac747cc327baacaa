#pragma once

#include "dsp/all_pass.h"
#include "dsp/fft.h"
#include "engine/step_plan.h"
#include "spatial/panning.h"

#include <span>
#include <vector>

namespace stone
{

/// The binaural part of the mix: filters voices for the two ears, step by step.
///
/// Each voice is transformed once for a step and multiplied with its filters, those of the step's start and those of
/// its end; all voices are summed in the frequency domain and come back together, so that only four inverse transforms
/// are needed however many there are. The two sums are cross-faded over the step: the same sound through two filters
/// close to each other, so linearly. Overlap-save with the steps before as history. Audio thread, except the constructor.
class EarConvolver
{
public:
    using StepSamples = std::array<float, stepFrames>;

    explicit EarConvolver(double rate);

    /// Begins a step: nothing in the sums yet.
    void begin() noexcept;

    /// Adds a voice. `fresh`: it has no past. Gains at the start and the end of the step. Its head must be made for the rate.
    void add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to) noexcept;

    /// A voice that is silent in this step but goes on: only remembers its samples.
    void skip(std::uint32_t slot, const float* samples) noexcept;

    /// Adds what wide sounds share; `channels` are those of BinauralBus, which are made unlike each other in place. Another
    /// head than in the step before is faded to.
    void addBus(const HeadFilters& head, StepSamples* channels) noexcept;

    /// Adds what the ears hear of all this to two channels, which so far hold what goes to the ears as it is: that waits as
    /// long as the filters do, so that a sound which is partly both adds up.
    void finish(StepSamples& left, StepSamples& right) noexcept;

private:
    using Complex = HeadFilters::Complex;
    using Spectrum = std::vector<Complex>;

    /// Of a voice in the last step.
    struct Filters {
        HeadFilters::Choice choice;
        std::uint64_t head = 0; ///< id of its set; 0: none yet
    };
    struct Sums {
        Spectrum left;
        Spectrum right;
    };

    void remember(float* history, const float* samples) const noexcept;
    void transform(float* history, const float* samples) noexcept;
    static void accumulate(std::span<const Complex> x, std::span<const Complex> filter, float gain, Spectrum& sum) noexcept;
    std::span<Complex> kept(std::uint32_t slot, std::size_t ear) noexcept;

    RealFft fft_;
    std::size_t bins_;
    std::size_t wait_; ///< frames by which every filter delays
    std::size_t past_; ///< frames of history: what the transform has beside a step
    Spectrum x_;
    Sums from_;
    Sums to_;
    Sums now_;
    std::vector<Filters> filters_;              ///< by slot
    Spectrum spectra_;                          ///< by slot, left and right: those of the last step
    std::vector<float> history_;                ///< by slot
    std::array<std::vector<float>, 2> waiting_; ///< by ear: what goes there as it is, the last wait_ frames
    std::vector<float> busHistory_;
    std::vector<std::vector<AllPass>> unlike_; ///< by corner
    Spectrum busFilters_;                      ///< by channel, left and right: those of the last step
    std::uint64_t busHead_ = 0;                ///< id of their set
    std::size_t busTail_ = 0;                  ///< steps for which the bus still has something to say
    std::size_t busLasts_;                     ///< how many that is after a sound
};

} // namespace stone
