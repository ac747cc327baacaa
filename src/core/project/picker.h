// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <vector>

namespace stone
{

/// Says in which order the files of a sound are taken. The same for the same seed, id and purpose; none comes twice running
/// where there are two or more.
class Picker
{
public:
    Picker(std::uint64_t seed, std::string id, std::string purpose, Order order, std::size_t count);

    /// The next one, below count. count >= 1.
    std::size_t next();

private:
    double draw(std::uint64_t counter) const;
    void shuffle();

    std::uint64_t seed_;
    std::string id_;
    std::string purpose_;
    Order order_;
    std::size_t count_;
    std::uint64_t taken_ = 0;
    std::size_t last_; ///< count_: none yet
    std::vector<std::size_t> round_;
};

/// By whose chance an emitter's sound goes on: its own, or that of the sound when all copies are locked.
const std::string& courseIdOf(const Sound& sound, const Emitter& emitter);

/// The file with which a sound starts. The sound has files.
std::size_t firstFile(std::uint64_t seed, const Sound& sound, const std::string& courseId);

} // namespace stone
