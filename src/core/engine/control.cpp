// SPDX-License-Identifier: MPL-2.0
#include "engine/control.h"

#include "engine/steps.h"
#include "project/edit.h"
#include "spatial/head_model.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace stone
{

namespace
{

constexpr double clapAhead_m = 0.5;

/// What is meant to be on a frame is, though its time in seconds is not quite: else it would begin with its second frame.
double onFrame(double frame)
{
    constexpr double noise = 1e-4;
    const double whole = std::round(frame);
    return std::abs(frame - whole) < noise ? whole : frame;
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

void Control::anchor(Playing& playing, const Emitter& emitter, std::uint64_t step)
{
    const double rate = std::pow(2.0, (emitter.pitch_st + playing.pitch_st) / 12.0);
    if (!playing.anchored) {
        playing.anchored = true;
        playing.anchorFrame = onFrame(startFrame_ + playing.began_s * rate_);
        playing.anchorTime = 0.0;
    } else if (playing.rate != rate) {
        playing.anchorTime = clockAt(playing, step);
        playing.anchorFrame = frameOfStep(step);
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
        if (world.simple(*index) && isFirst(key)) {
            playing.pitch_st = world.simpleStart(*index).pitch_st;
        }
        anchor(playing, emitter, step);
        const Key newKey = renumbered(key, *index);
        if (!playing.parts.empty()) {
            sounded_.push_back(newKey);
        }
        playing_.emplace(newKey, std::move(playing));
    }
    std::sort(sounded_.begin(), sounded_.end());
    const std::size_t emitters = scene_->model.level().emitters.size();
    heard_.clear();
    heard_.reserve(emitters);
    heardAt_.reset();
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
        return index ? std::optional(renumbered(key, *index)) : std::nullopt;
    });
    chosen_.reserve(emitters);
    sounded_.reserve(emitters);
    work_.forget();
    sounds_.clear();
    for (const Playable& playable : world.playables()) {
        sounds_.push_back(playable.sound->id);
    }
}

void Control::restart(std::uint64_t step, double levelTime_s, const WorldState* state)
{
    startFrame_ = frameOfStep(step) - levelTime_s * rate_;
    heldAt_.reset();
    state_ = state != nullptr ? *state : WorldState{};
    for (auto& [key, playing] : playing_) {
        release(playing, step);
    }
    playing_.clear();
    sounded_.clear();
    rooms_.restart(serial_);
    reflections_.restart(serial_);
    scratch_.memory->restart();
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
        const double frames = frameOfStep(step) - frameOfStep(*heldAt_);
        startFrame_ += frames;
        for (auto& [key, playing] : playing_) {
            playing.anchorFrame += frames;
        }
        heldAt_.reset();
    }
}

TimeSpan Control::timeOf(std::uint64_t step) const
{
    const double begins_s = (frameOfStep(step) - startFrame_) / rate_;
    return {begins_s, begins_s + static_cast<double>(stepFrames) / rate_};
}

void Control::release(Part& part, std::uint64_t)
{
    for (const std::uint32_t slot : part.voiceSlots) {
        free_.insert(free_.begin(), {slot, serial_ + reuseAfter});
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

bool Control::takeSlots(Part& part, std::size_t count, std::uint64_t)
{
    // Fresh ones lie at the back, fading ones at the front.
    if (free_.size() < count || free_[free_.size() - count].from > serial_) {
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

/// Everything that is heard and can be played; the hearing model has said who gives way.
void Control::chooseVoices()
{
    chosen_.clear();
    gaveWay_ = 0;
    for (std::uint32_t i = 0; i < heard_.size(); ++i) {
        const std::uint32_t playable = heard_[i].start.playable;
        gaveWay_ += heard_[i].gaveWay ? 1 : 0;
        if (heard_[i].audible && playable != Start::nothing && scene_->materials[playable]) {
            chosen_.push_back(i);
        }
    }
}

double Control::clockAt(const Playing& playing, std::uint64_t step) const
{
    return playing.anchorTime + (frameOfStep(step) - playing.anchorFrame) * playing.rate;
}

Ears Control::advance(std::uint64_t step, const Situation& situation)
{
    const bool moves = !situation.jumped && state_.time_s >= 0.0;
    const Vec3 before = state_.stance.ears.at;
    scene_->model.world().advance(state_, {.to_s = timeOf(step).to_s,
                                           .feet = situation.feet,
                                           .jumped = situation.jumped,
                                           .happenings = situation.happenings,
                                           .camera = situation.camera});
    const Pose& ears = state_.stance.ears;
    const double step_s = static_cast<double>(stepFrames) / rate_;
    return situation.ears.value_or(Ears(ears, moves ? (ears.at - before) / step_s : Vec3{0.0}));
}

void Control::pass(std::uint64_t step, const Situation& situation)
{
    if (scene_ && !heldAt_) {
        const Ears ears = advance(step, situation);
        if (scene_->model.mayCrowd()) {
            // Who has given way by the first step that sounds was decided before it.
            scene_->model.hear(scene_->model.world().momentOf(state_, ears, timeOf(step)), heard_, scratch_);
        }
    }
}

void Control::measureCosts(const StageTimes& mixer)
{
    constexpr double every_s = 0.5;
    if (static_cast<double>(work_.steps() * stepFrames) >= every_s * rate_) {
        const std::array<const StageTimes*, 2> both{&times_, &mixer};
        costs_ = std::make_shared<const Costs>(work_.take(both, rate_, sounds_));
    }
}

std::string Control::nameIn(std::uint32_t slot) const
{
    for (const auto& [key, playing] : playing_) {
        for (const Part& part : playing.parts) {
            if (std::find(part.voiceSlots.begin(), part.voiceSlots.end(), slot) != part.voiceSlots.end()) {
                return scene_->model.level().emitters[emitterOf(key)]->name;
            }
        }
    }
    return "a room";
}

const HeadFilters* Control::headFilters() const
{
    const HeadFilters* measured = scene_ ? scene_->head.get() : nullptr;
    return measured != nullptr && measured->rate() == rate_ ? measured : builtInHead_.get();
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
    plan.head = layout_ == Layout::binaural ? headFilters() : nullptr;
    plan.voices.clear();
    plan.rooms.clear();
    plan.echoes.clear();
    ++serial_;
    sounding_ = 0;
    gaveWay_ = 0;
    if (!scene_) {
        return;
    }
    StageTimer timer(times_, CostStage::deciding);
    chosen_.clear();
    Ears ears;
    if (!heldAt_) {
        ears = advance(step, situation);
        if (situation.jumped) {
            scratch_.memory->forget();
        }
        scene_->model.hear(scene_->model.world().momentOf(state_, ears, timeOf(step)), heard_, scratch_);
        heardAt_.emplace(ears, timeOf(step));
        chooseVoices();
        rooms_.decide({scene_->model, scene_->networks, scene_->responses}, designer_, scratch_.roomsHeard, ears, serial_,
                      plan);
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
        reflections_.decide(scene_->model, designer_, candidates_, ears, scratch_.rooms, serial_, plan);
    }
    timer.next(CostStage::ordering);
    for (const std::uint32_t i : chosen_) {
        order(heard_[i], ears, step, plan);
    }
    work_.endStep();
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
            if (!(scene_->model.world().simple(emitterOf(key)) && isFirst(key)) &&
                std::none_of(state_.starts.begin(), state_.starts.end(), over)) {
                playing_.erase(key);
            }
        }
        return !sounds;
    });
}

} // namespace stone
