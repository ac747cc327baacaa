#include "engine/voicing.h"

#include "dsp/decibel.h"
#include "geometry/spread.h"
#include "spatial/panning.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

bool hasImage(const Emitter& emitter)
{
    return emitter.kind == EmitterKind::bed || emitter.placement.channels == ChannelUse::image;
}

/// The samples of a voice and a gain that goes with the way they were folded.
std::pair<const std::vector<float>*, double> samplesOf(const Voicing& v)
{
    const auto& channels = v.audio.channels;
    if (hasImage(v.emitter)) {
        return {&channels[v.channel], 1.0};
    }
    switch (v.emitter.placement.channels) {
    case ChannelUse::left: return {&channels.front(), 1.0};
    case ChannelUse::right: return {&channels[std::min<std::size_t>(1, channels.size() - 1)], 1.0};
    case ChannelUse::equalPower: return {&v.audio.mono(), std::sqrt(static_cast<double>(channels.size()))};
    default: return {&v.audio.mono(), 1.0};
    }
}

/// Where one channel of an image comes from: beside the emitter's own direction, by the channel's place in the image.
/// An image that turns with its emitter closes as its side is turned to the ears, and opens the other way round behind.
Vec3 directionOf(const Voicing& v)
{
    const std::size_t count = v.audio.channels.size();
    if (v.emitter.placement.channels != ChannelUse::image || count < 2) {
        return v.heard.direction;
    }
    double widest = 0.0;
    const auto side = [count](std::size_t channel) {
        const auto unit = fileChannelDirection(channel, count);
        return unit ? std::atan2(unit->x, unit->y) : 0.0;
    };
    for (std::size_t channel = 0; channel < count; ++channel) {
        widest = std::max(widest, std::abs(side(channel)));
    }
    const Placement& placement = v.emitter.placement;
    const double turned = placement.imageTurns ? std::cos(radians(v.heard.offFront_deg)) : 1.0;
    const double offset = side(v.channel) / widest * radians(placement.image_deg) / 2.0 * turned;
    const Vec3& d = v.heard.direction;
    return {d.x * std::cos(offset) + d.y * std::sin(offset), d.y * std::cos(offset) - d.x * std::sin(offset), d.z};
}

} // namespace

std::size_t voicesOf(const Emitter& emitter, const SampleBuffer& audio)
{
    return hasImage(emitter) ? audio.channels.size() : 1;
}

void shapeVoice(const Voicing& v, VoiceOrder& order)
{
    const auto [samples, foldGain] = samplesOf(v);
    order.samples = samples->data();
    order.frames = static_cast<std::uint32_t>(samples->size());

    const double share = v.heard.worldShare;
    const std::size_t fileChannels = hasImage(v.emitter) ? v.audio.channels.size() : 1;
    double level = gainOf(v.heard.level_db) * foldGain;
    if (v.layout == Layout::mono && v.emitter.kind == EmitterKind::point) {
        level /= std::sqrt(static_cast<double>(fileChannels));
    }
    const Vec3 direction = directionOf(v);
    const ChannelGains world = share > 0.0 ? directionGains(v.layout, direction) : ChannelGains{};
    const Placement& placement = v.emitter.placement;
    const ChannelGains ears = share < 1.0 ? headGains(v.layout, v.channel, fileChannels,
                                                      unitOf(placement.earsAzimuth_deg, placement.earsElevation_deg))
                                          : ChannelGains{};
    const ChannelGains both = share >= 1.0 ? world : share <= 0.0 ? ears : blendGains(world, ears, share);
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        order.target[channel] = both[channel] * static_cast<float>(level);
    }
    order.head = v.head;
    const double length = glm::length(direction);
    if (v.layout == Layout::binaural && share > 0.0 && length > 0.0) {
        order.choice = v.head->choose(direction / length);
        order.target[headGain] =
            static_cast<float>(level * std::sqrt(share) * BinauralBus::pointShare(lengthToWidth_deg(length)));
    }
}

} // namespace stone
