#include "engine/ear_convolver.h"

#include "spatial/panning.h"

#include <algorithm>

namespace stone
{

static_assert(HeadFilters::fftSize == 2 * stepFrames, "overlap-save with one step of history");

EarConvolver::EarConvolver()
    : fft_(HeadFilters::fftSize), filters_(mostVoices), history_(mostVoices), busHistory_(BinauralBus::speakers),
      busFilters_(BinauralBus::speakers)
{
}

void EarConvolver::begin() noexcept
{
    for (Sums* sums : {&from_, &to_}) {
        sums->left.fill({});
        sums->right.fill({});
    }
}

void EarConvolver::transform(StepSamples& history, const float* samples) noexcept
{
    auto in = fft_.samples();
    std::copy(history.begin(), history.end(), in.begin());
    std::copy_n(samples, stepFrames, in.begin() + stepFrames);
    std::copy_n(samples, stepFrames, history.begin());
    fft_.forward();
    std::copy(fft_.bins().begin(), fft_.bins().end(), x_.begin());
}

void EarConvolver::accumulate(const Spectrum& x, const Spectrum& filter, float gain, Spectrum& sum) noexcept
{
    // As plain floats: std::complex checks for infinities at each product.
    const auto* a = reinterpret_cast<const float*>(x.data());
    const auto* b = reinterpret_cast<const float*>(filter.data());
    auto* s = reinterpret_cast<float*>(sum.data());
    for (std::size_t i = 0; i < 2 * HeadFilters::bins; i += 2) {
        s[i] += gain * (a[i] * b[i] - a[i + 1] * b[i + 1]);
        s[i + 1] += gain * (a[i] * b[i + 1] + a[i + 1] * b[i]);
    }
}

void EarConvolver::add(const VoiceOrder& order, bool fresh, const float* samples, float from, float to) noexcept
{
    Filters& before = filters_[order.slot];
    StepSamples& history = history_[order.slot];
    if (fresh) {
        history.fill(0.0F);
        before.head = 0;
    }
    const bool same = before.head == order.head->id() && before.choice == order.choice;
    if (!same) {
        now_.choice = order.choice;
        now_.head = order.head->id();
        order.head->compose(order.choice, now_.left, now_.right);
        if (before.head == 0) {
            before = now_;
        }
    }
    const Filters& after = same ? before : now_;
    transform(history, samples);
    accumulate(x_, before.left, from, from_.left);
    accumulate(x_, before.right, from, from_.right);
    accumulate(x_, after.left, to, to_.left);
    accumulate(x_, after.right, to, to_.right);
    if (!same) {
        before = now_;
    }
}

void EarConvolver::skip(std::uint32_t slot, const float* samples) noexcept
{
    std::copy_n(samples, stepFrames, history_[slot].begin());
    filters_[slot].head = 0;
}

void EarConvolver::addBus(const HeadFilters& head, const StepSamples* channels) noexcept
{
    const auto sounds = [](const StepSamples& channel) {
        return std::any_of(channel.begin(), channel.end(), [](float x) { return x != 0.0F; });
    };
    if (std::any_of(channels, channels + BinauralBus::speakers, sounds)) {
        busTail_ = 2;
    }
    if (busTail_ == 0) {
        return;
    }
    --busTail_;
    for (std::size_t corner = 0; corner < BinauralBus::speakers; ++corner) {
        Filters& filters = busFilters_[corner];
        if (filters.head != head.id()) {
            const Speaker& speaker = BinauralBus::directions()[corner];
            filters.choice = head.choose(unitOf(speaker.azimuth_deg, speaker.elevation_deg));
            filters.head = head.id();
            head.compose(filters.choice, filters.left, filters.right);
        }
        transform(busHistory_[corner], channels[corner].data());
        for (Sums* sums : {&from_, &to_}) {
            accumulate(x_, filters.left, 1.0F, sums->left);
            accumulate(x_, filters.right, 1.0F, sums->right);
        }
    }
}

void EarConvolver::finish(StepSamples& left, StepSamples& right) noexcept
{
    const auto addFaded = [this](const Spectrum& spectrum, StepSamples& out, float first, float slope) {
        std::copy(spectrum.begin(), spectrum.end(), fft_.bins().begin());
        fft_.inverse();
        const float* y = fft_.samples().data() + stepFrames;
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
