#include "app/strata/strata_data.h"

#include <QObject>

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

float StrataData::thickness(float level_db)
{
    return level_db > -96.0F ? std::exp2(level_db / 10.0F) : 0.0F;
}

StrataData::StrataData(const Take& take, By by) : seconds_(take.seconds())
{
    const std::vector<TakeBin> bins = take.overview();
    std::map<std::string, std::size_t> known;
    const auto layerOf = [&](const TakeEmitter& emitter) -> Layer& {
        const bool families = by == By::families;
        const std::string key = !families ? emitter.id.text : !emitter.familyName.empty() ? emitter.familyName : std::string();
        const auto [found, fresh] = known.try_emplace(key, layers_.size());
        if (fresh) {
            Layer layer;
            layer.key = key;
            layer.name = families ? (key.empty() ? QObject::tr("no family") : QString::fromStdString(key))
                                  : QString::fromStdString(emitter.name);
            layer.kind = emitter.kind;
            layer.level_db.assign(bins.size(), -200.0F);
            layers_.push_back(std::move(layer));
        }
        return layers_[found->second];
    };
    loudness_.reserve(bins.size());
    for (std::size_t i = 0; i < bins.size(); ++i) {
        loudness_.push_back(bins[i].momentary_lufs);
        voices_.push_back(static_cast<float>(bins[i].voices));
        gaveWay_.push_back(static_cast<float>(bins[i].gaveWay));
        for (const TakeBin::Of& of : bins[i].emitters) {
            Layer& layer = layerOf(take.emitters()[of.emitter]);
            float& level = layer.level_db[i];
            level = static_cast<float>(std::max(together_db(level, of.mean_db), -200.0));
        }
    }
    for (Layer& layer : layers_) {
        for (const float level : layer.level_db) {
            layer.loudness += static_cast<double>(thickness(level));
        }
    }
    std::stable_sort(layers_.begin(), layers_.end(), [](const Layer& a, const Layer& b) { return a.loudness > b.loudness; });
    for (const TakenCost& cost : take.costs()) {
        cpu_.emplace_back(cost.t_s, cost.costs.span_s > 0.0 ? 100.0 * cost.costs.total_s() / cost.costs.span_s : 0.0);
        memory_.emplace_back(cost.t_s, cost.memory_bytes / 1e6);
    }
}

} // namespace stone
