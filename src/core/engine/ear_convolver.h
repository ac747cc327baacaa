#pragma once

#include "dsp/fft.h"
#include "engine/step_plan.h"

#include <vector>

namespace stone
{

/// The binaural part of the mix: filters voices for the two ears, step by step.
///
/// Each voice is transformed once for a step and multiplied with its filters, those of the step's start and those of
/// its end; all voices are summed in the frequency domain and come back together, so that only four inverse transforms
/// are needed however many there are. The two sums are cross-faded over the step: the same sound through two filters
/// close to each other, so linearly. Overlap-save with the step before as history. Audio thread, except the constructor.
class EarConvolver
{
public:
    using StepSamples = std::array<float, stepFrames>;

    EarConvolver();

    /// Begins a step: nothing in the sums yet.
    void begin() noexcept;

    /// Adds a voice. `fresh`: it has no past. Gains at the start and the end of the step.
    void add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to) noexcept;

    /// A voice that is silent in this step but goes on: only remembers its samples.
    void skip(std::uint32_t slot, const float* samples) noexcept;

    /// Adds the virtual loudspeakers that wide sounds go through; `channels` are those of BinauralBus.
    void addBus(const HeadFilters& head, const StepSamples* channels) noexcept;

    /// Adds what the ears hear of all this to two channels.
    void finish(StepSamples& left, StepSamples& right) noexcept;

private:
    using Spectrum = HeadFilters::Spectrum;

    struct Filters {
        HeadFilters::Choice choice;
        std::uint64_t head = 0; ///< id of its set; 0: none yet
        Spectrum left;
        Spectrum right;
    };
    struct Sums {
        Spectrum left;
        Spectrum right;
    };

    void transform(StepSamples& history, const float* samples) noexcept;
    static void accumulate(const Spectrum& x, const Spectrum& filter, float gain, Spectrum& sum) noexcept;

    RealFft fft_;
    Spectrum x_{};
    Sums from_;
    Sums to_;
    Filters now_;
    std::vector<Filters> filters_;     ///< by slot: those of the last step
    std::vector<StepSamples> history_; ///< by slot
    std::vector<StepSamples> busHistory_;
    std::vector<Filters> busFilters_;
    std::size_t busTail_ = 0; ///< steps for which the bus still has something to say
};

} // namespace stone
