// SPDX-License-Identifier: MPL-2.0
#include "engine/live.h"

#include "dsp/decibel.h"
#include "engine/steps.h"
#include "project/edit.h"
#include "world/walk_pose.h"
#include "world/world.h"

#include <algorithm>
#include <chrono>
#include <cmath>

#include <sys/resource.h>
#include <unistd.h>

namespace stone
{

namespace
{

/// The ears follow the character with this time constant: short enough not to be felt, long enough that the window's
/// 60 positions a second do not become 60 corners a second.
constexpr double glide_s = 0.012;
constexpr double meterWindow_s = 0.1;
constexpr double backWithin_m = 0.005;
constexpr int controlNiceness = -10;

} // namespace

Live::Live(Layout layout, int rate)
    : rate_(rate), mixer_(layout, rate), limiter_(channelsOf(layout), rate), control_(layout, rate), tapped_(8192),
      loudness_(static_cast<int>(channelsOf(layout)), rate)
{
}

Live::~Live()
{
    stop();
}

void Live::setScene(std::shared_ptr<const Scene> scene)
{
    const std::lock_guard lock(mutex_);
    wishes_.scene = std::move(scene);
    wishes_.newScene = true;
}

void Live::setFeet(const Pose& feet, bool jump)
{
    const std::lock_guard lock(mutex_);
    wishes_.feet = feet;
    wishes_.jump = wishes_.jump || jump;
}

void Live::listenFrom(const std::optional<Pose>& ears)
{
    const std::lock_guard lock(mutex_);
    wishes_.elsewhere = ears;
}

void Live::send(const Happening& happening)
{
    const std::lock_guard lock(mutex_);
    wishes_.happenings.push_back(happening);
}

void Live::clap(Clap what)
{
    const std::lock_guard lock(mutex_);
    wishes_.clap = what;
}

void Live::pause()
{
    const std::lock_guard lock(mutex_);
    wishes_.paused = true;
    wishes_.newPause = true;
}

void Live::goOn(double for_s)
{
    const std::lock_guard lock(mutex_);
    wishes_.paused = false;
    wishes_.goOnFor_s = for_s;
    wishes_.newPause = true;
}

void Live::playWalk(const WalkId& walk, double from_s, std::shared_ptr<const WorldState> before)
{
    const std::lock_guard lock(mutex_);
    wishes_.before = std::move(before);
    wishes_.walk = walk;
    wishes_.walkFrom_s = from_s;
    wishes_.newWalk = true;
    snapshot_.walk_s = from_s;
}

void Live::stopWalk()
{
    const std::lock_guard lock(mutex_);
    wishes_.walk = {};
    wishes_.newWalk = true;
    wishes_.feet = snapshot_.feet;
    snapshot_.walk_s.reset();
}

void Live::setMonitor_db(double level_db)
{
    const std::lock_guard lock(mutex_);
    wishes_.monitor_db = level_db;
}

void Live::restart()
{
    const std::lock_guard lock(mutex_);
    wishes_.restart = true;
}

Live::Snapshot Live::snapshot() const
{
    const std::lock_guard lock(mutex_);
    return snapshot_;
}

void Live::start()
{
    if (!running_.exchange(true)) {
        thread_ = std::thread([this] { run(); });
    }
}

void Live::stop()
{
    if (running_.exchange(false)) {
        taken_.wake();
        thread_.join();
    }
}

void Live::run()
{
    // Ahead of everything that only shows, where the system lets us; where not, it goes without.
    setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), controlNiceness);
    while (running_.load(std::memory_order_acquire)) {
        pump();
        // Without a device nobody takes plans up, and what is not needed any more is let go all the same. Longer than a card's
        // block lasts: else this would wake once more for each.
        taken_.wait(std::chrono::milliseconds(30));
    }
}

void Live::takeWishes(std::uint64_t step)
{
    std::shared_ptr<const Scene> scene;
    std::shared_ptr<const WorldState> before;
    bool newScene = false;
    bool restart = false;
    double levelTime_s = 0.0;
    happenings_.clear();
    {
        const std::lock_guard lock(mutex_);
        newScene = std::exchange(wishes_.newScene, false);
        scene = wishes_.scene;
        restart = std::exchange(wishes_.restart, false);
        feetTarget_ = wishes_.feet;
        elsewhere_ = wishes_.elsewhere;
        if (std::exchange(wishes_.jump, false)) {
            feet_ = feetTarget_;
            jumped_ = true;
        }
        if (std::exchange(wishes_.newWalk, false)) {
            walk_ = wishes_.walk;
            walkFrom_s_ = wishes_.walkFrom_s;
            walkStep_ = step;
            jumped_ = true;
            if (!walk_.empty()) {
                restart = true;
                levelTime_s = walkFrom_s_;
                before = std::exchange(wishes_.before, {});
            }
        }
        if (std::exchange(wishes_.newPause, false)) {
            const double for_s = wishes_.goOnFor_s;
            if (wishes_.paused) {
                holdAgainAt_ = step;
            } else if (std::isfinite(for_s)) {
                holdAgainAt_ = step + std::max<std::uint64_t>(1, static_cast<std::uint64_t>(for_s * rate_ / stepFrames));
            } else {
                holdAgainAt_.reset();
            }
            if (!wishes_.paused && heldAt_) {
                const std::uint64_t held = step - *heldAt_;
                start_s_ += static_cast<double>(held * stepFrames) / rate_;
                walkStep_ += held;
                control_.goOn(step);
                heldAt_.reset();
            }
        }
        // What is done while time stands still waits for it to go on.
        if (!heldAt_) {
            happenings_.swap(wishes_.happenings);
            if (const auto clap = std::exchange(wishes_.clap, {})) {
                control_.clap(*clap, step);
            }
        }
        master_ = static_cast<float>(gainOf(wishes_.monitor_db));
    }
    if (newScene && scene) {
        scene_ = scene;
        control_.setScene(std::move(scene), step);
    }
    if (restart) {
        start_s_ = static_cast<double>(step * stepFrames) / rate_ - levelTime_s;
        control_.restart(step, levelTime_s, before.get());
        if (heldAt_) {
            heldAt_ = step;
            control_.hold(step);
        }
    }
    if (holdAgainAt_ && step >= *holdAgainAt_) {
        holdAgainAt_.reset();
        if (!heldAt_) {
            heldAt_ = step;
            control_.hold(step);
        }
    }
}

void Live::nextFeet(std::uint64_t step)
{
    led_ = false;
    const double stepTime_s = static_cast<double>(stepFrames) / rate_;
    if (scene_ && !walk_.empty()) {
        if (const Walk* walk = scene_->model.level().walks.find(walk_)) {
            const std::uint64_t at = heldAt_.value_or(step + 1);
            const double time_s = walkFrom_s_ + static_cast<double>(at - std::min(walkStep_, at)) * stepTime_s;
            feet_ = walkPose(*walk, time_s);
            if (!heldAt_) {
                for (Happening& happening : happeningsOf(*walk, time_s - stepTime_s, time_s)) {
                    happenings_.push_back(std::move(happening));
                }
            }
            const std::lock_guard lock(mutex_);
            if (snapshot_.walk_s) {
                snapshot_.walk_s = std::min(time_s, walk->seconds());
            }
            return;
        }
    }
    if (!nextLed()) {
        feet_ = interpolate(feet_, feetTarget_, 1.0 - std::exp(-stepTime_s / glide_s));
    }
}

/// Whether somebody leads; then everything is as it was told.
bool Live::nextLed()
{
    const std::lock_guard leading(leading_);
    ledCamera_.reset();
    if (!leader_ || heldAt_) {
        ledEars_.reset();
        return false;
    }
    Leader::Step led = leader_->step(static_cast<double>(stepFrames) / rate_);
    std::move(led.happenings.begin(), led.happenings.end(), std::back_inserter(happenings_));
    jumped_ = jumped_ || led.jumped;
    ledEars_ = led.ears;
    ledCamera_ = led.camera;
    if (!led.feet) {
        return false;
    }
    feet_ = *led.feet;
    led_ = true;
    const std::lock_guard lock(mutex_);
    wishes_.feet = feet_; // whoever takes over goes on from here
    return true;
}

void Live::follow(std::shared_ptr<Leader> leader)
{
    const std::lock_guard leading(leading_);
    leader_ = std::move(leader);
}

std::optional<Ears> Live::earsElsewhere()
{
    const Pose own = control_.state().stance.ears;
    if (!elsewhere_ && ledEars_) {
        // They come smoothly already.
        const double seconds = static_cast<double>(stepFrames) / rate_;
        const Pose before = listening_ && !jumped_ ? *listening_ : *ledEars_;
        listening_ = ledEars_;
        return Ears(*ledEars_, (ledEars_->at - before.at) / seconds);
    }
    if (!elsewhere_ && (!listening_ || glm::length(listening_->at - own.at) <= backWithin_m)) {
        // Back where they belong, to a hair: the rig's own movement counts again.
        listening_.reset();
        return {};
    }
    const double step_s = static_cast<double>(stepFrames) / rate_;
    const Pose target = elsewhere_.value_or(own);
    const Pose before = listening_.value_or(jumped_ ? target : own);
    listening_ = interpolate(before, target, 1.0 - std::exp(-step_s / glide_s));
    return Ears(*listening_, jumped_ ? Vec3{0.0} : (listening_->at - before.at) / step_s);
}

void Live::pump()
{
    nextStep_ = std::max(nextStep_, mixer_.step());
    while (mixer_.plans().waiting() < stepsAhead) {
        StepPlan* plan = mixer_.plans().free();
        if (plan == nullptr) {
            break;
        }
        takeWishes(nextStep_);
        nextFeet(nextStep_);
        const auto ears = earsElsewhere();
        const Control::Situation situation{
            .ears = ears, .feet = feet_, .jumped = jumped_, .happenings = happenings_, .camera = ledCamera_};
        control_.decide(nextStep_, situation, *plan);
        control_.measureCosts(mixer_.times());
        {
            const std::lock_guard telling(telling_);
            if (listener_) {
                listener_->decided(nextStep_, situation, control_);
            }
        }
        jumped_ = false;
        plan->master = master_;
        mixer_.plans().publish();
        ++nextStep_;
    }
    measure();
    leaving_.collect(control_, mixer_);
    show();
    const std::uint64_t contained = mixer_.contained().count();
    if (contained != contained_) {
        contained_ = contained;
        broken_ = control_.nameIn(mixer_.contained().last());
    }
    const std::lock_guard lock(mutex_);
    snapshot_.contained = contained_;
    snapshot_.broken = broken_;
    snapshot_.world = shown_;
    snapshot_.worldOf = shownOf_;
    snapshot_.hearing = hearing_;
    snapshot_.costs = control_.costs();
    snapshot_.paused = heldAt_.has_value();
    snapshot_.time_s = static_cast<double>(heldAt_.value_or(nextStep_) * stepFrames) / rate_ - start_s_;
    snapshot_.feet = feet_;
    snapshot_.led = led_;
    snapshot_.voices = control_.sounding();
    snapshot_.gaveWay = control_.gaveWay();
    snapshot_.lateSteps = mixer_.lateSteps();
    snapshot_.starved = control_.starved();
    snapshot_.limited_db = limiter_.taken_db();
}

/// Puts what has happened and what is heard where the window finds it, as often as a picture can show it.
void Live::show()
{
    constexpr double shownEvery_s = 0.015;
    const auto& at = control_.heardAt();
    const bool other = scene_ && shownOf_ != scene_->model.sharedWorld();
    const bool hears = !heldAt_ && at;
    const bool fresh = hears && (!hearing_ || hearing_->scene != scene_);
    if (!hears) {
        hearing_.reset();
    }
    if (!shown_ || other || fresh || std::abs(control_.state().time_s - shown_->time_s) >= shownEvery_s) {
        shown_ = std::make_shared<const WorldState>(control_.state());
        shownOf_ = scene_ ? scene_->model.sharedWorld() : nullptr;
        if (hears) {
            hearing_ = std::make_shared<const HeardStep>(
                HeardStep{scene_, at->first, at->second, control_.heard(), control_.roomsHeard()});
        }
    }
}

void Live::measure()
{
    while (const std::size_t n = mixer_.tap().read(tapped_)) {
        const std::span<const float> frames(tapped_.data(), n);
        loudness_.add(frames);
        const std::lock_guard telling(telling_);
        if (listener_) {
            listener_->sound(static_cast<double>(tappedFrames_) / rate_, frames);
        }
        tappedFrames_ += n / channelsOf(layout());
    }
    const auto window = static_cast<std::size_t>(meterWindow_s * rate_ / static_cast<double>(stepFrames));
    while (const StepMeter* meter = mixer_.meters().front()) {
        for (std::size_t channel = 0; channel < mostChannels; ++channel) {
            peak_[channel] = std::max(peak_[channel], meter->peak[channel]);
            squares_[channel] += meter->squares[channel];
        }
        mixer_.meters().release();
        if (++meterSteps_ < window) {
            continue;
        }
        const std::lock_guard lock(mutex_);
        for (std::size_t channel = 0; channel < mostChannels; ++channel) {
            const double mean = squares_[channel] / static_cast<double>(window * stepFrames);
            snapshot_.peak[channel] = peak_[channel];
            snapshot_.rms_db[channel] = static_cast<float>(levelOf(std::sqrt(mean)));
        }
        snapshot_.momentary_lufs = loudness_.momentary_lufs();
        snapshot_.integrated_lufs = loudness_.integrated_lufs();
        peak_ = {};
        squares_ = {};
        meterSteps_ = 0;
    }
}

void Live::setListener(std::shared_ptr<StepListener> listener)
{
    const std::lock_guard telling(telling_);
    listener_ = std::move(listener);
}

} // namespace stone
