#include "engine/offline.h"

#include "engine/control.h"
#include "engine/mixer.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <exception>
#include <semaphore>
#include <vector>

namespace stone
{

namespace
{

/// What a job says of one step, with the happenings kept for it.
class Situations
{
public:
    explicit Situations(const OfflineJob& job) : job_(job), step_s_(static_cast<double>(stepFrames) / job.rate) {}

    const Control::Situation& at(std::uint64_t step)
    {
        const double from_s = static_cast<double>(step * stepFrames) / job_.rate;
        const double to_s = static_cast<double>((step + 1) * stepFrames) / job_.rate;
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
    double step_s_;
    std::vector<Happening> happenings_;
    Control::Situation situation_;
};

/// The plans of a render, one step after the other: each made when it is asked for, or a few ahead on a thread of their own.
class Plans
{
public:
    /// From one step to before another.
    Plans(const OfflineJob& job, Control& control, Mixer& mixer, Situations& situations, std::uint64_t first, std::uint64_t end)
        : job_(job), control_(control), mixer_(mixer), situations_(situations), next_(first), end_(end)
    {
        if (job.threads > 1) {
            thread_ = std::thread([this] { run(); });
        }
    }
    ~Plans()
    {
        if (thread_.joinable()) {
            stop_ = true;
            room_.release();
            thread_.join();
        }
    }
    Plans(const Plans&) = delete;
    Plans& operator=(const Plans&) = delete;

    /// Until the next one is with the mixer.
    void await()
    {
        if (!thread_.joinable()) {
            make(next_++);
            return;
        }
        ready_.acquire();
        if (failed_) {
            std::rethrow_exception(failed_);
        }
    }

    /// The mixer has taken it.
    void taken()
    {
        if (thread_.joinable()) {
            room_.release();
        }
    }

private:
    void make(std::uint64_t step)
    {
        StepPlan* plan = mixer_.plans().free();
        control_.decide(step, situations_.at(step), *plan);
        if (job_.heard) {
            job_.heard(step, control_.heard());
        }
        mixer_.plans().publish();
    }

    void run()
    {
        try {
            for (; next_ < end_; ++next_) {
                room_.acquire();
                if (stop_) {
                    return;
                }
                make(next_);
                ready_.release();
            }
        } catch (...) {
            failed_ = std::current_exception();
            ready_.release();
        }
    }

    const OfflineJob& job_;
    Control& control_;
    Mixer& mixer_;
    Situations& situations_;
    std::uint64_t next_;
    std::uint64_t end_;
    std::counting_semaphore<> room_{PlanRing::most};
    std::counting_semaphore<> ready_{0};
    std::atomic<bool> stop_ = false;
    std::exception_ptr failed_; ///< written before ready_ says so
    std::thread thread_;
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

} // namespace

void followWalk(OfflineJob& job, const Walk& walk)
{
    job.ears = {};
    job.feet = [&walk](double time_s) { return walkPose(walk, time_s); };
    job.happenings = [&walk](double from_s, double to_s) { return happeningsOf(walk, from_s, to_s); };
}

bool renderOffline(const OfflineJob& job, const std::function<void(std::span<const float>)>& sink,
                   const std::function<bool(double)>& progress)
{
    constexpr std::uint64_t stepsPerReport = 256;
    const auto firstFrame = static_cast<std::uint64_t>(std::llround(job.from_s * job.rate));
    const auto lastFrame = static_cast<std::uint64_t>(std::llround(job.to_s * job.rate));
    const std::size_t channels = channelsOf(job.layout);

    Mixer mixer(job.layout, job.rate);
    Control control(job.layout, job.rate);
    control.setScene(job.scene, 0);
    // Rooms answer to what sounded before: their tails are rendered too, and not put out.
    const auto before = static_cast<std::uint64_t>(longestTail_s(*job.scene) * job.rate);
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
    Plans plans(job, control, mixer, situations, firstStep, (lastFrame + stepFrames - 1) / stepFrames);
    std::uint64_t skip = firstFrame - frame;
    while (frame < lastFrame) {
        const auto frames = static_cast<std::size_t>(std::min<std::uint64_t>(block, lastFrame - frame));
        // The mixer takes a plan at each step boundary that this block crosses.
        for (std::size_t done = 0; done < frames;) {
            const std::uint64_t at = frame + done;
            const bool begins = at == decided * stepFrames;
            if (begins) {
                plans.await();
                ++decided;
            }
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(frames - done, decided * stepFrames - at));
            mixer.process(out.data() + done * channels, n);
            if (begins) {
                plans.taken();
            }
            done += n;
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

} // namespace stone
