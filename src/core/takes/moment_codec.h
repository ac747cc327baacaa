// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take.h"

#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace stone
{

/// Puts moments of a take together into a chunk of bytes that is read by itself: each says only what is not as it was in the
/// moment before. docs/take-format.md has it byte by byte.
class MomentEncoder
{
public:
    void add(const TakenMoment& moment);
    std::size_t count() const { return count_; }
    /// The chunk; begins another.
    std::string take();

    /// A level, or another number of the Ledger, in hundredths; a number of its own for minus infinity.
    static std::int64_t centi(double value);

private:
    struct Before {
        TakenCopy copy;
        std::uint64_t seen = 0;
    };

    void addCopy(const TakenCopy& copy);

    std::string body_;
    std::size_t count_ = 0;
    TakenMoment last_;
    std::unordered_map<std::uint32_t, Before> copies_;
    std::unordered_map<std::uint32_t, std::int64_t> rooms_;
};

/// The moments of a chunk, as far as it is whole.
std::vector<TakenMoment> decodeMoments(std::string_view chunk);

} // namespace stone
