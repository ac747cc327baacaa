// SPDX-License-Identifier: MPL-2.0
#include "spatial/panning.h"

#include "geometry/spread.h"
#include "spatial/ambisonics.h"
#include "spatial/vbap.h"

#include <glm/geometric.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

/// The latitude of an icosahedron's two rings.
constexpr double ringElevation_deg = 26.56505117707799;
constexpr double cornerAngle_deg = 63.43494882292201;

const Vbap& vbapOf(Layout layout)
{
    static const Vbap quad(speakersOf(Layout::quad));
    static const Vbap surround51(speakersOf(Layout::surround51));
    static const Vbap surround71(speakersOf(Layout::surround71));
    static const Vbap surround714(speakersOf(Layout::surround714));
    static const Vbap binaural(BinauralBus::directions());
    switch (layout) {
    case Layout::quad: return quad;
    case Layout::surround51: return surround51;
    case Layout::surround71: return surround71;
    case Layout::surround714: return surround714;
    default: return binaural;
    }
}

/// Behind and ahead are alike to two loudspeakers: only the way to the side counts.
double lateralPan(const Vec3& direction)
{
    return std::asin(std::clamp(direction.x, -1.0, 1.0)) / (std::numbers::pi / 2.0);
}

} // namespace

ChannelGains stereoPan(double pan)
{
    const double angle = (std::clamp(pan, -1.0, 1.0) + 1.0) * std::numbers::pi / 4.0;
    return {static_cast<float>(std::cos(angle)), static_cast<float>(std::sin(angle))};
}

std::span<const Speaker> BinauralBus::directions()
{
    constexpr double up = ringElevation_deg;
    static constexpr Speaker corners[speakers] = {{"above", 0, 90}, {"u0", 0, up},     {"u1", 72, up},   {"u2", 144, up},
                                                  {"u3", -144, up}, {"u4", -72, up},   {"l0", 36, -up},  {"l1", 108, -up},
                                                  {"l2", 180, -up}, {"l3", -108, -up}, {"l4", -36, -up}, {"below", 0, -90}};
    return corners;
}

double BinauralBus::pointShare(double length)
{
    static const double widest = widthToLength(cornerAngle_deg);
    return std::sqrt(std::clamp((length - widest) / (1.0 - widest), 0.0, 1.0));
}

ChannelGains directionGains(Layout layout, const Vec3& direction)
{
    if (layout == Layout::mono) {
        return {1.0F};
    }
    if (layout == Layout::stereo) {
        return stereoPan(lateralPan(direction));
    }
    const double length = glm::length(direction);
    const double width_deg = lengthToWidth_deg(length);
    const Vec3 towards = length > 0.0 ? direction : Vec3{0.0, 1.0, 0.0};
    if (const int order = ambisonicOrder(layout); order > 0) {
        return ambisonicGains(order, towards, width_deg);
    }
    const ChannelGains gains = vbapOf(layout).gains(towards, width_deg);
    if (layout != Layout::binaural) {
        return gains;
    }
    const double point = BinauralBus::pointShare(length);
    ChannelGains bus{};
    for (std::size_t corner = 0; corner < BinauralBus::speakers; ++corner) {
        bus[BinauralBus::first + corner] = gains[corner] * static_cast<float>(std::sqrt(1.0 - point * point));
    }
    // Where all add in phase it is amplitudes that add to 1, with that of the point.
    bus[BinauralBus::pressure] = static_cast<float>(1.0 - point);
    bus[BinauralBus::side] = static_cast<float>((1.0 - point) * direction.x);
    return bus;
}

namespace
{

/// Whether a layout's first two channels are the ears, or stand for them.
bool hasTwoEars(Layout layout)
{
    return layout == Layout::stereo || layout == Layout::binaural;
}

/// Low frequencies have no direction: to the channel of their own, or else to all ears alike.
ChannelGains lowGains(Layout layout)
{
    for (std::size_t channel = 0; channel < speakersOf(layout).size(); ++channel) {
        if (speakersOf(layout)[channel].lowOnly) {
            ChannelGains gains{};
            gains[channel] = 1.0F;
            return gains;
        }
    }
    return hasTwoEars(layout) ? stereoPan(0.0) : directionGains(layout, Vec3{0.0, 1e-6, 0.0});
}

} // namespace

ChannelGains speakerGains(Layout layout, std::string_view name)
{
    const std::span<const Speaker> speakers = speakersOf(layout);
    for (std::size_t channel = 0; channel < speakers.size(); ++channel) {
        if (name == speakers[channel].name) {
            ChannelGains gains{};
            gains[channel] = 1.0F;
            return gains;
        }
    }
    const Speaker speaker = speakerNamed(name).value_or(Speaker{"C", 0.0, 0.0});
    return speaker.lowOnly && layout != Layout::mono
               ? lowGains(layout)
               : headGains(layout, 0, 1, unitOf(speaker.azimuth_deg, speaker.elevation_deg));
}

ChannelGains headGains(Layout layout, std::size_t fileChannel, std::size_t fileChannels, const Vec3& single)
{
    const bool twoEars = hasTwoEars(layout);
    const auto direction = fileChannels == 1 ? std::optional(single) : fileChannelDirection(fileChannel, fileChannels);
    if (layout == Layout::mono) {
        // Channels of a bed are unlike each other: energies add, so each gets its share of the power.
        return {static_cast<float>(1.0 / std::sqrt(static_cast<double>(fileChannels)))};
    }
    if (!direction) {
        return lowGains(layout);
    }
    if (twoEars && fileChannels == 2) {
        return stereoPan(fileChannel == 0 ? -1.0 : 1.0);
    }
    return twoEars ? stereoPan(lateralPan(*direction)) : directionGains(layout, *direction);
}

ChannelGains blendGains(Layout layout, const ChannelGains& a, const ChannelGains& b, double share)
{
    ChannelGains sum{};
    double powerA = 0.0;
    double powerB = 0.0;
    double power = 0.0;
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        sum[channel] =
            a[channel] * static_cast<float>(std::sqrt(share)) + b[channel] * static_cast<float>(std::sqrt(1.0 - share));
        // The low part of what is wide says the same again.
        const bool counts = layout != Layout::binaural || channel < BinauralBus::pressure;
        powerA += counts ? a[channel] * a[channel] : 0.0F;
        powerB += counts ? b[channel] * b[channel] : 0.0F;
        power += counts ? sum[channel] * sum[channel] : 0.0F;
    }
    const double wanted = powerA * share + powerB * (1.0 - share);
    const auto scale = static_cast<float>(power > 0.0 ? std::sqrt(wanted / power) : 0.0);
    for (float& gain : sum) {
        gain *= scale;
    }
    if (layout == Layout::binaural) {
        // At low frequencies the part that is fixed to the ears, the point and the bus all add in phase: with an amplitude c of
        // the latter two at each ear's 1/sqrt(2), the power is b0^2 + b1^2 + sqrt(2) c (b0 + b1) + c^2. It is to be what is
        // wanted.
        const double fixed = (sum[0] + sum[1]) / std::numbers::sqrt2;
        const double both = std::sqrt(fixed * fixed + share) - fixed;
        sum[BinauralBus::pressure] = static_cast<float>(both - std::sqrt(share) * (1.0 - a[BinauralBus::pressure]));
    }
    return sum;
}

} // namespace stone
