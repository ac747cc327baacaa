// SPDX-License-Identifier: MPL-2.0
#include "takes/take_layers.h"

#include "takes/take_series.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

float TakeLayers::thickness(float level_db)
{
    return level_db > -96.0F ? std::exp2(level_db / 10.0F) : 0.0F;
}

TakeLayers::TakeLayers(const Take& take, By by, const std::function<bool()>& goOn) : seconds_(take.seconds())
{
    const std::vector<TakeBin> bins = take.overview();
    for (const TakeBin& bin : bins) {
        loudness_.push_back(bin.momentary_lufs);
        voices_.push_back(static_cast<float>(bin.voices));
        gaveWay_.push_back(static_cast<float>(bin.gaveWay));
    }
    if (by == By::rooms) {
        addRooms(take, goOn);
    } else {
        addEmitters(take, bins, by == By::families);
    }
    for (Layer& layer : layers_) {
        for (const float level : layer.level_db) {
            layer.loudness += static_cast<double>(thickness(level));
        }
    }
    std::stable_sort(layers_.begin(), layers_.end(), [](const Layer& a, const Layer& b) { return a.loudness > b.loudness; });
    coarsen();
}

void TakeLayers::addEmitters(const Take& take, const std::vector<TakeBin>& bins, bool families)
{
    std::map<std::string, std::size_t> known;
    for (std::size_t i = 0; i < bins.size(); ++i) {
        for (const TakeBin::Of& of : bins[i].emitters) {
            const TakeEmitter& emitter = take.emitters()[of.emitter];
            const std::string& key = families ? emitter.familyName : emitter.id.text;
            const auto [found, fresh] = known.try_emplace(key, layers_.size());
            if (fresh) {
                layers_.push_back(
                    {key, families ? key : emitter.name, emitter.kind, std::vector<float>(bins.size(), -200.0F), 0.0});
            }
            float& level = layers_[found->second].level_db[i];
            level = static_cast<float>(std::max(together_db(level, of.mean_db), -200.0));
        }
    }
}

void TakeLayers::addRooms(const Take& take, const std::function<bool()>& goOn)
{
    for (const Take::Named& room : take.rooms()) {
        layers_.push_back({room.id, room.name, EmitterKind::area, std::vector<float>(stretches(), -200.0F), 0.0});
    }
    take.eachMoment([&](const TakenMoment& moment) {
        const auto stretch = static_cast<std::size_t>(std::max(moment.t_s, 0.0) / takeBin_s);
        for (const TakenRoom& room : moment.rooms) {
            if (room.room < layers_.size() && stretch < stretches()) {
                float& level = layers_[room.room].level_db[stretch];
                level = std::max(level, static_cast<float>(std::max(room.level_db, -200.0)));
            }
        }
        return !goOn || goOn();
    });
}

void TakeLayers::coarsen()
{
    for (const Layer& layer : layers_) {
        auto& grains = grains_.emplace_back(1);
        for (const float level : layer.level_db) {
            grains.front().push_back(thickness(level));
        }
        while (grains.back().size() > 1) {
            const std::vector<float>& fine = grains.back();
            std::vector<float> coarse((fine.size() + 1) / 2);
            for (std::size_t i = 0; i < fine.size(); ++i) {
                coarse[i / 2] = std::max(coarse[i / 2], fine[i]);
            }
            grains.push_back(std::move(coarse));
        }
    }
}

float TakeLayers::thick(std::size_t layer, double from_s, double to_s) const
{
    const auto& grains = grains_[layer];
    const std::vector<float>& fine = grains.front();
    if (fine.empty()) {
        return 0.0F;
    }
    const double wide = (to_s - from_s) / takeBin_s;
    const auto last = static_cast<double>(fine.size() - 1);
    if (wide <= 1.0) {
        const double at = std::clamp((from_s + to_s) / 2.0 / takeBin_s - 0.5, 0.0, last);
        const auto before = static_cast<std::size_t>(at);
        const std::size_t after = std::min(before + 1, fine.size() - 1);
        const auto share = static_cast<float>(at - std::floor(at));
        return (1.0F - share) * fine[before] + share * fine[after];
    }
    const auto grain = std::min(static_cast<std::size_t>(std::log2(wide)), grains.size() - 1);
    const auto cell = [&](double t_s) { return static_cast<std::size_t>(std::clamp(t_s / takeBin_s, 0.0, last)) >> grain; };
    const auto begin = grains[grain].begin();
    return *std::max_element(begin + static_cast<std::ptrdiff_t>(cell(from_s)),
                             begin + static_cast<std::ptrdiff_t>(cell(to_s) + 1));
}

std::vector<std::vector<float>> TakeLayers::stacked(std::span<const std::size_t> which, std::span<const double> times_s) const
{
    const std::size_t columns = times_s.empty() ? 0 : times_s.size() - 1;
    std::vector<std::vector<float>> edges(which.size(), std::vector<float>(columns, 0.0F));
    for (std::size_t x = 0; x < columns; ++x) {
        // What was not recorded is not drawn.
        if (times_s[x + 1] < 0.0 || times_s[x] > seconds_) {
            continue;
        }
        float sum = 0.0F;
        for (std::size_t i = 0; i < which.size(); ++i) {
            sum += thick(which[i], times_s[x], times_s[x + 1]);
            edges[i][x] = sum;
        }
    }
    return edges;
}

TakeLayers::Thickest TakeLayers::thickestOf(const std::vector<std::vector<float>>& edges, std::size_t layer)
{
    Thickest most;
    for (std::size_t x = 0; x < edges[layer].size(); ++x) {
        const float here = edges[layer][x] - (layer > 0 ? edges[layer - 1][x] : 0.0F);
        if (here > most.thick) {
            most = {x, here};
        }
    }
    return most;
}

double TakeLayers::thickest(std::span<const std::size_t> which) const
{
    constexpr std::size_t fineEnough = 2'000;
    double most = 1e-6;
    if (which.empty()) {
        return most;
    }
    std::size_t grain = 0;
    while (grain + 1 < grains_[which[0]].size() && grains_[which[0]][grain].size() > fineEnough) {
        ++grain;
    }
    for (std::size_t i = 0; i < grains_[which[0]][grain].size(); ++i) {
        double sum = 0.0;
        for (const std::size_t layer : which) {
            sum += static_cast<double>(grains_[layer][grain][i]);
        }
        most = std::max(most, sum);
    }
    return most;
}

} // namespace stone
