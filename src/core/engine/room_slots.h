#pragma once

#include "engine/step_plan.h"
#include "hearing/model.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace stone
{

/// Gives rooms their networks: one for each that is heard, kept until its tail has died away after nobody hears it any more.
/// Control thread.
class RoomSlots
{
public:
    RoomSlots(Layout layout, int rate);

    /// Decides which rooms run in a step and fills in their orders. `heard`: what of each is heard.
    void decide(const HearingModel& model, const BandFilter::Designer& designer, const std::vector<RoomHeard>& heard,
                const Ears& ears, std::uint64_t step, StepPlan& plan);

    /// Into which slots a start goes, with gains for a voice of 0 dB.
    std::array<VoiceSend, mostSends> sendsOf(const RoomSends& sends) const;

    /// Numbers the rooms anew, as they are in another scene.
    void renumber(const Level& level);
    /// All networks fall silent, as after a jump in time.
    void restart(std::uint64_t step);

private:
    struct Slot {
        std::unique_ptr<LateNetwork> network;
        std::shared_ptr<const LateNetwork::Design> design;
        std::shared_ptr<const Room> room; ///< for which the design was made; null: free
        std::uint32_t index = RoomMap::outside;
        std::uint32_t generation = 0;
        std::uint64_t lastHeard = 0; ///< step
        std::uint64_t freeFrom = 0;  ///< no plan that may still be played refers to it
        double tail_s = 0.0;
        std::array<ChannelGains, LateNetwork::surround> around{};
    };
    /// Designs that plans on their way may refer to.
    struct Old {
        std::shared_ptr<const LateNetwork::Design> design;
        std::uint64_t until;
    };

    Slot* slotFor(const HearingModel& model, std::uint32_t room, std::uint64_t step);
    void furnish(const HearingModel& model, Slot& slot, std::uint64_t step);
    void release(Slot& slot, std::uint64_t step);

    Layout layout_;
    double rate_;
    std::array<Slot, mostRooms> slots_;
    std::vector<Old> old_;
    std::uint32_t nextGeneration_ = 1;
};

} // namespace stone
