// SPDX-License-Identifier: MPL-2.0
#include "project/picker.h"

#include "project/chance.h"

#include <algorithm>
#include <numeric>
#include <utility>

namespace stone
{

Picker::Picker(std::uint64_t seed, std::string id, std::string purpose, Order order, std::size_t count)
    : seed_(seed), id_(std::move(id)), purpose_(std::move(purpose)), order_(order), count_(count), last_(count)
{
}

double Picker::draw(std::uint64_t counter) const
{
    return chance(seed_, id_, purpose_, counter);
}

void Picker::shuffle()
{
    round_.resize(count_);
    std::iota(round_.begin(), round_.end(), std::size_t{0});
    // R. Durstenfeld's form of the shuffle of Fisher and Yates (1964).
    for (std::size_t i = count_; i-- > 1;) {
        const auto other = static_cast<std::size_t>(draw(taken_ + i) * static_cast<double>(i + 1));
        std::swap(round_[i], round_[other]);
    }
    if (count_ > 1 && round_.front() == last_) {
        std::swap(round_.front(), round_.back());
    }
}

std::size_t Picker::next()
{
    const auto place = static_cast<std::size_t>(taken_ % count_);
    if (order_ == Order::inTurn) {
        last_ = place;
    } else if (order_ == Order::shuffled) {
        if (place == 0) {
            shuffle();
        }
        last_ = round_[place];
    } else if (last_ == count_ || count_ == 1) {
        last_ = static_cast<std::size_t>(draw(taken_) * static_cast<double>(count_));
    } else {
        // One of the others: those from the last one on move down by one.
        const auto other = static_cast<std::size_t>(draw(taken_) * static_cast<double>(count_ - 1));
        last_ = other < last_ ? other : other + 1;
    }
    ++taken_;
    return last_;
}

const std::string& courseIdOf(const Sound& sound, const Emitter& emitter)
{
    return sound.copiesApart ? emitter.id.text : sound.id.text;
}

std::size_t firstFile(std::uint64_t seed, const Sound& sound, const std::string& courseId)
{
    return Picker(seed, courseId, "file", sound.sequence.order, sound.files.size()).next();
}

} // namespace stone
