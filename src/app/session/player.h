// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/walker.h"
#include "world/stance.h"

#include <memory>
#include <optional>

namespace stone
{

/// What has left the character and flies freely.
enum class Flight {
    none,
    ears, ///< with the picture
    eyes  ///< only the picture: somebody who looks round without moving the ears
};

/// The character as it is walked through a level by hand: where its feet are, how it stands, and what of it flies. Knows
/// nothing of what plays.
class Player
{
public:
    void setLevel(const std::shared_ptr<const PlanCutter>& cutter, std::shared_ptr<const Ground> ground);
    const std::shared_ptr<const Ground>& ground() const { return ground_; }

    const Pose& feet() const { return feet_; }
    /// Puts the feet somewhere, where they stand still.
    void put(const Pose& feet);
    /// Lets something else carry the feet on, as a walk does.
    void carriedTo(const Pose& feet) { feet_ = feet; }

    /// Character, camera and ears, as the project's rig has them.
    const Stance& stance() const { return stance_; }
    /// Camera and ears go where the feet are; `jumped`: at once.
    void follow(const Project& project, const Character& character, double seconds, bool jumped);

    Flight flight() const { return flight_; }
    bool flies() const { return flight_ != Flight::none; }
    /// Lets ears or eyes fly from where they are, or has them come back. False: they do already.
    bool fly(Flight what);
    /// From where the walk-through view looks: the rig's camera, or what flies.
    const Pose& eyes() const { return flies() ? flyer_ : stance_.camera; }
    /// The head that is turned by hand: the character's, or what flies.
    const Pose& ownHead() const { return flies() ? flyer_ : stance_.head; }
    /// Where its ears are, or those that fly.
    const Pose& ears() const { return flight_ == Flight::ears ? flyer_ : stance_.ears; }
    /// Turns what flies; of the character the feet as they would be.
    Pose turned(double heading_deg, double pitch_deg, double roll_deg) const;
    void turnFlyer(const Pose& to) { flyer_ = to; }
    /// Moves what flies by the keys that are held; false: it stays where it is.
    bool flyOn(const Character& character, double seconds);
    /// Walks by the keys that are held; false: it stays where it is.
    bool walkOn(const Level& level, double seconds) { return walker_.step(feet_, level, seconds); }

    Walker& walker() { return walker_; }
    const Walker& walker() const { return walker_; }

private:
    Pose feet_;
    Walker walker_;
    std::shared_ptr<const Ground> ground_;
    Flight flight_ = Flight::none;
    Pose flyer_;
    Listener listener_;
    Stance stance_;
};

} // namespace stone
