// SPDX-License-Identifier: MPL-2.0
#include "world/reach.h"

#include "acoustics/lane.h"
#include "dsp/decibel.h"
#include "project/edit.h"
#include "world/gazing.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

bool placesInEars(const std::vector<Lane>& lanes)
{
    return std::any_of(lanes.begin(), lanes.end(),
                       [](const Lane& lane) { return lane.property == LaneProperty::placement && lane.on; });
}

/// A factor below this would make everything endless.
constexpr double leastNearness = 0.01;

/// What its sound can have at most: its level with that of its loudest file and the most that chance adds.
double loudest_db(const Sound& sound)
{
    double file_db = sound.files.empty() ? 0.0 : silence_db;
    for (const SoundFile& file : sound.files) {
        file_db = std::max(file_db, file.level_db);
    }
    return sound.level_db + file_db + sound.levelSpread_db;
}

/// What lanes of its family can add at most.
struct FamilyMost {
    double level_db = 0.0;
    double nearness = 1.0; ///< at least, at most 1
    const Falloff* other = nullptr;
};

FamilyMost mostOfFamily(const Project& project, const Emitter& emitter)
{
    FamilyMost most;
    const Family* family = project.families.find(emitter.family);
    if (family == nullptr) {
        return most;
    }
    for (const Lane& lane : family->lanes) {
        if (!lane.on) {
            continue;
        }
        if (lane.property == LaneProperty::level) {
            most.level_db += std::max(highest_db(lane), 0.0);
        } else if (lane.property == LaneProperty::nearness) {
            const auto least = std::min_element(lane.curve.begin(), lane.curve.end(),
                                                [](const CurvePoint& a, const CurvePoint& b) { return a.y < b.y; });
            most.nearness *= least != lane.curve.end() ? std::clamp(least->y, leastNearness, 1.0) : 1.0;
        }
    }
    most.other = family->otherFalloff.empty() ? nullptr : project.falloffs.find(family->otherFalloff);
    return most;
}

} // namespace

double silentFrom_m(const Project& project, const Emitter& emitter)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    // What was made for two ears is wholly in them, at the level that its place gives it.
    const bool forTwoEars = sound != nullptr && sound->binaural;
    if (emitter.placement.inWorld < 1.0 && !forTwoEars) {
        return boundless;
    }
    const FamilyMost family = mostOfFamily(project, emitter);
    double silent_m = silentFrom_m(falloffOf(project, emitter).lanes.front());
    if (family.other != nullptr) {
        silent_m = std::max(silent_m, silentFrom_m(family.other->lanes.front()));
    }
    return reachFactorOf(project, emitter) * silent_m / (mostOfGazes(project, emitter).nearness * family.nearness);
}

double audibleWithin_m(const Project& project, const Emitter& emitter)
{
    const Falloff& falloff = falloffOf(project, emitter);
    const Sound* sound = project.sounds.find(emitter.sound);
    const bool forTwoEars = sound != nullptr && sound->binaural;
    if (!forTwoEars && (emitter.placement.inWorld < 1.0 || placesInEars(emitter.lanes) || placesInEars(falloff.lanes))) {
        return boundless;
    }
    const double reach_m = silentFrom_m(project, emitter);
    if (std::isfinite(reach_m)) {
        return reach_m;
    }
    // A lane without an end still falls below what can be heard: nothing is asked beyond that.
    const Family* family = project.families.find(emitter.family);
    double most_db =
        (sound != nullptr ? loudest_db(*sound) : 0.0) + emitter.level_db + (family != nullptr ? family->level_db : 0.0);
    for (const SurfaceSound& surface : emitter.stepping.surfaces) {
        most_db = std::max(most_db, emitter.level_db + surface.level_db);
    }
    for (const Lane& lane : emitter.lanes) {
        most_db += lane.property == LaneProperty::level ? std::max(highest_db(lane), 0.0) : 0.0;
    }
    const GazeMost gazes = mostOfGazes(project, emitter);
    const FamilyMost lanes = mostOfFamily(project, emitter);
    most_db += gazes.level_db + lanes.level_db;
    double last_m = lastAbove_m(falloff.lanes.front(), audible_db - most_db);
    if (lanes.other != nullptr) {
        last_m = std::max(last_m, lastAbove_m(lanes.other->lanes.front(), audible_db - most_db));
    }
    return reachFactorOf(project, emitter) / (gazes.nearness * lanes.nearness) * last_m;
}

} // namespace stone
