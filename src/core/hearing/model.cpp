#include "hearing/model.h"

#include "acoustics/distance.h"
#include "acoustics/facing.h"
#include "dsp/decibel.h"
#include "dsp/state_variable_filter.h"
#include "geometry/spread.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double endless = std::numeric_limits<double>::infinity();

bool hasLane(const std::vector<Lane>& lanes, LaneProperty property)
{
    return std::any_of(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.property == property && lane.on; });
}

bool isSolo(const Project& project, const Emitter& emitter)
{
    const Family* family = project.families.find(emitter.family);
    return emitter.solo || (family != nullptr && family->solo);
}

} // namespace

HearingModel::Source HearingModel::gather(const Emitter& emitter, bool anySolo) const
{
    const Sound* sound = project_->sounds.find(emitter.sound);
    const Family* family = project_->families.find(emitter.family);
    return {.at = emitter.at,
            .kind = emitter.kind,
            .muted = emitter.muted,
            .familyMuted = family != nullptr && family->muted,
            .soloElsewhere = anySolo && !isSolo(*project_, emitter),
            .priority = priorityOf(*project_, emitter),
            .sound_db = (sound != nullptr ? sound->level_db : 0.0) + chanceOf(*project_, emitter).level_db,
            .emitter_db = emitter.level_db,
            .lowPass_hz = std::min(sound != nullptr ? sound->lowPass_hz : openLowPass_hz,
                                   family != nullptr ? family->lowPass_hz : openLowPass_hz),
            .highPass_hz = std::max(sound != nullptr ? sound->highPass_hz : openHighPass_hz,
                                    family != nullptr ? family->highPass_hz : openHighPass_hz),
            // What was made for two ears has no place in the world.
            .inWorld = sound != nullptr && sound->binaural ? 0.0 : emitter.placement.inWorld,
            .reach_m = endless,
            .starts_s = emitter.startAfter_s,
            .ends_s = endless,
            .emitter = &emitter,
            .falloff = &falloffOf(*project_, emitter),
            .family = family};
}

/// Beyond this distance nobody needs to ask: it cannot be heard there.
double HearingModel::askedWithin_m(const Source& source) const
{
    const std::vector<Lane>& lanes = source.emitter->lanes;
    const bool partlyInEars = source.inWorld < 1.0 || hasLane(lanes, LaneProperty::placement) ||
                              hasLane(source.falloff->lanes, LaneProperty::placement);
    if (source.kind == EmitterKind::bed || partlyInEars) {
        return endless;
    }
    if (std::isfinite(source.reach_m)) {
        return source.reach_m;
    }
    // A lane without an end still falls below what can be heard: nothing is asked beyond that.
    double most_db = source.sound_db + source.emitter_db + (source.family != nullptr ? source.family->level_db : 0.0);
    for (const Lane& lane : lanes) {
        most_db += lane.property == LaneProperty::level ? std::max(highest_db(lane), 0.0) : 0.0;
    }
    return reachFactorOf(*project_, *source.emitter) * lastAbove_m(source.falloff->lanes.front(), audible_db - most_db);
}

HearingModel::HearingModel(std::shared_ptr<const Project> project, const LevelId& level, const std::vector<double>& lengths_s)
    : project_(std::move(project)), level_(project_->levels.find(level)), air_db_m_(airLoss_db_m(project_->air))
{
    const auto& emitters = level_->emitters;
    const bool anySolo =
        std::any_of(emitters.begin(), emitters.end(), [&](const auto& emitter) { return isSolo(*project_, *emitter); });
    std::vector<Sphere> spheres;
    sources_.reserve(emitters.size());
    spheres.reserve(emitters.size());
    for (const auto& emitter : emitters) {
        Source source = gather(*emitter, anySolo);
        const Sound* sound = project_->sounds.find(emitter->sound);
        const double length_s = sources_.size() < lengths_s.size() ? lengths_s[sources_.size()] : 0.0;
        if (sound != nullptr && length_s > 0.0 && std::isfinite(length_s)) {
            source.ends_s =
                source.starts_s + length_s / std::pow(2.0, (emitter->pitch_st + chanceOf(*project_, *emitter).pitch_st) / 12.0);
        }
        if (emitter->kind == EmitterKind::point && source.inWorld >= 1.0) {
            source.reach_m = reachFactorOf(*project_, *emitter) * silentFrom_m(source.falloff->lanes.front());
        }
        spheres.push_back({source.at, askedWithin_m(source)});
        sources_.push_back(source);
    }
    index_ = SphereIndex(spheres);
}

Heard HearingModel::hearOne(const Ears& ears, const TimeSpan& when, std::uint32_t index) const
{
    return hearFrom(frameOf(ears), ears, when, index);
}

/// Distance, facing, direction, placement and width of what is not a bed.
void HearingModel::placeInWorld(const Frame& frame, const Ears& ears, const Source& source, Heard& heard) const
{
    const Emitter& emitter = *source.emitter;
    heard.bearing = bearingOf(frame, ears.at, source.at);
    heard.offFront_deg = offFront_deg(emitter.heading_deg, emitter.tilt_deg, source.at, ears.at);
    const double distance_m = heard.bearing.distance_m;
    const double ruler_m = distance_m / (source.family != nullptr ? source.family->reachFactor : 1.0);

    Terms world;
    for (const Lane& lane : source.falloff->lanes) {
        if (lane.property != LaneProperty::level) {
            heard.values.add(lane.property, laneAt(lane, ruler_m));
        } else if (lane.on && lane.shape == LaneShape::formula) {
            world.add(TermKind::distance, levelOf(distanceGain(lane.formula, ruler_m)));
            const double reach = reachGain(lane.formula, ruler_m);
            if (reach < 1.0) {
                world.add(TermKind::reach, levelOf(reach));
            }
        } else {
            world.add(TermKind::distance, laneAt(lane, ruler_m));
        }
    }
    for (const Lane& lane : emitter.lanes) {
        if (!lane.on || lane.over == LaneInput::speed) {
            continue;
        }
        const double value = laneAt(lane, lane.over == LaneInput::offFront ? heard.offFront_deg : heard.bearing.azimuth_deg);
        if (lane.property == LaneProperty::level) {
            world.add(lane.over == LaneInput::offFront ? TermKind::facing : TermKind::direction, value);
        } else {
            heard.values.add(lane.property, value);
        }
    }
    heard.values.placement = std::clamp(heard.values.placement * source.inWorld, 0.0, 1.0);
    heard.values.spread_deg = std::max(heard.values.spread_deg, emitter.placement.spread_deg);
    if (heard.values.placement >= 1.0) {
        for (const Term& term : world) {
            heard.terms.add(term.kind, term.db);
        }
    } else {
        // Two parts of unlike ways: their powers add.
        const double inWorld = heard.values.placement * std::pow(gainOf(world.total()), 2.0);
        const double power = inWorld + 1.0 - heard.values.placement;
        heard.terms.add(TermKind::placement, levelOf(std::sqrt(power)));
        heard.worldShare = inWorld / power;
    }
    const double near = emitter.placement.nearRange_m;
    const double opened = distance_m < near ? distance_m / near : 1.0;
    const double wide = widthToLength(heard.values.spread_deg);
    heard.direction = distance_m > 0.0 ? heard.bearing.local * (opened * wide / distance_m) : Vec3{0.0};
    heard.air_m = emitter.placement.air ? distance_m : 0.0;
}

Heard HearingModel::hearFrom(const Frame& frame, const Ears& ears, const TimeSpan& when, std::uint32_t index) const
{
    const Source& source = sources_[index];
    Heard heard;
    heard.index = index;
    heard.speed_m_s = glm::length(ears.velocity_m_s);
    heard.terms.add(TermKind::sound, source.sound_db);
    heard.terms.add(TermKind::emitter, source.emitter_db);
    heard.values.add(LaneProperty::lowPass, source.lowPass_hz);
    heard.values.add(LaneProperty::highPass, source.highPass_hz);
    if (source.family != nullptr) {
        if (source.family->level_db != 0.0) {
            heard.terms.add(TermKind::family, source.family->level_db);
        }
    }
    double speed_db = 0.0;
    for (const Lane& lane : source.emitter->lanes) {
        if (lane.on && lane.over == LaneInput::speed) {
            const double value = laneAt(lane, heard.speed_m_s);
            if (lane.property == LaneProperty::level) {
                speed_db += value;
            } else {
                heard.values.add(lane.property, value);
            }
        }
    }
    if (source.kind == EmitterKind::point) {
        placeInWorld(frame, ears, source, heard);
    } else {
        heard.worldShare = 0.0;
        heard.values.placement = 0.0;
    }
    if (speed_db != 0.0) {
        heard.terms.add(TermKind::speed, speed_db);
    }
    if (source.muted) {
        heard.terms.add(TermKind::muted, silence_db);
    }
    if (source.familyMuted) {
        heard.terms.add(TermKind::familyMuted, silence_db);
    }
    if (source.soloElsewhere) {
        heard.terms.add(TermKind::soloElsewhere, silence_db);
    }
    if (source.starts_s > when.to_s || source.ends_s <= when.from_s) {
        heard.terms.add(TermKind::timing, silence_db);
    }
    heard.level_db = heard.terms.total();
    heard.audible = heard.level_db >= audible_db;
    return heard;
}

void HearingModel::hear(const Ears& ears, const TimeSpan& when, std::vector<Heard>& heard,
                        std::vector<std::uint32_t>& scratch) const
{
    heard.clear();
    scratch.clear();
    index_.containing(ears.at, scratch);
    const Frame frame = frameOf(ears);
    for (const std::uint32_t index : scratch) {
        heard.push_back(hearFrom(frame, ears, when, index));
    }
}

std::vector<Heard> HearingModel::hearAll(const Ears& ears, const TimeSpan& when) const
{
    std::vector<Heard> heard;
    heard.reserve(sources_.size());
    const Frame frame = frameOf(ears);
    for (std::uint32_t index = 0; index < sources_.size(); ++index) {
        heard.push_back(hearFrom(frame, ears, when, index));
    }
    return heard;
}

Bands HearingModel::bands_db(const Heard& heard) const
{
    Bands bands{};
    for (std::size_t band = 0; band < bands.size(); ++band) {
        const double f = octaveBands_hz[band];
        bands[band] = heard.level_db - heard.air_m * air_db_m_[band];
        if (heard.values.lowPass_hz < openLowPass_hz) {
            bands[band] += levelOf(butterworthLowPass(f, heard.values.lowPass_hz));
        }
        if (heard.values.highPass_hz > openHighPass_hz) {
            bands[band] += levelOf(butterworthHighPass(f, heard.values.highPass_hz));
        }
    }
    return bands;
}

} // namespace stone
