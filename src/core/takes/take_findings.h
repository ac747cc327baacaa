// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take_reader.h"

#include <functional>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace stone
{

/// Something along a take that a person should listen to.
struct TakeFinding {
    std::string code; ///< stable, for scripts: "level-jumps"
    std::string what; ///< one sentence
    double t_s = 0.0;
    Vec3 at{0.0};        ///< where the ears were
    EmitterId emitter{}; ///< empty: it is of no single one
};

/// Jumps in level, flips of side, dropouts, swaps to and fro, sounds that pile up, what masks what matters, repeats that are
/// heard, moments over the budget of voices, peaks: each with its moment, in the order of time. `progress`: false stops. What
/// is alike within a few seconds is said once.
std::vector<TakeFinding> findInTake(const Take& take, const std::function<bool(double)>& progress = {});

/// Counts changes of an emitter's level by more than so many dB (usually 6) within 0.1 s while it goes on sounding: what begins
/// and ends does not count.
class JumpCounter
{
public:
    explicit JumpCounter(double mostJump_db = most_db) : mostJump_db_(mostJump_db) {}

    void add(const TakenMoment& moment);
    int count() const { return count_; }
    /// Of the last moment: the copies that have jumped.
    const std::vector<std::pair<std::uint32_t, double>>& jumped() const { return jumped_; }

    static constexpr double most_db = 6.0;
    static constexpr double within_s = 0.1;

private:
    struct Past {
        std::vector<std::pair<double, double>> levels; ///< seconds, dB; no older than within_s
        double quietUntil_s = -1.0;                    ///< one jump is not counted twice
    };

    double mostJump_db_;
    std::map<std::uint32_t, Past> past_; ///< by copy
    std::vector<std::pair<std::uint32_t, double>> jumped_;
    int count_ = 0;
};

} // namespace stone
