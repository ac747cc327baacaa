// SPDX-License-Identifier: MPL-2.0
#include "spatial/vbap.h"

#include <glm/geometric.hpp>
#include <glm/mat3x3.hpp>
#include <glm/matrix.hpp>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double flat = 1e-9;
/// Beyond this elevation a direction that has no loudspeakers there begins to open up.
constexpr double openingFrom_deg = 45.0;
/// From this half-angle on a cap turns into all round.
constexpr double allRoundFrom_deg = 100.0;

/// Virtual sources over a cap: three rings, each for a third of the way to the rim. Their number does not depend on the
/// width, so that gains move smoothly with it.
constexpr int rings = 3;
constexpr int ringSources = 8;
constexpr int arcSources = 17;

} // namespace

Vbap::Vbap(std::span<const Speaker> speakers)
{
    for (std::size_t channel = 0; channel < speakers.size(); ++channel) {
        if (!speakers[channel].lowOnly) {
            points_.push_back(unitOf(speakers[channel].azimuth_deg, speakers[channel].elevation_deg));
            feeds_.push_back({channel});
            ring_ = ring_ && speakers[channel].elevation_deg == 0.0;
        }
    }
    realPoints_ = points_.size();
    if (ring_) {
        makeRing();
    } else {
        makeHull();
    }
}

void Vbap::addFace(std::array<std::size_t, 3> corners)
{
    const glm::dmat3 columns(points_[corners[0]], points_[corners[1]], points_[corners[2]]);
    if (std::abs(glm::determinant(columns)) < flat) {
        return;
    }
    const glm::dmat3 rows = glm::transpose(glm::inverse(columns));
    faces_.push_back({{rows[0], rows[1], rows[2]}, corners});
}

void Vbap::makeRing()
{
    std::vector<std::size_t> order(points_.size());
    for (std::size_t i = 0; i < order.size(); ++i) {
        order[i] = i;
    }
    const auto angle = [this](std::size_t i) { return std::atan2(points_[i].x, points_[i].y); };
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return angle(a) < angle(b); });
    // A pair and the zenith make a face like any other; on the horizon the zenith's share is 0.
    const std::size_t zenith = points_.size();
    points_.emplace_back(0.0, 0.0, 1.0);
    feeds_.emplace_back();
    for (std::size_t i = 0; i < order.size(); ++i) {
        addFace({order[i], order[(i + 1) % order.size()], zenith});
    }
}

void Vbap::makeHull()
{
    const std::size_t real = realPoints_;
    std::vector<std::vector<std::size_t>> flats;
    for (std::size_t a = 0; a < real; ++a) {
        for (std::size_t b = a + 1; b < real; ++b) {
            for (std::size_t c = b + 1; c < real; ++c) {
                Vec3 normal = glm::cross(points_[b] - points_[a], points_[c] - points_[a]);
                normal *= glm::dot(normal, points_[a]) < 0.0 ? -1.0 : 1.0;
                std::vector<std::size_t> inPlane;
                bool outermost = true;
                for (std::size_t d = 0; d < real && outermost; ++d) {
                    const double height = glm::dot(normal, points_[d] - points_[a]);
                    outermost = height <= flat;
                    if (std::abs(height) <= flat) {
                        inPlane.push_back(d);
                    }
                }
                const bool horizon = std::abs(points_[a].z) + std::abs(points_[b].z) + std::abs(points_[c].z) < flat;
                if (!outermost || horizon) {
                    continue;
                }
                if (inPlane.size() == 3) {
                    addFace({a, b, c});
                } else if (std::find(flats.begin(), flats.end(), inPlane) == flats.end()) {
                    flats.push_back(inPlane);
                }
            }
        }
    }
    for (const std::vector<std::size_t>& face : flats) {
        Vec3 middle{0.0};
        std::vector<std::size_t> channels;
        for (const std::size_t corner : face) {
            middle += points_[corner];
            channels.push_back(feeds_[corner].front());
        }
        const std::size_t imaginary = points_.size();
        points_.push_back(middle / static_cast<double>(face.size()));
        middle = glm::normalize(middle);
        feeds_.push_back(channels);
        std::vector<std::size_t> round = face;
        const Vec3 across = glm::normalize(points_[face[0]] - middle * glm::dot(middle, points_[face[0]]));
        const Vec3 along = glm::cross(middle, across);
        const auto angle = [&](std::size_t i) { return std::atan2(glm::dot(points_[i], along), glm::dot(points_[i], across)); };
        std::sort(round.begin(), round.end(), [&](std::size_t a, std::size_t b) { return angle(a) < angle(b); });
        for (std::size_t i = 0; i < round.size(); ++i) {
            addFace({round[i], round[(i + 1) % round.size()], imaginary});
        }
    }
}

void Vbap::add(const Vec3& unit, double weight, std::array<double, mostChannels>& sums) const
{
    const Face* best = nullptr;
    Vec3 bestGains{0.0};
    double bestLeast = -1e9;
    for (const Face& face : faces_) {
        const Vec3 g{glm::dot(face.inverse[0], unit), glm::dot(face.inverse[1], unit), glm::dot(face.inverse[2], unit)};
        const double least = std::min({g.x, g.y, g.z});
        if (least > bestLeast) {
            best = &face;
            bestLeast = least;
            bestGains = g;
            if (least >= 0.0) {
                break;
            }
        }
    }
    if (best == nullptr) {
        return;
    }
    std::array<double, mostChannels> found{};
    double power = 0.0;
    for (int i = 0; i < 3; ++i) {
        const std::vector<std::size_t>& feeds = feeds_[best->corners[static_cast<std::size_t>(i)]];
        for (const std::size_t channel : feeds) {
            found[channel] += std::max(bestGains[i], 0.0) / static_cast<double>(feeds.size());
        }
    }
    for (const double gain : found) {
        power += gain * gain;
    }
    const double scale = power > 0.0 ? weight / std::sqrt(power) : 0.0;
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        sums[channel] += scale * found[channel];
    }
}

ChannelGains Vbap::gains(const Vec3& direction, double width_deg) const
{
    Vec3 p = glm::normalize(direction);
    double half_deg = std::clamp(width_deg, 0.0, 360.0) / 2.0;
    if (ring_ || p.z < 0.0) {
        const double elevation_deg = degrees(std::asin(std::clamp(std::abs(p.z), 0.0, 1.0)));
        const double towardsPole = std::max(elevation_deg - openingFrom_deg, 0.0) / (90.0 - openingFrom_deg);
        half_deg += (180.0 - half_deg) * towardsPole * towardsPole * (3.0 - 2.0 * towardsPole);
        const double flatLength = std::hypot(p.x, p.y);
        p = flatLength > 0.0 ? Vec3{p.x / flatLength, p.y / flatLength, 0.0} : Vec3{0.0, 1.0, 0.0};
    }
    std::array<double, mostChannels> sums{};
    if (half_deg < 0.05) {
        add(p, 1.0, sums);
    } else if (ring_) {
        const double centre = std::atan2(p.x, p.y);
        for (int i = 0; i < arcSources; ++i) {
            const double a = centre + radians(half_deg) * (2.0 * i / (arcSources - 1) - 1.0);
            // The two ends of a full circle are one place.
            add({std::sin(a), std::cos(a), 0.0}, i == 0 || i == arcSources - 1 ? 0.5 : 1.0, sums);
        }
    } else {
        const Vec3 helper = std::abs(p.z) < 0.9 ? Vec3{0.0, 0.0, 1.0} : Vec3{1.0, 0.0, 0.0};
        const Vec3 across = glm::normalize(glm::cross(p, helper));
        const Vec3 up = glm::cross(across, p);
        for (int ring = 0; ring < rings; ++ring) {
            const double off = radians(half_deg) * (2.0 * ring + 1.0) / (2.0 * rings);
            for (int i = 0; i < ringSources; ++i) {
                const double a = 2.0 * std::numbers::pi * (i + 0.5) / ringSources;
                Vec3 v = p * std::cos(off) + (across * std::cos(a) + up * std::sin(a)) * std::sin(off);
                v.z = std::max(v.z, 0.0);
                // What points nearly straight down has no side: it counts the less, so that nothing flips.
                const double length = glm::length(v);
                if (length > 0.0) {
                    add(v / length, length * std::sin(off), sums);
                }
            }
        }
    }
    double power = 0.0;
    for (const double sum : sums) {
        power += sum * sum;
    }
    // The widest sounds have no direction: all loudspeakers alike.
    const double round = std::clamp((half_deg - allRoundFrom_deg) / (180.0 - allRoundFrom_deg), 0.0, 1.0);
    for (std::size_t point = 0; round > 0.0 && point < realPoints_; ++point) {
        double& sum = sums[feeds_[point].front()];
        sum = (1.0 - round) * sum / std::sqrt(power) + round / std::sqrt(static_cast<double>(realPoints_));
    }
    if (round > 0.0) {
        power = 0.0;
        for (const double sum : sums) {
            power += sum * sum;
        }
    }
    ChannelGains gains{};
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        gains[channel] = static_cast<float>(power > 0.0 ? sums[channel] / std::sqrt(power) : 0.0);
    }
    return gains;
}

} // namespace stone
