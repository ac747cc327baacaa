// SPDX-License-Identifier: MPL-2.0
#include "engine/echo_taps.h"

#include "dsp/delay_read.h"
#include "dsp/ramp.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// How much of what is missing of a gain comes in a block: a wall's edge comes and goes in some 25 ms.
constexpr float share = 0.2F;
constexpr float inaudible = 1e-6F;
/// A delay that changes by more than this in a block is another reflection: faster than half the speed of sound.
constexpr float jump = 128.0F;

std::size_t lineFrames(double rate)
{
    std::size_t frames = 1;
    while (static_cast<double>(frames) < EchoTaps::longest_s * rate + 2.0 * EchoTaps::blockFrames) {
        frames *= 2;
    }
    return frames;
}

} // namespace

EchoTaps::EchoTaps(double rate) : rate_(rate), mask_(lineFrames(rate) - 1)
{
    for (auto& line : lines_) {
        line.resize(mask_ + 1);
    }
}

void EchoTaps::reset()
{
    for (auto& line : lines_) {
        std::fill(line.begin(), line.end(), 0.0F);
    }
    for (BandFilter& filter : filters_) {
        filter.reset();
    }
    readers_ = {};
    fresh_ = true;
}

void EchoTaps::aim(std::span<const EchoTap> taps) noexcept
{
    for (Reader& reader : readers_) {
        reader.target = {};
        reader.delayTo = reader.tap.delay;
    }
    for (const EchoTap& tap : taps) {
        const auto same = [&](const Reader& r) {
            return r.on && r.tap.name == tap.name && std::abs(r.tap.delay - tap.delay) < jump;
        };
        auto reader = std::find_if(readers_.begin(), readers_.end(), same);
        if (reader == readers_.end()) {
            reader = std::find_if(readers_.begin(), readers_.end(), [](const Reader& r) { return !r.on; });
            if (reader == readers_.end()) {
                continue;
            }
            reader->on = true;
            reader->tap = tap;
            // What begins with its sound is there at once; nothing of it has sounded yet.
            reader->tap.gains = fresh_ ? tap.gains : ChannelGains{};
        }
        reader->delayTo = tap.delay;
        reader->target = tap.gains;
    }
}

void EchoTaps::read(Reader& reader, std::span<Block> sums) noexcept
{
    const std::vector<float>& line = lines_[reader.tap.bounces > 1 ? 1 : 0];
    const float longest = static_cast<float>(mask_) - static_cast<float>(2 * blockFrames);
    const float from = std::clamp(reader.tap.delay, 0.0F, longest);
    const float slope = (std::clamp(reader.delayTo, 0.0F, longest) - from) / static_cast<float>(blockFrames);
    const auto first = static_cast<std::size_t>(from);
    const std::size_t start = (at_ - first) & mask_;
    if (slope == 0.0F && start > 0 && start + blockFrames <= line.size()) {
        // It stands still, and in one piece: no place has to be worked out.
        readStanding(line.data() + start, from - static_cast<float>(static_cast<int>(first)), scratch_);
    } else {
        readMoving(line, at_, from, slope, scratch_);
    }
    reader.tap.delay = reader.delayTo;
    bool sounds = false;
    for (std::size_t channel = 0; channel < sums.size(); ++channel) {
        float& now = reader.tap.gains[channel];
        const float before = now;
        const float missing = reader.target[channel] - before;
        now = std::abs(missing) < inaudible ? reader.target[channel] : before + missing * share;
        sounds = sounds || now != 0.0F;
        if (before == 0.0F && now == 0.0F) {
            continue;
        }
        addRamped(sums[channel], scratch_, before, now);
    }
    reader.on = sounds || reader.target != ChannelGains{};
}

void EchoTaps::process(const Block& in, std::span<const EchoTap> taps, const Losses& losses, std::span<Block> sums) noexcept
{
    aim(taps);
    bounced_[0] = in;
    filters_[0].process(bounced_[0], fresh_ ? losses[0] : losses_[0], losses[0], rate_);
    bounced_[1] = bounced_[0];
    filters_[1].process(bounced_[1], fresh_ ? losses[1] : losses_[1], losses[1], rate_);
    losses_ = losses;
    fresh_ = false;
    for (std::size_t bounce = 0; bounce < lines_.size(); ++bounce) {
        for (std::size_t i = 0; i < blockFrames; ++i) {
            lines_[bounce][(at_ + i) & mask_] = bounced_[bounce][i];
        }
    }
    for (Reader& reader : readers_) {
        if (reader.on) {
            read(reader, sums);
        }
    }
    at_ = (at_ + blockFrames) & mask_;
}

} // namespace stone
