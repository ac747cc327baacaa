#pragma once

#include "geometry/vec.h"

#include <array>
#include <complex>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// The frequencies at which a head is described before its filters are made: 0 to half the rate.
constexpr std::size_t headBins = 513;

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
    /// The transform in which the filters are kept: a step of 256 frames and what the longest filter reaches back.
    static constexpr std::size_t fftSize = 512;
    static constexpr std::size_t bins = fftSize / 2 + 1;
    /// Every filter delays by so many frames at least: room for the parts that reach ahead of their time.
    static constexpr double baseDelay_frames = 64.0;

    using Spectrum = std::array<std::complex<float>, bins>;

    /// A direction's filters: four points of the grid and their shares, and the ears' delays in frames.
    struct Choice {
        std::array<std::uint16_t, 4> nodes{};
        std::array<float, 4> weights{};
        float leftDelay = 0.0F;
        float rightDelay = 0.0F;

        bool operator==(const Choice&) const = default;
    };

    /// Asks `respond` for each direction of the grid: azimuth positive to the right, elevation, degrees. Takes tenths of
    /// a second.
    HeadFilters(std::string name, double rate,
                const std::function<HeadResponse(double azimuth_deg, double elevation_deg)>& respond);

    const std::string& name() const { return name_; }
    double rate() const { return rate_; }
    /// Tells sets apart, also after one has gone; never 0.
    std::uint64_t id() const { return id_; }

    /// The filters for a unit vector in the ears' frame (x right, y ahead, z above).
    Choice choose(const Vec3& unit) const;

    /// Writes out the two filters' spectra, delays included. Neither locks nor allocates.
    void compose(const Choice& choice, Spectrum& left, Spectrum& right) const;

private:
    struct Node {
        Spectrum left;
        Spectrum right;
        float leftDelay;
        float rightDelay;
    };

    std::string name_;
    double rate_;
    std::uint64_t id_;
    std::vector<Node> nodes_;
};

using SharedHead = std::shared_ptr<const HeadFilters>;

} // namespace stone
