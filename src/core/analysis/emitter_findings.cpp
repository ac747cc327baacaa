// SPDX-License-Identifier: MPL-2.0
#include "analysis/emitter_findings.h"

#include "acoustics/lane.h"
#include "analysis/words.h"
#include "geometry/sphere_index.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr double rise_db = 1.0; ///< a level that grows by more than this on the way out was hardly meant to
constexpr double jump_db = 6.0; ///< between two neighbouring places of a curve
constexpr double jumpOctaves = 1.0;
constexpr double mostGain_db = 24.0; ///< of levels that add up; more was hardly meant
constexpr double endlessBelow_db = -60.0;
constexpr double farReach = 3.0;       ///< times the level's own size
constexpr std::size_t crowd = 24;      ///< copies of one sound that are heard at one place
constexpr std::size_t crowdLooks = 64; ///< places at which they are counted
constexpr double crowd_db = -40.0;     ///< softer copies do not count
constexpr double phasing_m = 6.0;      ///< two loops of one sound nearer than this are heard as one that swirls

/// The largest jump of a curve: two points at one place, or the end of a held value. In dB or octaves.
std::pair<double, double> largestJump(const Lane& lane)
{
    double at = 0.0;
    double largest = 0.0;
    for (std::size_t i = 0; i + 1 < lane.curve.size(); ++i) {
        const CurvePoint& a = lane.curve[i];
        const CurvePoint& b = lane.curve[i + 1];
        if (a.x != b.x && a.segment != Segment::hold) {
            continue;
        }
        const double step =
            scaleOf(lane.property) == CurveScale::octaves ? std::abs(std::log2(b.y / a.y)) : std::abs(b.y - a.y);
        if (step > largest) {
            largest = step;
            at = b.x;
        }
    }
    return {at, largest};
}

void findJump(const Lane& lane, Finding finding, const std::string& where, std::vector<Finding>& found)
{
    if (!lane.on || lane.shape != LaneShape::curve) {
        return;
    }
    const auto [at, step] = largestJump(lane);
    const bool level = lane.property == LaneProperty::level || lane.property == LaneProperty::send;
    const bool filter = lane.property == LaneProperty::lowPass || lane.property == LaneProperty::highPass;
    if ((level && step >= jump_db) || (filter && step >= jumpOctaves)) {
        finding.code = "curve-jump";
        finding.what = where + " jumps by " + (level ? number("%.0f dB", step) : number("%.1f octaves", step)) + " at " +
                       number("%.4g", at);
        finding.fix = "move the two points apart, so that nobody hears a step there";
        found.push_back(std::move(finding));
    }
}

Remedy setChannels(const std::string& label, const LevelId& level, const EmitterId& emitter, ChannelUse use)
{
    return {label, [=](Project project) {
                return withEmitter(std::move(project), level, emitter, [use](Emitter& e) { e.placement.channels = use; });
            }};
}

void findInPlacement(const Level& level, const Emitter& emitter, std::vector<Finding>& found)
{
    Finding finding{.code = "", .where = "emitter " + quoted(emitter.name), .level = level.id, .emitter = emitter.id};
    const LevelId levelId = level.id;
    const EmitterId id = emitter.id;
    if (emitter.placement.inWorld > 0.0 && emitter.placement.nearRange_m <= 0.0) {
        finding.code = "no-near-range";
        finding.severity = Severity::warning;
        finding.what =
            quoted(emitter.name) + " has no near range: walking through it flips it from one side to the other at once";
        finding.fix = "let it open up within half a metre or more";
        finding.remedies = {{"Open up within half a metre", [=](Project project) {
                                 return withEmitter(std::move(project), levelId, id,
                                                    [](Emitter& e) { e.placement.nearRange_m = 0.5; });
                             }}};
        found.push_back(finding);
    }
    for (const Lane& lane : emitter.lanes) {
        finding.remedies.clear();
        if (lane.on && lane.shape == LaneShape::twoAngles && lane.angles.inner_deg >= 360.0) {
            finding.code = "facing-full-circle";
            finding.severity = Severity::note;
            finding.what = quoted(emitter.name) + " faces all round: an inner angle of 360 degrees means no facing";
            finding.fix = "make the inner angle smaller, or switch the lane off";
            found.push_back(finding);
        }
        finding.severity = Severity::warning;
        findJump(lane, finding, "a lane of " + quoted(emitter.name), found);
    }
}

void findMissing(const Project& project, const Level& level, const Emitter& emitter, std::vector<Finding>& found)
{
    const auto missing = [&](const char* code, const char* kind, const std::string& reference) {
        found.push_back({.code = code,
                         .severity = Severity::warning,
                         .what = quoted(emitter.name) + " refers to the " + kind + ' ' + quoted(reference) +
                                 ", which is not in the project",
                         .where = "emitter " + quoted(emitter.name),
                         .fix = std::string("choose a ") + kind + " for it, or none",
                         .level = level.id,
                         .emitter = emitter.id});
    };
    if (!emitter.family.empty() && project.families.find(emitter.family) == nullptr) {
        missing("family-unknown", "family", emitter.family.text);
    }
    if (!emitter.pattern.empty() && project.patterns.find(emitter.pattern) == nullptr) {
        missing("pattern-unknown", "pattern", emitter.pattern.text);
    }
}

/// Copies of one loop side by side, all from the same moment on: heard as one sound that swirls.
void findPhasing(const Project& project, const Level& level, std::vector<Finding>& found)
{
    std::map<std::string, std::vector<const Emitter*>> bySound;
    for (const auto& emitter : level.emitters) {
        const Sound* sound = project.sounds.find(emitter->sound);
        if (sound != nullptr && sound->loop && !sound->copiesApart && emitter->kind == EmitterKind::point && !emitter->muted) {
            bySound[emitter->sound.text].push_back(emitter.get());
        }
    }
    for (const auto& [sound, copies] : bySound) {
        for (std::size_t i = 0; i < copies.size(); ++i) {
            for (std::size_t k = i + 1; k < copies.size(); ++k) {
                const Emitter& a = *copies[i];
                const Emitter& b = *copies[k];
                if (a.pitch_st != b.pitch_st || a.startAfter_s != b.startAfter_s || glm::length(a.at - b.at) > phasing_m) {
                    continue;
                }
                found.push_back({.code = "loops-phase",
                                 .severity = Severity::warning,
                                 .what = quoted(a.name) + " and " + quoted(b.name) + " play the same loop in step, " +
                                         number("%.1f m", glm::length(a.at - b.at)) + " apart: where both are heard they swirl",
                                 .where = "emitter " + quoted(b.name),
                                 .fix = "let each copy start at a place of its own",
                                 .level = level.id,
                                 .emitter = b.id,
                                 .remedies = {{"Start each copy at a place of its own", [id = a.sound](Project changed) {
                                                   Sound apart = *changed.sounds.find(id);
                                                   apart.copiesApart = true;
                                                   changed.sounds.put(std::move(apart));
                                                   return changed;
                                               }}}});
            }
        }
    }
}

/// One sound from so many places at once that none of them can be told from the others.
void findCrowd(const Project& project, const Level& level, std::vector<Finding>& found)
{
    std::map<std::string, std::vector<Sphere>> bySound;
    for (const auto& emitter : level.emitters) {
        if (emitter->kind == EmitterKind::point && !emitter->muted) {
            const double reach_m = reachFactorOf(project, *emitter) *
                                   lastAbove_m(falloffOf(project, *emitter).lanes.front(), crowd_db - emitter->level_db);
            bySound[emitter->sound.text].push_back({emitter->at, reach_m});
        }
    }
    for (const auto& [id, copies] : bySound) {
        const Sound* sound = project.sounds.find({id});
        if (sound == nullptr || copies.size() < crowd) {
            continue;
        }
        const SphereIndex index(copies);
        std::vector<std::uint32_t> here;
        std::size_t most = 0;
        // A look from some of the copies, evenly spread, says enough.
        for (std::size_t i = 0; i < copies.size(); i += 1 + copies.size() / crowdLooks) {
            here.clear();
            index.containing(copies[i].centre, here);
            most = std::max(most, here.size());
        }
        if (most >= crowd) {
            found.push_back({.code = "crowd-of-copies",
                             .severity = Severity::warning,
                             .what = std::to_string(most) + " copies of " + quoted(sound->name) +
                                     " are heard together: nobody can tell where any of them is",
                             .where = "sound " + quoted(sound->name),
                             .fix = "let them reach less far, or leave some out",
                             .level = level.id,
                             .sound = sound->id});
        }
    }
}

/// Levels that each lie within bounds and together do not: of the file, the sound, the family and the emitter.
void findGain(const Project& project, const Level& level, const Emitter& emitter, std::vector<Finding>& found)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    const Family* family = project.families.find(emitter.family);
    double file_db = 0.0;
    for (const SoundFile& file : sound != nullptr ? sound->files : std::vector<SoundFile>{}) {
        file_db = std::max(file_db, file.level_db);
    }
    const double all_db =
        emitter.level_db + file_db + (sound != nullptr ? sound->level_db : 0.0) + (family != nullptr ? family->level_db : 0.0);
    if (all_db > mostGain_db) {
        found.push_back({.code = "gain-high",
                         .severity = Severity::warning,
                         .what = "the levels of " + quoted(emitter.name) + ", its sound, its file and its family add up to " +
                                 number("%+.0f dB", all_db) + ": near it all else is drowned",
                         .where = "emitter " + quoted(emitter.name),
                         .fix = "turn one of them down",
                         .level = level.id,
                         .emitter = emitter.id});
    }
}

} // namespace

void findInFalloff(const Falloff& falloff, const std::string& where, const LevelId& level, const EmitterId& emitter,
                   std::vector<Finding>& found)
{
    const Lane& lane = falloff.lanes.front();
    const DistanceFormula& f = lane.formula;
    Finding finding{.code = "", .severity = Severity::warning, .where = where, .level = level, .emitter = emitter};
    for (const Lane& each : falloff.lanes) {
        findJump(each, finding, where, found);
    }
    if (!lane.on) {
        return;
    }
    if (silentFrom_m(lane) <= 0.0) {
        finding.code = "falloff-silent";
        finding.what = where + " has no range: it is silent everywhere";
        finding.fix = "give it a reference distance above 0 and let it be silent farther out";
        found.push_back(finding);
        return;
    }
    if (lane.shape == LaneShape::formula) {
        if (f.silentAt_m > 0.0 && f.silentAt_m < f.reference_m) {
            finding.code = "falloff-reversed";
            finding.what = where + " is silent at " + number("%.4g m", f.silentAt_m) +
                           ", nearer than its full level reaches (" + number("%.4g m", f.reference_m) + ")";
            finding.fix = "move the silent distance beyond the reference distance";
            found.push_back(finding);
        } else if (f.model == DistanceModel::linear && f.maximum_m < f.reference_m) {
            finding.code = "falloff-reversed";
            finding.what = where + " has its maximum distance (" + number("%.4g m", f.maximum_m) +
                           ") inside its reference distance (" + number("%.4g m", f.reference_m) + ")";
            finding.fix = "exchange the two";
            found.push_back(finding);
        }
        return;
    }
    for (std::size_t i = 0; i + 1 < lane.curve.size(); ++i) {
        if (lane.curve[i + 1].y > lane.curve[i].y + rise_db) {
            finding.code = "falloff-rises";
            finding.what = where + " gets louder with distance, from " + number("%.4g m", lane.curve[i].x) + " to " +
                           number("%.4g m", lane.curve[i + 1].x);
            finding.fix = "lower the farther point, unless that is what you want";
            found.push_back(finding);
            break;
        }
    }
    if (!lane.curve.empty() && lane.curve.back().y > laneSilent_db && lane.curve.back().y <= endlessBelow_db) {
        finding.code = "falloff-inaudible";
        finding.what = where + " ends at " + number("%.0f dB", lane.curve.back().y) +
                       " and stays there: it cannot be heard, yet takes a voice everywhere";
        finding.fix = "draw its last point down to silence";
        found.push_back(finding);
    }
}

void findInEmitters(const Project& project, const Level& level, double size_m, std::vector<Finding>& found)
{
    for (const auto& emitter : level.emitters) {
        findMissing(project, level, *emitter, found);
        findGain(project, level, *emitter, found);
        if (emitter->kind == EmitterKind::point) {
            findInPlacement(level, *emitter, found);
            const double silent_m = silentFrom_m(falloffOf(project, *emitter).lanes.front());
            if (size_m > 0.0 && std::isfinite(silent_m) && silent_m > farReach * size_m) {
                found.push_back({.code = "reach-beyond-level",
                                 .severity = Severity::note,
                                 .what = quoted(emitter->name) + " reaches " + number("%.4g m", silent_m) +
                                         ", the whole level is " + number("%.4g m", size_m) + " across",
                                 .where = "emitter " + quoted(emitter->name),
                                 .fix = "let it be silent nearer, so that it takes no voice for nothing",
                                 .level = level.id,
                                 .emitter = emitter->id});
            }
        }
    }
    findPhasing(project, level, found);
    findCrowd(project, level, found);
}

void findChannels(const Level& level, const Emitter& emitter, const SampleBuffer& buffer, std::vector<Finding>& found)
{
    const bool decided = emitter.placement.channels != ChannelUse::undecided || emitter.placement.inWorld <= 0.0;
    if (emitter.kind == EmitterKind::bed || buffer.channelCount() < 2 || decided) {
        return;
    }
    found.push_back({.code = "stereo-on-point",
                     .severity = Severity::warning,
                     .what = quoted(emitter.name) + " has a place, but its sound has " + std::to_string(buffer.channelCount()) +
                             " channels; they are played as one",
                     .where = "emitter " + quoted(emitter.name),
                     .fix = "say what is meant: fold them to one, or place them as a pair",
                     .level = level.id,
                     .emitter = emitter.id,
                     .remedies = {setChannels("Fold to mono", level.id, emitter.id, ChannelUse::mid),
                                  setChannels("Fold, equal power", level.id, emitter.id, ChannelUse::equalPower),
                                  setChannels("Place as a pair", level.id, emitter.id, ChannelUse::image)}});
}

} // namespace stone
