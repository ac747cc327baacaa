// SPDX-License-Identifier: MPL-2.0
#include "hearing/reasons.h"

#include "acoustics/distance.h"
#include "geometry/spread.h"
#include "project/edit.h"

#include <cmath>
#include <cstdarg>
#include <cstdio>

namespace stone
{

namespace
{

[[gnu::format(printf, 1, 2)]] std::string text(const char* format, ...)
{
    char buffer[200];
    va_list arguments;
    va_start(arguments, format);
    std::vsnprintf(buffer, sizeof buffer, format, arguments);
    va_end(arguments);
    return buffer;
}

std::string hertz(double hz)
{
    return hz < 1000.0 ? text("%.0f Hz", hz) : text("%.3g kHz", hz / 1000.0);
}

std::string inputText(LaneInput input, double x)
{
    switch (input) {
    case LaneInput::distance: return text("%.3g m", x);
    case LaneInput::offFront:
    case LaneInput::direction: return text("%.0f\u00b0", x);
    case LaneInput::speed: return text("%.3g m/s", x);
    case LaneInput::time: return text("%.3g s", x);
    case LaneInput::depth: return text("%.3g m", x);
    case LaneInput::gameValue: return text("%.3g", x);
    case LaneInput::gaze: return text("%.0f\u00b0", x);
    }
    return {};
}

std::string curveInWords(const Lane& lane)
{
    const Curve& curve = lane.curve;
    if (curve.empty()) {
        return "has no points yet";
    }
    const std::string start = valueText(lane.property, curve.front().y);
    if (curve.size() == 1) {
        return start + " throughout";
    }
    std::string words = start;
    if (curve.front().x > 0.0) {
        words += " up to " + inputText(lane.over, curve.front().x);
    }
    return words + ", then by way of " + std::to_string(curve.size() - 1) + (curve.size() == 2 ? " point" : " points") +
           " to " + valueText(lane.property, curve.back().y) + " from " + inputText(lane.over, curve.back().x) + " on";
}

std::string distanceReason(const HearingModel& model, const Heard& heard)
{
    const Emitter& emitter = *model.level().emitters[heard.index];
    const double full = fullUpTo_m(falloffOf(model.project(), emitter).lanes.front());
    std::string reason = text("%.1f m away", heard.bearing.distance_m);
    if (heard.gazed.nearness != 1.0) {
        reason += text(", as if %.1f m by where you look", heard.bearing.distance_m * heard.gazed.nearness);
    }
    const Family* family = model.project().families.find(emitter.family);
    if (family != nullptr && family->reachFactor != 1.0) {
        reason += text(", as if %.1f m by its family's reach", heard.bearing.distance_m / family->reachFactor);
    }
    return std::isfinite(full) ? reason + text(", full up to %.3g m", full) : reason + ", the same everywhere";
}

std::string soundless(const Project& project, const Emitter& emitter)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    return sound == nullptr       ? "no sound is chosen"
           : sound->files.empty() ? "its sound \"" + sound->name + "\" has no file yet"
                                  : "no file of its sound \"" + sound->name + "\" can be read";
}

std::string wallsReason(const Heard& heard)
{
    const Screened& walls = heard.screened;
    if (walls.free == 0) {
        return walls.rays == 1 ? "its ray is stopped" : text("all %d rays to it are stopped", walls.rays);
    }
    return text("%d of %d rays to it are stopped", walls.rays - walls.free, walls.rays);
}

std::string timingReason(const HearingModel& model, const Heard& heard)
{
    const Emitter& emitter = *model.level().emitters[heard.index];
    if (heard.start.pausedAt_s) {
        return "it is paused";
    }
    if (emitter.kind == EmitterKind::sprinkle) {
        return "nothing of it falls just now";
    }
    if (emitter.kind == EmitterKind::steps) {
        return "nobody walks just now";
    }
    if (emitter.kind == EmitterKind::pulse) {
        return model.world().edges() == nullptr ? "the level has no floor whose edges it could tell of"
                                                : "no beat just now: nothing that it tells of is near";
    }
    if (!model.world().simple(heard.index)) {
        return "nothing has started it yet, or it is over";
    }
    const std::string from = text("it plays from %.1f s after the level's start", emitter.startAfter_s);
    return std::isinf(model.sounds(heard.index).to_s) ? from : from + " until it is over";
}

/// "to Trolley, 2 at once of its sound: the quietest gives way; back when there is room".
std::string gaveWayReason(const HearingModel& model, const Heard& heard)
{
    if (!heard.gaveWay) {
        return {};
    }
    const GaveWay& why = *heard.gaveWay;
    const Start& start = heard.start;
    const Emitter& emitter = *model.level().emitters[heard.index];
    const Emitter& other = *model.level().emitters[why.to];
    const Family* family = model.project().families.find(emitter.family);
    std::string whose = "in the level";
    if (why.crowd == Crowd::sound) {
        whose = "of its sound \"" + model.world().playables()[start.playable].sound->name + '"';
    } else if (why.crowd == Crowd::family && family != nullptr) {
        whose = "of its family \"" + family->name + '"';
    }
    const std::string to = why.to == heard.index ? "to another copy of its own" : "to \"" + other.name + '"';
    if (why.atOnce == 0) {
        return "it came too soon after " + (why.to == heard.index ? std::string("its last start") : '"' + other.name + '"') +
               ", by the hold-off " + whose;
    }
    static constexpr const char* rules[] = {"the quietest", "the oldest", "the farthest", "the newest"};
    return to + text(", %d at once ", why.atOnce) + whose + ": " + rules[static_cast<std::size_t>(why.rule)] + " gives way" +
           (why.forGood ? "" : "; it comes back when there is room");
}

std::string valuesInWords(const HearingModel& model, const Emitter& emitter, const Family* family)
{
    std::string words;
    std::vector<Lane> lanes = emitter.lanes;
    if (family != nullptr) {
        lanes.insert(lanes.end(), family->lanes.begin(), family->lanes.end());
    }
    for (const Lane& lane : lanes) {
        if (lane.on && lane.over == LaneInput::gameValue && lane.property == LaneProperty::level) {
            const GameValue* value = model.project().gameValues.find(lane.value);
            words +=
                (words.empty() ? "follows " : " and ") + (value != nullptr ? '"' + value->name + '"' : "a value that is gone");
        }
    }
    return words;
}

} // namespace

const char* termName(TermKind kind)
{
    switch (kind) {
    case TermKind::sound: return "Recorded level";
    case TermKind::emitter: return "Emitter level";
    case TermKind::family: return "Family";
    case TermKind::distance: return "Distance";
    case TermKind::reach: return "End of reach";
    case TermKind::facing: return "Facing";
    case TermKind::direction: return "Side";
    case TermKind::walls: return "Walls";
    case TermKind::placement: return "World and ears";
    case TermKind::speed: return "Speed";
    case TermKind::depth: return "Depth in the zone";
    case TermKind::value: return "Game value";
    case TermKind::gaze: return "Gaze";
    case TermKind::zones: return "Other zones";
    case TermKind::resting: return "At rest";
    case TermKind::fadingOut: return "Fading out";
    case TermKind::shared: return "Shared voice";
    case TermKind::muted: return "Muted";
    case TermKind::familyMuted: return "Family muted";
    case TermKind::mutedForEars: return "Muted for your ears";
    case TermKind::soloElsewhere: return "Solo elsewhere";
    case TermKind::noSound: return "No sound";
    case TermKind::timing: return "Not sounding";
    case TermKind::gaveWay: return "Gave way";
    }
    return "";
}

const char* propertyName(LaneProperty property)
{
    switch (property) {
    case LaneProperty::level: return "Level";
    case LaneProperty::lowPass: return "Low-pass";
    case LaneProperty::highPass: return "High-pass";
    case LaneProperty::spread: return "Spread";
    case LaneProperty::placement: return "In the world";
    case LaneProperty::send: return "Reverb send";
    case LaneProperty::nearness: return "Nearness";
    case LaneProperty::priority: return "Priority";
    case LaneProperty::interval: return "Beat";
    case LaneProperty::pitch: return "Pitch";
    }
    return "";
}

const char* inputName(LaneInput input)
{
    switch (input) {
    case LaneInput::distance: return "distance";
    case LaneInput::offFront: return "angle off the front";
    case LaneInput::direction: return "direction round the ears";
    case LaneInput::speed: return "speed";
    case LaneInput::time: return "time since its start";
    case LaneInput::depth: return "depth in its zone";
    case LaneInput::gameValue: return "game value";
    case LaneInput::gaze: return "angle off the gaze";
    }
    return "";
}

std::string valueText(LaneProperty property, double value)
{
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send: return value <= laneSilent_db ? "silent" : text("%.1f dB", value);
    case LaneProperty::lowPass: return value >= openLowPass_hz ? "open" : hertz(value);
    case LaneProperty::highPass: return value <= openHighPass_hz ? "open" : hertz(value);
    case LaneProperty::spread: return text("%.0f\u00b0", value);
    case LaneProperty::placement: return text("%.0f %%", 100.0 * value);
    case LaneProperty::nearness: return text("\u00d7 %.2f", value);
    case LaneProperty::priority: return text("%+.1f grades", value);
    case LaneProperty::interval: return text("%.2f s", value);
    case LaneProperty::pitch: return text("%+.1f semitones", value);
    }
    return {};
}

std::string inWords(const Lane& lane)
{
    if (!lane.on) {
        return "switched off; its points are kept";
    }
    switch (lane.shape) {
    case LaneShape::formula: {
        const double silent = silentFrom_m(lane);
        const std::string full = text("full up to %.3g m, ", fullUpTo_m(lane));
        return std::isfinite(silent) ? full + text("silent at %.3g m", silent)
                                     : full + text("20 dB softer at %.3g m, never quite silent", lastAbove_m(lane, -20.0));
    }
    case LaneShape::twoAngles:
        return valueText(lane.property, lane.angles.inside) +
               text(" within %.0f\u00b0 of the %s, ", lane.angles.inner_deg / 2,
                    lane.over == LaneInput::gaze ? "gaze" : "front") +
               valueText(lane.property, lane.angles.behind) +
               text(" beyond %.0f\u00b0", std::max(lane.angles.inner_deg, lane.angles.outer_deg) / 2);
    case LaneShape::curve: return curveInWords(lane);
    }
    return {};
}

std::string reasonOf(const HearingModel& model, const Heard& heard, const Term& term)
{
    const Project& project = model.project();
    const Emitter& emitter = *model.level().emitters[heard.index];
    const Family* family = project.families.find(emitter.family);
    const std::string familyName = family != nullptr ? '"' + family->name + '"' : "";
    switch (term.kind) {
    case TermKind::sound: {
        const Sound* sound = project.sounds.find(emitter.sound);
        return sound != nullptr ? "set on the sound \"" + sound->name + '"' : "no sound chosen";
    }
    case TermKind::emitter: return "set on this emitter";
    case TermKind::family: return "set on its family " + familyName;
    case TermKind::distance: return distanceReason(model, heard);
    case TermKind::reach:
        return text("fades out towards %.3g m, where it is silent",
                    falloffOf(project, emitter).lanes.front().formula.silentAt_m);
    case TermKind::facing: return text("your ears are %.0f\u00b0 off its front", heard.offFront_deg);
    case TermKind::direction: return text("it is at %.0f\u00b0 from where you face", heard.bearing.azimuth_deg);
    case TermKind::placement:
        return heard.values.placement <= 0.0 ? "fixed in your ears: distance, facing and side do not count"
                                             : text("%.0f %% from the world, %.1f m away, the rest fixed in your ears",
                                                    100.0 * heard.values.placement, heard.bearing.distance_m);
    case TermKind::walls: return wallsReason(heard);
    case TermKind::gaze: return text("it is %.0f\u00b0 off where you look", heard.offGaze_deg);
    case TermKind::speed: return text("you pass it at %.1f m/s", heard.speed_m_s);
    case TermKind::muted: return "muted by hand";
    case TermKind::familyMuted: return "its family " + familyName + " is muted";
    case TermKind::mutedForEars: return "muted for your ears only";
    case TermKind::soloElsewhere: return "something else is solo";
    case TermKind::noSound: return soundless(project, emitter);
    case TermKind::depth: return text("the character is %.1f m inside its zone", heard.depth_m);
    case TermKind::value: return valuesInWords(model, emitter, family);
    case TermKind::zones: return "one is in a zone within its own, or in one that overlaps with it";
    case TermKind::resting: return "it stands still, and is heard only on its way";
    case TermKind::fadingOut: return text("it was stopped and fades out over %.1f s", heard.start.fade_s);
    case TermKind::shared: return "it shares its voice with another area of the same sound";
    case TermKind::timing: return timingReason(model, heard);
    case TermKind::gaveWay: return gaveWayReason(model, heard);
    }
    return {};
}

std::string silencedBy(const HearingModel& model, const Heard& heard)
{
    constexpr double silenced_db = -150.0;
    for (const Term& term : heard.terms) {
        const bool switched = term.kind == TermKind::muted || term.kind == TermKind::familyMuted ||
                              term.kind == TermKind::mutedForEars || term.kind == TermKind::soloElsewhere ||
                              term.kind == TermKind::noSound || term.kind == TermKind::shared ||
                              term.kind == TermKind::resting || term.kind == TermKind::gaveWay;
        if (switched && term.db < silenced_db) {
            return reasonOf(model, heard, term);
        }
    }
    return {};
}

std::vector<std::string> effectsOf(const HearingModel& model, const Heard& heard)
{
    std::vector<std::string> effects;
    const LaneValues& values = heard.values;
    const auto add = [&](LaneProperty property, double value) {
        effects.push_back(std::string(propertyName(property)) + ' ' + valueText(property, value));
    };
    if (values.highPass_hz > openHighPass_hz) {
        add(LaneProperty::highPass, values.highPass_hz);
    }
    if (values.lowPass_hz < openLowPass_hz) {
        add(LaneProperty::lowPass, values.lowPass_hz);
    }
    if (model.level().emitters[heard.index]->kind == EmitterKind::bed) {
        return effects;
    }
    const double width_deg = lengthToWidth_deg(glm::length(heard.direction));
    if (heard.worldShare > 0.0 && width_deg >= 1.0) {
        add(LaneProperty::spread, width_deg);
    }
    if (values.placement < 1.0) {
        add(LaneProperty::placement, values.placement);
    }
    if (heard.air_m > 0.0) {
        effects.push_back(text("Air \u2212%.1f dB at 4 kHz", heard.air_m * model.air_db_m()[6]));
    }
    if (values.send_db != 0.0) {
        add(LaneProperty::send, values.send_db);
    }
    const double doppler = model.level().emitters[heard.index]->placement.doppler;
    if (doppler > 0.0) {
        effects.push_back(text("%.0f ms on its way", 1000.0 * doppler * heard.bearing.distance_m / speedOfSound_m_s));
    }
    return effects;
}

} // namespace stone
