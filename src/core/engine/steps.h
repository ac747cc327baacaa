// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "engine/step_plan.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

/// What the parts of Control agree upon.
namespace stone
{

/// By then a voice has faded that was not ordered any more; twice what that takes leaves room for steps that came late.
inline std::uint64_t fadeSteps(double rate)
{
    return 2 * std::uint64_t{stepsIn(fade_s, rate)};
}

/// What the mixer may still refer to is kept for so many decisions after it was let go. Decisions, not steps: where the control
/// thread is late steps pass without a plan, and the mixer goes on with what it had.
constexpr std::uint64_t reuseAfter = 64;

/// The last voice is for claps alone, and so they are called among what is heard.
constexpr std::uint32_t clapSlot = mostVoices - 1;
constexpr std::uint64_t clapKey = UINT64_MAX - 1;

/// Whether the filter that was worked out for a loss still does for another: no band has changed by more than a twentieth of a
/// decibel.
inline bool sameLosses(const Bands& a, const Bands& b)
{
    return std::equal(a.begin(), a.end(), b.begin(), [](double x, double y) { return std::abs(x - y) <= 0.05; });
}

/// The engine's frame at which a step begins.
inline double frameOfStep(std::uint64_t step)
{
    return static_cast<double>(step) * static_cast<double>(stepFrames);
}

} // namespace stone
