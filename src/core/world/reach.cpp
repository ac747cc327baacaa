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

/// What its sound can have at most: its level with that of its loudest file and the most that chance adds.
double loudest_db(const Sound& sound)
{
    double file_db = sound.files.empty() ? 0.0 : silence_db;
    for (const SoundFile& file : sound.files) {
        file_db = std::max(file_db, file.level_db);
    }
    return sound.level_db + file_db + sound.levelSpread_db;
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
    return reachFactorOf(project, emitter) * silentFrom_m(falloffOf(project, emitter).lanes.front()) /
           mostOfGazes(project, emitter).nearness;
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
    most_db += gazes.level_db;
    return reachFactorOf(project, emitter) / gazes.nearness * lastAbove_m(falloff.lanes.front(), audible_db - most_db);
}

} // namespace stone
