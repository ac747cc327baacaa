// SPDX-License-Identifier: MPL-2.0
#include "engine/room_networks.h"

#include <algorithm>
#include <map>

namespace stone
{

std::vector<SharedNetwork> networksOf(const HearingModel& model, int rate, const std::vector<SharedNetwork>& before)
{
    std::map<RoomNetwork::Asked, SharedNetwork> known;
    for (const SharedNetwork& network : before) {
        if (network) {
            known.emplace(network->asked, network);
        }
    }
    std::vector<SharedNetwork> networks;
    const auto& rooms = model.level().rooms;
    for (std::uint32_t room = 0; room < rooms.size(); ++room) {
        const Reverb& reverb = rooms[room]->reverb;
        if (reverb.tail == Tail::response) {
            networks.emplace_back();
            continue;
        }
        const RoomNetwork::Asked asked{reverb.rt60_s, std::max(model.rooms().map().volume_m3(room), 1.0),
                                       reverb.preDelay_ms / 1000.0, static_cast<double>(rate)};
        SharedNetwork& network = known[asked];
        if (!network) {
            network = std::make_shared<const RoomNetwork>(
                RoomNetwork{asked, LateNetwork::design(asked.rt60_s, asked.volume_m3, asked.preDelay_s, asked.rate)});
        }
        networks.push_back(network);
    }
    return networks;
}

} // namespace stone
