// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/room_networks.h"
#include "engine/room_response.h"
#include "engine/step_plan.h"
#include "hearing/model.h"

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace stone
{

/// Gives rooms what makes their late fields: a network or a convolver for each that is heard, kept until its tail has died away
/// after nobody hears it any more. What they are to be comes with the scene. Control thread.
class RoomSlots
{
public:
    RoomSlots(Layout layout, int rate);

    /// What a level asks for.
    struct Wanted {
        const HearingModel& model;
        const std::vector<SharedNetwork>& networks;   ///< by room, for the rate of this engine; null, or not there: none
        const std::vector<SharedResponse>& responses; ///< likewise

        SharedNetwork network(std::uint32_t room) const { return room < networks.size() ? networks[room] : nullptr; }
        SharedResponse response(std::uint32_t room) const { return room < responses.size() ? responses[room] : nullptr; }
    };
    /// Decides which rooms run in a step and fills in their orders. `heard`: what of each is heard.
    void decide(const Wanted& wanted, const BandFilter::Designer& designer, const std::vector<RoomHeard>& heard,
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
        SharedNetwork asked; ///< what the network is to be
        std::unique_ptr<UniformConvolver> convolver;
        SharedResponse response;          ///< null: there is a network
        std::shared_ptr<const Room> room; ///< that it was furnished for; null: free
        std::uint32_t index = RoomMap::outside;
        std::uint32_t generation = 0;
        std::uint64_t lastHeard = 0; ///< step
        std::uint64_t freeFrom = 0;  ///< no plan that may still be played refers to it
        double tail_s = 0.0;
        double windowGain = 1.0; ///< of the output that is heard through openings: with it that has the energy of all
        std::array<ChannelGains, LateNetwork::surround> around{};
        Bands lossFor_db{}; ///< for which `losses` were worked out
        BandFilter::Settings losses{};
    };
    /// Designs and responses that plans on their way may refer to.
    struct Old {
        std::shared_ptr<const void> held;
        std::uint64_t until;
    };

    Slot* slotFor(const Wanted& wanted, std::uint32_t room, std::uint64_t step);
    bool goesOn(const Wanted& wanted, const Slot& slot) const;
    bool ready(const Wanted& wanted, std::uint32_t room) const;
    void furnish(const Wanted& wanted, Slot& slot, std::uint64_t step);
    std::span<const UniformConvolver::Response> outputsOf(const Slot& slot) const;
    void aim(const HearingModel& model, Slot& slot) const;
    void fillIn(Slot& slot, const RoomHeard& heard, const BandFilter::Designer& designer, const Frame& frame,
                RoomOrder& order) const;
    void release(Slot& slot, std::uint64_t step);

    Layout layout_;
    double rate_;
    std::array<Slot, mostRooms> slots_;
    std::vector<Old> old_;
    std::uint32_t nextGeneration_ = 1;
};

} // namespace stone
