// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <memory>
#include <span>

namespace stone
{

/// Loudness as ITU-R BS.1770 and EBU R 128 define it, by libebur128. May allocate: not for the audio thread.
class LoudnessMeter
{
public:
    /// `peaks`: also looks between the samples, which takes some time.
    LoudnessMeter(int channels, int rate, bool peaks = false);
    ~LoudnessMeter();
    LoudnessMeter(const LoudnessMeter&) = delete;
    LoudnessMeter& operator=(const LoudnessMeter&) = delete;

    void add(std::span<const float> interleaved);

    /// LUFS; minus infinity while there is nothing above the gate.
    double momentary_lufs() const;  ///< over 400 ms
    double shortTerm_lufs() const;  ///< over 3 s
    double integrated_lufs() const; ///< gated, since the start

    /// The highest true peak since the start, dB; minus infinity when it does not look for them.
    double truePeak_db() const;

private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace stone
