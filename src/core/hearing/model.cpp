#include "hearing/model.h"

#include "acoustics/distance.h"
#include "dsp/decibel.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <limits>

namespace stone
{

const char* termName(TermKind kind)
{
    switch (kind) {
    case TermKind::sound: return "Recorded level";
    case TermKind::emitter: return "Emitter level";
    case TermKind::distance: return "Distance";
    case TermKind::reach: return "End of reach";
    case TermKind::muted: return "Muted";
    case TermKind::timing: return "Not sounding";
    }
    return "";
}

HearingModel::HearingModel(std::shared_ptr<const Project> project, const LevelId& level, const std::vector<double>& lengths_s)
    : project_(std::move(project)), level_(project_->levels.find(level))
{
    std::vector<Sphere> spheres;
    sources_.reserve(level_->emitters.size());
    spheres.reserve(level_->emitters.size());
    for (const auto& emitter : level_->emitters) {
        const Sound* sound = project_->sounds.find(emitter->sound);
        const DistanceFormula& formula = falloffOf(*project_, *emitter).lanes.front().formula;
        Source source{emitter->at,
                      emitter->kind,
                      emitter->muted,
                      sound != nullptr ? sound->level_db : 0.0,
                      emitter->level_db,
                      std::numeric_limits<double>::infinity(),
                      emitter->startAfter_s,
                      std::numeric_limits<double>::infinity(),
                      formula};
        const double length_s = sources_.size() < lengths_s.size() ? lengths_s[sources_.size()] : 0.0;
        if (sound != nullptr && !sound->loop && length_s > 0.0) {
            source.ends_s = source.starts_s + length_s / std::pow(2.0, emitter->pitch_st / 12.0);
        }
        if (emitter->kind == EmitterKind::point) {
            source.reach_m = silentFrom_m(formula);
        }
        double asked_m = source.reach_m;
        if (emitter->kind == EmitterKind::point && std::isinf(asked_m)) {
            // A formula without an end still falls below what can be heard: nothing is asked beyond that.
            const double inaudible = audible_db - source.sound_db - source.emitter_db;
            if (inaudible < 0.0) {
                asked_m = distanceOfLevel_m(formula, inaudible);
            }
        }
        spheres.push_back({source.at, asked_m});
        sources_.push_back(source);
    }
    index_ = SphereIndex(spheres);
}

Heard HearingModel::hearOne(const Pose& ears, const TimeSpan& when, std::uint32_t index) const
{
    return hearFrom(frameOf(ears), ears.at, when, index);
}

Heard HearingModel::hearFrom(const Frame& frame, const Vec3& ears, const TimeSpan& when, std::uint32_t index) const
{
    const Source& source = sources_[index];
    Heard heard;
    heard.index = index;
    heard.terms.add(TermKind::sound, source.sound_db);
    heard.terms.add(TermKind::emitter, source.emitter_db);
    if (source.kind == EmitterKind::point) {
        heard.bearing = bearingOf(frame, ears, source.at);
        const double distance_m = heard.bearing.distance_m;
        heard.terms.add(TermKind::distance, levelOf(distanceGain(source.formula, distance_m)));
        const double reach = reachGain(source.formula, distance_m);
        if (reach < 1.0) {
            heard.terms.add(TermKind::reach, levelOf(reach));
        }
        heard.direction = heard.bearing.local / std::max(distance_m, nearRange_m);
    }
    if (source.muted) {
        heard.terms.add(TermKind::muted, silence_db);
    }
    if (source.starts_s > when.to_s || source.ends_s <= when.from_s) {
        heard.terms.add(TermKind::timing, silence_db);
    }
    heard.level_db = heard.terms.total();
    heard.audible = heard.level_db >= audible_db;
    return heard;
}

void HearingModel::hear(const Pose& ears, const TimeSpan& when, std::vector<Heard>& heard,
                        std::vector<std::uint32_t>& scratch) const
{
    heard.clear();
    scratch.clear();
    index_.containing(ears.at, scratch);
    const Frame frame = frameOf(ears);
    for (const std::uint32_t index : scratch) {
        heard.push_back(hearFrom(frame, ears.at, when, index));
    }
}

std::vector<Heard> HearingModel::hearAll(const Pose& ears, const TimeSpan& when) const
{
    std::vector<Heard> heard;
    heard.reserve(sources_.size());
    const Frame frame = frameOf(ears);
    for (std::uint32_t index = 0; index < sources_.size(); ++index) {
        heard.push_back(hearFrom(frame, ears.at, when, index));
    }
    return heard;
}

std::string reasonOf(const HearingModel& model, const Heard& heard, const Term& term)
{
    const Emitter& emitter = *model.level().emitters[heard.index];
    const DistanceFormula& formula = falloffOf(model.project(), emitter).lanes.front().formula;
    char text[160] = "";
    switch (term.kind) {
    case TermKind::sound: {
        const Sound* sound = model.project().sounds.find(emitter.sound);
        return sound != nullptr ? "set on the sound \"" + sound->name + '"' : "no sound chosen";
    }
    case TermKind::emitter: return "set on this emitter";
    case TermKind::distance:
        std::snprintf(text, sizeof text, "%.1f m away, full up to %.3g m", heard.bearing.distance_m, fullUpTo_m(formula));
        return text;
    case TermKind::reach:
        std::snprintf(text, sizeof text, "fades out towards %.3g m, where it is silent", formula.silentAt_m);
        return text;
    case TermKind::muted: return "muted by hand";
    case TermKind::timing:
        std::snprintf(text, sizeof text, "it plays from %.1f s after the level's start", emitter.startAfter_s);
        return std::isinf(model.sounds(heard.index).to_s) ? std::string(text) : std::string(text) + " until it is over";
    }
    return text;
}

} // namespace stone
