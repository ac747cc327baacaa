// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/lane.h"
#include "project/limit.h"
#include "project/list.h"

#include <string>
#include <vector>

namespace stone
{

/// Where a sound comes from, for the list of credits.
struct Credit {
    std::string source; ///< where it was found or how it was made
    std::string author;
    std::string licence;

    bool empty() const { return source.empty() && author.empty() && licence.empty(); }
    bool operator==(const Credit&) const = default;
};

/// A slow wandering around a sound's own level or pitch, so that loops of different lengths never meet in the same way twice.
struct Drift {
    double depth = 0.0; ///< up and down by so much: dB of a level, semitones of a pitch; 0: none; >= 0
    double period_s = 30.0;
    bool irregular = false; ///< by chance, another way each period; else evenly, as a sine
    /// Of a level, instead of both: decibels over seconds from the beginning of each period. Empty: not drawn.
    Curve drawn{};

    bool operator==(const Drift&) const = default;
};

/// One file of a sound, with what holds for it alone.
struct SoundFile {
    std::string file{}; ///< relative to the project's folder, '/' between parts
    double level_db = 0.0;
    double loopFrom_s = 0.0; ///< where a loop comes back to
    double loopTo_s = 0.0;   ///< from where it does; 0: from the file's end
    bool accent = false;     ///< of a mixed sound: sounds now and then instead of all the time
    Drift levelDrift{};      ///< of layers and of the loops of a mixed sound
    Drift pitchDrift{};
    Credit credit{};
    Extras extras{};

    bool operator==(const SoundFile&) const = default;
};

/// What a sound makes of its files.
enum class Make {
    one,    ///< each start plays one of them: which, says the order
    run,    ///< one after another, with gaps or cross-faded
    slices, ///< pieces of them, cut by chance, several at once
    layers, ///< all of them at once
    mixed,  ///< loops all the time, accents now and then
};

enum class Order {
    random, ///< by chance, none twice running
    inTurn,
    shuffled ///< by chance, each once before any comes again
};

/// How the pieces of a sound follow each other. Times are the sound's own: they shrink when its pitch goes up, as on a tape.
struct Sequence {
    Order order = Order::random;
    double gapLeast_s =
        0.0; ///< of a run: silence between two files; of slices: after one; of a mixed sound: between two accents
    double gapMost_s = 0.0;
    double gapChance = 1.0;   ///< how often a run, or slices, take their gap, 0 never to 1 always
    double crossFade_s = 0.0; ///< between two pieces without a gap
    double sliceLeast_s = 2.0;
    double sliceMost_s = 6.0;
    int atOnce = 2; ///< slices that sound together; 1 to 8

    bool operator==(const Sequence&) const = default;
};

/// The effects of a sound, in the order in which it goes through them.
struct Equaliser {
    bool on = false;
    double low_hz = 200.0; ///< middle of the shelf
    double low_db = 0.0;
    double middle_hz = 1'000.0;
    double middle_db = 0.0;
    double middleQ = 1.0; ///< centre over width
    double high_hz = 5'000.0;
    double high_db = 0.0;
    Extras extras{};

    bool operator==(const Equaliser&) const = default;
};

struct Saturation {
    bool on = false;
    double drive_db = 12.0; ///< by how much soft sounds grow against full scale, which stays where it is; 0 to 40
    Extras extras{};

    bool operator==(const Saturation&) const = default;
};

struct Tremolo {
    bool on = false;
    double rate_hz = 5.0;
    double depth = 0.5; ///< 0 none, 1 down to silence
    Extras extras{};

    bool operator==(const Tremolo&) const = default;
};

struct Echo {
    bool on = false;
    double delay_s = 0.12;    ///< 0.005 to 0.5
    double level_db = -9.0;   ///< of each repeat against the one before; below 0
    double dull_hz = 6'000.0; ///< each repeat loses what lies above; 20 kHz: nothing
    Extras extras{};

    bool operator==(const Echo&) const = default;
};

struct Effects {
    Equaliser equaliser;
    Saturation saturation;
    Tremolo tremolo;
    Echo echo;
    Extras extras{};

    bool any() const { return equaliser.on || saturation.on || tremolo.on || echo.on; }
    bool operator==(const Effects&) const = default;
};

/// How a sound's files are kept while the project is open.
enum class Keeping {
    automatic,  ///< decoded up to a minute, else streamed
    decoded,    ///< whole, ready to be mixed
    compressed, ///< as they are on the disk; decoded a stretch at a time
    streamed    ///< on the disk; read and decoded a stretch at a time
};

/// What is played: files and how to play them.
struct Sound {
    SoundId id;
    std::string name;
    std::string folder; ///< in the list of sounds, '/' between parts; empty: at the top
    std::vector<SoundFile> files;
    Make make = Make::one;
    Sequence sequence;
    bool loop = true; ///< goes on for ever; else once through
    double level_db = 0.0;
    double levelSpread_db = 0.0;  ///< the level of each start lies so far around it, up or down; >= 0
    double pitchSpread_st = 0.0;  ///< the same for its pitch, semitones; >= 0
    double lowPass_hz = 20'000.0; ///< 20 kHz: open
    double highPass_hz = 20.0;    ///< 20 Hz: open
    double delay_s = 0.0;         ///< from a start until anything sounds
    double fadeIn_s = 0.0;        ///< of each start
    double fadeOut_s = 0.0;       ///< towards the end of whatever ends
    std::vector<Lane> lanes;      ///< over the time since each start: level, low-pass, high-pass; one of each at most
    Effects effects;
    bool copiesApart = false; ///< each copy has a course of its own; else all are locked, sample by sample
    bool binaural = false;    ///< made for two ears: goes to them as it is
    Keeping keeping = Keeping::automatic;
    Limit limit{}; ///< on its copies, over all emitters that play it
    std::vector<std::string> tags;
    Extras extras{};

    /// Whether every piece is a start of its own, with a level and pitch by chance; else a copy has one for all time.
    bool drawsEachPiece() const { return make == Make::run || make == Make::slices || make == Make::mixed; }
    bool operator==(const Sound&) const = default;
};

} // namespace stone
