// SPDX-License-Identifier: MPL-2.0
#include "dsp/band_filter.h"
#include "dsp/trapezoid.h"
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
    std::array<TrapezoidMix<Lanes>, groups> groupOf;

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
            const Lanes high = square * square;
            groupOf[group].set(g, damping, high, damping * square * (1.0F - square), 1.0F - high);
        }
    }

    /// One of them takes over what it has there.
    void take(std::size_t section, const Sections& from)
    {
        const Choice chosen = numbers == static_cast<std::int32_t>(section % width);
        groupOf[section / width].takeEach(from.groupOf[section / width],
                                          [&](Lanes& now, const Lanes& next) { now = chosen ? next : now; });
    }
};

/// Where a section has begun, counted from `lanes` before the one whose turn it is.
constexpr auto begun = [] {
    std::array<std::int32_t, 2 * lanes + width> choice{};
    std::fill_n(choice.begin(), lanes + 1, -1);
    return choice;
}();

/// All sections, each a frame behind the one before it.
struct Wave {
    Row first;
    Row second;
    Row out{};

    /// A group takes what the sections before its own gave. `sample`: for the very first.
    __attribute__((always_inline)) void work(const Sections& with, std::size_t group, float sample)
    {
        Lanes in;
        if (group > 0) {
            in = __builtin_shufflevector(out[group - 1], out[group], 7, 8, 9, 10, 11, 12, 13, 14);
        } else {
            in = __builtin_shufflevector(out[0], out[0], 0, 0, 1, 2, 3, 4, 5, 6);
            in[0] = sample;
        }
        with.groupOf[group].step(in, first[group], second[group], out[group]);
    }

    /// Takes a sample in; the last lane of `out` is then what came out for the one that went in `behind` frames ago.
    __attribute__((always_inline)) void step(const Sections& with, float sample)
    {
        // From the last on: each takes what the one before gave last.
        for (std::size_t group = groups; group-- > 0;) {
            work(with, group, sample);
        }
    }

    /// Step `t` of the `n` + `behind` that a block takes. Towards its ends only some of the sections have anything to work on.
    __attribute__((always_inline)) void end(const Sections& with, float* samples, std::size_t t, std::size_t n)
    {
        const float sample = t < n ? samples[t] : 0.0F;
        const std::size_t from = t < n ? 0 : t - n + 1;
        const std::size_t to = std::min(t, behind);
        for (std::size_t group = to / width + 1; group-- > from / width;) {
            const Lanes firstBefore = first[group];
            const Lanes secondBefore = second[group];
            work(with, group, sample);
            const std::size_t section = group * width;
            Choice before;
            Choice upTo;
            std::memcpy(&before, &begun[lanes + section + 1 - from], sizeof before);
            std::memcpy(&upTo, &begun[lanes + section - to], sizeof upTo);
            const Choice works = upTo & ~before;
            first[group] = works ? first[group] : firstBefore;
            second[group] = works ? second[group] : secondBefore;
        }
        if (t >= behind) {
            samples[t - behind] = out[groups - 1][width - 1];
        }
    }
};

/// Sends samples through all sections, in place.
STONE_WIDE void run(Wave& wave, const Sections& with, float* samples, std::size_t n)
{
    for (std::size_t t = 0; t < behind; ++t) {
        wave.end(with, samples, t, n);
    }
    Wave whole = wave; // stays in registers, as none of it is reached by number
    for (std::size_t t = behind; t < n; ++t) {
        whole.step(with, samples[t]);
        samples[t - behind] = whole.out[groups - 1][width - 1];
    }
    wave = whole;
    for (std::size_t t = std::max(n, behind); t < n + behind; ++t) {
        wave.end(with, samples, t, n);
    }
}

/// The same with other settings for each sub-block: where a section comes to its first frame it goes over to them.
STONE_WIDE void runGliding(Wave& wave, const Sections* each, float* samples, std::size_t n)
{
    Sections with = each[0];
    for (std::size_t t = 0; t < behind; ++t) {
        wave.end(with, samples, t, n);
    }
    Wave whole = wave;
    for (std::size_t t = behind; t < n; ++t) {
        with.take(t % subBlock, each[t / subBlock]);
        whole.step(with, samples[t]);
        samples[t - behind] = whole.out[groups - 1][width - 1];
    }
    wave = whole;
    for (std::size_t t = std::max(n, behind); t < n + behind; ++t) {
        with.take(t % subBlock, each[(n - 1) / subBlock]);
        wave.end(with, samples, t, n);
    }
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
