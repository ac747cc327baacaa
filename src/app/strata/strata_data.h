#pragma once

#include "takes/take_series.h"

#include <QColor>
#include <QString>

#include <memory>
#include <set>
#include <vector>

namespace stone
{

/// What the layered graph of a take is drawn from: for each layer a height in each of many even stretches of time, and beside
/// it the strips below. Made once for a take; drawn at any width.
class StrataData
{
public:
    /// What a layer is of.
    enum class By { sounds, families };

    struct Layer {
        QString name;
        std::string key; ///< of an emitter its id, of a family its name
        EmitterKind kind = EmitterKind::point;
        std::vector<float> level_db; ///< by stretch; -200: silent
        double loudness = 0.0;       ///< of all of it, for the order: the largest lies lowest
    };

    StrataData() = default;
    StrataData(const Take& take, By by);

    const std::vector<Layer>& layers() const { return layers_; }
    double seconds() const { return seconds_; }
    std::size_t stretches() const { return voices_.size(); }
    const std::vector<float>& loudness_lufs() const { return loudness_; }
    const std::vector<float>& voices() const { return voices_; }
    const std::vector<float>& gaveWay() const { return gaveWay_; }
    /// Processor share over time, per cent.
    const std::vector<std::pair<double, double>>& cpu_pct() const { return cpu_; }
    const std::vector<std::pair<double, double>>& memory_mb() const { return memory_; }

    /// How thick a layer of a level is: doubles with each 10 dB, as loudness does to ears.
    static float thickness(float level_db);

private:
    std::vector<Layer> layers_;
    std::vector<float> loudness_;
    std::vector<float> voices_;
    std::vector<float> gaveWay_;
    std::vector<std::pair<double, double>> cpu_;
    std::vector<std::pair<double, double>> memory_;
    double seconds_ = 0.0;
};

} // namespace stone
