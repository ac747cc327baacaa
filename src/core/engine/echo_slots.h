// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/step_plan.h"
#include "hearing/model.h"

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// Gives the sounds that throw reflections their taps: the loudest of those that are in one space with the ears. A sound
/// that is over keeps its taps until the last of its echoes has arrived. Control thread.
class EchoSlots
{
public:
    EchoSlots(Layout layout, int rate);

    /// A start that sounds in a step; `key` names it from step to step.
    struct Candidate {
        std::uint64_t key;
        const Heard* heard;
    };

    /// Decides who throws reflections in a step and fills in their orders.
    void decide(const HearingModel& model, const BandFilter::Designer& designer, std::span<const Candidate> candidates,
                const Ears& ears, RoomField::Scratch& rooms, std::uint64_t step, StepPlan& plan);

    /// Where a start's voices go in the step that was decided last, with the gain for one of 0 dB; no slot where they go
    /// nowhere.
    VoiceSend sendOf(std::uint64_t key, double given_db) const;

    /// Rooms and walls are others, and starts are named anew, as in another scene: `now` gives the new key or none.
    void renumber(const std::function<std::optional<std::uint64_t>(std::uint64_t)>& now);
    /// All fall silent, as after a jump in time.
    void restart(std::uint64_t step);

private:
    static constexpr std::uint64_t nobody = UINT64_MAX;

    /// Where a reflection came from when its gains were worked out last: a degree or two do not matter.
    struct Aimed {
        std::uint32_t name;
        Vec3 from;
        ChannelGains gains;
    };

    struct Slot {
        std::unique_ptr<EchoTaps> taps;
        std::uint64_t key = nobody;
        std::uint32_t generation = 0;
        std::uint64_t lastFed = 0;
        std::uint64_t freeFrom = 0; ///< no plan that may still be played refers to it
        bool used = false;
        Reflections::Known known;
        EchoOrder order; ///< of the last step
        std::uint32_t room = RoomMap::outside;
        Bands lossFor_db{};
        BandFilter::Settings loss;
        std::vector<Aimed> aimed; ///< by tap
    };

    Slot* slotFor(std::uint64_t key, std::uint64_t step);
    const ChannelGains& gainsFrom(const Vec3& from, std::uint32_t name, const std::vector<Aimed>& before,
                                  std::vector<Aimed>& now) const;
    void furnish(const HearingModel& model, const BandFilter::Designer& designer, const Heard& heard, const Ears& ears,
                 RoomField::Scratch& rooms, bool look, Slot& slot);

    Layout layout_;
    double rate_;
    std::array<Slot, mostEchoing> slots_;
    Reflections::Scratch scratch_;
    std::vector<Reflection> found_;
    std::vector<Aimed> aimed_;
    std::vector<Candidate> loudest_;
    std::uint64_t step_ = 0;
    std::uint32_t nextGeneration_ = 1;
};

} // namespace stone
