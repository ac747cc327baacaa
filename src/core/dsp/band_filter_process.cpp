// SPDX-License-Identifier: MPL-2.0
#include "dsp/band_filter.h"
#include "dsp/wide.h"

#include <algorithm>
#include <cstdint>
#include <cstring>

namespace stone
{

namespace
{

constexpr std::size_t lanes = BandFilter::sections * BandFilter::shelves;
constexpr std::size_t behind = lanes - 1; ///< frames by which the last section is later than the first
constexpr std::size_t most = 256;         ///< frames that are worked on in one go
/// Gliding settings are those of the middle of so many frames. As many as there are lanes: with each frame one section, and
/// with each sub-block every one, goes over to the next.
constexpr std::size_t subBlock = lanes;

/// Eight numbers of which a processor works out several at a time.
constexpr std::size_t width = 8;
constexpr std::size_t groups = lanes / width;
using Lanes = float __attribute__((vector_size(sizeof(float) * width)));
using Choice = std::int32_t __attribute__((vector_size(sizeof(float) * width)));
using Row = std::array<Lanes, groups>;

constexpr Choice numbers{0, 1, 2, 3, 4, 5, 6, 7};

/// What all sections multiply with, in the order in which they stand.
struct Sections {
    Row a1;
    Row a2;
    Row a3;
    Row high;
    Row band;
    Row low;

    /// `root`: of each shelf. A border of 0: the shelf does nothing.
    void set(const std::array<float, BandFilter::shelves>& borders, const std::array<float, BandFilter::shelves>& roots)
    {
        for (std::size_t group = 0; group < groups; ++group) {
            Lanes g{};
            Lanes root{};
            Lanes damping{};
            for (std::size_t lane = 0; lane < width; ++lane) {
                const std::size_t section = group * width + lane;
                const std::size_t shelf = section / BandFilter::sections;
                root[lane] = borders[shelf] > 0.0F ? roots[shelf] : 1.0F;
                g[lane] = borders[shelf] * root[lane];
                damping[lane] = static_cast<float>(BandFilter::dampings[section % BandFilter::sections]);
            }
            const Lanes square = root * root;
            a1[group] = 1.0F / (1.0F + g * (g + damping));
            a2[group] = g * a1[group];
            a3[group] = g * a2[group];
            high[group] = square * square;
            band[group] = damping * square * (1.0F - square);
            low[group] = 1.0F - high[group];
        }
    }

    /// One of them takes over what it has there.
    void take(std::size_t section, const Sections& from)
    {
        const std::size_t group = section / width;
        const Choice chosen = numbers == static_cast<std::int32_t>(section % width);
        const auto takeOf = [&](Row& mine, const Row& other) { mine[group] = chosen ? other[group] : mine[group]; };
        takeOf(a1, from.a1);
        takeOf(a2, from.a2);
        takeOf(a3, from.a3);
        takeOf(high, from.high);
        takeOf(band, from.band);
        takeOf(low, from.low);
    }
};

/// All sections, each a frame behind the one before it.
struct Wave {
    Row first;
    Row second;
    Row out{};

    /// Takes a sample in; the last lane of `out` is then what came out for the one that went in `behind` frames ago.
    __attribute__((always_inline)) void step(const Sections& with, float sample)
    {
        Row in;
        in[0] = __builtin_shufflevector(out[0], out[0], 0, 0, 1, 2, 3, 4, 5, 6);
        in[0][0] = sample;
        for (std::size_t group = 1; group < groups; ++group) {
            in[group] = __builtin_shufflevector(out[group - 1], out[group], 7, 8, 9, 10, 11, 12, 13, 14);
        }
        for (std::size_t group = 0; group < groups; ++group) {
            const Lanes v3 = in[group] - second[group];
            const Lanes v1 = with.a1[group] * first[group] + with.a2[group] * v3;
            const Lanes v2 = second[group] + with.a2[group] * first[group] + with.a3[group] * v3;
            first[group] = 2.0F * v1 - first[group];
            second[group] = 2.0F * v2 - second[group];
            out[group] = with.high[group] * in[group] + with.band[group] * v1 + with.low[group] * v2;
        }
    }

    /// Step `t` of the `n` + `behind` that a block takes. Towards its ends only some of the sections have anything to work on.
    __attribute__((always_inline)) void end(const Sections& with, float* samples, std::size_t t, std::size_t n)
    {
        const auto from = static_cast<std::int32_t>(t < n ? 0 : t - n + 1);
        const auto to = static_cast<std::int32_t>(t + 1);
        const Row firstBefore = first;
        const Row secondBefore = second;
        step(with, t < n ? samples[t] : 0.0F);
        for (std::size_t group = 0; group < groups; ++group) {
            const Choice section = numbers + static_cast<std::int32_t>(group * width);
            const Choice works = (section >= from) & (section < to);
            first[group] = works ? first[group] : firstBefore[group];
            second[group] = works ? second[group] : secondBefore[group];
        }
        if (t >= behind) {
            samples[t - behind] = out[groups - 1][width - 1];
        }
    }
};

/// Sends samples through all sections, in place.
STONE_WIDE void run(Wave& state, const Sections& with, float* samples, std::size_t n)
{
    Wave wave = state;
    std::size_t t = 0;
    for (; t < behind; ++t) {
        wave.end(with, samples, t, n);
    }
    for (; t < n; ++t) {
        wave.step(with, samples[t]);
        samples[t - behind] = wave.out[groups - 1][width - 1];
    }
    for (; t < n + behind; ++t) {
        wave.end(with, samples, t, n);
    }
    state = wave;
}

/// The same with other settings for each sub-block: where a section comes to its first frame it goes over to them.
STONE_WIDE void runGliding(Wave& state, const Sections* each, float* samples, std::size_t n)
{
    Wave wave = state;
    Sections with = each[0];
    std::size_t t = 0;
    for (; t < behind; ++t) {
        wave.end(with, samples, t, n);
    }
    for (; t < n; ++t) {
        with.take(t % subBlock, each[t / subBlock]);
        wave.step(with, samples[t]);
        samples[t - behind] = wave.out[groups - 1][width - 1];
    }
    for (; t < n + behind; ++t) {
        with.take(t % subBlock, each[(n - 1) / subBlock]);
        wave.end(with, samples, t, n);
    }
    state = wave;
}

} // namespace

void BandFilter::process(std::span<float> samples, const Settings& from, const Settings& to, double rate)
{
    if (rate != rate_) {
        rate_ = rate;
        for (std::size_t shelf = 0; shelf < shelves; ++shelf) {
            border_[shelf] = static_cast<float>(borderGain(shelf, rate));
        }
    }
    const auto idle = [](const Settings& settings) {
        return std::all_of(settings.root.begin(), settings.root.end(), [](float root) { return root == 1.0F; });
    };
    const bool works = !idle(from) || !idle(to);
    if (!works) {
        reset();
    }
    Wave wave;
    std::memcpy(&wave.first, states_.first.data(), sizeof wave.first);
    std::memcpy(&wave.second, states_.second.data(), sizeof wave.second);
    const auto total = static_cast<float>(static_cast<int>(samples.size()));
    if (from == to) {
        for (float& sample : samples) {
            sample *= from.gain;
        }
        if (works) {
            Sections with;
            with.set(border_, from.root);
            run(wave, with, samples.data(), samples.size());
        }
    } else {
        std::array<Sections, most / subBlock> each;
        for (std::size_t done = 0; done < samples.size(); done += most) {
            const std::span<float> part = samples.subspan(done, std::min(most, samples.size() - done));
            for (std::size_t at = 0; at < part.size(); at += subBlock) {
                const std::size_t n = std::min(subBlock, part.size() - at);
                const float t =
                    (static_cast<float>(static_cast<int>(done + at)) + static_cast<float>(static_cast<int>(n)) / 2.0F) / total;
                const float gain = from.gain + (to.gain - from.gain) * t;
                for (float& sample : part.subspan(at, n)) {
                    sample *= gain;
                }
                std::array<float, shelves> roots{};
                for (std::size_t shelf = 0; shelf < shelves; ++shelf) {
                    roots[shelf] = from.root[shelf] + (to.root[shelf] - from.root[shelf]) * t;
                }
                each[at / subBlock].set(border_, roots);
            }
            if (works) {
                runGliding(wave, each.data(), part.data(), part.size());
            }
        }
    }
    std::memcpy(states_.first.data(), &wave.first, sizeof wave.first);
    std::memcpy(states_.second.data(), &wave.second, sizeof wave.second);
}

} // namespace stone
