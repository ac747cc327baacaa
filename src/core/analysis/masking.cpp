// SPDX-License-Identifier: MPL-2.0
#include "analysis/masking.h"

#include "dsp/decibel.h"
#include "dsp/fft.h"
#include "dsp/octave_bands.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>
#include <vector>

namespace stone
{

namespace
{

constexpr double nothing_db = -200.0;
constexpr double softest_db = -60.0; ///< re full scale: 40 dB of sound pressure, what is noticed in a quiet room
constexpr double fullScale_spl = 100.0;
constexpr double heardOf_s = 10.0;

double energyOf(double level_db)
{
    return level_db > nothing_db ? std::pow(10.0, level_db / 10.0) : 0.0;
}

double levelOfEnergy(double energy)
{
    return energy > 0.0 ? std::max(10.0 * std::log10(energy), nothing_db) : nothing_db;
}

/// H. Traunmueller, Analytical expressions for the tonotopic sensory scale, JASA 88, 1990.
double barkOf(double frequency_hz)
{
    return 26.81 * frequency_hz / (1960.0 + frequency_hz) - 0.53;
}

/// Adds a file's energies by band; how many windows it had.
std::size_t addFile(const SampleBuffer& buffer, Bands& energy)
{
    constexpr std::size_t size = 8'192;
    RealFft fft(size);
    std::vector<float> some(size);
    const std::size_t frames = std::min(buffer.frames(), static_cast<std::size_t>(heardOf_s * buffer.rate));
    const double bin_hz = static_cast<double>(buffer.rate) / size;
    std::size_t windows = 0;
    for (std::size_t first = 0; first == 0 || first + size <= frames; first += size / 2, ++windows) {
        for (std::size_t channel = 0; channel < buffer.channelCount(); ++channel) {
            buffer.read(channel, first, some);
            for (std::size_t i = 0; i < size; ++i) {
                const double window =
                    0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(size));
                fft.samples()[i] = some[i] * static_cast<float>(window);
            }
            fft.forward();
            for (std::size_t bin = 1; bin < size / 2; ++bin) {
                const double band = std::log2(static_cast<double>(bin) * bin_hz / bandCentre_hz(0)) + 0.5;
                if (band >= 0.0 && band < static_cast<double>(octaveBandCount)) {
                    // Parseval, both halves of the spectrum, the window's mean energy of 3/8 undone; RMS of a full sine is -3
                    // dB.
                    const auto of = static_cast<double>(std::norm(fft.bins()[bin]));
                    energy[static_cast<std::size_t>(band)] +=
                        2.0 * of / (static_cast<double>(size) * size) / 0.375 / static_cast<double>(buffer.channelCount());
                }
            }
        }
    }
    return windows;
}

} // namespace

Bands octaveLevels_db(std::span<const SharedBuffer> files)
{
    Bands energy{};
    std::size_t windows = 0;
    for (const SharedBuffer& file : files) {
        windows += file ? addFile(*file, energy) : 0;
    }
    Bands levels{};
    for (std::size_t band = 0; band < levels.size(); ++band) {
        levels[band] = levelOfEnergy(windows > 0 ? energy[band] / static_cast<double>(windows) : 0.0);
    }
    return levels;
}

std::vector<Bands> bandsOf(const Scene& scene)
{
    std::vector<Bands> bands;
    for (const SharedMaterial& material : scene.materials) {
        bands.push_back(octaveLevels_db(material ? material->files : std::vector<SharedBuffer>()));
    }
    return bands;
}

void BandEnergies::add(const Bands& level_db)
{
    for (std::size_t band = 0; band < energy.size(); ++band) {
        energy[band] += energyOf(level_db[band]);
    }
}

Bands BandEnergies::without_db(const Bands& level_db) const
{
    // What is left of a difference of two that are nearly alike is rounding.
    constexpr double rounding = 1e-9;
    Bands levels{};
    for (std::size_t band = 0; band < energy.size(); ++band) {
        const double rest = energy[band] - energyOf(level_db[band]);
        levels[band] = rest > rounding * energy[band] ? levelOfEnergy(rest) : nothing_db;
    }
    return levels;
}

Bands masking_db(const Bands& level_db)
{
    Bands spread = level_db;
    for (std::size_t band = 0; band < level_db.size(); ++band) {
        if (level_db[band] <= nothing_db) {
            continue;
        }
        const double f = octaveBands_hz[band];
        const double slope = std::max(24.0 + 230.0 / f - 0.2 * (level_db[band] + fullScale_spl), 3.0);
        for (std::size_t above = band + 1; above < level_db.size(); ++above) {
            const double there = level_db[band] - slope * (barkOf(octaveBands_hz[above]) - barkOf(f));
            spread[above] = std::max(spread[above], there);
        }
    }
    return spread;
}

std::size_t maskerOf(std::span<const Bands> levels_db, std::size_t masked)
{
    const Bands& level = levels_db[masked];
    const auto strongest = static_cast<std::size_t>(std::max_element(level.begin(), level.end()) - level.begin());
    std::size_t by = masked;
    double furthest_db = -std::numeric_limits<double>::infinity();
    for (std::size_t other = 0; other < levels_db.size(); ++other) {
        const double reaches_db = other != masked ? masking_db(levels_db[other])[strongest] : furthest_db;
        if (reaches_db > furthest_db) {
            furthest_db = reaches_db;
            by = other;
        }
    }
    return by;
}

double standsOut_db(const Bands& sound_db, const Bands& others_db)
{
    const Bands masked = masking_db(others_db);
    double most = -std::numeric_limits<double>::infinity();
    for (std::size_t band = 0; band < sound_db.size(); ++band) {
        if (sound_db[band] > softest_db) {
            most = std::max(most, sound_db[band] - masked[band]);
        }
    }
    return most;
}

} // namespace stone
