// SPDX-License-Identifier: MPL-2.0
#include "analysis/decay.h"

#include "dsp/fft.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <deque>
#include <numbers>

namespace stone
{

namespace
{

/// The direct sound begins where the response first comes so near its peak (ISO 3382-1, Annex A).
constexpr double onset = 0.1;
constexpr double deepest_db = -90.0;
constexpr double early_s = 0.05;
constexpr double most_db = 60.0;

double dB(double energy)
{
    return energy > 1e-30 ? 10.0 * std::log10(energy) : -300.0;
}

/// Octave bands by their spectrum: whole up to 0.4 octaves off the middle, nothing beyond 0.6, half a cosine between. Without
/// any delay.
class Octaves
{
public:
    Octaves(const std::vector<float>& samples, double rate) : fft_(sizeFor(samples.size())), rate_(rate)
    {
        std::fill(fft_.samples().begin(), fft_.samples().end(), 0.0F);
        std::copy(samples.begin(), samples.end(), fft_.samples().begin());
        fft_.forward();
        spectrum_.assign(fft_.bins().begin(), fft_.bins().end());
    }

    /// Adds the squares of a band to as many sums.
    void addSquares(double centre_hz, std::vector<double>& squares)
    {
        constexpr double whole = 0.4;
        constexpr double none = 0.6;
        const double bin_hz = rate_ / static_cast<double>(fft_.samples().size());
        for (std::size_t k = 0; k < spectrum_.size(); ++k) {
            const double off = std::abs(std::log2(std::max(static_cast<double>(k), 0.5) * bin_hz / centre_hz));
            const double t = std::clamp((off - whole) / (none - whole), 0.0, 1.0);
            fft_.bins()[k] = spectrum_[k] * static_cast<float>(0.5 + 0.5 * std::cos(std::numbers::pi * t));
        }
        fft_.inverse();
        for (std::size_t i = 0; i < squares.size(); ++i) {
            squares[i] += static_cast<double>(fft_.samples()[i]) * static_cast<double>(fft_.samples()[i]);
        }
    }

private:
    /// With room for what a band spreads beyond the end.
    static std::size_t sizeFor(std::size_t frames)
    {
        std::size_t size = 2;
        while (size < frames + frames / 4) {
            size *= 2;
        }
        return size;
    }

    RealFft fft_;
    double rate_;
    std::vector<std::complex<float>> spectrum_;
};

/// Worse than this a curve is no straight line: single echoes make stairs. The share of the variance that the line explains
/// (ISO 3382-2, Annex B has the same measure, more strictly).
constexpr double leastStraight = 0.9;

/// The time for 60 dB by the straight line that fits best between two levels.
std::optional<double> fitted_s(std::span<const double> left_db, double from_db, double to_db, double every_s)
{
    double n = 0.0;
    double t = 0.0;
    double y = 0.0;
    double tt = 0.0;
    double ty = 0.0;
    double yy = 0.0;
    bool reached = false;
    for (std::size_t i = 0; i < left_db.size() && !reached; ++i) {
        reached = left_db[i] < to_db;
        if (left_db[i] <= from_db && !reached) {
            const double at_s = static_cast<double>(i) * every_s;
            n += 1.0;
            t += at_s;
            y += left_db[i];
            tt += at_s * at_s;
            ty += at_s * left_db[i];
            yy += left_db[i] * left_db[i];
        }
    }
    const double spread = n * tt - t * t;
    if (!reached || n < 3.0 || spread <= 0.0) {
        return {};
    }
    const double both = n * ty - t * y;
    const double slope = both / spread;
    const bool straight = both * both >= leastStraight * spread * (n * yy - y * y);
    return slope < 0.0 && straight ? std::optional(-60.0 / slope) : std::nullopt;
}

Decay decayOf(const std::vector<double>& squares, double rate)
{
    Decay decay;
    std::vector<double> left(squares.size() + 1);
    for (std::size_t i = squares.size(); i-- > 0;) {
        left[i] = left[i + 1] + squares[i];
    }
    decay.level_db = dB(left.front());
    if (left.front() <= 1e-30) {
        return decay;
    }
    // Fine enough for a decay of a twentieth of a second.
    constexpr double fine_s = 0.0005;
    std::vector<double> fine;
    for (double t = 0.0; t * rate < static_cast<double>(squares.size()); t += fine_s) {
        fine.push_back(dB(left[static_cast<std::size_t>(t * rate)]) - decay.level_db);
    }
    decay.edt_s = fitted_s(fine, 0.0, -10.0, fine_s);
    decay.t20_s = fitted_s(fine, -5.0, -25.0, fine_s);
    decay.t30_s = fitted_s(fine, -5.0, -35.0, fine_s);
    for (double t = 0.0; t * rate < static_cast<double>(squares.size()); t += DecayReport::every_s) {
        const double db = dB(left[static_cast<std::size_t>(t * rate)]) - decay.level_db;
        if (db < deepest_db) {
            break;
        }
        decay.left_db.push_back(static_cast<float>(db));
    }
    const auto early = std::min(static_cast<std::size_t>(early_s * rate), squares.size());
    decay.c50_db = std::clamp(dB(left.front() - left[early]) - dB(left[early]), -most_db, most_db);
    return decay;
}

} // namespace

DecayReport analyseDecay(std::span<const float> interleaved, std::size_t channels, double rate)
{
    DecayReport report;
    const std::size_t frames = interleaved.size() / channels;
    std::vector<std::vector<float>> apart(channels, std::vector<float>(frames));
    std::vector<double> squares(frames);
    for (std::size_t i = 0; i < frames; ++i) {
        for (std::size_t channel = 0; channel < channels; ++channel) {
            const float sample = interleaved[i * channels + channel];
            apart[channel][i] = sample;
            squares[i] += static_cast<double>(sample) * static_cast<double>(sample);
        }
    }
    if (frames == 0) {
        return report;
    }
    const double peak = *std::max_element(squares.begin(), squares.end());
    const auto first =
        std::find_if(squares.begin(), squares.end(), [&](double s) { return s > 0.0 && s >= peak * onset * onset; });
    const auto begins = static_cast<std::size_t>(first == squares.end() ? 0 : first - squares.begin());
    report.begins_s = static_cast<double>(begins) / rate;
    const auto from = [&](std::vector<double> all) {
        all.erase(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(begins));
        return decayOf(all, rate);
    };
    report.all = from(squares);
    std::deque<Octaves> octaves;
    for (const std::vector<float>& channel : apart) {
        octaves.emplace_back(channel, rate);
    }
    for (std::size_t band = 0; band < report.bands.size(); ++band) {
        std::fill(squares.begin(), squares.end(), 0.0);
        for (Octaves& channel : octaves) {
            channel.addSquares(octaveBands_hz[band], squares);
        }
        // What a band spreads to before the sound belongs to it.
        for (std::size_t i = 0; i < begins; ++i) {
            squares[begins] += squares[i];
        }
        report.bands[band] = from(squares);
    }
    return report;
}

} // namespace stone
