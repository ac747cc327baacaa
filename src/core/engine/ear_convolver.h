// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/fft.h"
#include "engine/step_plan.h"

#include <algorithm>
#include <array>
#include <span>
#include <vector>

namespace stone
{

/// What both ears hear over a step, as spectra, by ear. What moves is there as filtered at the step's start and as at its end,
/// which are cross-faded over the step, linearly: the same sound through two filters close to each other.
struct EarSums {
    using Spectra = std::array<std::vector<HeadFilters::Complex>, 2>;

    Spectra still; ///< what sounds alike all through the step
    Spectra from;
    Spectra to;
    bool moves = false; ///< anything is in `from` and `to`

    void resize(std::size_t bins)
    {
        for (Spectra* spectra : {&still, &from, &to}) {
            for (auto& spectrum : *spectra) {
                spectrum.resize(bins);
            }
        }
    }
    void clear() noexcept
    {
        for (Spectra* spectra : {&still, &from, &to}) {
            for (auto& spectrum : *spectra) {
                std::fill(spectrum.begin(), spectrum.end(), HeadFilters::Complex{});
            }
        }
        moves = false;
    }
};

/// Steps of sound to spectra and back as the ears' filters want them, overlap-save: with the steps before as history. For one
/// thread at a time.
class EarTransform
{
public:
    using Complex = HeadFilters::Complex;

    explicit EarTransform(double rate);

    std::size_t bins() const { return spectrum_.size(); }
    /// Frames of history: what the transform has beside a step.
    std::size_t past() const { return past_; }

    /// The spectrum of a step after its history, which then ends with it. Lasts until the next call.
    std::span<const Complex> operator()(float* history, const float* samples) noexcept;
    /// Only that the history ends with a step.
    void remember(float* history, const float* samples) const noexcept;
    /// The step that belongs to a spectrum. Lasts until the next call.
    std::span<const float> back(std::span<const Complex> spectrum) noexcept;

private:
    RealFft fft_;
    std::size_t past_;
    std::vector<Complex> spectrum_;
};

/// Filters voices for the two ears, step by step. Each voice is transformed once for a step and multiplied with its filters,
/// those of the step's start and those of its end; all are summed as spectra, so that it takes no more than four transforms to
/// bring them back (EarBus). Audio thread, except the constructor.
class EarConvolver
{
public:
    explicit EarConvolver(double rate);

    /// Of the sums that it adds to.
    std::size_t bins() const { return transform_.bins(); }

    /// Adds a voice. `fresh`: it has no past. Gains at the start and the end of the step. Its head must be made for the rate.
    void add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to, EarSums& sums) noexcept;

    /// A voice that is silent in this step but goes on: only remembers its samples.
    void skip(std::uint32_t slot, const float* samples) noexcept;

private:
    using Complex = HeadFilters::Complex;

    /// Of a voice in the last step.
    struct Filters {
        HeadFilters::Choice choice;
        std::uint64_t head = 0; ///< id of its set; 0: none yet
    };

    std::span<Complex> kept(std::uint32_t slot, std::size_t ear) noexcept;

    EarTransform transform_;
    std::vector<Complex> left_; ///< filters of the voice that is being added
    std::vector<Complex> right_;
    std::vector<Filters> filters_; ///< by slot
    std::vector<Complex> spectra_; ///< by slot, left and right: those of the last step
    std::vector<float> history_;   ///< by slot
};

} // namespace stone
