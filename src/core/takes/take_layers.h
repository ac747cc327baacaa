// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take_reader.h"

#include <functional>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// How loud everything in a take was over its time, as layers to be laid on each other: each as thick as it is loud. Kept at
/// several grains, so that hours cost no more to draw than minutes.
class TakeLayers
{
public:
    /// What a layer is of.
    enum class By { emitters, families, rooms };

    struct Layer {
        std::string key;  ///< of an emitter or a room its id, of a family its name; empty: of none
        std::string name; ///< likewise
        EmitterKind kind = EmitterKind::point;
        std::vector<float> level_db; ///< by stretch of takeBin_s; -200: silent
        double loudness = 0.0;       ///< of all of it: the loudest is first
    };

    TakeLayers() = default;
    /// `goOn`: false stops, and what is there is of no use. Rooms are looked for moment by moment, which takes longer.
    TakeLayers(const Take& take, By by, const std::function<bool()>& goOn = {});

    const std::vector<Layer>& layers() const { return layers_; }
    double seconds() const { return seconds_; }
    std::size_t stretches() const { return voices_.size(); }
    /// By stretch: loudest momentary loudness, most copies, most that had given way.
    const std::vector<float>& loudness_lufs() const { return loudness_; }
    const std::vector<float>& voices() const { return voices_; }
    const std::vector<float>& gaveWay() const { return gaveWay_; }

    /// How thick a layer of a level is: doubles with each 10 dB, as loudness does to ears.
    static float thickness(float level_db);

    /// The thickest that a layer is between two times; of a shorter while than a stretch what lies evenly between.
    float thick(std::size_t layer, double from_s, double to_s) const;
    /// The upper edges of some layers laid on each other, in thickness, the first lowest: for each of them one for each column
    /// of time. `times_s`: where columns begin, one more than there are columns.
    std::vector<std::vector<float>> stacked(std::span<const std::size_t> which, std::span<const double> times_s) const;
    /// Where one of those that were laid on each other is thickest.
    struct Thickest {
        std::size_t column = 0;
        float thick = 0.0F;
    };
    static Thickest thickestOf(const std::vector<std::vector<float>>& edges, std::size_t layer);
    /// As thick as some layers together are anywhere, or hardly less.
    double thickest(std::span<const std::size_t> which) const;

private:
    void addEmitters(const Take& take, const std::vector<TakeBin>& bins, bool families);
    void addRooms(const Take& take, const std::function<bool()>& goOn);
    void coarsen();

    std::vector<Layer> layers_;
    /// By layer, by grain (each twice as coarse as the one before): the thickest.
    std::vector<std::vector<std::vector<float>>> grains_;
    std::vector<float> loudness_;
    std::vector<float> voices_;
    std::vector<float> gaveWay_;
    double seconds_ = 0.0;
};

} // namespace stone
