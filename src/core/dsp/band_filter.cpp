#include "dsp/band_filter.h"

#include "dsp/trapezoid.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace stone
{

namespace
{

constexpr std::size_t shelfCount = BandFilter::bands - 1;
constexpr double firstBand_hz = 62.5;
constexpr std::size_t subBlock = 32;
constexpr int refinements = 10;
/// Of what is missing so much is made up for in one round: the shelves are not quite linear in dB.
constexpr double damping = 0.8;
constexpr double steepest_db = 40.0;

using Interaction = std::array<std::array<double, BandFilter::bands>, BandFilter::bands>;

double centre_hz(std::size_t band)
{
    return firstBand_hz * std::exp2(static_cast<double>(band));
}

/// The integrator gain of the shelf between two bands.
double borderGain(std::size_t shelf, double rate)
{
    return std::tan(std::numbers::pi * centre_hz(shelf) * std::numbers::sqrt2 / rate);
}

/// What a shelf of pressure gain k needs: its middle lies at the border whatever k.
struct Shelf {
    double a; ///< root of k
    double g;

    Shelf(double border, double k) : a(std::sqrt(k)), g(border * std::sqrt(a)) {}
};

double shelf_db(std::size_t shelf, double k, double frequency_hz, double rate)
{
    const double a = std::sqrt(k);
    // The analogue shelf A (A s^2 + sqrt(A) sqrt(2) s + 1) / (s^2 + sqrt(A) sqrt(2) s + A), s prewarped.
    const std::complex<double> s(0.0, std::tan(std::numbers::pi * frequency_hz / rate) / borderGain(shelf, rate));
    const std::complex<double> middle = std::sqrt(a) * std::numbers::sqrt2 * s;
    return 20.0 * std::log10(std::abs(a * (a * s * s + middle + 1.0) / (s * s + middle + a)));
}

/// By how much one more decibel of gain (row 0) and of each shelf changes the level at each band, near 0 dB; solved for
/// the way back: which changes make one band a decibel louder.
Interaction interactionAt(double rate)
{
    constexpr double probe_db = 6.0;
    Interaction a{};
    Interaction inverse{};
    for (std::size_t band = 0; band < BandFilter::bands; ++band) {
        a[band][0] = 1.0;
        inverse[band][band] = 1.0;
        for (std::size_t shelf = 0; shelf < shelfCount; ++shelf) {
            a[band][shelf + 1] = -shelf_db(shelf, std::pow(10.0, -probe_db / 20.0), centre_hz(band), rate) / probe_db;
        }
    }
    // Gauss-Jordan; the rows grow towards the diagonal, so no pivots need to be looked for.
    for (std::size_t i = 0; i < BandFilter::bands; ++i) {
        const double pivot = a[i][i];
        for (std::size_t k = 0; k < BandFilter::bands; ++k) {
            a[i][k] /= pivot;
            inverse[i][k] /= pivot;
        }
        for (std::size_t row = 0; row < BandFilter::bands; ++row) {
            const double factor = a[row][i];
            for (std::size_t k = 0; row != i && k < BandFilter::bands; ++k) {
                a[row][k] -= factor * a[i][k];
                inverse[row][k] -= factor * inverse[i][k];
            }
        }
    }
    return inverse;
}

} // namespace

BandFilter::Designer::Designer(double rate) : rate_(rate), inverse_(interactionAt(rate))
{
}

BandFilter::Settings BandFilter::Designer::operator()(const Levels_db& levels) const
{
    Levels_db settings_db{};
    Settings settings;
    for (int round = 0; round < refinements; ++round) {
        Levels_db missing{};
        for (std::size_t band = 0; band < bands; ++band) {
            missing[band] = levels[band] - response_db(settings, centre_hz(band), rate_);
        }
        for (std::size_t i = 0; i < bands; ++i) {
            for (std::size_t band = 0; band < bands; ++band) {
                settings_db[i] += damping * inverse_[i][band] * missing[band];
            }
        }
        for (std::size_t shelf = 0; shelf < shelfCount; ++shelf) {
            settings_db[shelf + 1] = std::clamp(settings_db[shelf + 1], -steepest_db, steepest_db);
        }
        settings.gain = static_cast<float>(std::pow(10.0, settings_db[0] / 20.0));
        for (std::size_t shelf = 0; shelf < shelfCount; ++shelf) {
            settings.shelves[shelf] = static_cast<float>(std::pow(10.0, settings_db[shelf + 1] / 20.0));
        }
    }
    return settings;
}

double BandFilter::response_db(const Settings& settings, double frequency_hz, double rate)
{
    double sum = 20.0 * std::log10(static_cast<double>(settings.gain));
    for (std::size_t shelf = 0; shelf < shelfCount; ++shelf) {
        sum += shelf_db(shelf, settings.shelves[shelf], frequency_hz, rate);
    }
    return sum;
}

void BandFilter::process(std::span<float> samples, const Settings& from, const Settings& to, double rate)
{
    const auto total = static_cast<float>(static_cast<int>(samples.size()));
    // What stands still is set once for all of the block.
    const std::size_t most = from == to ? samples.size() : subBlock;
    for (std::size_t done = 0; done < samples.size(); done += most) {
        const std::size_t n = std::min(most, samples.size() - done);
        const float t = (static_cast<float>(static_cast<int>(done)) + static_cast<float>(static_cast<int>(n)) / 2.0F) / total;
        const float gain = from.gain + (to.gain - from.gain) * t;
        for (float& sample : samples.subspan(done, n)) {
            sample *= gain;
        }
        for (std::size_t shelf = 0; shelf < shelfCount; ++shelf) {
            const float k = from.shelves[shelf] + (to.shelves[shelf] - from.shelves[shelf]) * t;
            if (from.shelves[shelf] == 1.0F && to.shelves[shelf] == 1.0F) {
                state_[shelf] = {};
                continue;
            }
            const Shelf coefficients(borderGain(shelf, rate), static_cast<double>(k));
            const auto root = static_cast<float>(coefficients.a);
            const auto g = static_cast<float>(coefficients.g);
            constexpr auto width = std::numbers::sqrt2_v<float>;
            const Trapezoid filter(g, width);
            State state = state_[shelf];
            for (float& sample : samples.subspan(done, n)) {
                const auto [band, low] = filter.step(sample, state.first, state.second);
                sample = k * sample + width * (1.0F - root) * root * band + (1.0F - k) * low;
            }
            state_[shelf] = state;
        }
    }
}

} // namespace stone
