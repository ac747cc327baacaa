#pragma once

#include <memory>
#include <span>

namespace stone
{

/// Loudness as ITU-R BS.1770 and EBU R 128 define it, by libebur128. May allocate: not for the audio thread.
class LoudnessMeter
{
public:
    LoudnessMeter(int channels, int rate);
    ~LoudnessMeter();
    LoudnessMeter(const LoudnessMeter&) = delete;
    LoudnessMeter& operator=(const LoudnessMeter&) = delete;

    void add(std::span<const float> interleaved);

    /// LUFS; minus infinity while there is nothing above the gate.
    double momentary_lufs() const;  ///< over 400 ms
    double shortTerm_lufs() const;  ///< over 3 s
    double integrated_lufs() const; ///< gated, since the start

private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace stone
