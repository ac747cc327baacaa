// SPDX-License-Identifier: MPL-2.0
#include "world/stance.h"

#include "level/ground.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// A camera is no point: it stays so far off what is behind it.
constexpr double lens_m = 0.2;

Vec3 ahead(double heading_deg)
{
    return {std::sin(radians(heading_deg)), std::cos(radians(heading_deg)), 0.0};
}

double smooth(double t)
{
    return t * t * (3.0 - 2.0 * t);
}

} // namespace

Pose cameraOf(const Rig& rig, const Pose& head)
{
    const Vec3 up{0.0, 0.0, 1.0};
    switch (rig.kind) {
    case Rig::Kind::firstPerson: return head;
    case Rig::Kind::overShoulder:
        // Behind is 180 degrees from ahead; to the right is counter to that by the angle.
        return {head.at + ahead(head.heading_deg + 180.0 - rig.angle_deg) * rig.distance_m + up * rig.height_m,
                head.heading_deg, head.pitch_deg, head.roll_deg};
    case Rig::Kind::fromAbove: {
        const double heading = rig.turns ? head.heading_deg : rig.heading_deg;
        const double tilt = radians(rig.tilt_deg);
        return {head.at - ahead(heading) * (rig.distance_m * std::cos(tilt)) + up * (rig.distance_m * std::sin(tilt)), heading,
                -rig.tilt_deg, 0.0};
    }
    case Rig::Kind::sideOn:
        return {head.at - ahead(rig.heading_deg) * rig.distance_m + up * rig.height_m, rig.heading_deg, 0.0, 0.0};
    }
    return head;
}

namespace
{

/// Puts the ears where a rig has them between head and camera.
void placeEars(const Rig& rig, Stance& stance)
{
    switch (rig.facing) {
    case Rig::Facing::camera:
        stance.ears = stance.camera;
        // A camera that looks down on somebody does not tip their ears over: ahead on the picture stays ahead.
        stance.ears.pitch_deg = rig.kind == Rig::Kind::fromAbove ? 0.0 : stance.camera.pitch_deg;
        break;
    case Rig::Facing::character: stance.ears = stance.head; break;
    case Rig::Facing::fixed: stance.ears = {stance.head.at, rig.fixed_deg, 0.0, 0.0}; break;
    }
    stance.ears.at = stance.head.at + (stance.camera.at - stance.head.at) * rig.ears + Vec3{0.0, 0.0, rig.raised_m};
}

} // namespace

Stance stanceOf(const Rig& rig, const Character& character, const Pose& feet, double arm)
{
    Stance stance{feet, headOf(character, feet), {}, {}};
    stance.camera = cameraOf(rig, stance.head);
    stance.camera.at = stance.head.at + (stance.camera.at - stance.head.at) * arm;
    placeEars(rig, stance);
    return stance;
}

double freeArm(const Rig& rig, const Pose& head, const Ground& ground)
{
    const Vec3 arm = cameraOf(rig, head).at - head.at;
    const double length = glm::length(arm);
    if (!rig.keptOutOfWalls || length < lens_m) {
        return 1.0;
    }
    const auto met = ground.distanceTo(head.at, arm / length, length + lens_m);
    return met ? std::clamp((*met - lens_m) / length, 0.0, 1.0) : 1.0;
}

Stance Listener::step(const Project& project, const Character& character, const Pose& feet, const Ground* ground,
                      double seconds, bool jumped, const std::optional<Pose>& camera)
{
    if (camera) {
        Stance told{feet, headOf(character, feet), *camera, {}};
        placeEars(rigOf(project, project.rig), told);
        return told;
    }
    const Pose head = headOf(character, feet);
    const bool atOnce = jumped || seconds <= 0.0 || !began_;
    const auto follow = [&](const Rig& rig, double& free, bool now) {
        const double wanted = ground != nullptr ? freeArm(rig, head, *ground) : 1.0;
        const double length = std::max(glm::length(cameraOf(rig, head).at - head.at), lens_m);
        free = now ? wanted : std::clamp(wanted, free - pull_m_s * seconds / length, free + letGo_m_s * seconds / length);
    };
    since_s_ += seconds;
    const bool another = began_ && project.rig != rig_;
    if (another) {
        before_ = rig_;
        beforeFree_ = free_;
        since_s_ = 0.0;
    }
    rig_ = project.rig;
    began_ = true;
    const Rig& rig = rigOf(project, rig_);
    follow(rig, free_, atOnce || another);
    const Stance now = stanceOf(rig, character, feet, free_);
    if (atOnce || since_s_ >= turnOver_s) {
        before_.reset();
    }
    if (!before_) {
        return now;
    }
    const Rig& left = rigOf(project, *before_);
    follow(left, beforeFree_, false);
    const Stance then = stanceOf(left, character, feet, beforeFree_);
    const double share = smooth(since_s_ / turnOver_s);
    return {feet, now.head, interpolate(then.camera, now.camera, share), interpolate(then.ears, now.ears, share)};
}

const Rig& rigOf(const Project& project, const RigId& id)
{
    static const Rig firstPerson{.id = {}, .name = "First person"};
    const Rig* found = project.rigs.find(id);
    return found != nullptr ? *found : firstPerson;
}

} // namespace stone
