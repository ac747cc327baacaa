// SPDX-License-Identifier: MPL-2.0
#include "dsp/loudness_meter.h"

#include "dsp/decibel.h"
#include "dsp/true_peak_meter.h"

#include <ebur128.h>

#include <new>
#include <optional>

namespace stone
{

struct LoudnessMeter::State {
    ebur128_state* meter = nullptr;
    std::size_t channels = 0;
    std::optional<TruePeakMeter> peaks; ///< the library's takes thirty times as long
};

LoudnessMeter::LoudnessMeter(int channels, int rate, bool peaks) : state_(std::make_unique<State>())
{
    state_->channels = static_cast<std::size_t>(channels);
    state_->meter = ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(rate),
                                 EBUR128_MODE_S | EBUR128_MODE_I | EBUR128_MODE_HISTOGRAM);
    if (state_->meter == nullptr) {
        throw std::bad_alloc();
    }
    if (peaks) {
        state_->peaks.emplace(state_->channels);
    }
}

LoudnessMeter::~LoudnessMeter()
{
    ebur128_destroy(&state_->meter);
}

void LoudnessMeter::add(std::span<const float> interleaved)
{
    ebur128_add_frames_float(state_->meter, interleaved.data(), interleaved.size() / state_->channels);
    if (state_->peaks) {
        state_->peaks->add(interleaved);
    }
}

namespace
{

template <class Ask> double ask(ebur128_state* meter, Ask question)
{
    double lufs = silence_db;
    return question(meter, &lufs) == EBUR128_SUCCESS ? lufs : silence_db;
}

} // namespace

double LoudnessMeter::momentary_lufs() const
{
    return ask(state_->meter, ebur128_loudness_momentary);
}

double LoudnessMeter::shortTerm_lufs() const
{
    return ask(state_->meter, ebur128_loudness_shortterm);
}

double LoudnessMeter::integrated_lufs() const
{
    return ask(state_->meter, ebur128_loudness_global);
}

double LoudnessMeter::truePeak_db() const
{
    return levelOf(state_->peaks ? state_->peaks->peak() : 0.0);
}

} // namespace stone
