// SPDX-License-Identifier: MPL-2.0
#include "engine/ear_convolver.h"

#include "dsp/spectrum.h"

#include <algorithm>

namespace stone
{

EarTransform::EarTransform(double rate)
    : fft_(HeadFilters::fftSizeAt(rate)), past_(fft_.samples().size() - stepFrames), spectrum_(fft_.bins().size())
{
}

void EarTransform::remember(float* history, const float* samples) const noexcept
{
    std::copy(history + stepFrames, history + past_, history);
    std::copy_n(samples, stepFrames, history + past_ - stepFrames);
}

std::span<const EarTransform::Complex> EarTransform::operator()(float* history, const float* samples) noexcept
{
    auto in = fft_.samples();
    std::copy_n(history, past_, in.begin());
    std::copy_n(samples, stepFrames, in.begin() + static_cast<std::ptrdiff_t>(past_));
    remember(history, samples);
    fft_.forward();
    std::copy(fft_.bins().begin(), fft_.bins().end(), spectrum_.begin());
    return spectrum_;
}

std::span<const float> EarTransform::back(std::span<const Complex> spectrum) noexcept
{
    std::copy(spectrum.begin(), spectrum.end(), fft_.bins().begin());
    fft_.inverse();
    return fft_.samples().subspan(past_);
}

EarConvolver::EarConvolver(double rate)
    : transform_(rate), left_(transform_.bins()), right_(transform_.bins()), filters_(mostVoices),
      spectra_(2 * mostVoices * transform_.bins()), history_(mostVoices * transform_.past())
{
}

std::span<HeadFilters::Complex> EarConvolver::kept(std::uint32_t slot, std::size_t ear) noexcept
{
    return std::span(spectra_).subspan((2 * std::size_t{slot} + ear) * transform_.bins(), transform_.bins());
}

void EarConvolver::add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to, EarSums& sums) noexcept
{
    Filters& before = filters_[order.slot];
    float* history = history_.data() + order.slot * transform_.past();
    const auto left = kept(order.slot, 0);
    const auto right = kept(order.slot, 1);
    if (fresh) {
        std::fill_n(history, transform_.past(), 0.0F);
        before.head = 0;
    }
    const bool same = before.head == order.head->id() && before.choice == order.choice;
    if (!same) {
        order.head->compose(order.choice, left_, right_);
        if (before.head == 0) {
            std::copy(left_.begin(), left_.end(), left.begin());
            std::copy(right_.begin(), right_.end(), right.begin());
        }
    }
    const std::span<const Complex> x = transform_(history, samples);
    if (same && from == to) {
        addFiltered(sums.still[0], x, left, to);
        addFiltered(sums.still[1], x, right, to);
        return;
    }
    sums.moves = true;
    addFiltered(sums.from[0], x, left, from);
    addFiltered(sums.from[1], x, right, from);
    addFiltered(sums.to[0], x, same ? left : std::span(left_), to);
    addFiltered(sums.to[1], x, same ? right : std::span(right_), to);
    if (!same) {
        std::copy(left_.begin(), left_.end(), left.begin());
        std::copy(right_.begin(), right_.end(), right.begin());
        before = {order.choice, order.head->id()};
    }
}

void EarConvolver::skip(std::uint32_t slot, const float* samples) noexcept
{
    transform_.remember(history_.data() + slot * transform_.past(), samples);
    filters_[slot].head = 0;
}

} // namespace stone
