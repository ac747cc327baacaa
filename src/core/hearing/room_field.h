// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "hearing/occluder.h"
#include "world/moment.h"
#include "world/room_map.h"
#include "world/world.h"

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <vector>

namespace stone
{

/// What of a room's late field reaches the ears, as shares of its energy.
struct RoomHeard {
    std::uint32_t room = 0;
    double surround = 0.0;  ///< from all round
    double window = 0.0;    ///< from the direction of its openings
    Vec3 towards{0.0};      ///< mean direction of these in level coordinates; its length says how wide, see spread.h
    Bands loss_db{};        ///< of the part from the openings, by octave band
    double level_db = -200; ///< at the ears, of what sounds just now, broadband at 1 kHz's decay; below -199: nothing sounds

    double share() const { return surround + window; }
};

/// How much of a source goes into a room's late field, dB: its own level at 1 m with what the way there takes.
struct RoomSend {
    std::uint32_t room = RoomMap::outside;
    double level_db = 0.0;
};
/// Its own room and those next to it.
constexpr std::size_t mostSends = 4;
using RoomSends = std::array<RoomSend, mostSends>;

/// Rooms as they are heard: which answers how loudly, what goes from one to another, and how sound gets through openings.
///
/// A room's late field is taken as diffuse (H. Kuttruff, Room Acoustics): from within, an opening takes as much of it away as
/// it fills of all directions, and brings as much of what lies beyond. So walking through is a cross-fade by itself, both
/// halves being alike in the doorway. Of a source's power so much goes into the next room as the opening has of the absorbing
/// area. What has gone through one opening is not followed further.
///
/// Immutable; any number of threads may ask, each with a Scratch of its own.
class RoomField
{
public:
    RoomField(const World& world, const RoomMap& map);

    bool active() const { return !map_->empty(); }
    const RoomMap& map() const { return *map_; }
    /// Equivalent absorbing area by band, m2: 0.161 V / RT60 (W. C. Sabine; ISO 3382-2).
    Bands absorption_m2(std::uint32_t room) const { return absorption_m2_[room]; }
    /// Energy of the late field for a source of unit pressure at 1 m: 16 pi / A, at 1 kHz, with the level that was set. 0 where
    /// it is switched off.
    double lateEnergy(std::uint32_t room) const { return lateEnergy_[room]; }

    struct Scratch {
        RoomWays ways;
        OpenShares open; ///< by opening, at the moment
        bool fresh = false;
        std::uint32_t room = RoomMap::outside; ///< where the ears are
        std::vector<RoomWay> found;
        std::vector<std::uint32_t> holes;
        std::vector<WaySeen> seen;
    };
    /// Where the ears are and how far everything stands open, for all questions of a moment. `keepWithin_m`: ways that were
    /// spread from a place no further away still hold.
    void prepare(const Moment& moment, Scratch& scratch, double keepWithin_m) const;

    /// What gets through an opening, by band, as a share of the energy.
    std::array<double, 8> through(std::uint32_t hole, const OpenShares& open) const;

    /// The ways through openings from the ears to a place in a room, with what each takes in each band. Empty when both are in
    /// one space or nothing leads there.
    const std::vector<WaySeen>& waysTo(const Vec3& place, std::uint32_t room, Scratch& scratch) const;

    /// Into which rooms something sounds, at a level of `level_db` at 1 m; a room of `outside` means none.
    RoomSends sendsOf(const Vec3& place, double level_db, const OpenShares& open) const;

    /// What walls leave of what comes from an opening, by its number in the level.
    using Screen = std::function<Screened(std::uint32_t opening, const Occluder::Source&)>;
    /// Every room of which something can be heard; clears `heard`.
    void hear(const Moment& moment, const Screen& screen, Scratch& scratch, std::vector<RoomHeard>& heard) const;

private:
    void addWindow(const Moment& moment, std::uint32_t hole, double share, const Screen& screen, const Scratch& scratch,
                   RoomHeard& heard) const;

    const World* world_;
    const RoomMap* map_;
    std::vector<Bands> absorption_m2_;
    std::vector<double> lateEnergy_;
    std::vector<std::array<double, 8>> leaf_; ///< by opening: what its closed part lets through
};

} // namespace stone
