// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/scene.h"

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace stone
{

/// A sound that is tried out, besides what is heard: the whole of it, or one of its files from some place on.
struct Audition {
    SoundId sound;
    std::optional<std::size_t> file;    ///< nothing: the sound as a whole
    Rounds rounds = Rounds::asTheSound; ///< a file by itself plays once unless it is endless
    std::filesystem::path instead{};    ///< of that file, something made of it; empty: the file itself
    double instead_db = 0.0;            ///< by which that is to be played louder to be as loud as the file was
    double start_s = 0.0;               ///< time of the level at which its first frame lies
    int serial = 0;                     ///< another one each time, so that trying again begins again
    bool alone = false;                 ///< listening was begun for it, and ends with it
};

/// The document with one more emitter, last in the level, that plays the audition in both ears.
Project withAudition(Project project, const LevelId& level, const Audition& audition);

/// What is silent for whoever hears the audition: all else, where it is heard alone.
ForEars forAudition(ForEars forEars, const Audition& audition);

/// Where in their files sounds are. Asked on and on it follows each copy from where it last was.
class SoundPositions
{
public:
    /// Where in one of the files of a sound its copies are at a time of the level, seconds. Counts an audition's emitter where
    /// the scene `of` has one. `state`: of the scene's world; may be null.
    std::vector<double> in(const std::shared_ptr<const Scene>& of, const SoundId& sound, std::size_t file, double time_s,
                           const std::optional<Audition>& audition, const WorldState* state);

private:
    /// A start: emitter and number.
    using Copy = std::pair<std::uint32_t, std::uint64_t>;
    struct Followed {
        Course course;
        std::uint64_t seen;
    };
    std::shared_ptr<const Scene> scene_;
    std::map<Copy, Followed> courses_;
    std::uint64_t asked_ = 0;
};

/// Whether an audition has run out at a time of the level. Not while its files are still being read.
bool isOver(const Scene& scene, const Audition& audition, double time_s);

} // namespace stone
