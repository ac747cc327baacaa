#include "engine/offline.h"

#include "engine/control.h"
#include "engine/mixer.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace stone
{

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
    const std::uint64_t firstStep = firstFrame / stepFrames;
    mixer.startAt(firstStep);

    const std::size_t block = std::max<std::size_t>(job.block, 1);
    std::vector<float> out(block * channels);
    std::uint64_t frame = firstStep * stepFrames;
    std::uint64_t decided = firstStep;
    std::uint64_t skip = firstFrame - frame;
    while (frame < lastFrame) {
        const auto frames = static_cast<std::size_t>(std::min<std::uint64_t>(block, lastFrame - frame));
        // The mixer takes a plan at each step boundary that this block crosses.
        for (std::size_t done = 0; done < frames;) {
            const std::uint64_t at = frame + done;
            if (at == decided * stepFrames) {
                StepPlan* plan = mixer.plans().free();
                const double step_s = static_cast<double>(stepFrames) / job.rate;
                const double time_s = static_cast<double>(at + stepFrames) / job.rate;
                const Pose ears = job.ears(time_s);
                control.decide(decided, Ears(ears, (ears.at - job.ears(time_s - step_s).at) / step_s), *plan);
                mixer.plans().publish();
                ++decided;
            }
            const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(frames - done, decided * stepFrames - at));
            mixer.process(out.data() + done * channels, n);
            done += n;
        }
        const auto dropped = static_cast<std::size_t>(std::min<std::uint64_t>(skip, frames));
        skip -= dropped;
        sink(std::span<const float>(out.data() + dropped * channels, (frames - dropped) * channels));
        const std::uint64_t before = frame / (stepFrames * stepsPerReport);
        frame += frames;
        if (progress && frame / (stepFrames * stepsPerReport) != before &&
            !progress(static_cast<double>(frame - firstFrame) /
                      static_cast<double>(std::max<std::uint64_t>(lastFrame - firstFrame, 1)))) {
            return false;
        }
    }
    return true;
}

} // namespace stone
