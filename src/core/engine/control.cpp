#include "engine/control.h"

#include "dsp/decibel.h"
#include "engine/voicing.h"
#include "project/edit.h"
#include "spatial/head_model.h"
#include "spatial/panning.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace stone
{

namespace
{

/// A voice fades within four steps of its last order; twice that leaves room for steps that came late.
constexpr std::uint64_t fadeSteps = 8;
/// What the reader looks at beyond a place.
constexpr double readerContext = 16.0;

/// A way that grows or shrinks by more than this in one step is a jump: the sound is taken up anew, in a cross-fade.
constexpr double jump_s = 0.03;
/// The filter for what air and walls take is worked out anew when a band has changed by so much.
constexpr double lossesStep_db = 0.05;
/// Bands that lie further below the mean than this carry nothing.
constexpr double deepest_db = 60.0;

/// The last voice is for claps alone.
constexpr std::uint32_t clapSlot = mostVoices - 1;
constexpr std::uint64_t clapKey = UINT64_MAX - 1;
constexpr double clapAhead_m = 0.5;

double frameOf(std::uint64_t step)
{
    return static_cast<double>(step) * static_cast<double>(stepFrames);
}

/// Whether a sound that was played goes on with what it is now: other pieces of the same files, or the same ones.
bool goesOn(const SharedMaterial& before, const SharedMaterial& now)
{
    return before && now && before->sound->id == now->sound->id && before->files == now->files;
}

} // namespace

Control::Control(Layout layout, int rate)
    : layout_(layout), rate_(rate), designer_(rate),
      builtInHead_(layout == Layout::binaural ? builtInHeadFilters(rate) : nullptr), rooms_(layout, rate),
      reflections_(layout, rate), echoes_(mostVoices), lines_(mostVoices)
{
    scratch_.memory.emplace();
    claps_ = {clapSound(Clap::hands, rate), clapSound(Clap::balloon, rate)};
    free_.reserve(mostVoices);
    // Handed out from the back: low numbers first.
    for (std::uint32_t slot = clapSlot; slot-- > 0;) {
        free_.push_back({slot, 0});
    }
}

Control::Key Control::keyOf(const Start& start)
{
    constexpr unsigned numberBits = 30;
    return (static_cast<Key>(start.emitter) << 32U) | (static_cast<Key>(start.part) << numberBits) |
           (start.number & ((1U << numberBits) - 1U));
}

std::uint32_t Control::emitterOf(Key key)
{
    return static_cast<std::uint32_t>(key >> 32U);
}

void Control::anchor(Playing& playing, const Emitter& emitter, std::uint64_t step)
{
    const double rate = std::pow(2.0, (emitter.pitch_st + playing.pitch_st) / 12.0);
    if (!playing.anchored) {
        playing.anchored = true;
        playing.anchorFrame = startFrame_ + playing.began_s * rate_;
        playing.anchorTime = 0.0;
    } else if (playing.rate != rate) {
        playing.anchorTime = clockAt(playing, step);
        playing.anchorFrame = frameOf(step);
    }
    playing.rate = rate;
}

Control::Playing& Control::playingOf(const Heard& heard, std::uint64_t step)
{
    const auto [found, fresh] = playing_.try_emplace(keyOf(heard.start));
    Playing& playing = found->second;
    if (fresh) {
        playing.material = scene_->materials[heard.start.playable];
        playing.began_s = heard.start.began_s;
        playing.pitch_st = heard.start.pitch_st;
        anchor(playing, *scene_->model.level().emitters[heard.index], step);
    } else if (playing.began_s != heard.start.began_s) {
        // It was paused: its clock stood still.
        playing.anchorFrame += (heard.start.began_s - playing.began_s) * rate_;
        playing.began_s = heard.start.began_s;
    }
    return playing;
}

void Control::setScene(std::shared_ptr<const Scene> scene, std::uint64_t step)
{
    std::unordered_map<Key, Playing> before = std::exchange(playing_, {});
    sounded_.clear();
    const std::shared_ptr<const Scene> old = std::exchange(scene_, std::move(scene));
    const World& world = scene_->model.world();
    if (old) {
        state_ = world.carriedOver(old->model.world(), state_);
        retired_.push_back({old, step});
    }
    for (auto& [key, playing] : before) {
        const EmitterId& id = old->model.level().emitters[emitterOf(key)]->id;
        const auto index = world.indexOf(id);
        const auto playable = index && playing.material ? world.playableFor(*index, *playing.material->sound) : std::nullopt;
        const SharedMaterial now = playable ? scene_->materials[*playable] : nullptr;
        if (!goesOn(playing.material, now)) {
            release(playing, step);
            continue;
        }
        if (playing.material->sound != now->sound) {
            playing.course.reset();
        }
        playing.material = now;
        const Emitter& emitter = *scene_->model.level().emitters[*index];
        if (world.simple(*index)) {
            playing.pitch_st = world.simpleStart(*index).pitch_st;
        }
        anchor(playing, emitter, step);
        const Key renamed = (key & 0xFFFFFFFFU) | (static_cast<Key>(*index) << 32U);
        if (!playing.parts.empty()) {
            sounded_.push_back(renamed);
        }
        playing_.emplace(renamed, std::move(playing));
    }
    std::sort(sounded_.begin(), sounded_.end());
    const std::size_t emitters = scene_->model.level().emitters.size();
    heard_.reserve(emitters);
    scratch_.near.reserve(emitters);
    if (old) {
        scratch_.memory->renumber(
            [&](std::uint32_t emitter) { return world.indexOf(old->model.level().emitters[emitter]->id); });
    }
    scratch_.walls = {};
    scratch_.rooms = {};
    rooms_.renumber(scene_->model.level());
    reflections_.renumber([&](Key key) -> std::optional<Key> {
        if (key == clapKey) {
            return key;
        }
        const auto index = old ? world.indexOf(old->model.level().emitters[emitterOf(key)]->id) : std::nullopt;
        return index ? std::optional((key & 0xFFFFFFFFU) | static_cast<Key>(*index) << 32U) : std::nullopt;
    });
    chosen_.reserve(emitters);
    sounded_.reserve(emitters);
}

void Control::restart(std::uint64_t step, double levelTime_s, const WorldState* state)
{
    startFrame_ = frameOf(step) - levelTime_s * rate_;
    heldAt_.reset();
    state_ = state != nullptr ? *state : WorldState{};
    for (auto& [key, playing] : playing_) {
        release(playing, step);
    }
    playing_.clear();
    sounded_.clear();
    rooms_.restart(step);
    reflections_.restart(step);
    scratch_.memory->forget();
    if (scene_ && state == nullptr && levelTime_s > 0.0) {
        // Joined late without a history: what happened at the start has happened, all else has not.
        scene_->model.world().advance(state_, {.to_s = 0.0, .feet = {}, .jumped = true});
        state_.time_s = levelTime_s;
    }
}

void Control::hold(std::uint64_t step)
{
    if (!heldAt_) {
        heldAt_ = step;
    }
}

void Control::goOn(std::uint64_t step)
{
    if (heldAt_) {
        const double frames = frameOf(step) - frameOf(*heldAt_);
        startFrame_ += frames;
        for (auto& [key, playing] : playing_) {
            playing.anchorFrame += frames;
        }
        heldAt_.reset();
    }
}

TimeSpan Control::timeOf(std::uint64_t step) const
{
    const double begins_s = (frameOf(step) - startFrame_) / rate_;
    return {begins_s, begins_s + static_cast<double>(stepFrames) / rate_};
}

void Control::release(Part& part, std::uint64_t step)
{
    for (const std::uint32_t slot : part.voiceSlots) {
        free_.insert(free_.begin(), {slot, step + fadeSteps});
    }
    part.voiceSlots.clear();
}

void Control::release(Playing& playing, std::uint64_t step)
{
    for (Part& part : playing.parts) {
        release(part, step);
    }
    playing.parts.clear();
}

bool Control::takeSlots(Part& part, std::size_t count, std::uint64_t step)
{
    // Fresh ones lie at the back, fading ones at the front.
    if (free_.size() < count || free_[free_.size() - count].from > step) {
        return false;
    }
    for (std::size_t i = 0; i < count; ++i) {
        part.voiceSlots.push_back(free_.back().slot);
        echoes_[free_.back().slot].reset();
        lines_[free_.back().slot].reset();
        free_.pop_back();
    }
    part.generation = nextGeneration_++;
    return true;
}

void Control::chooseVoices()
{
    chosen_.clear();
    for (std::uint32_t i = 0; i < heard_.size(); ++i) {
        const bool allowed = scene_->only.empty() || scene_->only.contains(heard_[i].index);
        const std::uint32_t playable = heard_[i].start.playable;
        if (heard_[i].audible && allowed && playable != Start::nothing && scene_->materials[playable]) {
            chosen_.push_back(i);
        }
    }
    const auto vital = std::count_if(chosen_.begin(), chosen_.end(), [this](std::uint32_t i) {
        return scene_->model.priority(heard_[i].index) == Priority::vital;
    });
    const auto most = static_cast<std::size_t>(std::max<std::ptrdiff_t>(scene_->model.project().voices, vital));
    gaveWay_ = chosen_.size() > most ? chosen_.size() - most : 0;
    if (gaveWay_ > 0) {
        // Who matters more stays, then the loudest; of equals, the first in the document. Then back to its order.
        const auto grade = [this](std::uint32_t i) {
            const Priority priority = scene_->model.priority(heard_[i].index);
            return static_cast<double>(priority) + heard_[i].values.priority;
        };
        const auto louder = [&](std::uint32_t a, std::uint32_t b) {
            if (grade(a) != grade(b)) {
                return grade(a) > grade(b);
            }
            return heard_[a].level_db != heard_[b].level_db ? heard_[a].level_db > heard_[b].level_db : a < b;
        };
        std::nth_element(chosen_.begin(), chosen_.begin() + static_cast<std::ptrdiff_t>(most), chosen_.end(), louder);
        chosen_.resize(most);
        std::sort(chosen_.begin(), chosen_.end());
    }
}

double Control::clockAt(const Playing& playing, std::uint64_t step) const
{
    return playing.anchorTime + (frameOf(step) - playing.anchorFrame) * playing.rate;
}

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
        heard.direction = Vec3{glm::dot(unit, frame.right), glm::dot(unit, frame.ahead), glm::dot(unit, frame.up)} * length;
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
    const double wanted_s = placement.doppler * (heard.bearing.distance_m + heard.screened.detour_m) / speedOfSound_m_s;
    if (playing.parts.empty() || std::abs(wanted_s - playing.delay_s) > jump_s) {
        release(playing, step);
        const double before_m = glm::length(heard.at - (ears.at - ears.velocity_m_s * step_s)) + heard.screened.detour_m;
        playing.delay_s = placement.doppler * before_m / speedOfSound_m_s;
        if (std::abs(wanted_s - playing.delay_s) > jump_s) {
            playing.delay_s = wanted_s;
        }
    }
    // Pitch goes with 1 - change of delay: the limit holds it within so many semitones up and down.
    const double limit = std::pow(2.0, placement.dopplerLimit_st / 12.0);
    const double change_s = std::clamp(wanted_s - playing.delay_s, step_s * (1.0 - limit), step_s * (1.0 - 1.0 / limit));
    playing.delay_s += change_s;
    return change_s;
}

void Control::setLosses(Playing& playing, const Heard& heard) const
{
    const Bands taken_db = scene_->model.colouring_db(heard);
    const auto close = [](double a, double b) { return std::abs(a - b) <= lossesStep_db; };
    if (std::equal(taken_db.begin(), taken_db.end(), playing.lossesFor_db.begin(), close)) {
        return;
    }
    BandFilter::Levels_db levels{};
    std::transform(taken_db.begin(), taken_db.end(), levels.begin(),
                   [](double db) { return std::clamp(-db, -deepest_db, deepest_db); });
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
    const HeadFilters* head = scene_->head ? scene_->head.get() : builtInHead_.get();
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
    const double ahead = order.rate * static_cast<double>(stepFrames * fadeSteps) + readerContext;
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

Ears Control::advance(std::uint64_t step, const Situation& situation)
{
    const bool moves = !situation.jumped && state_.time_s >= 0.0;
    const Vec3 before = state_.stance.ears.at;
    scene_->model.world().advance(
        state_,
        {.to_s = timeOf(step).to_s, .feet = situation.feet, .jumped = situation.jumped, .happenings = situation.happenings});
    const Pose& ears = state_.stance.ears;
    const double step_s = static_cast<double>(stepFrames) / rate_;
    return situation.ears.value_or(Ears(ears, moves ? (ears.at - before) / step_s : Vec3{0.0}));
}

void Control::pass(std::uint64_t step, const Situation& situation)
{
    if (scene_ && !heldAt_) {
        advance(step, situation);
    }
}

void Control::decide(std::uint64_t step, const Ears& ears, StepPlan& plan)
{
    Situation situation;
    situation.ears = ears;
    situation.feet = ears;
    situation.feet.at.z -= scene_ ? scene_->model.level().character.earsHeight_m : 0.0;
    decide(step, situation, plan);
}

void Control::decide(std::uint64_t step, const Situation& situation, StepPlan& plan)
{
    plan.step = step;
    plan.voices.clear();
    plan.rooms.clear();
    plan.echoes.clear();
    ++serial_;
    sounding_ = 0;
    gaveWay_ = 0;
    if (!scene_) {
        return;
    }
    chosen_.clear();
    Ears ears;
    if (!heldAt_) {
        ears = advance(step, situation);
        if (situation.jumped) {
            scratch_.memory->forget();
        }
        scene_->model.hear(scene_->model.world().momentOf(state_, ears, timeOf(step)), heard_, scratch_);
        chooseVoices();
        rooms_.decide({scene_->model, scene_->responses}, designer_, scratch_.roomsHeard, ears, step, plan);
        candidates_.clear();
        for (const std::uint32_t i : chosen_) {
            if (heard_[i].given_db > -199.0) {
                candidates_.push_back({keyOf(heard_[i].start), &heard_[i]});
            }
        }
        if (clapping_) {
            const Frame frame = frameOf(ears);
            const RoomField& field = scene_->model.rooms();
            clapHeard_.at = ears.at + frame.ahead * clapAhead_m;
            clapHeard_.bearing.distance_m = clapAhead_m;
            clapHeard_.given_db = 0.0;
            clapHeard_.room = field.map().roomAt(ears.at);
            clapHeard_.sends = field.sendsOf(ears.at, 0.0, scratch_.rooms.open);
            candidates_.push_back({clapKey, &clapHeard_});
        }
        reflections_.decide(scene_->model, designer_, candidates_, ears, scratch_.rooms, step, plan);
    }
    for (const std::uint32_t i : chosen_) {
        order(heard_[i], ears, step, plan);
    }
    if (clapping_ && !heldAt_) {
        orderClap(step, plan);
    }
    std::erase_if(sounded_, [&](Key key) {
        Playing& playing = playing_.at(key);
        const bool sounds = std::any_of(playing.parts.begin(), playing.parts.end(),
                                        [this](const Part& part) { return part.lastSounded == serial_; });
        if (!sounds) {
            release(playing, step);
            // Starts that are over do not come again; those of the level are found again as they were.
            const auto over = [&](const Start& start) { return keyOf(start) == key; };
            if (!scene_->model.world().simple(emitterOf(key)) &&
                std::none_of(state_.starts.begin(), state_.starts.end(), over)) {
                playing_.erase(key);
            }
        }
        return !sounds;
    });
}

} // namespace stone
