// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/band_filter.h"
#include "dsp/late_network.h"
#include "dsp/uniform_convolver.h"
#include "engine/echo_taps.h"
#include "engine/sound_effects.h"
#include "engine/spsc_ring.h"
#include "spatial/head_filters.h"
#include "spatial/layout.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

/// What the deciding side tells the mixing side. Words for threads, here and in the other headers of the engine:
/// *control thread* decides, may allocate and lock; *audio thread* is the device's callback: it never locks, allocates,
/// logs or waits; *window thread* is everything else.
namespace stone
{

/// The engine decides once in so many frames, whatever the device's block is.
constexpr std::size_t stepFrames = 256;

/// A time in whole steps, as near as they come; at least one.
inline std::uint32_t stepsIn(double time_s, double rate)
{
    return std::max(1U, static_cast<std::uint32_t>(std::lround(time_s * rate / static_cast<double>(stepFrames))));
}

/// A change of gain by more than 6 dB, and with it the end of a voice that is not ordered any more, takes so long: four steps
/// at 48 kHz.
constexpr double fade_s = 0.0213;

/// The most voices of a plan. A bed of two channels takes two.
constexpr std::size_t mostVoices = 4096;

/// How many rooms sound at once.
constexpr std::size_t mostRooms = 16;
constexpr std::uint32_t noRoom = UINT32_MAX;

/// How many sounds throw single reflections at once.
constexpr std::size_t mostEchoing = 16;

/// How much of a voice goes into a room's late field, or into what reflects it.
struct VoiceSend {
    std::uint32_t slot = noRoom; ///< below mostRooms, below mostEchoing; noRoom: nothing
    float gain = 0.0F;
};

/// The gain of a voice in each channel of the mix, and last the gain of its own filters for the two ears.
using VoiceGains = std::array<float, mostChannels + 1>;
constexpr std::size_t headGain = mostChannels;

/// Where a piece of a sound begins, ends and fades. In frames of the sound's clock.
struct Envelope {
    double begun = 0.0; ///< since the piece began, at the step's first frame; negative: it begins within the step
    double left = std::numeric_limits<double>::infinity(); ///< until it ends, at the step's first frame
    double pace = 1.0;                                     ///< frames of the clock for each frame put out
    double fadeIn = 0.0;
    double fadeOut = 0.0;

    /// Goes on by so many frames put out.
    void advance(double frames)
    {
        begun += pace * frames;
        left -= pace * frames;
    }
};

/// One channel of one piece of a sound in one step. Whatever is said of a sound's state is meant for the end of the step: the
/// mixer goes there from where it was.
struct VoiceOrder {
    std::uint32_t slot = 0;       ///< below mostVoices; at most one order of a plan has it
    std::uint32_t generation = 0; ///< another generation in the same slot is another voice
    const float* samples = nullptr;
    std::uint32_t frames = 0;
    std::uint32_t loopFrom = 0; ///< of a loop: the frame that comes after the last one
    bool loop = false;
    bool fadeIn = false;   ///< a new voice starts from silence rather than at its full gain
    double position = 0.0; ///< of the step's first frame in `samples`; negative: it starts later in this step
    double rate = 1.0;     ///< frames of `samples` for each frame put out; > 0
    Envelope envelope;
    const EffectSettings* effects = nullptr; ///< null: none
    EchoLine* echo = nullptr;                ///< of this voice alone; null: none
    VoiceGains target{};
    float lowPass_hz = 20'000.0F; ///< 20 kHz or more: open
    float highPass_hz = 20.0F;    ///< 20 Hz or less: open
    bool banded = false;          ///< whether `losses` does anything
    BandFilter::Settings losses;
    const HeadFilters* head = nullptr; ///< binaural only
    HeadFilters::Choice choice;
    std::array<VoiceSend, 4> sends{}; ///< before what the way to the ears takes
    VoiceSend reflected{};            ///< the same, to the reflections
};

/// A room whose late field sounds in one step.
struct RoomOrder {
    std::uint32_t slot = 0;         ///< below mostRooms; at most one order of a plan has it
    std::uint32_t generation = 0;   ///< another generation in the same slot is another room
    LateNetwork* network = nullptr; ///< of this room alone; null: it has a response
    const LateNetwork::Design* design = nullptr;
    UniformConvolver* convolver = nullptr; ///< of this room alone
    /// What each output of the field all round is; of the first also what is heard through openings. Empty: there is a network.
    std::span<const UniformConvolver::Response> responses{};
    std::size_t responseDelay = 0;                            ///< frames
    std::array<ChannelGains, LateNetwork::surround> around{}; ///< where the outputs of the field all round go
    ChannelGains window{};                                    ///< where the output goes that is heard through openings
    BandFilter::Settings losses{};                            ///< of that
};

/// A sound whose reflections sound in one step.
struct EchoOrder {
    std::uint32_t slot = 0;       ///< below mostEchoing; at most one order of a plan has it
    std::uint32_t generation = 0; ///< another generation in the same slot is another sound
    EchoTaps* line = nullptr;     ///< of this sound alone
    EchoTaps::Losses losses{};
    std::size_t count = 0;
    std::array<EchoTap, EchoTaps::most> taps{};

    std::span<const EchoTap> all() const { return {taps.data(), count}; }
};

/// Everything that sounds in one step. Complete in itself: a plan that never arrives is made up for by the next.
struct StepPlan {
    std::uint64_t step = 0;            ///< engine time: step * stepFrames frames
    float master = 1.0F;               ///< gain on everything, for the monitor; ramped like the others
    const HeadFilters* head = nullptr; ///< through which wide sounds and rooms are heard; binaural only
    std::vector<VoiceOrder> voices;
    std::vector<RoomOrder> rooms;
    std::vector<EchoOrder> echoes;
};

/// Plans on their way: a few, so that neither side ever waits for the other.
using PlanRing = SlotRing<StepPlan, 8>;

} // namespace stone
