// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <array>
#include <complex>
#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// The frequencies at which a head is described before its filters are made: 0 to half the rate.
constexpr std::size_t headBins = 513;
/// The transform that has so many bins.
constexpr std::size_t cepstrumSize = 2 * (headBins - 1);

/// What one ear receives from one direction.
struct EarResponse {
    std::array<float, headBins> magnitude{}; ///< of the part that is made minimum-phase
    std::array<float, headBins> zeroPhase{}; ///< of a part that delays nothing at any frequency
    double delay_s = 0.0;                    ///< against the middle of the head; within 1 ms
};

struct HeadResponse {
    EarResponse left;
    EarResponse right;
};

/// Filters for the two ears over all directions, on a grid of 5 degrees. Between the grid's points spectra (of the
/// minimum-phase parts) and delays are interpolated apart.
///
/// Levels are set so that a sound with as much power in each octave, weighted as for loudness (ITU-R BS.1770), comes to
/// both ears together with the same power from every direction: turning the head changes the sides, not the loudness.
/// One ear's gain is relative to a source whose power is split over two channels. Immutable; any thread.
class HeadFilters
{
public:
    using Complex = std::complex<float>;

    /// The transform in which filters for a rate are kept: room for a block of 256 frames and for what the longest filter
    /// reaches back, which is the same time at each rate. 512 at 48 kHz; a power of two.
    static std::size_t fftSizeAt(double rate);
    /// The longest there is, at 192 kHz.
    static constexpr std::size_t mostFftSize = 2048;
    /// Every filter delays by so much at least: room for the parts that reach ahead of their time.
    static constexpr double baseDelay_s = 64.0 / 48'000.0;
    /// The same in whole frames: what goes to the ears as it is waits as long.
    static std::size_t baseFrames(double rate);

    /// A direction's filters: four points of the grid and their shares, and the ears' delays in frames.
    struct Choice {
        std::array<std::uint16_t, 4> nodes{};
        std::array<float, 4> weights{};
        float leftDelay = 0.0F;
        float rightDelay = 0.0F;

        bool operator==(const Choice&) const = default;
    };

    /// Asks `respond` for each direction of the grid: azimuth positive to the right, elevation, degrees. Takes tenths of
    /// a second. `rate`: 8 to 192 kHz.
    HeadFilters(std::string name, double rate,
                const std::function<HeadResponse(double azimuth_deg, double elevation_deg)>& respond);

    const std::string& name() const { return name_; }
    double rate() const { return rate_; }
    std::size_t fftSize() const { return 2 * (bins_ - 1); }
    std::size_t bins() const { return bins_; }
    /// Tells sets apart, also after one has gone; never 0.
    std::uint64_t id() const { return id_; }

    /// The filters for a unit vector in the ears' frame (x right, y ahead, z above).
    Choice choose(const Vec3& unit) const;

    /// Writes out the two filters' spectra, bins() each, delays included. Neither locks nor allocates.
    void compose(const Choice& choice, std::span<Complex> left, std::span<Complex> right) const;

    /// The filters of what many sounds share: one direction above the low frequencies, or below them the pressure in the middle
    /// of the head and what reaches it from the side. `channel`: of BinauralBus, counted from its first.
    std::span<const Complex> busLeft(std::size_t channel) const { return bus(2 * channel); }
    std::span<const Complex> busRight(std::size_t channel) const { return bus(2 * channel + 1); }

private:
    struct Delays {
        float left;
        float right;
    };

    std::span<const Complex> node(std::size_t index, std::size_t ear) const
    {
        return std::span(spectra_).subspan((2 * index + ear) * bins_, bins_);
    }
    std::span<Complex> node(std::size_t index, std::size_t ear)
    {
        return std::span(spectra_).subspan((2 * index + ear) * bins_, bins_);
    }
    std::span<const Complex> bus(std::size_t index) const { return std::span(bus_).subspan(index * bins_, bins_); }
    void makeBus();

    std::string name_;
    double rate_;
    std::uint64_t id_;
    std::size_t bins_;
    std::vector<Complex> spectra_; ///< of the grid's points, left and right
    std::vector<Delays> delays_;   ///< of the grid's points, frames
    std::vector<Complex> bus_;     ///< of the bus' channels, left and right
};

using SharedHead = std::shared_ptr<const HeadFilters>;

} // namespace stone
