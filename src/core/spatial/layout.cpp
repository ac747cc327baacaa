// SPDX-License-Identifier: MPL-2.0
#include "spatial/layout.h"

#include <cmath>

namespace stone
{

namespace
{

constexpr Speaker stereoSpeakers[] = {{"L", -30, 0}, {"R", 30, 0}};
constexpr Speaker quadSpeakers[] = {{"L", -45, 0}, {"R", 45, 0}, {"Ls", -135, 0}, {"Rs", 135, 0}};
constexpr Speaker speakers51[] = {{"L", -30, 0},       {"R", 30, 0},    {"C", 0, 0},
                                  {"LFE", 0, 0, true}, {"Ls", -110, 0}, {"Rs", 110, 0}};
constexpr Speaker speakers71[] = {{"L", -30, 0},    {"R", 30, 0},    {"C", 0, 0},     {"LFE", 0, 0, true},
                                  {"Lrs", -135, 0}, {"Rrs", 135, 0}, {"Lss", -90, 0}, {"Rss", 90, 0}};
constexpr Speaker speakers714[] = {{"L", -30, 0},    {"R", 30, 0},    {"C", 0, 0},       {"LFE", 0, 0, true},
                                   {"Lrs", -135, 0}, {"Rrs", 135, 0}, {"Lss", -90, 0},   {"Rss", 90, 0},
                                   {"Ltf", -45, 30}, {"Rtf", 45, 30}, {"Ltr", -135, 30}, {"Rtr", 135, 30}};

struct Entry {
    const char* name;
    std::size_t channels;
    std::span<const Speaker> speakers;
    int order = 0;
};

constexpr std::array<Entry, layoutCount> entries{{{"mono", 1, {}},
                                                  {"stereo", 2, stereoSpeakers},
                                                  {"binaural", 2, {}},
                                                  {"quad", 4, quadSpeakers},
                                                  {"5.1", 6, speakers51},
                                                  {"7.1", 8, speakers71},
                                                  {"7.1.4", 12, speakers714},
                                                  {"ambix1", 4, {}, 1},
                                                  {"ambix2", 9, {}, 2},
                                                  {"ambix3", 16, {}, 3}}};

const Entry& entryOf(Layout layout)
{
    return entries[static_cast<std::size_t>(layout)];
}

} // namespace

std::size_t channelsOf(Layout layout)
{
    return entryOf(layout).channels;
}

const char* nameOf(Layout layout)
{
    return entryOf(layout).name;
}

int ambisonicOrder(Layout layout)
{
    return entryOf(layout).order;
}

std::span<const Speaker> speakersOf(Layout layout)
{
    return entryOf(layout).speakers;
}

std::optional<Speaker> speakerNamed(std::string_view name)
{
    for (const std::span<const Speaker> speakers :
         {std::span<const Speaker>(speakers51), std::span<const Speaker>(speakers714)}) {
        for (const Speaker& speaker : speakers) {
            if (name == speaker.name) {
                return speaker;
            }
        }
    }
    return {};
}

std::optional<Layout> layoutNamed(std::string_view name)
{
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (name == entries[i].name) {
            return static_cast<Layout>(i);
        }
    }
    return {};
}

std::string layoutNames()
{
    std::string names;
    for (const Entry& entry : entries) {
        names += (names.empty() ? "" : ", ") + std::string(entry.name);
    }
    return names;
}

Vec3 unitOf(double azimuth_deg, double elevation_deg)
{
    const double azimuth = radians(azimuth_deg);
    const double elevation = radians(elevation_deg);
    return {std::sin(azimuth) * std::cos(elevation), std::cos(azimuth) * std::cos(elevation), std::sin(elevation)};
}

std::optional<Vec3> fileChannelDirection(std::size_t channel, std::size_t count)
{
    if (count == 1) {
        return unitOf(0.0, 0.0);
    }
    for (const Layout layout : {Layout::stereo, Layout::quad, Layout::surround51, Layout::surround71, Layout::surround714}) {
        if (channelsOf(layout) == count) {
            const Speaker& speaker = speakersOf(layout)[channel];
            return speaker.lowOnly ? std::nullopt : std::optional(unitOf(speaker.azimuth_deg, speaker.elevation_deg));
        }
    }
    return unitOf(360.0 * (static_cast<double>(channel) + 0.5) / static_cast<double>(count), 0.0);
}

} // namespace stone
