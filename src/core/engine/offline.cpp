// SPDX-License-Identifier: MPL-2.0
#include "engine/offline.h"

#include "engine/control.h"
#include "engine/mixer.h"
#include "media/resampling.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <exception>
#include <functional>
#include <memory>
#include <semaphore>
#include <thread>
#include <vector>

namespace stone
{

namespace
{

/// What a job says of one step, with the happenings kept for it.
class Situations
{
public:
    explicit Situations(const OfflineJob& job)
        : job_(job), rate_(workingRate(job.rate)), step_s_(static_cast<double>(stepFrames) / rate_)
    {
    }

    const Control::Situation& at(std::uint64_t step)
    {
        const double from_s = static_cast<double>(step * stepFrames) / rate_;
        const double to_s = static_cast<double>((step + 1) * stepFrames) / rate_;
        if (job_.ears) {
            const Pose ears = job_.ears(to_s);
            situation_.ears = Ears(ears, (ears.at - job_.ears(to_s - step_s_).at) / step_s_);
            situation_.feet = ears;
            situation_.feet.at.z -= job_.scene->model.level().character.earsHeight_m;
        }
        if (job_.feet) {
            situation_.feet = job_.feet(to_s);
        }
        happenings_ = job_.happenings ? job_.happenings(from_s, to_s) : std::vector<Happening>{};
        situation_.happenings = happenings_;
        return situation_;
    }

private:
    const OfflineJob& job_;
    int rate_;
    double step_s_;
    std::vector<Happening> happenings_;
    Control::Situation situation_;
};

/// One stage of a render on a thread of its own, a few steps ahead of the one after it: does `work` for each step from one to
/// before another, where the stage before has done its own.
class Stage
{
public:
    /// `work` may throw; `most`: steps that may be ahead. `before`: null for the first one.
    Stage(std::uint64_t from, std::uint64_t end, std::ptrdiff_t most, Stage* before, std::function<void(std::uint64_t)> work)
        : work_(std::move(work)), before_(before), room_(most)
    {
        thread_ = std::thread([this, from, end] { run(from, end); });
    }
    ~Stage()
    {
        stop_ = true;
        room_.release();
        thread_.join();
    }
    Stage(const Stage&) = delete;
    Stage& operator=(const Stage&) = delete;

    /// The stage after it: until the next step is done. Whether it was; false: it gave up, and so did this one. Each step once.
    bool await()
    {
        ready_.acquire();
        return !failed_;
    }
    /// The stage after it: it needs no more of the oldest step that was awaited.
    void taken() { room_.release(); }

    /// What made it give up. After await() said so.
    const std::exception_ptr& failure() const { return failure_; }

private:
    void run(std::uint64_t step, std::uint64_t end)
    {
        try {
            for (; step < end; ++step) {
                room_.acquire();
                if (stop_) {
                    break;
                }
                if (before_ != nullptr && !before_->await()) {
                    failure_ = before_->failure();
                    failed_ = true;
                    break;
                }
                work_(step);
                if (before_ != nullptr) {
                    before_->taken();
                }
                ready_.release();
            }
        } catch (...) {
            failure_ = std::current_exception();
            failed_ = true;
        }
        // Whoever comes after does not wait for more.
        if (failed_ || stop_) {
            failed_ = true;
            ready_.release();
        }
    }

    std::function<void(std::uint64_t)> work_;
    Stage* before_;
    std::counting_semaphore<> room_;
    std::counting_semaphore<> ready_{0};
    std::atomic<bool> stop_ = false;
    std::atomic<bool> failed_ = false;
    std::exception_ptr failure_; ///< written before failed_ says so
    std::thread thread_;
};

/// What comes before the last stage of a render, one step after the other: each when it is asked for, or a few ahead on threads
/// of their own.
class Ahead
{
public:
    /// From one step to before another.
    Ahead(const OfflineJob& job, Control& control, Mixer& mixer, Situations& situations, std::uint64_t first, std::uint64_t end)
        : job_(job), control_(control), mixer_(mixer), situations_(situations), next_(first),
          firstHeard_(static_cast<std::uint64_t>(job.from_s * workingRate(job.rate)) / stepFrames)
    {
        if (job.threads > 1) {
            // Both together no further ahead than plans ever are: what they refer to is kept for so long.
            deciding_ = std::make_unique<Stage>(first, end, static_cast<std::ptrdiff_t>(PlanRing::most - Mixer::mostPrepared),
                                                nullptr, [this](std::uint64_t step) { decide(step); });
            voices_ = std::make_unique<Stage>(first, end, static_cast<std::ptrdiff_t>(Mixer::mostPrepared), deciding_.get(),
                                              [this](std::uint64_t) { mixer_.prepare(); });
        }
    }

    /// Until the voices of the next step have sounded.
    void await()
    {
        if (!voices_) {
            decide(next_++);
        } else if (!voices_->await()) {
            std::rethrow_exception(voices_->failure());
        }
    }

    /// The mixer has finished it.
    void taken()
    {
        if (voices_) {
            voices_->taken();
        }
    }

private:
    void decide(std::uint64_t step)
    {
        StepPlan* plan = mixer_.plans().free();
        const Control::Situation& situation = situations_.at(step);
        control_.decide(step, situation, *plan);
        control_.measureCosts(mixer_.times());
        if (job_.heard) {
            job_.heard(step, control_.heard());
        }
        if (job_.listener != nullptr && step >= firstHeard_) {
            job_.listener->decided(step, situation, control_);
        }
        mixer_.plans().publish();
    }

    const OfflineJob& job_;
    Control& control_;
    Mixer& mixer_;
    Situations& situations_;
    std::uint64_t next_;
    std::uint64_t firstHeard_; ///< those before only ring on in what is put out
    std::unique_ptr<Stage> deciding_;
    std::unique_ptr<Stage> voices_; ///< ends first
};

/// Of all rooms of a level; 0 where there are none.
double longestTail_s(const Scene& scene)
{
    double longest_s = 0.0;
    for (const auto& room : scene.model.level().rooms) {
        const BandValues& rt60_s = room->reverb.rt60_s;
        longest_s = std::max(longest_s, room->reverb.on ? *std::max_element(rt60_s.begin(), rt60_s.end()) : 0.0);
    }
    for (const SharedResponse& response : scene.responses) {
        longest_s = std::max(longest_s, response ? response->seconds() : 0.0);
    }
    return longest_s;
}

/// Frames of a job at its working rate, from one to before another.
bool renderFrames(const OfflineJob& job, std::uint64_t firstFrame, std::uint64_t lastFrame,
                  const std::function<void(std::span<const float>)>& sink, const std::function<bool(double)>& progress)
{
    constexpr std::uint64_t stepsPerReport = 256;
    const int rate = workingRate(job.rate);
    const std::size_t channels = channelsOf(job.layout);

    Mixer mixer(job.layout, rate);
    Control control(job.layout, rate);
    control.setScene(job.scene, 0);
    // Rooms answer to what sounded before: their tails are rendered too, and not put out.
    const auto before = static_cast<std::uint64_t>(longestTail_s(*job.scene) * rate);
    const std::uint64_t firstStep = (firstFrame - std::min(before, firstFrame)) / stepFrames;
    mixer.startAt(firstStep);
    Situations situations(job);
    for (std::uint64_t step = 0; step < firstStep; ++step) {
        control.pass(step, situations.at(step));
    }

    const std::size_t block = std::max<std::size_t>(job.block, 1);
    std::vector<float> out(block * channels);
    std::uint64_t frame = firstStep * stepFrames;
    std::uint64_t decided = firstStep;
    Ahead ahead(job, control, mixer, situations, firstStep, (lastFrame + stepFrames - 1) / stepFrames);
    std::uint64_t skip = firstFrame - frame;
    while (frame < lastFrame) {
        const auto frames = static_cast<std::size_t>(std::min<std::uint64_t>(block, lastFrame - frame));
        // The mixer takes up a step at each boundary that this block crosses, and has done with it at the next.
        for (std::size_t done = 0; done < frames;) {
            const std::uint64_t at = frame + done;
            if (at == decided * stepFrames) {
                ahead.await();
                ++decided;
            }
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(frames - done, decided * stepFrames - at));
            mixer.process(out.data() + done * channels, n);
            done += n;
            if (frame + done == decided * stepFrames) {
                ahead.taken();
            }
        }
        const auto dropped = static_cast<std::size_t>(std::min<std::uint64_t>(skip, frames));
        skip -= dropped;
        if (dropped < frames) {
            sink(std::span<const float>(out.data() + dropped * channels, (frames - dropped) * channels));
        }
        const std::uint64_t reported = frame / (stepFrames * stepsPerReport);
        frame += frames;
        if (progress && frame / (stepFrames * stepsPerReport) != reported &&
            !progress(static_cast<double>(frame - std::min(firstFrame, frame)) /
                      static_cast<double>(std::max<std::uint64_t>(lastFrame - firstFrame, 1)))) {
            return false;
        }
    }
    return true;
}

} // namespace

int workingRate(int rate)
{
    constexpr int least = 44'100;
    return rate * ((least + rate - 1) / rate);
}

void followWalk(OfflineJob& job, const Walk& walk)
{
    job.ears = {};
    job.feet = [&walk](double time_s) { return walkPose(walk, time_s); };
    job.happenings = [&walk](double from_s, double to_s) { return happeningsOf(walk, from_s, to_s); };
}

bool renderOffline(const OfflineJob& job, const std::function<void(std::span<const float>)>& sink,
                   const std::function<bool(double)>& progress)
{
    const auto first = static_cast<std::uint64_t>(std::llround(job.from_s * job.rate));
    const auto last = static_cast<std::uint64_t>(std::llround(job.to_s * job.rate));
    const auto oneOf = static_cast<std::uint64_t>(workingRate(job.rate) / job.rate);
    const std::size_t channels = channelsOf(job.layout);
    std::uint64_t out = first;
    const auto told = [&](std::span<const float> frames) {
        if (job.listener != nullptr) {
            job.listener->sound(static_cast<double>(out) / job.rate, frames);
            out += frames.size() / channels;
        }
        sink(frames);
    };
    if (oneOf == 1) {
        return renderFrames(job, first, last, told, progress);
    }
    // What lies before and after counts for the frames at the ends.
    const std::uint64_t lead = std::min<std::uint64_t>(Thinning::context, first);
    Thinning thinning(channels, oneOf);
    std::uint64_t made = 0;
    const auto put = [&](std::span<const float> thinned) {
        const std::uint64_t frames = thinned.size() / channels;
        const std::uint64_t from = std::clamp(lead, made, made + frames) - made;
        const std::uint64_t to = std::clamp(lead + last - first, made, made + frames) - made;
        made += frames;
        if (from < to) {
            told(thinned.subspan(from * channels, (to - from) * channels));
        }
    };
    const bool whole = renderFrames(
        job, (first - lead) * oneOf, (last + Thinning::context) * oneOf,
        [&](std::span<const float> frames) { put(thinning.add(frames, false)); }, progress);
    if (whole) {
        put(thinning.add({}, true));
    }
    return whole;
}

} // namespace stone
