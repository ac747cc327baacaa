// SPDX-License-Identifier: MPL-2.0
#include "takes/take_keeper.h"

#include "dsp/decibel.h"
#include "project/write.h"
#include "takes/sound_chunk.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace stone
{

namespace
{

/// So much of a take goes into the file at a time: what is lost when the program is killed.
constexpr double chunk_s = 5.0;
/// Three seconds change slowly, and adding them up takes longer than all else that is done for a moment.
constexpr double shortTermEvery_s = 0.2;

} // namespace

TakeKeeper::TakeKeeper(TakeWriter& writer, const TakeInfo& info, bool keepsSound)
    : writer_(writer), info_(info), keepsSound_(keepsSound), meter_(info.channels, info.rate, true)
{
}

void TakeKeeper::take(DocumentCome&& come)
{
    writer_.addDocument(come.t_s, come.words, projectText(*come.document));
}

void TakeKeeper::take(SoundCome&& sound)
{
    // What came before the take began is not of it.
    const auto channels = static_cast<std::size_t>(info_.channels);
    const auto skip = static_cast<std::size_t>(std::llround(std::max(-sound.t_s, 0.0) * info_.rate));
    const std::size_t frames = sound.frames.size() / channels;
    if (skip >= frames) {
        return;
    }
    std::span<const float> come(sound.frames.data() + skip * channels, (frames - skip) * channels);
    if (heard_ == 0) {
        // And what is missing at its beginning is silence.
        const double gap_s = std::max(sound.t_s, 0.0);
        const std::vector<float> silent(static_cast<std::size_t>(std::llround(gap_s * info_.rate)) * channels, 0.0F);
        hear(silent);
    }
    hear(come);
}

void TakeKeeper::take(TakeCopy&& copy)
{
    copyEmitters_.push_back(copy.emitter);
    copySounds_.push_back(copy.sound);
    writer_.addCopy(copy);
}

void TakeKeeper::take(FilesCome&& come)
{
    soundLevels_[come.sound] = octaveLevels_db(come.files);
}

void TakeKeeper::take(BandsHeard&& heard)
{
    const auto levelsOf = [this](std::uint32_t copy) -> const Bands& { return soundLevels_.at(copySounds_.at(copy)); };
    for (const TakenMasking& masking : masking_.add(heard, levelsOf)) {
        writer_.add(masking);
    }
}

void TakeKeeper::finish()
{
    settle(std::numeric_limits<double>::infinity());
    for (const TakenMasking& masking : masking_.finish(seconds_)) {
        writer_.add(masking);
    }
    flush();
    writer_.finish(seconds_, meter_.integrated_lufs(), meter_.truePeak_db());
}

/// The sound goes on: what was decided for it is complete now.
void TakeKeeper::hear(std::span<const float> frames)
{
    const auto channels = static_cast<std::size_t>(info_.channels);
    // As often as moments may come, so that each has the loudness of its own time.
    const auto slice = static_cast<std::size_t>(takeStep_s / 2.0 * info_.rate) * channels;
    for (std::size_t from = 0; from < frames.size(); from += slice) {
        const std::span<const float> part = frames.subspan(from, std::min(slice, frames.size() - from));
        meter_.add(part);
        for (const float sample : part) {
            peak_ = std::max(peak_, std::abs(sample));
        }
        heard_ += part.size() / channels;
        settle(static_cast<double>(heard_) / info_.rate);
    }
    if (keepsSound_) {
        frames_.insert(frames_.end(), frames.begin(), frames.end());
    }
}

/// Moments up to a time of the sound have their loudness now.
void TakeKeeper::settle(double time_s)
{
    while (!waiting_.empty() && waiting_.front().t_s <= time_s) {
        TakenMoment moment = std::move(waiting_.front());
        waiting_.pop_front();
        moment.momentary_lufs = meter_.momentary_lufs();
        if (moment.t_s >= nextShortTerm_s_) {
            nextShortTerm_s_ = moment.t_s + shortTermEvery_s;
            shortTerm_lufs_ = meter_.shortTerm_lufs();
        }
        moment.shortTerm_lufs = shortTerm_lufs_;
        moment.integrated_lufs = meter_.integrated_lufs();
        moment.peak_db = levelOf(static_cast<double>(peak_));
        peak_ = 0.0F;
        keep(moment);
    }
}

void TakeKeeper::keep(const TakenMoment& moment)
{
    if (encoder_.count() == 0) {
        chunkFrom_s_ = moment.t_s;
    }
    encoder_.add(moment);
    seconds_ = moment.t_s;
    addToBin(moment);
    if (moment.t_s - chunkFrom_s_ >= chunk_s) {
        flush();
    }
}

void TakeKeeper::addToBin(const TakenMoment& moment)
{
    const auto bin = static_cast<std::int64_t>(std::floor(moment.t_s / takeBin_s + 1e-6));
    if (bin != binNumber_) {
        closeBin();
        binNumber_ = bin;
    }
    ++binMoments_;
    bin_.voices = std::max(bin_.voices, moment.voices);
    bin_.gaveWay = std::max(bin_.gaveWay, moment.gaveWay);
    bin_.momentary_lufs = std::max(bin_.momentary_lufs, static_cast<float>(std::max(moment.momentary_lufs, -200.0)));
    std::map<std::uint32_t, double> powers;
    for (const TakenCopy& copy : moment.copies) {
        if (copy.audible) {
            powers[copyEmitters_[copy.copy]] += std::pow(10.0, copy.level_db / 10.0);
        }
    }
    for (const auto& [emitter, power] : powers) {
        auto& [sum, most] = binPowers_[emitter];
        sum += power;
        most = std::max(most, power);
    }
}

void TakeKeeper::closeBin()
{
    if (binMoments_ == 0) {
        return;
    }
    bin_.t_s = static_cast<double>(binNumber_) * takeBin_s;
    const auto inDecibels = [](double power) { return static_cast<float>(10.0 * std::log10(std::max(power, 1e-20))); };
    for (const auto& [emitter, powers] : binPowers_) {
        bin_.emitters.push_back({emitter, inDecibels(powers.first / binMoments_), inDecibels(powers.second)});
    }
    bins_.push_back(std::move(bin_));
    bin_ = {};
    binPowers_.clear();
    binMoments_ = 0;
}

void TakeKeeper::flush()
{
    if (encoder_.count() > 0) {
        writer_.addMoments(chunkFrom_s_, seconds_, encoder_.take());
    }
    closeBin();
    binNumber_ = -1;
    if (!bins_.empty()) {
        writer_.addBins(bins_.front().t_s, bins_);
        bins_.clear();
    }
    if (!frames_.empty()) {
        const std::uint64_t frames = frames_.size() / static_cast<std::size_t>(info_.channels);
        writer_.addSound(frame_, frames, encodeSoundChunk(frames_, info_.channels, info_.rate));
        frame_ += frames;
        frames_.clear();
    }
    writer_.commit();
}

} // namespace stone
