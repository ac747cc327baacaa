// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/render_source.h"

#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// Something that asks for sound at its own pace: a sound card, or a clock where there is none. All methods belong to
/// the window thread; the source is called on the device's thread between start() and stop().
class AudioDevice
{
public:
    virtual ~AudioDevice() = default;

    /// Starts asking. The source must outlive stop().
    virtual void start(RenderSource& source) = 0;
    virtual void stop() = 0;

    /// As people read it.
    virtual std::string name() const = 0;
    /// Frames asked for at once.
    virtual std::size_t blockFrames() const = 0;
    /// How many channels the card behind it has; 0 where there is none.
    virtual unsigned cardChannels() const { return 0; }
    /// Whether anything can be heard, or only seen.
    virtual bool audible() const = 0;
    /// Whether it has stopped asking by itself: unplugged, or its server is gone.
    virtual bool lost() const = 0;
    /// Whether time passes only when somebody moves it on; the engine's control thread then stays away.
    virtual bool movedByHand() const { return false; }
};

/// A sound card that can be chosen.
struct SoundCard {
    unsigned id = 0; ///< of its driver, until the cards change; of one that has names, `key`
    std::string api; ///< how it is reached: "ALSA", "Pulse", "Jack"
    std::string name;
    bool usual = false; ///< the one that the system would take
    unsigned channels = 2;
    std::string key{};

    bool operator==(const SoundCard&) const = default;
};

/// The sound cards that can play stereo. May take a moment; never throws.
std::vector<SoundCard> soundCards();

/// Opens a card. Throws std::runtime_error with one line when it cannot be had or has too few channels.
std::unique_ptr<AudioDevice> openSoundCard(const SoundCard& card, int rate, std::size_t blockFrames, unsigned channels = 2);

/// Keeps time without a sound card: calls the source at the pace of the clock and throws the sound away.
std::unique_ptr<AudioDevice> openClock(int rate, std::size_t blockFrames);

/// A clock that stands still until it is moved on by hand. For tests: a second of sound passes in a few milliseconds,
/// always the same way.
class HandClock : public AudioDevice
{
public:
    HandClock(int rate, std::size_t blockFrames) : rate_(rate), block_(blockFrames) {}

    void start(RenderSource& source) override { source_ = &source; }
    void stop() override { source_ = nullptr; }
    std::string name() const override { return "clock moved by hand"; }
    std::size_t blockFrames() const override { return block_; }
    bool audible() const override { return false; }
    bool lost() const override { return false; }
    bool movedByHand() const override { return true; }

    /// Lets time pass on the calling thread, with as much made ready ahead as by what runs. Returns what was played, channels
    /// interleaved; nothing while stopped.
    std::vector<float> advance(Played& source, double seconds);

private:
    int rate_;
    std::size_t block_;
    RenderSource* source_ = nullptr;
};

} // namespace stone
