// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "hearing/room_field.h"
#include "level/obstacles.h"
#include "world/world.h"

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

namespace stone
{

/// One reflection: the source once more, as in a mirror.
struct Reflection {
    std::uint32_t walls = 0; ///< names the walls it comes from while the level is the same; never 0
    int bounces = 1;         ///< 1 or 2
    Vec3 image{0.0};         ///< where it seems to be, level coordinates
    double length_m = 0.0;   ///< of its way to the ears
    double share = 1.0;      ///< of the pressure that comes back where a wall has an opening; 0 to 1
};

/// Single reflections of a source that is in one space with the ears, by mirror images (J. B. Allen and D. A. Berkley, JASA
/// 65, 1979).
///
/// In a room that was drawn the walls are those of its shape: upright ones over its outline, floor and ceiling; for shapes
/// without an outline those of its box. Up to the second order. How much they give back follows from the room's RT60: the
/// mean absorption that goes with it (W. C. Sabine). Outside, and in rooms without a late field, the walls are the level's own,
/// found by rays round the ears, to the first order and without the ground; half of the energy is taken to be scattered.
///
/// Immutable; any number of threads may ask, each with a Scratch of its own.
class Reflections
{
public:
    /// Of one source: more do not add anything that can be told apart.
    static constexpr std::size_t most = 24;
    /// Nothing that came a longer way is looked for.
    static constexpr double furthest_m = 110.0;

    /// `field`: must outlive this.
    Reflections(const World& world, const RoomField& field);

    /// Whether a space gives anything back. Any room or RoomMap::outside.
    bool any(std::uint32_t room) const { return of(room).gain > 0.0; }
    /// Pressure gain on all reflections of a space, as it was set.
    double gain(std::uint32_t room) const { return of(room).gain; }
    /// What each bounce takes, dB by octave band.
    const Bands& loss_db(std::uint32_t room) const { return of(room).loss_db; }

    /// A wall of the level that the ears have in view.
    struct Wall {
        std::uint32_t name;
        Vec3 at;
        Vec3 normal; ///< towards the ears
    };
    /// What holds for all sources of a moment. Kept by who asks.
    struct Scratch {
        std::vector<Wall> walls;
        Vec3 from{0.0};
        bool fresh = false;
    };
    /// What is known of one source from one question to the next: behind which walls its image can be seen.
    struct Known {
        std::vector<std::uint32_t> seen;
    };

    /// The reflections of a source in the ears' own space, the nearest first. Clears `found`. `anew`: whether rays are cast
    /// once more, where the level's own walls count; else what is known still holds.
    void find(const Vec3& ears, const Vec3& source, std::uint32_t room, const OpenShares& open, bool anew, Scratch& scratch,
              Known& known, std::vector<Reflection>& found) const;

private:
    /// A room as a mirror sees it: upright walls between two heights.
    struct Space {
        double gain = 0.0;
        Bands loss_db{};
        bool real = false; ///< the level's walls count
        std::vector<Vec2> corners;
        std::vector<Vec2> normals; ///< of the wall from each corner to the next, inwards
        double floor_m = 0.0;
        double ceiling_m = 0.0;
        std::vector<std::vector<std::uint32_t>> holes; ///< by wall
    };
    const Space& of(std::uint32_t room) const { return room == RoomMap::outside ? outside_ : spaces_[room]; }

    Space spaceOf(const Level& level, std::uint32_t room) const;
    /// Images in the plan, before floor and ceiling.
    struct Flat {
        std::uint32_t name;
        int bounces;
        Vec2 image;
        double share;
    };
    void findFlat(const Space& space, const Vec3& ears, const Vec3& source, const OpenShares& open,
                  std::vector<Flat>& flat) const;
    double shareOf(const Space& space, std::size_t wall, const Vec3& at, const OpenShares& open) const;
    void look(const Vec3& ears, Scratch& scratch) const;
    void findReal(const Vec3& ears, const Vec3& source, bool look, const Scratch& scratch, Known& known,
                  std::vector<Reflection>& found) const;

    const RoomMap* map_;
    std::shared_ptr<const Obstacles> obstacles_; ///< null: none
    std::vector<Space> spaces_;
    Space outside_;
};

} // namespace stone
