// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <string>

namespace stone
{

/// From where a level is looked at and listened to: the camera by its place in relation to the character, and the ears
/// somewhere between the two. Part of the document.
struct Rig {
    enum class Kind {
        firstPerson,  ///< the camera is the character's eyes
        overShoulder, ///< behind the character, looking where it looks
        fromAbove,    ///< above the character, looking down at it
        sideOn        ///< beside the character, looking across its way
    };
    enum class Facing {
        camera,    ///< the ears face where the camera looks
        character, ///< where the character faces
        fixed      ///< a heading of their own
    };

    RigId id;
    std::string name;
    Kind kind = Kind::firstPerson;
    double distance_m = 3.0;    ///< from the character's head to the camera; of all but the first person; >= 0
    double height_m = 0.4;      ///< of the camera above the head; over the shoulder and side-on
    double angle_deg = 15.0;    ///< over the shoulder: to which side, positive to the right of straight behind
    double tilt_deg = 60.0;     ///< from above: how steeply it looks down; 0 to 90
    bool turns = true;          ///< from above: with the character; else it looks along `heading_deg`
    double heading_deg = 0.0;   ///< of a camera that does not turn
    bool keptOutOfWalls = true; ///< the camera comes nearer where something stands between it and the head
    double ears = 0.0;          ///< share of the way from the character's head to the camera; 0 to 1
    double raised_m = 0.0;      ///< of the ears above that place
    Facing facing = Facing::camera;
    double fixed_deg = 0.0; ///< heading of ears that face a fixed way
    Extras extras{};

    bool operator==(const Rig&) const = default;
};

/// Whose place counts for something.
enum class Who { ears, character, camera };

/// Who counts for what, in the whole project.
struct Counting {
    Who entering = Who::character; ///< being in a zone
    Who nearest = Who::ears;       ///< the nearest place of an area
    Who gaze = Who::camera;        ///< where somebody looks
    Extras extras{};

    bool operator==(const Counting&) const = default;
};

} // namespace stone
