#include "analysis/emitter_findings.h"

#include "acoustics/lane.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr double rise_db = 1.0; ///< a level that grows by more than this on the way out was hardly meant to
constexpr double jump_db = 6.0; ///< between two neighbouring places of a curve
constexpr double jumpOctaves = 1.0;
constexpr double endlessBelow_db = -60.0;
constexpr double farReach = 3.0;       ///< times the level's own size
constexpr double phasing_m = 6.0;      ///< two loops of one sound nearer than this are heard as one that swirls
constexpr double offset = 0.01;        ///< share of full scale
constexpr double loopSilence_s = 0.05; ///< at the ends of a loop
constexpr double loopPause_s = 1.0;
constexpr double gapStandsOut = 1.5; ///< times the longest silence inside

std::string number(const char* format, double value)
{
    char text[48];
    std::snprintf(text, sizeof text, format, value);
    return text;
}

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
        if (sound != nullptr && sound->loop && !sound->randomStart && emitter->kind == EmitterKind::point && !emitter->muted) {
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
                                                   apart.randomStart = true;
                                                   changed.sounds.put(std::move(apart));
                                                   return changed;
                                               }}}});
            }
        }
    }
}

} // namespace

std::string quoted(const std::string& name)
{
    return '"' + name + '"';
}

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
    std::string solo;
    for (const auto& emitter : level.emitters) {
        findMissing(project, level, *emitter, found);
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
        if (emitter->solo) {
            solo += (solo.empty() ? "" : ", ") + quoted(emitter->name);
        }
    }
    for (const auto& family : project.families) {
        if (family->solo) {
            solo += (solo.empty() ? "" : ", ") + std::string("family ") + quoted(family->name);
        }
    }
    if (!solo.empty()) {
        found.push_back({.code = "solo-on",
                         .severity = Severity::note,
                         .what = "solo is on for " + solo + ": everything else is silent, in renders too",
                         .where = "level " + quoted(level.name),
                         .fix = "switch it off when you have heard enough",
                         .level = level.id});
    }
    findPhasing(project, level, found);
}

void findInSound(const Sound& sound, const SampleBuffer& buffer, std::vector<Finding>& found)
{
    Finding finding{.code = "", .severity = Severity::warning, .where = "sound " + quoted(sound.name), .sound = sound.id};
    const auto add = [&](const char* code, const std::string& what, const char* fix) {
        finding.code = code;
        finding.what = quoted(sound.name) + ' ' + what;
        finding.fix = fix;
        found.push_back(finding);
    };
    const SoundFacts& facts = buffer.facts;
    if (buffer.peak == 0.0F) {
        add("sound-silent", "holds nothing but silence", "record or export it again");
        return;
    }
    if (buffer.peak >= 1.0F) {
        add("sound-clips", "reaches full scale and may be clipped", "export it with some room at the top");
    }
    if (facts.dc > offset) {
        add("sound-offset",
            "is off centre by " + number("%.1f %%", 100.0 * facts.dc) + " of full scale: it thumps when it starts",
            "take the offset out with a high-pass");
    }
    // A recording of single events is silent between them anyway, and a long pause is meant: what an export leaves at the
    // ends is short and stands out.
    const double gap_s = facts.headSilence_s + facts.tailSilence_s;
    if (sound.loop && gap_s > loopSilence_s && gap_s < loopPause_s && gap_s > gapStandsOut * facts.innerSilence_s) {
        add("loop-silence", "is a loop with " + number("%.2f s", gap_s) + " of silence at its ends: it will pulse", "trim it");
    }
    if (sound.loop && facts.seamStep_db >= seamClicks_db) {
        add("loop-clicks",
            "clicks where the loop comes round: a step " + number("%.0f dB", facts.seamStep_db) + " above its usual ones",
            "cut it where the wave is going the same way, or cross-fade its ends");
    }
}

void findChannels(const Level& level, const Emitter& emitter, const SampleBuffer& buffer, std::vector<Finding>& found)
{
    const bool decided = emitter.placement.channels != ChannelUse::undecided || emitter.placement.inWorld <= 0.0;
    if (emitter.kind != EmitterKind::point || buffer.channels.size() < 2 || decided) {
        return;
    }
    found.push_back({.code = "stereo-on-point",
                     .severity = Severity::warning,
                     .what = quoted(emitter.name) + " is a Point, but its sound has " + std::to_string(buffer.channels.size()) +
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
