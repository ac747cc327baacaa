// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>

namespace stone
{

/// What a device asks for sound: audio thread only.
class RenderSource
{
public:
    virtual ~RenderSource() = default;
    /// Fills whole frames, channels interleaved. Never locks, allocates or waits.
    virtual void render(float* interleaved, std::size_t frames) noexcept = 0;
};

/// What an output plays: made ready a little ahead of the device, by a thread of its own. All but render() is the window
/// thread's.
class Played : public RenderSource
{
public:
    virtual int rate() const = 0;
    virtual std::size_t channels() const = 0;
    /// Starts and stops the thread. While it does not run, pump() may be called instead.
    virtual void start() = 0;
    virtual void stop() = 0;
    /// Makes ready what the device will ask for next, as its thread does all the time.
    virtual void pump() = 0;
};

} // namespace stone
