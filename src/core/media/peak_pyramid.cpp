// SPDX-License-Identifier: MPL-2.0
#include "media/peak_pyramid.h"

#include <algorithm>
#include <array>
#include <span>

namespace stone
{

namespace
{

std::pair<float, float> both(const std::pair<float, float>& a, const std::pair<float, float>& b)
{
    return {std::min(a.first, b.first), std::max(a.second, b.second)};
}

} // namespace

PeakPyramid::PeakPyramid(const SharedBuffer& buffer) : buffer_(buffer), levels_(buffer->channelCount())
{
    // All channels of a stretch before the next, so that what is not kept decoded is decoded once.
    std::vector<float> chunk(chunkFrames);
    for (std::size_t start = 0; start < buffer->frames(); start += chunkFrames) {
        chunk.resize(std::min(chunkFrames, buffer->frames() - start));
        for (std::size_t channel = 0; channel < levels_.size(); ++channel) {
            buffer->read(channel, start, chunk);
            levels_[channel].resize(1);
            for (std::size_t at = 0; at < chunk.size(); at += base) {
                const auto first = chunk.begin() + static_cast<std::ptrdiff_t>(at);
                const auto [low, high] =
                    std::minmax_element(first, first + static_cast<std::ptrdiff_t>(std::min(base, chunk.size() - at)));
                levels_[channel].front().emplace_back(*low, *high);
            }
        }
    }
    build();
}

PeakPyramid::PeakPyramid(SharedBuffer buffer, std::vector<Stretches> finest) : buffer_(std::move(buffer))
{
    for (Stretches& stretches : finest) {
        levels_.push_back({std::move(stretches)});
    }
    build();
}

std::vector<PeakPyramid::Stretches> PeakPyramid::finest() const
{
    std::vector<Stretches> finest;
    for (const std::vector<Stretches>& levels : levels_) {
        finest.push_back(levels.front());
    }
    return finest;
}

/// The coarser levels from the finest.
void PeakPyramid::build()
{
    for (std::vector<Stretches>& levels : levels_) {
        while (levels.back().size() > factor) {
            const Stretches& finer = levels.back();
            Stretches coarser;
            for (std::size_t i = 0; i < finer.size(); i += factor) {
                auto all = finer[i];
                for (std::size_t k = i + 1; k < std::min(i + factor, finer.size()); ++k) {
                    all = both(all, finer[k]);
                }
                coarser.push_back(all);
            }
            levels.push_back(std::move(coarser));
        }
    }
}

std::pair<float, float> PeakPyramid::range(std::size_t channel, std::size_t from, std::size_t to) const
{
    to = std::min(to, buffer_->frames());
    if (from >= to) {
        return {0.0F, 0.0F};
    }
    if (to - from < 2 * base) {
        std::array<float, 2 * base> samples{};
        buffer_->read(channel, from, std::span(samples).first(to - from));
        const auto [low, high] = std::minmax_element(samples.begin(), samples.begin() + static_cast<std::ptrdiff_t>(to - from));
        return {*low, *high};
    }
    std::size_t stretch = base;
    std::size_t level = 0;
    while (level + 1 < levels_[channel].size() && stretch * factor * 2 <= to - from) {
        stretch *= factor;
        ++level;
    }
    const Stretches& peaks = levels_[channel][level];
    std::pair<float, float> all = peaks[from / stretch];
    for (std::size_t i = from / stretch + 1; i < std::min((to + stretch - 1) / stretch, peaks.size()); ++i) {
        all = both(all, peaks[i]);
    }
    return all;
}

} // namespace stone
