#include "spatial/layout.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

struct Entry {
    Layout layout;
    const char* name;
    std::size_t channels;
};
constexpr Entry entries[] = {{Layout::mono, "mono", 1}, {Layout::stereo, "stereo", 2}};

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

std::optional<Layout> layoutNamed(std::string_view name)
{
    for (const Entry& entry : entries) {
        if (name == entry.name) {
            return entry.layout;
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

ChannelGains stereoPan(double pan)
{
    const double angle = (std::clamp(pan, -1.0, 1.0) + 1.0) * std::numbers::pi / 4.0;
    return {static_cast<float>(std::cos(angle)), static_cast<float>(std::sin(angle))};
}

ChannelGains directionGains(Layout layout, const Vec3& direction)
{
    if (layout == Layout::mono) {
        return {1.0F, 0.0F};
    }
    const double lateral = std::asin(std::clamp(direction.x, -1.0, 1.0));
    return stereoPan(lateral / (std::numbers::pi / 2.0));
}

ChannelGains bedGains(Layout layout, std::size_t fileChannel, std::size_t fileChannels)
{
    if (layout == Layout::mono) {
        // Channels of a bed are unlike each other: energies add, so each gets its share of the power.
        return {static_cast<float>(1.0 / std::sqrt(static_cast<double>(fileChannels))), 0.0F};
    }
    if (fileChannels == 1 || fileChannel > 1) {
        return stereoPan(0.0);
    }
    return fileChannel == 0 ? ChannelGains{1.0F, 0.0F} : ChannelGains{0.0F, 1.0F};
}

} // namespace stone
