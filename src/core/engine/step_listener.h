// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/control.h"

#include <span>

namespace stone
{

/// Somebody who is told of each step that an engine decides, and of each frame that comes out of it: for taking down what a run
/// was like. Engine time: step * stepFrames / rate.
class StepListener
{
public:
    virtual ~StepListener() = default;

    /// A step has been decided; its frames come later. On the thread that decides: what takes long delays the sound.
    virtual void decided(std::uint64_t step, const Control::Situation& situation, const Control& control) = 0;

    /// Frames as they come out, channels interleaved, before the monitor's limiter. `time_s`: engine time of the first.
    /// Offline on another thread than decided().
    virtual void sound(double time_s, std::span<const float> interleaved) = 0;
};

} // namespace stone
