#include "media/peak_pyramid.h"

#include <algorithm>

namespace stone
{

namespace
{

std::pair<float, float> both(const std::pair<float, float>& a, const std::pair<float, float>& b)
{
    return {std::min(a.first, b.first), std::max(a.second, b.second)};
}

} // namespace

PeakPyramid::PeakPyramid(const SharedBuffer& buffer) : buffer_(buffer)
{
    for (const std::vector<float>& samples : buffer->channels) {
        std::vector<Level> levels(1);
        for (std::size_t start = 0; start < samples.size(); start += base) {
            const auto end = samples.begin() + static_cast<std::ptrdiff_t>(std::min(start + base, samples.size()));
            const auto [low, high] = std::minmax_element(samples.begin() + static_cast<std::ptrdiff_t>(start), end);
            levels.front().emplace_back(*low, *high);
        }
        while (levels.back().size() > factor) {
            const Level& finer = levels.back();
            Level coarser;
            for (std::size_t i = 0; i < finer.size(); i += factor) {
                auto all = finer[i];
                for (std::size_t k = i + 1; k < std::min(i + factor, finer.size()); ++k) {
                    all = both(all, finer[k]);
                }
                coarser.push_back(all);
            }
            levels.push_back(std::move(coarser));
        }
        levels_.push_back(std::move(levels));
    }
}

std::pair<float, float> PeakPyramid::range(std::size_t channel, std::size_t from, std::size_t to) const
{
    const std::vector<float>& samples = buffer_->channels[channel];
    to = std::min(to, samples.size());
    if (from >= to) {
        return {0.0F, 0.0F};
    }
    if (to - from < 2 * base) {
        const auto [low, high] = std::minmax_element(samples.begin() + static_cast<std::ptrdiff_t>(from),
                                                     samples.begin() + static_cast<std::ptrdiff_t>(to));
        return {*low, *high};
    }
    std::size_t stretch = base;
    std::size_t level = 0;
    while (level + 1 < levels_[channel].size() && stretch * factor * 2 <= to - from) {
        stretch *= factor;
        ++level;
    }
    const Level& peaks = levels_[channel][level];
    std::pair<float, float> all = peaks[from / stretch];
    for (std::size_t i = from / stretch + 1; i < std::min((to + stretch - 1) / stretch, peaks.size()); ++i) {
        all = both(all, peaks[i]);
    }
    return all;
}

} // namespace stone
