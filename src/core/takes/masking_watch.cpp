// SPDX-License-Identifier: MPL-2.0
#include "takes/masking_watch.h"

#include <algorithm>
#include <cmath>

namespace stone
{

TakenMasking MaskingWatch::told(std::uint32_t copy, const Since& since)
{
    const auto most =
        std::max_element(since.by.begin(), since.by.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    return {since.from_s, since.last_s, copy, most != since.by.end() ? most->first : copy,
            since.sum_db / std::max(since.times, 1)};
}

std::vector<TakenMasking> MaskingWatch::add(const BandsHeard& heard, const LevelsOf& levelsOf)
{
    std::vector<Bands> levels;
    BandEnergies all;
    for (const BandsHeard::Of& of : heard.copies) {
        Bands level = levelsOf(of.copy);
        std::transform(level.begin(), level.end(), of.gain_db.begin(), level.begin(), std::plus<>());
        all.add(level);
        levels.push_back(level);
    }
    std::map<std::uint32_t, Since> still;
    for (std::size_t i = 0; i < heard.copies.size(); ++i) {
        const BandsHeard::Of& of = heard.copies[i];
        const double stands_db = of.matters ? standsOut_db(levels[i], all.without_db(levels[i])) : 0.0;
        if (stands_db >= -maskedBelow_db || !std::isfinite(stands_db)) {
            continue;
        }
        const auto known = since_.find(of.copy);
        Since since = known != since_.end() ? std::move(known->second) : Since{.from_s = heard.t_s, .by = {}};
        since.last_s = heard.t_s;
        since.sum_db -= stands_db;
        ++since.times;
        ++since.by[heard.copies[maskerOf(levels, i)].copy];
        still.emplace(of.copy, std::move(since));
        since_.erase(of.copy);
    }
    std::vector<TakenMasking> over;
    for (const auto& [copy, since] : since_) {
        over.push_back(told(copy, since));
    }
    since_ = std::move(still);
    return over;
}

std::vector<TakenMasking> MaskingWatch::finish(double t_s)
{
    std::vector<TakenMasking> over;
    for (auto& [copy, since] : since_) {
        since.last_s = t_s;
        over.push_back(told(copy, since));
    }
    since_.clear();
    return over;
}

} // namespace stone
