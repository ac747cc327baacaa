#include "engine/control.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace stone
{

namespace
{

/// A voice fades within four steps of its last order; twice that leaves room for steps that came late.
constexpr std::uint64_t fadeSteps = 8;

double frameOf(std::uint64_t step)
{
    return static_cast<double>(step) * static_cast<double>(stepFrames);
}

} // namespace

Control::Control(Layout layout, int rate) : layout_(layout), rate_(rate)
{
    free_.reserve(mostVoices);
    // Handed out from the back: low numbers first.
    for (std::uint32_t slot = mostVoices; slot-- > 0;) {
        free_.push_back({slot, 0});
    }
}

void Control::anchor(Playing& playing, const Emitter& emitter, std::uint64_t step)
{
    const double rate = std::pow(2.0, emitter.pitch_st / 12.0);
    if (playing.generation == 0) {
        playing.generation = nextGeneration_++;
        playing.anchorFrame = startFrame_ + emitter.startAfter_s * rate_;
        playing.anchorPosition = 0.0;
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
    const auto most = static_cast<std::size_t>(scene_->model.project().voices);
    gaveWay_ = chosen_.size() > most ? chosen_.size() - most : 0;
    if (gaveWay_ > 0) {
        // The loudest stay; of equals, the first in the document. Then back to the order of the document.
        const auto louder = [this](std::uint32_t a, std::uint32_t b) {
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

void Control::order(std::uint32_t emitter, const Heard& heard, std::uint64_t step, StepPlan& plan)
{
    Playing& playing = playing_[emitter];
    const Emitter& what = *scene_->model.level().emitters[emitter];
    const Sound* sound = scene_->model.project().sounds.find(what.sound);
    const bool loop = sound != nullptr && sound->loop;
    const SampleBuffer& audio = *playing.audio;
    const double position = positionAt(emitter, step);
    const bool begun = position + playing.rate * static_cast<double>(stepFrames) > 0.0;
    const bool over = !loop && position >= static_cast<double>(audio.frames());
    const bool bed = what.kind == EmitterKind::bed;
    const std::size_t voices = bed ? audio.channels.size() : 1;
    if (!begun || over || plan.voices.size() + voices > plan.voices.capacity()) {
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
    const auto level = static_cast<float>(gainOf(heard.level_db));
    for (std::size_t channel = 0; channel < voices; ++channel) {
        VoiceOrder order;
        order.slot = playing.voiceSlots[channel];
        order.generation = playing.generation;
        const std::vector<float>& samples = bed ? audio.channels[channel] : audio.mono();
        order.samples = samples.data();
        order.frames = static_cast<std::uint32_t>(samples.size());
        order.loop = loop;
        // A one-shot keeps its attack; whatever is joined in the middle comes up from silence.
        order.fadeIn = fresh && (loop || position > 0.0);
        order.position = position;
        order.rate = playing.rate;
        order.target = bed ? bedGains(layout_, channel, voices) : directionGains(layout_, heard.direction);
        for (float& gain : order.target) {
            gain *= level;
        }
        plan.voices.push_back(order);
    }
}

void Control::decide(std::uint64_t step, const Pose& ears, StepPlan& plan)
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
        order(heard_[i].index, heard_[i], step, plan);
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
