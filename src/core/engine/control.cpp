#include "engine/control.h"

#include "dsp/decibel.h"
#include "engine/voicing.h"
#include "project/edit.h"
#include "spatial/head_model.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace stone
{

namespace
{

/// A voice fades within four steps of its last order; twice that leaves room for steps that came late.
constexpr std::uint64_t fadeSteps = 8;

/// A way that grows or shrinks by more than this in one step is a jump: the sound is taken up anew, in a cross-fade.
constexpr double jump_s = 0.03;
/// What the air takes is worked out anew when the way has changed by so much of itself.
constexpr float lossesStep = 0.01F;

double frameOf(std::uint64_t step)
{
    return static_cast<double>(step) * static_cast<double>(stepFrames);
}

} // namespace

Control::Control(Layout layout, int rate)
    : layout_(layout), rate_(rate), designer_(rate),
      builtInHead_(layout == Layout::binaural ? builtInHeadFilters(rate) : nullptr)
{
    free_.reserve(mostVoices);
    // Handed out from the back: low numbers first.
    for (std::uint32_t slot = mostVoices; slot-- > 0;) {
        free_.push_back({slot, 0});
    }
}

void Control::anchor(Playing& playing, const Emitter& emitter, std::uint64_t step)
{
    const CopyChance copy = chanceOf(scene_->model.project(), emitter);
    const double rate = std::pow(2.0, (emitter.pitch_st + copy.pitch_st) / 12.0);
    if (playing.generation == 0) {
        playing.generation = nextGeneration_++;
        playing.anchorFrame = startFrame_ + emitter.startAfter_s * rate_;
        // Whole frames, so that a copy that starts elsewhere is still read as recorded.
        playing.anchorPosition = playing.audio ? std::floor(copy.start * static_cast<double>(playing.audio->frames())) : 0.0;
    } else if (playing.rate != rate) {
        playing.anchorPosition += (frameOf(step) - playing.anchorFrame) * playing.rate;
        playing.anchorFrame = frameOf(step);
    }
    playing.rate = rate;
}

void Control::setScene(std::shared_ptr<const Scene> scene, std::uint64_t step)
{
    std::unordered_map<std::string, Playing> before;
    if (scene_) {
        for (std::size_t i = 0; i < playing_.size(); ++i) {
            before.emplace(scene_->model.level().emitters[i]->id.text, std::move(playing_[i]));
        }
        retired_.push_back({scene_, step});
    }
    playing_.clear();
    scene_ = std::move(scene);
    const auto& emitters = scene_->model.level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        Playing playing;
        if (auto known = before.find(emitters[i]->id.text); known != before.end()) {
            if (known->second.audio == scene_->audio[i]) {
                playing = std::move(known->second);
                before.erase(known);
            }
        }
        playing.audio = scene_->audio[i];
        anchor(playing, *emitters[i], step);
        playing_.push_back(std::move(playing));
    }
    for (auto& [id, gone] : before) {
        release(gone, step);
    }
    sounded_.clear();
    for (std::uint32_t i = 0; i < playing_.size(); ++i) {
        if (!playing_[i].voiceSlots.empty()) {
            sounded_.push_back(i);
        }
    }
    heard_.reserve(emitters.size());
    scratch_.reserve(emitters.size());
    chosen_.reserve(emitters.size());
    sounded_.reserve(emitters.size());
}

void Control::restart(std::uint64_t step, double levelTime_s)
{
    startFrame_ = frameOf(step) - levelTime_s * rate_;
    if (!scene_) {
        return;
    }
    for (std::uint32_t i = 0; i < playing_.size(); ++i) {
        release(playing_[i], step);
        playing_[i].generation = 0;
        anchor(playing_[i], *scene_->model.level().emitters[i], step);
    }
    sounded_.clear();
}

void Control::release(Playing& playing, std::uint64_t step)
{
    for (const std::uint32_t slot : playing.voiceSlots) {
        free_.insert(free_.begin(), {slot, step + fadeSteps});
    }
    playing.voiceSlots.clear();
}

bool Control::takeSlots(Playing& playing, std::size_t count, std::uint64_t step)
{
    // Fresh ones lie at the back, fading ones at the front.
    if (free_.size() < count || free_[free_.size() - count].from > step) {
        return false;
    }
    for (std::size_t i = 0; i < count; ++i) {
        playing.voiceSlots.push_back(free_.back().slot);
        free_.pop_back();
    }
    playing.generation = nextGeneration_++;
    return true;
}

void Control::chooseVoices()
{
    chosen_.clear();
    for (std::uint32_t i = 0; i < heard_.size(); ++i) {
        const bool allowed = scene_->only.empty() || scene_->only.contains(heard_[i].index);
        if (heard_[i].audible && allowed && playing_[heard_[i].index].audio) {
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
        const auto grade = [this](std::uint32_t i) { return scene_->model.priority(heard_[i].index); };
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

double Control::positionAt(std::uint32_t emitter, std::uint64_t step) const
{
    const Playing& playing = playing_[emitter];
    return playing.anchorPosition + (frameOf(step) - playing.anchorFrame) * playing.rate;
}

double Control::glideDelay(std::uint32_t emitter, const Heard& heard, const Ears& ears, std::uint64_t step)
{
    Playing& playing = playing_[emitter];
    const Emitter& what = *scene_->model.level().emitters[emitter];
    const Placement& placement = what.placement;
    if (what.kind == EmitterKind::bed || (placement.doppler <= 0.0 && playing.delay_s == 0.0)) {
        return 0.0;
    }
    const double step_s = static_cast<double>(stepFrames) / rate_;
    const double wanted_s = placement.doppler * heard.bearing.distance_m / speedOfSound_m_s;
    if (playing.voiceSlots.empty() || std::abs(wanted_s - playing.delay_s) > jump_s) {
        release(playing, step);
        const double before_m = glm::length(what.at - (ears.at - ears.velocity_m_s * step_s));
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

void Control::setLosses(Playing& playing, const Heard& heard)
{
    const auto metres = static_cast<float>(heard.air_m);
    if (std::abs(metres - playing.lossesFor_m) <= lossesStep * playing.lossesFor_m) {
        return;
    }
    BandFilter::Levels_db levels{};
    for (std::size_t band = 0; band < levels.size(); ++band) {
        levels[band] = -heard.air_m * scene_->model.air_db_m()[band];
    }
    playing.losses = designer_(levels);
    playing.lossesFor_m = metres;
}

void Control::order(std::uint32_t emitter, const Heard& heard, const Ears& ears, std::uint64_t step, StepPlan& plan)
{
    Playing& playing = playing_[emitter];
    const Emitter& what = *scene_->model.level().emitters[emitter];
    const Sound* sound = scene_->model.project().sounds.find(what.sound);
    const bool loop = sound != nullptr && sound->loop;
    const SampleBuffer& audio = *playing.audio;
    const double lateBefore_s = playing.delay_s;
    const double change_s = glideDelay(emitter, heard, ears, step);
    const double late_s = playing.delay_s - change_s;
    const double position = positionAt(emitter, step) - late_s * rate_ * playing.rate;
    const bool begun = position + playing.rate * static_cast<double>(stepFrames) > 0.0;
    const bool over = !loop && position >= static_cast<double>(audio.frames());
    const std::size_t voices = voicesOf(what, audio);
    if (!begun || over || plan.voices.size() + voices > plan.voices.capacity()) {
        playing.delay_s = lateBefore_s;
        return;
    }
    const bool fresh = playing.voiceSlots.empty();
    if (fresh && !takeSlots(playing, voices, step)) {
        return;
    }
    if (fresh) {
        sounded_.push_back(emitter);
    }
    playing.lastSounded = serial_;
    ++sounding_;
    if (heard.air_m > 0.0) {
        setLosses(playing, heard);
    }
    const HeadFilters* head = scene_->head ? scene_->head.get() : builtInHead_.get();
    for (std::size_t channel = 0; channel < voices; ++channel) {
        VoiceOrder order;
        order.slot = playing.voiceSlots[channel];
        order.generation = playing.generation;
        order.loop = loop;
        // A one-shot keeps its attack; whatever is joined in the middle comes up from silence.
        order.fadeIn = fresh && (loop || position > 0.0);
        order.position = position;
        order.rate = playing.rate * (1.0 - change_s * rate_ / static_cast<double>(stepFrames));
        order.lowPass_hz = static_cast<float>(heard.values.lowPass_hz);
        order.highPass_hz = static_cast<float>(heard.values.highPass_hz);
        order.banded = heard.air_m > 0.0;
        order.losses = playing.losses;
        shapeVoice({layout_, head, what, heard, audio, channel}, order);
        plan.voices.push_back(order);
    }
}

void Control::decide(std::uint64_t step, const Ears& ears, StepPlan& plan)
{
    plan.step = step;
    plan.voices.clear();
    ++serial_;
    sounding_ = 0;
    gaveWay_ = 0;
    if (!scene_) {
        return;
    }
    const double begins_s = (frameOf(step) - startFrame_) / rate_;
    const TimeSpan when{begins_s, begins_s + static_cast<double>(stepFrames) / rate_};
    scene_->model.hear(ears, when, heard_, scratch_);
    chooseVoices();
    for (const std::uint32_t i : chosen_) {
        order(heard_[i].index, heard_[i], ears, step, plan);
    }
    std::erase_if(sounded_, [&](std::uint32_t emitter) {
        if (playing_[emitter].lastSounded == serial_) {
            return false;
        }
        release(playing_[emitter], step);
        return true;
    });
}

} // namespace stone
