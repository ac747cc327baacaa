// SPDX-License-Identifier: MPL-2.0
#include "spatial/head_filters.h"

#include "dsp/fft.h"
#include "dsp/spectrum.h"
#include "spatial/panning.h"

#include <algorithm>
#include <atomic>
#include <cmath>

namespace stone
{

namespace
{

std::atomic<std::uint64_t> nextId{1};

constexpr double gridStep_deg = 5.0;
constexpr std::size_t columns = 72;
constexpr std::size_t rows = 37;
/// Of a filter without its delay; it fades out over the last quarter.
constexpr double length_s = 144.0 / 48'000.0;
constexpr double mostDelay_s = 45.0 / 48'000.0;
constexpr std::size_t blockFrames = 256;
/// Above this the filters close, so that delays between samples do not ring. Of low rates so far below half the rate.
constexpr double taperFrom_hz = 20'000.0;
constexpr double taperTo_hz = 23'000.0;
constexpr double taperFromShare = 0.42;
constexpr double taperToShare = 0.48;
/// From here to there the low part of what is wide gives way to the corners. Below, the ears hear one signal from all sides
/// nearly alike: a diffuse field's coherence between the ears, sin(kd) / kd, falls through a half at 500 Hz.
constexpr double lowUpTo_hz = 300.0;
constexpr double cornersFrom_hz = 1'100.0;
constexpr float quietest = 1e-4F;

/// The loudness weighting of ITU-R BS.1770 as power, near enough for a sum over octaves: a shelf of 4 dB above 1.5 kHz
/// and a high-pass at 38 Hz.
double loudnessWeight(double f)
{
    const double shelf = 1.0 + (std::pow(10.0, 0.4) - 1.0) / (1.0 + std::pow(1500.0 / std::max(f, 1.0), 4.0));
    return shelf / (1.0 + std::pow(38.0 / std::max(f, 1.0), 4.0));
}

/// The power of both ears together for a sound of equal power in each octave.
double loudnessPower(const HeadResponse& head, double rate)
{
    double sum = 0.0;
    double weights = 0.0;
    for (std::size_t bin = 1; bin < headBins; ++bin) {
        const double f = static_cast<double>(bin) * rate / static_cast<double>(cepstrumSize);
        if (f > 16'000.0) {
            break;
        }
        const double weight = loudnessWeight(f) / f;
        const double left = head.left.magnitude[bin] * head.left.zeroPhase[bin];
        const double right = head.right.magnitude[bin] * head.right.zeroPhase[bin];
        sum += weight * (left * left + right * right);
        weights += weight;
    }
    return sum / weights;
}

/// Turns an ear's description into the spectrum of a short filter without its delay.
class FilterMaker
{
public:
    explicit FilterMaker(double rate)
        : rate_(rate), taps_(static_cast<std::size_t>(std::lround(length_s * rate))), cepstrum_(cepstrumSize),
          filter_(HeadFilters::fftSizeAt(rate))
    {
    }

    void make(const EarResponse& ear, double gain, std::span<HeadFilters::Complex> out)
    {
        // Minimum phase by folding the cepstrum (Oppenheim & Schafer, Discrete-Time Signal Processing, ch. 13).
        auto bins = cepstrum_.bins();
        for (std::size_t bin = 0; bin < headBins; ++bin) {
            bins[bin] = {std::log(std::max(ear.magnitude[bin], quietest)), 0.0F};
        }
        cepstrum_.inverse();
        auto samples = cepstrum_.samples();
        for (std::size_t i = 1; i < cepstrumSize / 2; ++i) {
            samples[i] *= 2.0F;
            samples[cepstrumSize - i] = 0.0F;
        }
        cepstrum_.forward();
        for (std::size_t bin = 0; bin < headBins; ++bin) {
            bins[bin] = std::exp(bins[bin]);
        }
        cepstrum_.inverse();
        auto shortened = filter_.samples();
        std::fill(shortened.begin(), shortened.end(), 0.0F);
        for (std::size_t i = 0; i < std::min(taps_, cepstrumSize); ++i) {
            const std::size_t fade = taps_ - taps_ / 4;
            const float t = i < fade ? 0.0F : static_cast<float>(static_cast<int>(i - fade)) / static_cast<float>(taps_ / 4);
            shortened[i] = samples[i] * (0.5F + 0.5F * std::cos(std::numbers::pi_v<float> * t));
        }
        filter_.forward();
        for (std::size_t bin = 0; bin < out.size(); ++bin) {
            const std::size_t fine = bin * (headBins - 1) / (out.size() - 1);
            out[bin] = filter_.bins()[bin] * static_cast<float>(gain * ear.zeroPhase[fine] * taper(bin));
        }
    }

    /// Takes off what of a filter lies beyond the frames that a transform leaves room for, softly.
    void shorten(std::span<HeadFilters::Complex> spectrum)
    {
        std::copy(spectrum.begin(), spectrum.end(), filter_.bins().begin());
        filter_.inverse();
        auto samples = filter_.samples();
        const std::size_t room = samples.size() - blockFrames;
        const std::size_t edge = std::max<std::size_t>(static_cast<std::size_t>(0.2 * HeadFilters::baseDelay_s * rate_), 1);
        for (std::size_t i = 0; i < samples.size(); ++i) {
            const std::size_t inside = std::min(i, i < room ? room - i : 0);
            const float t = std::min(1.0F, static_cast<float>(inside) / static_cast<float>(edge));
            samples[i] *= 0.5F - 0.5F * std::cos(std::numbers::pi_v<float> * t);
        }
        filter_.forward();
        std::copy(filter_.bins().begin(), filter_.bins().end(), spectrum.begin());
    }

    double frequencyOf(std::size_t bin) const
    {
        return static_cast<double>(bin) * rate_ / static_cast<double>(HeadFilters::fftSizeAt(rate_));
    }

private:
    double taper(std::size_t bin) const
    {
        const double from = std::min(taperFrom_hz, taperFromShare * rate_);
        const double to = std::min(taperTo_hz, taperToShare * rate_);
        const double t = std::clamp((frequencyOf(bin) - from) / (to - from), 0.0, 1.0);
        return 0.5 + 0.5 * std::cos(std::numbers::pi * t);
    }

    double rate_;
    std::size_t taps_;
    RealFft cepstrum_;
    RealFft filter_;
};

} // namespace

std::size_t HeadFilters::fftSizeAt(double rate)
{
    // The last frame of a filter: its own length, and the delays before it.
    const double filter = (length_s + mostDelay_s + baseDelay_s) * rate;
    std::size_t size = 2 * blockFrames;
    while (static_cast<double>(size) < static_cast<double>(blockFrames) + filter && size < mostFftSize) {
        size *= 2;
    }
    return size;
}

std::size_t HeadFilters::baseFrames(double rate)
{
    return static_cast<std::size_t>(std::lround(baseDelay_s * rate));
}

HeadFilters::HeadFilters(std::string name, double rate, const std::function<HeadResponse(double, double)>& respond)
    : name_(std::move(name)), rate_(rate), id_(nextId.fetch_add(1)), bins_(fftSizeAt(rate) / 2 + 1),
      spectra_(2 * columns * rows * bins_), delays_(columns * rows)
{
    FilterMaker maker(rate);
    for (std::size_t row = 0; row < rows; ++row) {
        for (std::size_t column = 0; column < columns; ++column) {
            const std::size_t index = row * columns + column;
            if (column > 0 && (row == 0 || row + 1 == rows)) {
                // A pole is one direction, whatever its azimuth.
                std::copy_n(node(row * columns, 0).data(), 2 * bins_, node(index, 0).data());
                delays_[index] = delays_[row * columns];
                continue;
            }
            const HeadResponse head =
                respond(static_cast<double>(column) * gridStep_deg - 180.0, static_cast<double>(row) * gridStep_deg - 90.0);
            const double gain = 1.0 / std::sqrt(std::max(loudnessPower(head, rate), 1e-12));
            maker.make(head.left, gain, node(index, 0));
            maker.make(head.right, gain, node(index, 1));
            const auto delay = [&](const EarResponse& ear) {
                return static_cast<float>(std::clamp(ear.delay_s, -mostDelay_s / 2.0, mostDelay_s) * rate);
            };
            delays_[index] = {delay(head.left), delay(head.right)};
        }
    }
    makeBus();
}

void HeadFilters::makeBus()
{
    bus_.resize(2 * BinauralBus::channels * bins_);
    FilterMaker maker(rate_);
    const auto out = [this](std::size_t channel, std::size_t ear) {
        return std::span(bus_).subspan((2 * channel + ear) * bins_, bins_);
    };
    // The squares of both parts add to 1, and both go over without an edge, which would ring beyond a filter's length.
    const auto turn = [&](std::size_t bin) {
        const double t = std::clamp((maker.frequencyOf(bin) - lowUpTo_hz) / (cornersFrom_hz - lowUpTo_hz), 0.0, 1.0);
        return std::numbers::pi / 2.0 * t * t * (3.0 - 2.0 * t);
    };
    for (std::size_t corner = 0; corner < BinauralBus::speakers; ++corner) {
        const Speaker& speaker = BinauralBus::directions()[corner];
        compose(choose(unitOf(speaker.azimuth_deg, speaker.elevation_deg)), out(corner, 0), out(corner, 1));
        for (std::size_t ear = 0; ear < 2; ++ear) {
            for (std::size_t bin = 0; bin < bins_; ++bin) {
                out(corner, ear)[bin] *= static_cast<float>(std::sin(turn(bin)));
            }
            maker.shorten(out(corner, ear));
        }
    }
    std::array<std::vector<Complex>, 2> front{std::vector<Complex>(bins_), std::vector<Complex>(bins_)};
    compose(choose({0.0, 1.0, 0.0}), front[0], front[1]);
    // From the sides the ears' delays against the middle of the head, as this head has them.
    const Choice right = choose({1.0, 0.0, 0.0});
    const Choice left = choose({-1.0, 0.0, 0.0});
    const double aside_frames =
        ((static_cast<double>(right.leftDelay) - right.rightDelay) + (static_cast<double>(left.rightDelay) - left.leftDelay)) /
        4.0;
    for (std::size_t ear = 0; ear < 2; ++ear) {
        // The mean power over the sphere: rows by the area that they stand for.
        std::vector<double> power(bins_);
        double area = 0.0;
        for (std::size_t index = 0; index < columns * rows; ++index) {
            const double weight = std::cos(radians(static_cast<double>(index / columns) * gridStep_deg - 90.0));
            const auto spectrum = node(index, ear);
            for (std::size_t bin = 0; bin < bins_; ++bin) {
                power[bin] += weight * std::norm(spectrum[bin]);
            }
            area += weight;
        }
        for (std::size_t bin = 0; bin < bins_; ++bin) {
            const double omega = 2.0 * std::numbers::pi * static_cast<double>(bin) / static_cast<double>(fftSize());
            // As from ahead, so that a point which opens up adds to it in phase; but the colour of all directions together,
            // where directions differ.
            const std::complex<double> ahead(front[ear][bin]);
            const double octaves = std::log2(std::max(maker.frequencyOf(bin), 1.0) / 100.0);
            const double ofAll = 0.7 * std::clamp(octaves, 0.0, 1.0);
            const double colour = power[bin] / area / std::max(std::norm(ahead), 1e-12);
            const auto middle = ahead * (std::pow(colour, 0.5 * ofAll) * std::cos(turn(bin)));
            // What comes from the side is a quarter of a turn off, and adds to the power: not by more than a decibel.
            constexpr double mostAside = 0.5;
            const double earlier = std::min(std::sin(std::min(omega * aside_frames, std::numbers::pi / 2.0)), mostAside);
            const auto aside = middle * std::complex<double>(0.0, ear == 1 ? earlier : -earlier);
            out(BinauralBus::speakers, ear)[bin] = Complex(middle);
            out(BinauralBus::speakers + 1, ear)[bin] = Complex(aside);
        }
        maker.shorten(out(BinauralBus::speakers, ear));
        maker.shorten(out(BinauralBus::speakers + 1, ear));
    }
}

HeadFilters::Choice HeadFilters::choose(const Vec3& unit) const
{
    const double azimuth = degrees(std::atan2(unit.x, unit.y)) + 180.0;
    const double elevation = degrees(std::asin(std::clamp(unit.z, -1.0, 1.0))) + 90.0;
    const double x = azimuth / gridStep_deg;
    const double y = std::min(elevation / gridStep_deg, static_cast<double>(rows) - 1.0);
    const auto column = static_cast<std::size_t>(x);
    const auto row = std::min(static_cast<std::size_t>(y), rows - 2);
    const auto tx = static_cast<float>(x - std::floor(x));
    const auto ty = static_cast<float>(y - static_cast<double>(row));
    Choice choice;
    for (std::size_t i = 0; i < 4; ++i) {
        const std::size_t node = (row + i / 2) * columns + (column + i % 2) % columns;
        choice.nodes[i] = static_cast<std::uint16_t>(node);
        choice.weights[i] = (i % 2 == 1 ? tx : 1.0F - tx) * (i / 2 == 1 ? ty : 1.0F - ty);
        choice.leftDelay += choice.weights[i] * delays_[node].left;
        choice.rightDelay += choice.weights[i] * delays_[node].right;
    }
    return choice;
}

void HeadFilters::compose(const Choice& choice, std::span<Complex> left, std::span<Complex> right) const
{
    const auto put = [&](std::size_t ear, double delay, std::span<Complex> out) {
        blend(out,
              {node(choice.nodes[0], ear), node(choice.nodes[1], ear), node(choice.nodes[2], ear), node(choice.nodes[3], ear)},
              choice.weights);
        // The delay, a turn of the phase that grows from bin to bin.
        turn(out, -2.0 * std::numbers::pi * (static_cast<double>(baseFrames(rate_)) + delay) / static_cast<double>(fftSize()));
    };
    put(0, choice.leftDelay, left);
    put(1, choice.rightDelay, right);
}

} // namespace stone
