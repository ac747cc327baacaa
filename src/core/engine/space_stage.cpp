// SPDX-License-Identifier: MPL-2.0
#include "engine/space_stage.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// By then reflections that nobody orders any more have faded; see EchoTaps.
constexpr double echoFade_s = 0.267;
/// The mean square of a room's lines below which it is silent: -140 dB.
constexpr float silent = 1e-14F;

} // namespace

SpaceStage::SpaceStage(Layout layout, int rate, Containment& contained)
    : rate_(rate), echoFadeSteps_(stepsIn(echoFade_s, rate)),
      channels_(layout == Layout::binaural ? BinauralBus::first + BinauralBus::channels : channelsOf(layout)),
      contained_(contained), ears_(layout == Layout::binaural ? std::make_unique<EarBus>(rate) : nullptr)
{
}

void SpaceStage::accept(const RoomOrder& order) noexcept
{
    Room& room = rooms_[order.slot];
    if (!room.active || room.order.generation != order.generation) {
        // It comes up from silence, whatever is in the doorway.
        room.around = {};
        room.window = {};
        room.bands.reset();
        room.quiet = 0;
        room.active = true;
        room.fresh = true;
    }
    room.order = order;
    for (ChannelGains& gains : room.order.around) {
        keepFinite(gains);
    }
    keepFinite(room.order.window);
    room.planned = true;
}

void SpaceStage::accept(const EchoOrder& order) noexcept
{
    echoes_[order.slot].order = order;
    echoes_[order.slot].idle = 0;
}

void SpaceStage::begin(const StepMix& mix) noexcept
{
    for (Room& room : rooms_) {
        room.planned = false;
    }
    if (mix.planned) {
        for (const RoomOrder& order : mix.roomOrders) {
            accept(order);
        }
        for (Echo& echo : echoes_) {
            echo.order.count = 0;
            echo.idle = std::max<std::size_t>(echo.idle, 1);
        }
        for (const EchoOrder& order : mix.echoOrders) {
            accept(order);
        }
    }
    // What is not ordered any more goes on fading, whether the next plan is late or not.
    for (Echo& echo : echoes_) {
        if (echo.idle > 0 && ++echo.idle > echoFadeSteps_) {
            echo.order.line = nullptr;
        }
    }
    for (Room& room : rooms_) {
        if (room.active && mix.planned && !room.planned) {
            room.order.around = {};
            room.order.window = {};
        }
    }
}

/// Whether the mix was all numbers so far; where it was not it is silence.
bool SpaceStage::contain(std::span<StepSamples> sums) noexcept
{
    if (std::all_of(sums.begin(), sums.end(), [](const StepSamples& sum) { return allFinite(sum); })) {
        return true;
    }
    contained_.count(mostVoices);
    for (StepSamples& sum : sums) {
        sum.fill(0.0F);
    }
    return false;
}

void SpaceStage::reflect(StepMix& mix, std::span<StepSamples> sums) noexcept
{
    bool any = false;
    for (std::size_t slot = 0; slot < mostEchoing; ++slot) {
        const EchoOrder& order = echoes_[slot].order;
        if (order.line != nullptr) {
            order.line->process(mix.echoes[slot].samples(), order.all(), order.losses, sums);
            any = true;
        }
    }
    if (any && !contain(sums)) {
        for (Echo& echo : echoes_) {
            if (echo.order.line != nullptr) {
                echo.order.line->reset();
            }
        }
    }
}

/// Works out a room's outputs; false: it is silent, and sleeps until something goes in.
bool SpaceStage::ring(Room& room, const StepSamples& given) noexcept
{
    const RoomOrder& order = room.order;
    const bool fed = std::any_of(given.begin(), given.end(), [](float sample) { return sample != 0.0F; });
    if (!order.responses.empty()) {
        const auto longest =
            static_cast<std::size_t>(order.responses.front().partitions() + order.responseDelay / stepFrames + 2);
        room.quiet = fed ? 0 : std::min(room.quiet + 1, longest);
        if (room.quiet == longest) {
            return false;
        }
        order.convolver->in(given, order.responseDelay);
        for (std::size_t output = 0; output < order.responses.size(); ++output) {
            order.convolver->out(order.responses[output], late_[output]);
        }
        late_[LateNetwork::surround] = late_[0];
        return true;
    }
    // As long as anything may still be under way in a line.
    const auto longest = static_cast<std::size_t>(LateNetwork::longestLine_s * rate_ / static_cast<double>(stepFrames));
    room.quiet = fed || order.network->energy() > silent ? 0 : std::min(room.quiet + 1, longest);
    if (room.quiet == longest) {
        return false;
    }
    order.network->process(given, *order.design, late_);
    return true;
}

/// What a room gives moves a quarter of what is missing in a step: a whole late field may come or go at once.
void SpaceStage::answer(Room& room, const StepSamples& given, std::span<StepSamples> sums) noexcept
{
    constexpr float share = 0.25F;
    constexpr float inaudible = 1e-6F;
    const auto follow = [](float from, float to) { return std::abs(to - from) < inaudible ? to : from + (to - from) * share; };
    const RoomOrder& order = room.order;
    bool rings = ring(room, given);
    if (rings && !std::all_of(late_.begin(), late_.begin() + LateNetwork::surround + 1,
                              [](const StepSamples& output) { return allFinite(output); })) {
        contained_.count(mostVoices);
        if (order.network != nullptr) {
            order.network->reset();
        } else {
            order.convolver->reset();
        }
        room.bands.reset();
        rings = false;
    }
    for (std::size_t output = 0; output < LateNetwork::surround; ++output) {
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            float& now = room.around[output][channel];
            const float from = now;
            const float to = follow(from, order.around[output][channel]);
            now = to;
            if (rings && (from != 0.0F || to != 0.0F)) {
                addRamped(sums[channel], late_[output], from, to);
            }
        }
    }
    // Of most rooms nothing comes through openings.
    if (room.window != ChannelGains{} || order.window != ChannelGains{}) {
        StepSamples& window = late_[LateNetwork::surround];
        if (!rings) {
            window.fill(0.0F);
        }
        room.bands.process(window, room.fresh ? order.losses : room.losses, order.losses, rate_);
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            const float from = room.window[channel];
            const float to = follow(from, order.window[channel]);
            room.window[channel] = to;
            if (from != 0.0F || to != 0.0F) {
                addRamped(sums[channel], window, from, to);
            }
        }
    }
    room.losses = order.losses;
    room.fresh = false;
    room.active = room.planned || room.around != decltype(room.around){} || room.window != ChannelGains{};
}

void SpaceStage::mix(StepMix& mix, StageTimes& times) noexcept
{
    StageTimer timer(times, CostStage::reflections);
    begin(mix);
    const std::span<StepSamples> sums(mix.channels.data(), channels_);
    reflect(mix, sums);
    timer.next(CostStage::rooms);
    for (std::size_t slot = 0; slot < mostRooms; ++slot) {
        if (rooms_[slot].active) {
            answer(rooms_[slot], mix.rooms[slot].samples(), sums);
        }
    }
    contain(sums);
    timer.next(CostStage::ears);
    if (ears_ && mix.head != nullptr) {
        ears_->add(*mix.head, &sums[BinauralBus::first], mix.ears);
        ears_->finish(mix.ears, sums[0], sums[1]);
    }
}

} // namespace stone
