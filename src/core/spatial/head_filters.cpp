#include "spatial/head_filters.h"

#include "dsp/fft.h"

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
constexpr std::size_t cepstrumSize = 2 * (headBins - 1);
/// Of a filter without its delay; it fades out over the last quarter.
constexpr std::size_t taps = 144;
constexpr double mostDelay_frames = 45.0;
/// Above this the filters close, so that delays between samples do not ring.
constexpr double taperFrom_hz = 20'000.0;
constexpr double taperTo_hz = 23'000.0;
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
    explicit FilterMaker(double rate) : rate_(rate), cepstrum_(cepstrumSize), filter_(HeadFilters::fftSize) {}

    void make(const EarResponse& ear, double gain, HeadFilters::Spectrum& out)
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
        for (std::size_t i = 0; i < taps; ++i) {
            const std::size_t fade = taps - taps / 4;
            const float t = i < fade ? 0.0F : static_cast<float>(static_cast<int>(i - fade)) / static_cast<float>(taps / 4);
            shortened[i] = samples[i] * (0.5F + 0.5F * std::cos(std::numbers::pi_v<float> * t));
        }
        filter_.forward();
        for (std::size_t bin = 0; bin < HeadFilters::bins; ++bin) {
            const std::size_t fine = bin * (headBins - 1) / (HeadFilters::bins - 1);
            out[bin] = filter_.bins()[bin] * static_cast<float>(gain * ear.zeroPhase[fine] * taper(bin));
        }
    }

private:
    double taper(std::size_t bin) const
    {
        const double f = static_cast<double>(bin) * rate_ / static_cast<double>(HeadFilters::fftSize);
        const double t = std::clamp((f - taperFrom_hz) / (taperTo_hz - taperFrom_hz), 0.0, 1.0);
        return 0.5 + 0.5 * std::cos(std::numbers::pi * t);
    }

    double rate_;
    RealFft cepstrum_;
    RealFft filter_;
};

} // namespace

HeadFilters::HeadFilters(std::string name, double rate, const std::function<HeadResponse(double, double)>& respond)
    : name_(std::move(name)), rate_(rate), id_(nextId.fetch_add(1)), nodes_(columns * rows)
{
    FilterMaker maker(rate);
    for (std::size_t row = 0; row < rows; ++row) {
        for (std::size_t column = 0; column < columns; ++column) {
            Node& node = nodes_[row * columns + column];
            if (column > 0 && (row == 0 || row + 1 == rows)) {
                node = nodes_[row * columns]; // a pole is one direction, whatever its azimuth
                continue;
            }
            const HeadResponse head =
                respond(static_cast<double>(column) * gridStep_deg - 180.0, static_cast<double>(row) * gridStep_deg - 90.0);
            const double gain = 1.0 / std::sqrt(std::max(loudnessPower(head, rate), 1e-12));
            maker.make(head.left, gain, node.left);
            maker.make(head.right, gain, node.right);
            const auto delay = [&](const EarResponse& ear) {
                return static_cast<float>(std::clamp(ear.delay_s * rate, -mostDelay_frames / 2, mostDelay_frames));
            };
            node.leftDelay = delay(head.left);
            node.rightDelay = delay(head.right);
        }
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
        choice.leftDelay += choice.weights[i] * nodes_[node].leftDelay;
        choice.rightDelay += choice.weights[i] * nodes_[node].rightDelay;
    }
    return choice;
}

void HeadFilters::compose(const Choice& choice, Spectrum& left, Spectrum& right) const
{
    const auto put = [&](Spectrum Node::*ear, double delay, Spectrum& out) {
        const auto& a = nodes_[choice.nodes[0]].*ear;
        const auto& b = nodes_[choice.nodes[1]].*ear;
        const auto& c = nodes_[choice.nodes[2]].*ear;
        const auto& d = nodes_[choice.nodes[3]].*ear;
        const auto& w = choice.weights;
        for (std::size_t bin = 0; bin < bins; ++bin) {
            out[bin] = a[bin] * w[0] + b[bin] * w[1] + c[bin] * w[2] + d[bin] * w[3];
        }
        // The delay, a turn of the phase that grows from bin to bin. Four turns side by side keep the processor busy.
        const double turn = -2.0 * std::numbers::pi * (baseDelay_frames + delay) / static_cast<double>(fftSize);
        std::array<std::complex<float>, 4> phases;
        for (std::size_t i = 0; i < phases.size(); ++i) {
            phases[i] = std::complex<float>(std::polar(1.0, turn * static_cast<double>(i)));
        }
        const std::complex<float> four(std::polar(1.0, 4.0 * turn));
        const auto times = [](std::complex<float> p, std::complex<float> q) {
            return std::complex<float>(p.real() * q.real() - p.imag() * q.imag(), p.real() * q.imag() + p.imag() * q.real());
        };
        for (std::size_t bin = 0; bin + 4 <= bins; bin += 4) {
            for (std::size_t i = 0; i < 4; ++i) {
                out[bin + i] = times(out[bin + i], phases[i]);
                phases[i] = times(phases[i], four);
            }
        }
        out[bins - 1] = times(out[bins - 1], phases[0]);
    };
    put(&Node::left, choice.leftDelay, left);
    put(&Node::right, choice.rightDelay, right);
}

} // namespace stone
