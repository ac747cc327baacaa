// SPDX-License-Identifier: MPL-2.0
#include "analysis/ears_findings.h"

#include "analysis/words.h"
#include "world/stance.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

/// Something on the ground that far beside the character is what a player expects to be nearest.
constexpr double beside_m = 2.0;
/// Ears that far from the character come to a border or a sound noticeably later or sooner.
constexpr double apart_m = 2.0;

Remedy onRig(const std::string& label, const Rig& rig, std::function<void(Rig&)> change)
{
    return {label, [id = rig.id, change = std::move(change)](Project project) {
                if (const Rig* found = project.rigs.find(id)) {
                    Rig next = *found;
                    change(next);
                    project.rigs.put(std::move(next));
                }
                return project;
            }};
}

void add(std::vector<Finding>& found, const Rig& rig, const char* code, Severity severity, const std::string& what,
         const std::string& fix, std::vector<Remedy> remedies)
{
    found.push_back({.code = code,
                     .severity = severity,
                     .what = quoted(rig.name) + ": " + what,
                     .where = "rig " + quoted(rig.name),
                     .fix = fix,
                     .remedies = std::move(remedies)});
}

void lookAt(const Project& project, const Rig& rig, std::vector<Finding>& found)
{
    const Character usual;
    const Stance stance = stanceOf(rig, usual, Pose{}, 1.0);
    const Vec3 ears = stance.ears.at;
    // A thing at the feet of what is under the camera, against one beside the character.
    const double toUnder = glm::length(ears - Vec3{ears.x, ears.y, 0.0});
    const double toBeside = glm::length(ears - Vec3{beside_m, 0.0, 0.0});
    if (std::hypot(ears.x, ears.y) > beside_m && toUnder < toBeside) {
        add(found, rig, "ears-off-character", Severity::warning,
            "what lies under the camera is louder than what stands beside the character: the ears are " +
                number("%.1f m", std::hypot(ears.x, ears.y)) + " away from it",
            "bring the ears nearer to the character", {onRig("Ears at the character", rig, [](Rig& r) { r.ears = 0.0; })});
    } else if (ears.z - usual.earsHeight_m > 2.0 * beside_m) {
        add(found, rig, "ears-high", Severity::warning,
            "the ears are " + number("%.1f m", ears.z - usual.earsHeight_m) +
                " above the character: everything is about equally far, and all of it far",
            "bring the ears nearer to the character", {onRig("Ears at the character", rig, [](Rig& r) { r.ears = 0.0; })});
    }
    // The picture turns with the camera; ears that face otherwise make left and right disagree with it.
    Pose turned;
    turned.heading_deg = 90.0;
    const Stance other = stanceOf(rig, usual, turned, 1.0);
    const auto off = [](const Stance& s) { return std::abs(wrapDegrees(s.ears.heading_deg - s.camera.heading_deg)); };
    if (off(other) > 45.0 || off(stance) > 45.0) {
        add(found, rig, "picture-and-sound-turn-apart", Severity::warning,
            "the ears do not face where the camera looks: what is seen on the left is heard elsewhere",
            "let the ears face as the camera does",
            {onRig("Face as the camera", rig, [](Rig& r) { r.facing = Rig::Facing::camera; })});
    }
    if (project.counting.entering == Who::character && glm::length(ears - stance.head.at) > apart_m) {
        add(found, rig, "ears-enter-apart", Severity::note,
            "the character enters zones, and the ears are " + number("%.1f m", glm::length(ears - stance.head.at)) +
                " away: one hears a zone begin before or after one is there",
            "let the ears count for entering, or bring them nearer", {{"The ears count for entering", [](Project p) {
                                                                           p.counting.entering = Who::ears;
                                                                           return p;
                                                                       }}});
    }
}

} // namespace

void findInEars(const Project& project, std::vector<Finding>& found)
{
    if (!project.rig.empty() && project.rigs.find(project.rig) == nullptr) {
        found.push_back({.code = "rig-missing",
                         .severity = Severity::error,
                         .what = "the rig " + quoted(project.rig.text) + " through which the levels are heard is gone",
                         .where = "project",
                         .fix = "choose another; until then it is heard in the first person",
                         .remedies = {{"In the first person", [](Project p) {
                                           p.rig = {};
                                           return p;
                                       }}}});
    }
    if (const Rig* rig = project.rigs.find(project.rig)) {
        lookAt(project, *rig, found);
    }
}

} // namespace stone
