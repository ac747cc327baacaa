// SPDX-License-Identifier: MPL-2.0
#include "spatial/sofa.h"

#include "dsp/fft.h"
#include "spatial/layout.h"
#include "spatial/sofa_apart.h"

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <span>

namespace stone
{

namespace
{

constexpr std::uintmax_t largestFile = 512ULL << 20U;
/// A response has begun where it first reaches this share of its largest sample.
constexpr float onset = 0.2F;
constexpr std::size_t neighbours = 4;

struct Measurement {
    Vec3 unit;
    HeadResponse head;
};

[[noreturn]] void refuse(const std::filesystem::path& file, const std::string& reason)
{
    throw SofaError(file.string() + ": " + reason + "; choose another SOFA file");
}

/// Where between samples the response reaches its onset.
double onsetFrame(std::span<const float> response)
{
    float largest = 0.0F;
    for (const float sample : response) {
        largest = std::max(largest, std::abs(sample));
    }
    for (std::size_t i = 0; i < response.size(); ++i) {
        if (std::abs(response[i]) >= onset * largest) {
            const float before = i > 0 ? std::abs(response[i - 1]) : 0.0F;
            const float now = std::abs(response[i]);
            const float part = now > before ? (onset * largest - before) / (now - before) : 1.0F;
            return static_cast<double>(i) - 1.0 + static_cast<double>(part);
        }
    }
    return 0.0;
}

EarResponse measure(std::span<const float> response, double delay_frames, double rate, RealFft& fft)
{
    EarResponse ear;
    ear.zeroPhase.fill(1.0F);
    ear.delay_s = (onsetFrame(response) + delay_frames) / rate;
    auto samples = fft.samples();
    std::fill(samples.begin(), samples.end(), 0.0F);
    std::copy_n(response.begin(), std::min(response.size(), samples.size()), samples.begin());
    fft.forward();
    for (std::size_t bin = 0; bin < headBins; ++bin) {
        ear.magnitude[bin] = std::abs(fft.bins()[bin]);
    }
    return ear;
}

std::vector<Measurement> measurementsOf(const std::filesystem::path& file, const SofaValues& set, double rate)
{
    RealFft fft(cepstrumSize);
    std::vector<Measurement> measurements;
    for (std::size_t m = 0; m < set.directions; ++m) {
        const float* at = set.positions.data() + m * 3;
        // The file's axes: x ahead, y to the left, z above.
        const Vec3 place{-static_cast<double>(at[1]), static_cast<double>(at[0]), static_cast<double>(at[2])};
        const double length = glm::length(place);
        if (!std::isfinite(length) || length <= 0.0) {
            refuse(file, "measurement " + std::to_string(m) + " has no direction");
        }
        const auto ear = [&](std::size_t receiver) {
            const std::span<const float> response(set.responses.data() + (m * 2 + receiver) * set.frames, set.frames);
            if (!std::all_of(response.begin(), response.end(), [](float x) { return std::isfinite(x); })) {
                refuse(file, "measurement " + std::to_string(m) + " holds values that are not numbers");
            }
            const bool each = set.delays.size() >= set.directions * 2;
            const std::size_t delayAt = each ? m * 2 + receiver : receiver;
            const double delay = delayAt < set.delays.size() ? static_cast<double>(set.delays[delayAt]) : 0.0;
            return measure(response, std::isfinite(delay) ? delay : 0.0, rate, fft);
        };
        measurements.push_back({place / length, {ear(0), ear(1)}});
    }
    // Delays count from the middle of the head: the flight that all measurements share is taken off.
    double flight_s = 0.0;
    for (const Measurement& m : measurements) {
        flight_s += (m.head.left.delay_s + m.head.right.delay_s) / 2.0 / static_cast<double>(measurements.size());
    }
    for (Measurement& m : measurements) {
        m.head.left.delay_s -= flight_s;
        m.head.right.delay_s -= flight_s;
    }
    return measurements;
}

/// Takes off what all directions share: the measuring loudspeaker, and the ear canal that headphones have before them once
/// more. What is left is the difference between directions (diffuse-field equalisation). The mean is taken over a third of
/// an octave, and corrected by 24 dB at most.
void equalise(std::vector<Measurement>& measurements)
{
    constexpr float most = 16.0F;
    constexpr double sixth = 1.122462048309373; // of an octave, to each side
    std::array<double, headBins> power{};
    for (const Measurement& m : measurements) {
        for (std::size_t bin = 0; bin < headBins; ++bin) {
            power[bin] += (std::pow(static_cast<double>(m.head.left.magnitude[bin]), 2.0) +
                           std::pow(static_cast<double>(m.head.right.magnitude[bin]), 2.0)) /
                          static_cast<double>(2 * measurements.size());
        }
    }
    constexpr std::size_t half = headBins / 2;
    const double overall = std::sqrt(std::accumulate(power.begin() + 1, power.begin() + half, 0.0) / (half - 1));
    std::array<float, headBins> correction{};
    for (std::size_t bin = 0; bin < headBins; ++bin) {
        const auto from = static_cast<std::size_t>(static_cast<double>(bin) / sixth);
        const auto to = std::min(static_cast<std::size_t>(static_cast<double>(bin) * sixth) + 1, headBins);
        double sum = 0.0;
        for (std::size_t i = from; i < to; ++i) {
            sum += power[i];
        }
        const double shared = std::sqrt(sum / static_cast<double>(to - from));
        correction[bin] = std::clamp(static_cast<float>(overall / std::max(shared, 1e-9)), 1.0F / most, most);
    }
    for (Measurement& m : measurements) {
        for (EarResponse* ear : {&m.head.left, &m.head.right}) {
            for (std::size_t bin = 0; bin < headBins; ++bin) {
                ear->magnitude[bin] *= correction[bin];
            }
        }
    }
}

/// The mean of the nearest measurements, weighted by nearness; one that lies on the direction counts alone.
HeadResponse around(const std::vector<Measurement>& measurements, const Vec3& unit)
{
    std::vector<std::pair<double, const Measurement*>> nearest;
    for (const Measurement& m : measurements) {
        nearest.emplace_back(std::acos(std::clamp(glm::dot(m.unit, unit), -1.0, 1.0)), &m);
    }
    const std::size_t count = std::min(neighbours, nearest.size());
    std::partial_sort(nearest.begin(), nearest.begin() + static_cast<std::ptrdiff_t>(count), nearest.end());
    HeadResponse head{};
    double total = 0.0;
    for (std::size_t i = 0; i < count; ++i) {
        total += 1.0 / (nearest[i].first + 1e-4);
    }
    for (std::size_t i = 0; i < count; ++i) {
        const double weight = 1.0 / (nearest[i].first + 1e-4) / total;
        const auto mix = [&](EarResponse& ear, const EarResponse& from) {
            for (std::size_t bin = 0; bin < headBins; ++bin) {
                ear.magnitude[bin] += static_cast<float>(weight) * from.magnitude[bin];
                ear.zeroPhase[bin] = 1.0F;
            }
            ear.delay_s += weight * from.delay_s;
        };
        mix(head.left, nearest[i].second->head.left);
        mix(head.right, nearest[i].second->head.right);
    }
    return head;
}

} // namespace

SharedHead readSofa(const std::filesystem::path& file, double rate, const std::function<bool()>& stop)
{
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (error) {
        refuse(file, "it cannot be read (" + error.message() + ")");
    }
    if (size > largestFile) {
        refuse(file, "it is larger than " + std::to_string(largestFile >> 20U) + " MiB");
    }
    const SofaValues values = readSofaApart(file, rate, stop);
    if (!values.trouble.empty()) {
        refuse(file, values.trouble);
    }
    std::vector<Measurement> measurements = measurementsOf(file, values, rate);
    equalise(measurements);
    // The system's default set is a link to a file with a better name.
    const std::filesystem::path real = std::filesystem::canonical(file, error);
    return std::make_shared<const HeadFilters>(
        (error ? file : real).stem().string(), rate,
        [&](double azimuth, double elevation) { return around(measurements, unitOf(azimuth, elevation)); });
}

std::filesystem::path installedSofa()
{
    for (const char* path : {"/usr/share/libmysofa/default.sofa", "/usr/share/libmysofa/MIT_KEMAR_normal_pinna.sofa"}) {
        std::error_code ignored;
        if (std::filesystem::exists(path, ignored)) {
            return path;
        }
    }
    return {};
}

} // namespace stone
