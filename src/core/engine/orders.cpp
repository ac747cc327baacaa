// SPDX-License-Identifier: MPL-2.0
#include "engine/control.h"

#include "dsp/decibel.h"
#include "engine/steps.h"
#include "engine/voicing.h"
#include "spatial/panning.h"

#include <algorithm>
#include <cmath>

/// How what sounds becomes orders for voices.
namespace stone
{

namespace
{

/// What the reader looks at beyond a place.
constexpr double readerContext = 16.0;

/// A way that grows or shrinks by more than this in one step is a jump: the sound is taken up anew, in a cross-fade.
constexpr double jump_s = 0.03;
/// By so much of its length may a sound be stretched to catch up with its delay: less than a cent.
constexpr double mostCatchUp = 0.0005;

} // namespace

/// The place from which an area or a zone's bed sounds follows the nearest one no faster than it may: only its direction
/// does, so that nothing else is late.
void Control::glide(Playing& playing, const Emitter& emitter, const Ears& ears, Heard& heard) const
{
    const bool filling = emitter.kind == EmitterKind::area || emitter.kind == EmitterKind::bed;
    const double length = glm::length(heard.direction);
    const double distance_m = heard.bearing.distance_m;
    if (!filling || length <= 0.0 || distance_m <= 0.0) {
        playing.soundsFrom.reset();
        return;
    }
    const Frame frame = frameOf(ears);
    const Vec3 to = (frame.right * heard.direction.x + frame.ahead * heard.direction.y + frame.up * heard.direction.z) / length;
    const Vec3 wanted = ears.at + to * distance_m;
    Vec3 from = playing.soundsFrom.value_or(wanted);
    const double most_m = emitter.area.glide_m_s * static_cast<double>(stepFrames) / rate_;
    const Vec3 way = wanted - from;
    const double way_m = glm::length(way);
    from = way_m > most_m ? from + way * (most_m / way_m) : wanted;
    playing.soundsFrom = from;
    const Vec3 seen = from - ears.at;
    if (way_m > most_m && glm::length(seen) > 0.0) {
        const Vec3 unit = seen / glm::length(seen);
        heard.direction = frame.seen(unit) * length;
    }
    heard.at = from;
}

double Control::glideDelay(Playing& playing, const Heard& heard, const Ears& ears, std::uint64_t step)
{
    const Emitter& what = *scene_->model.level().emitters[heard.index];
    const Placement& placement = what.placement;
    if (what.kind == EmitterKind::bed || (placement.doppler <= 0.0 && playing.delay_s == 0.0)) {
        return 0.0;
    }
    const double step_s = static_cast<double>(stepFrames) / rate_;
    const double way_m = std::max(heard.travelled_m, 0.0) + heard.screened.detour_m;
    const double wanted_s = placement.doppler * way_m / speedOfSound_m_s;
    if (playing.parts.empty() || std::abs(wanted_s - playing.wantedDelay_s) > jump_s) {
        release(playing, step);
        const double ears_m = glm::length(heard.at - (ears.at - ears.velocity_m_s * step_s)) - heard.bearing.distance_m;
        playing.delay_s = placement.doppler * (way_m + ears_m) / speedOfSound_m_s;
        if (std::abs(wanted_s - playing.delay_s) > jump_s) {
            playing.delay_s = wanted_s;
        }
        playing.wantedDelay_s = playing.delay_s;
    }
    // Pitch goes with 1 - change of delay: the limit holds it within so many semitones up and down. What the limit has kept
    // back is made up for so slowly that nobody hears it: only how the delay changes is heard, not how long it is.
    const double limit = std::pow(2.0, placement.dopplerLimit_st / 12.0);
    const double behind_s = playing.wantedDelay_s - playing.delay_s;
    const double catchUp_s = std::clamp(behind_s, -mostCatchUp * step_s, mostCatchUp * step_s);
    const double change_s =
        std::clamp(wanted_s - playing.wantedDelay_s + catchUp_s, step_s * (1.0 - limit), step_s * (1.0 - 1.0 / limit));
    playing.wantedDelay_s = wanted_s;
    playing.delay_s += change_s;
    return change_s;
}

void Control::setLosses(Playing& playing, const Heard& heard) const
{
    const Bands taken_db = scene_->model.colouring_db(heard);
    if (sameLosses(taken_db, playing.lossesFor_db)) {
        return;
    }
    BandFilter::Levels_db levels{};
    std::transform(taken_db.begin(), taken_db.end(), levels.begin(), [](double db) { return -db; });
    playing.losses = designer_(levels);
    playing.lossesFor_db = taken_db;
}

void Control::order(Heard& heard, const Ears& ears, std::uint64_t step, StepPlan& plan)
{
    Playing& playing = playingOf(heard, step);
    glide(playing, *scene_->model.level().emitters[heard.index], ears, heard);
    const bool silent = playing.parts.empty();
    const double lateBefore_s = playing.delay_s;
    const double change_s = glideDelay(playing, heard, ears, step);
    const double late_s = playing.delay_s - change_s;
    const double from = clockAt(playing, step) - late_s * rate_ * playing.rate;
    const double pace = playing.rate * (1.0 - change_s * rate_ / static_cast<double>(stepFrames));
    const ClockSpan clock{from, from + pace * static_cast<double>(stepFrames)};
    const double tail = std::ceil(effectTail_s(playing.material->sound->effects) * rate_);
    if (!playing.course) {
        playing.course = playing.material->course(scene_->model.project().seed, scene_->model.world().courseIdOf(heard.start),
                                                  heard.start.file);
    }
    playing.course->during(clock.from - tail, clock.to, pieces_);
    if (!pieces_.empty()) {
        setLosses(playing, heard);
    }
    bool any = false;
    for (const Piece& piece : pieces_) {
        any = orderPiece(playing, piece, heard, clock, step, plan) || any;
    }
    std::erase_if(playing.parts, [&](Part& part) {
        if (part.lastSounded == serial_) {
            return false;
        }
        release(part, step);
        return true;
    });
    if (!any) {
        playing.delay_s = lateBefore_s;
        return;
    }
    ++sounding_;
    if (silent) {
        sounded_.push_back(keyOf(heard.start));
    }
}

bool Control::orderPiece(Playing& playing, const Piece& piece, const Heard& heard, const ClockSpan& clock, std::uint64_t step,
                         StepPlan& plan)
{
    const Emitter& what = *scene_->model.level().emitters[heard.index];
    const SampleBuffer& audio = *playing.material->files[piece.file];
    const bool binaural = playing.material->sound->binaural;
    const std::size_t voices = voicesOf(what, audio, binaural);
    if (plan.voices.size() + voices > plan.voices.capacity()) {
        return false;
    }
    auto part = std::find_if(playing.parts.begin(), playing.parts.end(), [&](const Part& known) {
        return known.serial == piece.serial && known.audio == &audio && known.begins == piece.begins &&
               known.voiceSlots.size() == voices;
    });
    const bool fresh = part == playing.parts.end();
    const double place = playing.course->placeAt(piece, clock.from);
    if (fresh) {
        // What is not there yet is joined a little later, from silence.
        const bool there = audio.decoded() || scene_->waits || StreamLine::ready(sourceOf(piece, audio, playing, {}), place);
        Part taken{.serial = piece.serial, .audio = &audio, .begins = piece.begins, .voiceSlots = {}};
        if (!there || !takeSlots(taken, voices, step)) {
            return false;
        }
        part = playing.parts.insert(playing.parts.end(), std::move(taken));
    }
    part->lastSounded = serial_;

    const Course& course = *playing.course;
    const SoundFile& file = course.sound().files[piece.file];
    const EffectSettings& effects = playing.material->effects;
    VoiceOrder order;
    order.generation = part->generation;
    // A sound keeps its attack; whatever is joined in the middle comes up from silence.
    order.fadeIn = fresh && (piece.loops || clock.from > piece.begins);
    order.rate = file.pitchDrift.depth > 0.0 && piece.loops
                     ? (course.placeAt(piece, clock.to) - place) / static_cast<double>(stepFrames)
                     : piece.rate * clock.pace();
    order.envelope = {clock.from - piece.begins, piece.ends - clock.from, clock.pace(), piece.fadeIn, piece.fadeOut};
    order.effects = &effects;
    const LaneValues lanes = course.lanesAt(piece, clock.to);
    order.lowPass_hz = static_cast<float>(std::min(heard.values.lowPass_hz, lanes.lowPass_hz));
    order.highPass_hz = static_cast<float>(std::max(heard.values.highPass_hz, lanes.highPass_hz));
    order.banded = playing.losses != BandFilter::Settings{};
    order.losses = playing.losses;
    const std::array<VoiceSend, mostSends> sends = rooms_.sendsOf(heard.sends);
    const VoiceSend reflected = reflections_.sendOf(keyOf(heard.start), heard.given_db);
    const HeadFilters* head = headFilters();
    for (std::size_t voice = 0; voice < voices; ++voice) {
        order.slot = part->voiceSlots[voice];
        order.echo = echoOf(order.slot, effects);
        const ChannelPick pick = pickOf(what, audio, voice, binaural);
        feed(sourceOf(piece, audio, playing, pick.channel), place, fresh, order);
        const double level_db = course.levelAt(piece, clock.to) + lanes.level_db + levelOf(pick.gain);
        shapeVoice({layout_, head, what, heard, voices, voice, level_db}, order);
        const auto share = static_cast<float>(gainOf(level_db) / static_cast<double>(voices));
        for (std::size_t i = 0; i < sends.size(); ++i) {
            order.sends[i] = {sends[i].slot, sends[i].gain * share};
        }
        order.reflected = {reflected.slot, reflected.gain * share};
        work_.add(heard.start.playable, order, playing.material->sound->effects);
        plan.voices.push_back(order);
    }
    return true;
}

void Control::orderClap(std::uint64_t step, StepPlan& plan)
{
    const std::vector<float>& sound = claps_[static_cast<std::size_t>(clapping_->what)];
    const std::uint64_t frame = (step - clapping_->from) * stepFrames;
    if (frame >= sound.size() || plan.voices.size() == plan.voices.capacity()) {
        clapping_.reset();
        return;
    }
    VoiceOrder order;
    order.slot = clapSlot;
    order.generation = clapping_->generation;
    order.samples = sound.data();
    order.frames = static_cast<std::uint32_t>(sound.size());
    order.position = static_cast<double>(frame);
    const ChannelGains ahead = headGains(layout_, 0, 1, {0.0, 1.0, 0.0});
    std::copy(ahead.begin(), ahead.end(), order.target.begin());
    order.sends = rooms_.sendsOf(clapHeard_.sends);
    order.reflected = reflections_.sendOf(clapKey, clapHeard_.given_db);
    plan.voices.push_back(order);
}

StreamLine::Source Control::sourceOf(const Piece& piece, const SampleBuffer& audio, const Playing& playing,
                                     const std::optional<std::size_t>& channel)
{
    const Course::LoopFrames loop = playing.course->loopOf(piece.file);
    return {audio, channel, piece.loops, static_cast<std::int64_t>(loop.from), static_cast<std::int64_t>(loop.end)};
}

/// Says where the audio thread finds the samples of a voice: in the decoded sound, or in a line that is filled for it.
void Control::feed(const StreamLine::Source& source, double place, bool fresh, VoiceOrder& order)
{
    const SampleBuffer& audio = source.audio;
    if (audio.decoded()) {
        const std::vector<float>& samples = source.channel ? audio.channels[*source.channel] : audio.mono();
        order.samples = samples.data();
        order.frames = static_cast<std::uint32_t>(source.loops ? source.loopEnd : static_cast<std::int64_t>(samples.size()));
        order.loopFrom = static_cast<std::uint32_t>(source.loops ? source.loopFrom : 0);
        order.loop = source.loops;
        order.position = place;
        return;
    }
    std::unique_ptr<StreamLine>& line = lines_[order.slot];
    if (fresh || !line) {
        line = std::make_unique<StreamLine>(place);
    }
    // As long as the voice may go on without a word from here.
    const double ahead = order.rate * static_cast<double>(stepFrames * fadeSteps(rate_)) + readerContext;
    starved_ += line->fill(source, place + ahead, scene_->waits) > 0 ? 1 : 0;
    order.samples = line->samples();
    order.frames = StreamLine::ringFrames;
    order.loopFrom = 0;
    order.loop = true;
    order.position = line->positionOf(place);
}

EchoLine* Control::echoOf(std::uint32_t slot, const EffectSettings& effects)
{
    if (effects.echoGain > 0.0F && !echoes_[slot]) {
        echoes_[slot] = std::make_unique<EchoLine>(rate_);
    }
    return echoes_[slot].get();
}

} // namespace stone
