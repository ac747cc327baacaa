// SPDX-License-Identifier: MPL-2.0
#include "dsp/band_filter.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <cstdint>
#include <numbers>

namespace stone
{

namespace
{

constexpr double order = 2.0 * BandFilter::sections;
constexpr int mostRounds = 8;
constexpr double goodEnough_db = 0.02;
/// The table's ends, decibels of a shelf.
constexpr int mostGain_db = 110;
/// No shelf moves further in one round of the search.
constexpr double mostMove_db = 30.0;

/// A shelf with zeros at 1 / root and poles at root: the gain between is root^(2 * order), and its middle lies at the border.
double shelf_db(std::size_t shelf, double root, double frequency_hz, double rate)
{
    const double border = BandFilter::borderGain(shelf, rate);
    if (border == 0.0) {
        return 0.0;
    }
    const std::complex<double> s(0.0, std::tan(std::numbers::pi * frequency_hz / rate) / border);
    const std::complex<double> zero = s * root;
    const std::complex<double> pole = s / root;
    std::complex<double> response = 1.0;
    for (const double damping : BandFilter::dampings) {
        response *= (zero * zero + damping * zero + 1.0) / (pole * pole + damping * pole + 1.0);
    }
    return 20.0 * std::log10(std::abs(response));
}

double rootOf(double gain_db)
{
    return std::pow(10.0, gain_db / (20.0 * 2.0 * order));
}

template <std::size_t count> using Vector = std::array<double, count>;

/// Solves the normal equations of (jacobian) step = missing, with a little weight on short steps: where two shelves do nearly
/// the same the shorter way is taken. Gauss with pivots.
template <std::size_t count>
Vector<count> solved(const std::array<Vector<count>, count>& jacobian, const Vector<count>& missing, std::size_t used)
{
    constexpr double shortness = 1e-4;
    std::array<Vector<count>, count> a{};
    Vector<count> b{};
    for (std::size_t i = 0; i < used; ++i) {
        for (std::size_t band = 0; band < used; ++band) {
            for (std::size_t k = 0; k < used; ++k) {
                a[i][k] += jacobian[band][i] * jacobian[band][k];
            }
            b[i] += jacobian[band][i] * missing[band];
        }
        a[i][i] += shortness;
    }
    for (std::size_t i = 0; i < used; ++i) {
        std::size_t pivot = i;
        for (std::size_t row = i + 1; row < used; ++row) {
            pivot = std::abs(a[row][i]) > std::abs(a[pivot][i]) ? row : pivot;
        }
        std::swap(a[i], a[pivot]);
        std::swap(b[i], b[pivot]);
        for (std::size_t row = i + 1; row < used; ++row) {
            const double factor = a[row][i] / a[i][i];
            for (std::size_t k = i; k < used; ++k) {
                a[row][k] -= factor * a[i][k];
            }
            b[row] -= factor * b[i];
        }
    }
    for (std::size_t i = used; i-- > 0;) {
        for (std::size_t k = i + 1; k < used; ++k) {
            b[i] -= a[i][k] * b[k];
        }
        b[i] /= a[i][i];
    }
    return b;
}

} // namespace

double BandFilter::borderGain(std::size_t shelf, double rate)
{
    const double border_hz = bandBorder_hz(shelf);
    return border_hz < highestBorder * rate ? std::tan(std::numbers::pi * border_hz / rate) : 0.0;
}

BandFilter::Levels_db BandFilter::eased(Levels_db levels)
{
    const double loudest = *std::max_element(levels.begin(), levels.end());
    for (std::size_t band = 1; band < bands; ++band) {
        levels[band] = std::max({levels[band], levels[band - 1] - steepest_db, loudest - deepest_db});
    }
    for (std::size_t band = bands - 1; band-- > 0;) {
        levels[band] = std::max({levels[band], levels[band + 1] - steepest_db, loudest - deepest_db});
    }
    return levels;
}

BandFilter::Designer::Designer(double rate)
{
    while (used_ < shelves && BandFilter::borderGain(used_, rate) > 0.0) {
        ++used_;
    }
    for (std::size_t shelf = 0; shelf < used_; ++shelf) {
        for (int gain_db = -mostGain_db; gain_db <= mostGain_db; ++gain_db) {
            Effects effects{};
            for (std::size_t band = 0; band <= used_; ++band) {
                // Half the rate itself is beyond the last section.
                const double hz = std::min(bandCentre_hz(band), 0.499 * rate);
                effects[band] = shelf_db(shelf, rootOf(gain_db), hz, rate);
            }
            table_[shelf].push_back(effects);
        }
    }
}

BandFilter::Designer::Effects BandFilter::Designer::effectOf(std::size_t shelf, double gain_db, Effects& slope) const
{
    const double place = std::clamp(gain_db + mostGain_db, 0.0, 2.0 * mostGain_db - 1e-6);
    const auto at = static_cast<std::size_t>(place);
    const double t = place - static_cast<double>(at);
    Effects effects{};
    for (std::size_t band = 0; band <= used_; ++band) {
        const double below = table_[shelf][at][band];
        slope[band] = table_[shelf][at + 1][band] - below;
        effects[band] = below + t * slope[band];
    }
    return effects;
}

BandFilter::Settings BandFilter::Designer::operator()(const Levels_db& levels) const
{
    const Levels_db eased = BandFilter::eased(levels);
    Vector<bands + 1> wanted{};
    std::copy(eased.begin(), eased.end(), wanted.begin());
    wanted[bands] = eased[bands - 1] + std::min(eased[bands - 1] - eased[bands - 2], 0.0);
    // The unknowns: the gain, and that of each shelf, in decibels. As if each shelf reached just from band to band.
    Vector<bands + 1> gains{};
    gains[0] = wanted[0];
    for (std::size_t shelf = 0; shelf < used_; ++shelf) {
        gains[shelf + 1] = wanted[shelf + 1] - wanted[shelf];
    }
    const std::size_t unknown = used_ + 1;
    for (int round = 0; round < mostRounds; ++round) {
        std::array<Vector<bands + 1>, bands + 1> jacobian{};
        Vector<bands + 1> missing = wanted;
        for (std::size_t band = 0; band < unknown; ++band) {
            missing[band] -= gains[0];
            jacobian[band][0] = 1.0;
        }
        for (std::size_t shelf = 0; shelf < used_; ++shelf) {
            Effects slope{};
            const Effects effects = effectOf(shelf, gains[shelf + 1], slope);
            for (std::size_t band = 0; band < unknown; ++band) {
                missing[band] -= effects[band];
                jacobian[band][shelf + 1] = slope[band];
            }
        }
        double worst = 0.0;
        for (std::size_t band = 0; band < unknown; ++band) {
            worst = std::max(worst, std::abs(missing[band]));
        }
        if (worst < goodEnough_db) {
            break;
        }
        const auto step = solved(jacobian, missing, unknown);
        for (std::size_t i = 0; i < unknown; ++i) {
            gains[i] =
                std::clamp(gains[i] + std::clamp(step[i], -mostMove_db, mostMove_db), -2.0 * mostGain_db, 1.0 * mostGain_db);
        }
    }
    Settings settings;
    settings.gain = static_cast<float>(std::pow(10.0, gains[0] / 20.0));
    for (std::size_t shelf = 0; shelf < used_; ++shelf) {
        settings.root[shelf] = static_cast<float>(rootOf(gains[shelf + 1]));
    }
    return settings;
}

double BandFilter::response_db(const Settings& settings, double frequency_hz, double rate)
{
    double sum = 20.0 * std::log10(static_cast<double>(settings.gain));
    for (std::size_t shelf = 0; shelf < shelves; ++shelf) {
        sum += shelf_db(shelf, static_cast<double>(settings.root[shelf]), frequency_hz, rate);
    }
    return sum;
}

} // namespace stone
