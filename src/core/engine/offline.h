// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"
#include "engine/step_listener.h"
#include "spatial/layout.h"

#include <cstdint>
#include <functional>
#include <span>
#include <thread>
#include <vector>

namespace stone
{

/// Frames per second at which the engine works for an output of a rate: itself from 44.1 kHz on, below that the least whole
/// multiple of it that is not less, which is thinned out at the end. What a filter does bends towards half of its rate, lines
/// and all-passes are a few frames long: at slow rates a project would sound otherwise.
int workingRate(int rate);

/// A stretch of sound to be rendered without a device.
struct OfflineJob {
    std::shared_ptr<const Scene> scene; ///< its sounds at the working rate
    Layout layout = Layout::stereo;
    int rate = 48'000;                         ///< of the output
    std::size_t block = 256;                   ///< frames asked of the mixer at once; 1 or more. Does not change the result.
    double from_s = 0.0;                       ///< engine time at which the output starts
    double to_s = 0.0;                         ///< and ends
    std::function<Pose(double time_s)> ears{}; ///< empty: where the project's rig has them, with the feet
    std::function<Pose(double time_s)> feet{}; ///< of the character; empty: below the ears
    /// What is done to the level in (from_s, to_s]; empty: nothing.
    std::function<std::vector<Happening>(double from_s, double to_s)> happenings{};
    /// Is told what is heard of each step at the working rate, on the thread that decides, before its frames come; empty:
    /// nobody is.
    std::function<void(std::uint64_t step, std::span<const Heard>)> heard{};
    /// Likewise is told all about it; null: nobody is. Costs as it is told them are those of the render.
    StepListener* listener = nullptr;
    /// With more than one, what comes next is decided on a thread of its own, and its voices sound on another, while walls and
    /// rooms answer to what came before: `ears`, `feet`, `happenings` and `heard` are called on the first. Does not change the
    /// result.
    unsigned threads = std::thread::hardware_concurrency();
};

/// Lets a job go along a walk of its scene's level, with all that happens on it. The walk must outlive the job.
void followWalk(OfflineJob& job, const Walk& walk);

/// Drives the deciding and the mixing side, in lock-step. The output is cut to the frame. `sink` gets interleaved frames;
/// `progress`, which may be empty, gets 0 to 1 about a hundred times a second of work and stops the render by returning false.
///
/// Returns whether it ran to the end.
bool renderOffline(const OfflineJob& job, const std::function<void(std::span<const float>)>& sink,
                   const std::function<bool(double)>& progress);

} // namespace stone
