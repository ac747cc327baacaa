// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"
#include "project/document.h"

#include <optional>

namespace stone
{

class Ground;

/// Where somebody stands, looks from and listens from.
struct Stance {
    Pose feet; ///< of the character
    Pose head; ///< the character's eyes, as it faces
    Pose camera;
    Pose ears;

    const Pose& of(Who who) const { return who == Who::ears ? ears : who == Who::camera ? camera : head; }
};

/// The camera's arm: where the camera would be if nothing stood in its way.
Pose cameraOf(const Rig& rig, const Pose& head);

/// A stance with the camera this share of its arm away from the head.
Stance stanceOf(const Rig& rig, const Character& character, const Pose& feet, double arm);

/// How much of its arm is free: 1 when nothing stands between head and camera. Leaves a hand's breadth before a wall.
double freeArm(const Rig& rig, const Pose& head, const Ground& ground);

/// Follows the feet with camera and ears over time, so that nothing jumps: the arm shortens and lengthens at limited speeds,
/// and another rig is gone over to within `turnOver_s`. Not thread-safe; as deterministic as what it is fed.
class Listener
{
public:
    static constexpr double turnOver_s = 0.6;
    static constexpr double pull_m_s = 9.0;  ///< how fast the camera comes nearer
    static constexpr double letGo_m_s = 2.5; ///< and goes away again

    /// Through the project's rig. `seconds` since the last step; 0 or `jumped`: everything is in its place at once. `ground`:
    /// null for none. `camera`: where a game says that it is, whatever stands in its way.
    Stance step(const Project& project, const Character& character, const Pose& feet, const Ground* ground, double seconds,
                bool jumped, const std::optional<Pose>& camera = {});

private:
    bool began_ = false;
    RigId rig_;
    double free_ = 1.0;           ///< of its arm
    std::optional<RigId> before_; ///< the rig that is being left
    double beforeFree_ = 1.0;
    double since_s_ = turnOver_s;
};

/// The rig that is in use; the first person where the project has none of this id.
const Rig& rigOf(const Project& project, const RigId& id);

} // namespace stone
