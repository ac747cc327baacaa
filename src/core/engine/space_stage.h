// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/cost.h"
#include "engine/ear_bus.h"
#include "engine/step_mix.h"

#include <memory>

namespace stone
{

/// The second stage of a step: what walls and rooms make of its voices, and what comes to the two ears of all of it. Owns
/// nothing but arrays that are made in its constructor. All of it belongs to one thread at a time and never waits.
class SpaceStage
{
public:
    SpaceStage(Layout layout, int rate, Containment& contained);

    /// Finishes a step: its first channels are then what comes out. `times`: to which what it takes is added.
    void mix(StepMix& mix, StageTimes& times) noexcept;

private:
    /// A room that sounds: it takes up what its voices give and hands it out late.
    struct Room {
        RoomOrder order;
        /// Gains at the end of the last step.
        std::array<ChannelGains, LateNetwork::surround> around{};
        ChannelGains window{};
        BandFilter bands;
        BandFilter::Settings losses;
        bool planned = false;  ///< in this step
        std::size_t quiet = 0; ///< steps in which nothing went in and nothing was left
        bool fresh = true;
        bool active = false;
    };

    /// A sound that throws reflections.
    struct Echo {
        EchoOrder order;
        std::size_t idle = 0; ///< steps without an order, in which it fades
    };

    void begin(const StepMix& mix) noexcept;
    void accept(const RoomOrder& order) noexcept;
    void accept(const EchoOrder& order) noexcept;
    void reflect(StepMix& mix, std::span<StepSamples> sums) noexcept;
    void answer(Room& room, const StepSamples& given, std::span<StepSamples> sums) noexcept;
    bool ring(Room& room, const StepSamples& given) noexcept;
    bool contain(std::span<StepSamples> sums) noexcept;

    double rate_;
    std::uint32_t echoFadeSteps_;
    std::size_t channels_; ///< of the mix; binaural has more than come out
    Containment& contained_;
    std::unique_ptr<EarBus> ears_; ///< binaural only
    std::array<Room, mostRooms> rooms_;
    std::array<Echo, mostEchoing> echoes_;
    std::array<LateNetwork::Block, LateNetwork::outputs> late_{};
};

} // namespace stone
