// SPDX-License-Identifier: MPL-2.0
#include "analysis/rig_comparison.h"

#include "hearing/model.h"
#include "world/replay.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double step_s = 1.0 / 100.0;

/// A level heard through one rig.
class Taker
{
public:
    Taker(const Project& project, const LevelId& level, const std::shared_ptr<const Ground>& ground, const Walk& walk,
          const RigId& rig)
        : model_(worldOf(project, level, ground, rig)), replay_(model_.sharedWorld(), walk, step_s)
    {
    }

    /// The loudest of each emitter's starts; nothing for what is not heard.
    const std::vector<std::optional<Heard>>& at(double time_s)
    {
        state_ = replay_.at(time_s);
        model_.hear(model_.world().momentOf(state_, Ears(state_.stance.ears), TimeSpan::at(time_s)), heard_, scratch_);
        loudest_.assign(model_.level().emitters.size(), std::nullopt);
        for (const Heard& heard : heard_) {
            auto& known = loudest_[heard.index];
            if (heard.level_db > RigComparison::floor_db && (!known || known->level_db < heard.level_db)) {
                known = heard;
            }
        }
        return loudest_;
    }

private:
    static std::shared_ptr<const World> worldOf(Project project, const LevelId& level,
                                                const std::shared_ptr<const Ground>& ground, const RigId& rig)
    {
        project.rig = rig;
        return std::make_shared<const World>(std::make_shared<const Project>(std::move(project)), level, ground, LengthOf{});
    }

    HearingModel model_;
    Replay replay_;
    WorldState state_;
    std::vector<Heard> heard_;
    HearScratch scratch_;
    std::vector<std::optional<Heard>> loudest_;
};

void add(RigComparison::Row& row, const std::optional<Heard>& a, const std::optional<Heard>& b, double time_s)
{
    const auto level = [](const std::optional<Heard>& heard) { return heard ? heard->level_db : RigComparison::floor_db; };
    const double level_db = level(b) - level(a);
    const double azimuth_deg = a && b ? wrapDegrees(b->bearing.azimuth_deg - a->bearing.azimuth_deg) : 0.0;
    row.level_db.push_back(static_cast<float>(level_db));
    row.azimuth_deg.push_back(static_cast<float>(azimuth_deg));
    row.heard.push_back(a || b);
    if (std::abs(level_db) > std::abs(row.mostLevel_db)) {
        row.mostLevel_db = level_db;
        row.mostLevelAt_s = time_s;
    }
    if (std::abs(azimuth_deg) > std::abs(row.mostAzimuth_deg)) {
        row.mostAzimuth_deg = azimuth_deg;
        row.mostAzimuthAt_s = time_s;
    }
}

} // namespace

RigComparison compareRigs(const Project& project, const LevelId& level, const std::shared_ptr<const Ground>& ground,
                          const Walk& walk, const RigId& first, const RigId& second,
                          const std::function<bool(double)>& progress)
{
    Taker a(project, level, ground, walk, first);
    Taker b(project, level, ground, walk, second);
    const auto& emitters = project.levels.find(level)->emitters;
    RigComparison found;
    for (const auto& emitter : emitters) {
        found.rows.push_back({.emitter = emitter->id, .level_db = {}, .azimuth_deg = {}, .heard = {}});
    }
    const auto count = static_cast<std::size_t>(walk.seconds() / RigComparison::every_s) + 1;
    for (std::size_t i = 0; i < count; ++i) {
        const double time_s = static_cast<double>(i) * RigComparison::every_s;
        const auto& throughA = a.at(time_s);
        const auto& throughB = b.at(time_s);
        for (std::size_t k = 0; k < found.rows.size(); ++k) {
            add(found.rows[k], throughA[k], throughB[k], time_s);
        }
        if (progress && !progress(static_cast<double>(i + 1) / static_cast<double>(count))) {
            return {};
        }
    }
    std::erase_if(found.rows, [](const RigComparison::Row& row) {
        return std::none_of(row.heard.begin(), row.heard.end(), [](bool heard) { return heard; });
    });
    std::stable_sort(found.rows.begin(), found.rows.end(),
                     [](const auto& x, const auto& y) { return std::abs(x.mostLevel_db) > std::abs(y.mostLevel_db); });
    return found;
}

} // namespace stone
