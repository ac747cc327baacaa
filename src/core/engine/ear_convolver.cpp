#include "engine/ear_convolver.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// What makes the corners of the bus unlike each other: delays of all-passes, milliseconds. Found by a search among random ones
/// for the set with which, in every octave band, one signal from any cap of the sphere comes to both ears with the power of a
/// point, within a decibel or so.
constexpr std::array<std::array<double, 4>, BinauralBus::speakers> unlike_ms{{{2.31, 1.42, 2.51, 5.90},
                                                                              {3.10, 4.36, 5.09, 1.48},
                                                                              {1.79, 5.32, 4.55, 1.74},
                                                                              {2.82, 5.43, 1.86, 2.53},
                                                                              {1.63, 3.01, 2.94, 4.45},
                                                                              {4.68, 1.83, 3.27, 5.90},
                                                                              {3.29, 5.85, 2.21, 4.67},
                                                                              {1.55, 4.11, 3.44, 1.31},
                                                                              {1.51, 5.06, 3.91, 1.84},
                                                                              {1.91, 4.79, 4.44, 5.28},
                                                                              {1.51, 1.65, 5.93, 3.78},
                                                                              {1.58, 5.29, 1.66, 5.56}}};
constexpr float unlikeness = 0.6F;
/// By then what the all-passes still give is inaudible: -100 dB.
constexpr double unlikeTail_s = 0.15;

} // namespace

EarConvolver::EarConvolver(double rate)
    : fft_(HeadFilters::fftSizeAt(rate)), bins_(fft_.bins().size()), wait_(HeadFilters::baseFrames(rate)),
      past_(fft_.samples().size() - stepFrames),
      x_(bins_), from_{Spectrum(bins_), Spectrum(bins_)}, to_{Spectrum(bins_), Spectrum(bins_)}, now_{Spectrum(bins_),
                                                                                                      Spectrum(bins_)},
      filters_(mostVoices), spectra_(2 * mostVoices * bins_), history_(mostVoices * past_),
      busHistory_(BinauralBus::channels * past_), busFilters_(2 * BinauralBus::channels * bins_),
      busLasts_(static_cast<std::size_t>(unlikeTail_s * rate) / stepFrames + past_ / stepFrames + 1)
{
    for (std::vector<float>& waiting : waiting_) {
        waiting.resize(wait_ + stepFrames);
    }
    for (const auto& delays_ms : unlike_ms) {
        unlike_.emplace_back();
        for (const double delay_ms : delays_ms) {
            unlike_.back().emplace_back(static_cast<std::size_t>(std::lround(delay_ms * 1e-3 * rate)), unlikeness);
        }
    }
}

std::span<HeadFilters::Complex> EarConvolver::kept(std::uint32_t slot, std::size_t ear) noexcept
{
    return std::span(spectra_).subspan((2 * slot + ear) * bins_, bins_);
}

void EarConvolver::begin() noexcept
{
    for (Sums* sums : {&from_, &to_}) {
        std::fill(sums->left.begin(), sums->left.end(), Complex{});
        std::fill(sums->right.begin(), sums->right.end(), Complex{});
    }
}

void EarConvolver::remember(float* history, const float* samples) const noexcept
{
    std::copy(history + stepFrames, history + past_, history);
    std::copy_n(samples, stepFrames, history + past_ - stepFrames);
}

void EarConvolver::transform(float* history, const float* samples) noexcept
{
    auto in = fft_.samples();
    std::copy_n(history, past_, in.begin());
    std::copy_n(samples, stepFrames, in.begin() + static_cast<std::ptrdiff_t>(past_));
    remember(history, samples);
    fft_.forward();
    std::copy(fft_.bins().begin(), fft_.bins().end(), x_.begin());
}

void EarConvolver::accumulate(std::span<const Complex> x, std::span<const Complex> filter, float gain, Spectrum& sum) noexcept
{
    // As plain floats: std::complex checks for infinities at each product.
    const auto* a = reinterpret_cast<const float*>(x.data());
    const auto* b = reinterpret_cast<const float*>(filter.data());
    auto* s = reinterpret_cast<float*>(sum.data());
    const std::size_t count = 2 * x.size();
    for (std::size_t i = 0; i < count; i += 2) {
        s[i] += gain * (a[i] * b[i] - a[i + 1] * b[i + 1]);
        s[i + 1] += gain * (a[i] * b[i + 1] + a[i + 1] * b[i]);
    }
}

void EarConvolver::add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to) noexcept
{
    Filters& before = filters_[order.slot];
    float* history = history_.data() + order.slot * past_;
    const auto left = kept(order.slot, 0);
    const auto right = kept(order.slot, 1);
    if (fresh) {
        std::fill_n(history, past_, 0.0F);
        before.head = 0;
    }
    const bool same = before.head == order.head->id() && before.choice == order.choice;
    if (!same) {
        order.head->compose(order.choice, now_.left, now_.right);
        if (before.head == 0) {
            std::copy(now_.left.begin(), now_.left.end(), left.begin());
            std::copy(now_.right.begin(), now_.right.end(), right.begin());
        }
    }
    transform(history, samples);
    accumulate(x_, left, from, from_.left);
    accumulate(x_, right, from, from_.right);
    accumulate(x_, same ? left : std::span<const Complex>(now_.left), to, to_.left);
    accumulate(x_, same ? right : std::span<const Complex>(now_.right), to, to_.right);
    if (!same) {
        std::copy(now_.left.begin(), now_.left.end(), left.begin());
        std::copy(now_.right.begin(), now_.right.end(), right.begin());
        before = {order.choice, order.head->id()};
    }
}

void EarConvolver::skip(std::uint32_t slot, const float* samples) noexcept
{
    remember(history_.data() + slot * past_, samples);
    filters_[slot].head = 0;
}

void EarConvolver::addBus(const HeadFilters& head, StepSamples* channels) noexcept
{
    const auto sounds = [](const StepSamples& channel) {
        return std::any_of(channel.begin(), channel.end(), [](float x) { return x != 0.0F; });
    };
    if (std::any_of(channels, channels + BinauralBus::channels, sounds)) {
        busTail_ = busLasts_;
    }
    if (busTail_ == 0) {
        return;
    }
    --busTail_;
    const bool first = busHead_ == 0;
    const bool another = busHead_ != head.id();
    busHead_ = head.id();
    for (std::size_t channel = 0; channel < BinauralBus::channels; ++channel) {
        if (channel < unlike_.size()) {
            for (AllPass& allPass : unlike_[channel]) {
                allPass.process(channels[channel]);
            }
        }
        transform(busHistory_.data() + channel * past_, channels[channel].data());
        for (std::size_t ear = 0; ear < 2; ++ear) {
            const auto filter = std::span(busFilters_).subspan((2 * channel + ear) * bins_, bins_);
            const auto now = ear == 0 ? head.busLeft(channel) : head.busRight(channel);
            if (first) {
                std::copy(now.begin(), now.end(), filter.begin());
            }
            accumulate(x_, filter, 1.0F, ear == 0 ? from_.left : from_.right);
            if (another) {
                std::copy(now.begin(), now.end(), filter.begin());
            }
            accumulate(x_, filter, 1.0F, ear == 0 ? to_.left : to_.right);
        }
    }
}

void EarConvolver::finish(StepSamples& left, StepSamples& right) noexcept
{
    for (std::size_t ear = 0; ear < 2; ++ear) {
        StepSamples& direct = ear == 0 ? left : right;
        std::vector<float>& waiting = waiting_[ear];
        std::copy(direct.begin(), direct.end(), waiting.begin() + static_cast<std::ptrdiff_t>(wait_));
        std::copy_n(waiting.begin(), stepFrames, direct.begin());
        std::copy(waiting.end() - static_cast<std::ptrdiff_t>(wait_), waiting.end(), waiting.begin());
    }
    const auto addFaded = [this](const Spectrum& spectrum, StepSamples& out, float first, float slope) {
        std::copy(spectrum.begin(), spectrum.end(), fft_.bins().begin());
        fft_.inverse();
        const float* y = fft_.samples().data() + past_;
        for (std::size_t i = 0; i < stepFrames; ++i) {
            out[i] += y[i] * (first + slope * static_cast<float>(static_cast<int>(i)));
        }
    };
    constexpr float slope = 1.0F / static_cast<float>(stepFrames);
    addFaded(from_.left, left, 1.0F, -slope);
    addFaded(from_.right, right, 1.0F, -slope);
    addFaded(to_.left, left, 0.0F, slope);
    addFaded(to_.right, right, 0.0F, slope);
}

} // namespace stone
