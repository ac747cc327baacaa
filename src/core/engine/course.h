// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/lane.h"
#include "project/picker.h"
#include "project/sound.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// One stretch of one file in the course of a sound. Its times are frames on the sound's own clock, whole ones, from the
/// sound's start on; the clock runs faster when the sound's pitch goes up, as a tape does.
struct Piece {
    std::uint64_t serial = 0; ///< names it within the course
    std::uint32_t file = 0;   ///< of the sound
    double begins = 0.0;
    double ends = 0.0;     ///< infinite for a loop that goes on
    double from = 0.0;     ///< the place in the file with which it begins, frames; whole
    double rate = 1.0;     ///< frames of the file for each frame of the clock, without drift
    double level_db = 0.0; ///< of the file and by chance, without drift
    double fadeIn = 0.0;   ///< frames
    double fadeOut = 0.0;  ///< frames
    bool loops = false;
};

/// What sounds when in a sound, from its files and their lengths: a function of the project's seed, the id by whose chance it
/// goes and nothing else, so that any moment of it can be asked for again.
///
/// Remembers where it was, so that going on costs little; going back begins again from the start. For one thread.
class Course
{
public:
    /// `frames`: the length of each of the sound's files; 0 where it cannot be played. `rate`: frames per second. `file`: that
    /// it plays, for sounds that play one of their files; none: the one that their order gives.
    Course(std::shared_ptr<const Sound> sound, std::vector<double> frames, double rate, std::uint64_t seed, std::string id,
           std::optional<std::size_t> file = {});
    ~Course();
    Course(Course&&) noexcept;
    Course& operator=(Course&&) noexcept;

    /// The pieces that sound at any time in [from, to), those of one strand after those of another.
    void during(double from, double to, std::vector<Piece>& pieces);

    /// From the start to the end of the last piece; infinite when the sound goes on for ever, 0 when nothing can be played.
    double frames();

    /// Where in its file a piece is at a time on the clock. For a loop: beyond its end when it has come round.
    double placeAt(const Piece& piece, double time) const;
    /// The same, with a loop's rounds taken off: a frame of the file.
    double foldedPlaceAt(const Piece& piece, double time) const;
    /// The level of a piece at a time, its own and its drift, dB.
    double levelAt(const Piece& piece, double time) const;
    /// What the sound's lanes over time come to.
    LaneValues lanesAt(const Piece& piece, double time) const;

    /// Where a file's loop comes back to and where it leaves for there, frames.
    struct LoopFrames {
        double from;
        double end;
    };
    LoopFrames loopOf(std::size_t file) const;

    const Sound& sound() const { return *sound_; }

private:
    class Strand;

    double lengthOf(std::size_t file) const { return frames_[file]; }
    Piece pieceOf(std::uint64_t serial, std::size_t file) const;
    Piece wholeFile(std::uint64_t serial, std::size_t file) const;
    double drifted(const Drift& drift, const char* purpose, std::uint32_t file, double time) const;
    double draw(const char* purpose, std::uint64_t counter) const;

    std::shared_ptr<const Sound> sound_;
    std::vector<double> frames_;
    double rate_;
    std::uint64_t seed_;
    std::string id_;
    std::optional<std::size_t> file_;
    std::vector<Strand> strands_;
};

/// After what time a combination of loops of these lengths comes round again, seconds; nothing when it takes more than a
/// day. Lengths in frames, above 0.
std::optional<double> repeatsAfter_s(std::span<const double> frames, double rate);

} // namespace stone
