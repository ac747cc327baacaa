// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/sound.h"

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// What the audio thread needs of a sound's effects. Everything in it may glide from one set of settings to another; the
/// default does nothing.
struct EffectSettings {
    /// One band of the equaliser as a state-variable filter (A. Simper, "Solving the continuous SVF equations using
    /// trapezoidal integration", 2013): out = input * in + band * through + low * under.
    struct Band {
        float g = 0.1F;
        float k = 1.0F;
        float input = 1.0F;
        float band = 0.0F;
        float low = 0.0F;

        bool operator==(const Band&) const = default;
    };
    std::array<Band, 3> bands;
    float drive = 1.0F;       ///< gain before the bend
    float bent = 0.0F;        ///< share of the bent signal
    float tremoloStep = 0.0F; ///< turns for each frame of the sound's clock
    float tremoloDepth = 0.0F;
    std::size_t echoFrames = 1;
    float echoGain = 0.0F;
    float echoSharp = 1.0F; ///< of its one-pole low-pass: 1 lets everything through
    bool any = false;
};

EffectSettings designEffects(const Effects& effects, double rate);

/// How long a sound goes on after its end: until its echo is 60 dB down.
double effectTail_s(const Effects& effects);

/// What was heard, for the echo of one voice. Made and thrown away on the control thread, used by the audio thread.
struct EchoLine {
    explicit EchoLine(double rate);
    std::vector<float> samples;
    std::size_t at = 0;
    float dulled = 0.0F;
};

/// The state of one voice's way through the effects. Audio thread.
class SoundEffects
{
public:
    /// Filters in place, from one set of settings to another over the block. `begun`: frames of the sound's clock since
    /// the piece began, at the first frame; `pace`: frames of the clock for each frame put out. Without a line there is no
    /// echo. At most 256 frames.
    void process(std::span<float> samples, const EffectSettings& from, const EffectSettings& to, double begun, double pace,
                 EchoLine* line);

private:
    void equalise(std::span<float> samples, const EffectSettings& from, const EffectSettings& to);
    void bend(std::span<float> samples, const EffectSettings& from, const EffectSettings& to);

    struct State {
        float first = 0.0F;
        float second = 0.0F;
    };
    std::array<State, 3> bands_{};
    float before_ = 0.0F; ///< the last driven sample
};

} // namespace stone
