// SPDX-License-Identifier: MPL-2.0
#include "engine/cost.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace stone
{

namespace
{

// Microseconds that a voice and step took where bench_mixing and bench_spatial were measured; only their ratios count.
constexpr double straightRead = 0.35;
constexpr double pitchedRead = 3.8;
constexpr double oneFilter = 0.6;
constexpr double allBands = 8.2;
constexpr double oneEqualiser = 8.0;
constexpr double oneSaturation = 2.5;
constexpr double oneTremolo = 1.5;
constexpr double oneEcho = 3.8;
constexpr double oneOutput = 0.07;
constexpr double throughHead = 7.0;

constexpr float open_hz = 20'000.0F;
constexpr float deep_hz = 20.0F;

} // namespace

const char* nameOf(CostStage stage)
{
    static constexpr const char* names[] = {"deciding", "ordering", "voices", "reflections", "rooms", "ears", "output"};
    return names[static_cast<std::size_t>(stage)];
}

const char* nameOf(Work work)
{
    static constexpr const char* names[] = {"reading",    "filters", "walls and air", "equaliser",
                                            "saturation", "tremolo", "echo",          "placing"};
    return names[static_cast<std::size_t>(work)];
}

double Costs::total_s() const
{
    return std::accumulate(stages_s.begin(), stages_s.end(), 0.0);
}

void WorkTally::add(std::uint32_t playable, const VoiceOrder& order, const Effects& effects)
{
    if (playable >= units_.size()) {
        units_.resize(playable + 1, 0.0);
        voices_.resize(playable + 1, 0.0);
    }
    double all = 0.0;
    const auto spend = [&](Work work, double units) {
        works_[static_cast<std::size_t>(work)] += units;
        all += units;
    };
    spend(Work::reading, order.rate == 1.0 ? straightRead : pitchedRead);
    if (order.lowPass_hz < open_hz || order.highPass_hz > deep_hz) {
        spend(Work::filters, (order.lowPass_hz < open_hz ? oneFilter : 0.0) + (order.highPass_hz > deep_hz ? oneFilter : 0.0));
    }
    if (order.banded) {
        spend(Work::walls, allBands);
    }
    if (effects.any()) {
        spend(Work::equaliser, effects.equaliser.on ? oneEqualiser : 0.0);
        spend(Work::saturation, effects.saturation.on ? oneSaturation : 0.0);
        spend(Work::tremolo, effects.tremolo.on ? oneTremolo : 0.0);
        spend(Work::echo, effects.echo.on ? oneEcho : 0.0);
    }
    int places = order.reflected.slot != noRoom ? 1 : 0;
    for (std::size_t channel = 0; channel < headGain; ++channel) {
        places += order.target[channel] != 0.0F ? 1 : 0;
    }
    for (const VoiceSend& send : order.sends) {
        places += send.slot != noRoom ? 1 : 0;
    }
    spend(Work::placing, oneOutput * places + (order.head != nullptr ? throughHead : 0.0));
    units_[playable] += all;
    voices_[playable] += 1.0;
}

Costs WorkTally::take(std::span<const StageTimes* const> times, double rate, std::span<const SoundId> sounds)
{
    Costs costs;
    costs.span_s = static_cast<double>(steps_ * stepFrames) / rate;
    for (std::size_t stage = 0; stage < costStages; ++stage) {
        double now_s = 0.0;
        for (const StageTimes* one : times) {
            now_s += one->seconds(static_cast<CostStage>(stage));
        }
        costs.stages_s[stage] = now_s - before_s_[stage];
        before_s_[stage] = now_s;
    }
    const double all = std::accumulate(units_.begin(), units_.end(), 0.0);
    if (all > 0.0) {
        const double each_s = costs.of(CostStage::voices) / all;
        for (std::size_t kind = 0; kind < workKinds; ++kind) {
            costs.works_s[kind] = works_[kind] * each_s;
        }
        std::map<SoundId, Costs::OfSound> bySound;
        for (std::size_t playable = 0; playable < units_.size() && playable < sounds.size(); ++playable) {
            if (units_[playable] > 0.0) {
                Costs::OfSound& of = bySound[sounds[playable]];
                of.seconds += units_[playable] * each_s;
                of.voices += voices_[playable] / static_cast<double>(std::max<std::uint64_t>(steps_, 1));
            }
        }
        for (auto& [id, of] : bySound) {
            of.sound = id;
            costs.sounds.push_back(std::move(of));
        }
    }
    forget();
    steps_ = 0;
    return costs;
}

void WorkTally::forget()
{
    std::fill(units_.begin(), units_.end(), 0.0);
    std::fill(voices_.begin(), voices_.end(), 0.0);
    works_.fill(0.0);
}

} // namespace stone
