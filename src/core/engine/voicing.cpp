// SPDX-License-Identifier: MPL-2.0
#include "engine/voicing.h"

#include "dsp/decibel.h"
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

/// What fills a space opens its image into it: each channel goes from the space's direction to its own.
Vec3 openedDirection(const Voicing& v)
{
    const auto own = v.voices > 1 ? fileChannelDirection(v.voice, v.voices) : std::nullopt;
    if (!own || v.heard.opened <= 0.0) {
        return v.heard.direction;
    }
    const double turn = radians(v.heard.imageTurn_deg);
    const Vec3 turned{own->x * std::cos(turn) + own->y * std::sin(turn), own->y * std::cos(turn) - own->x * std::sin(turn),
                      own->z};
    return v.heard.direction + turned * v.heard.opened;
}

/// Where one channel of an image comes from: beside the emitter's own direction, by the channel's place in the image.
/// An image that turns with its emitter closes as its side is turned to the ears, and opens the other way round behind.
Vec3 directionOf(const Voicing& v)
{
    if (v.emitter.kind == EmitterKind::bed || v.emitter.kind == EmitterKind::area) {
        return openedDirection(v);
    }
    const std::size_t count = v.voices;
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
    const double offset = side(v.voice) / widest * radians(placement.image_deg) / 2.0 * turned;
    const Vec3& d = v.heard.direction;
    return {d.x * std::cos(offset) + d.y * std::sin(offset), d.y * std::cos(offset) - d.x * std::sin(offset), d.z};
}

} // namespace

std::size_t voicesOf(const Emitter& emitter, const SampleBuffer& audio, bool binaural)
{
    return binaural || hasImage(emitter) ? audio.channelCount() : 1;
}

ChannelPick pickOf(const Emitter& emitter, const SampleBuffer& audio, std::size_t voice, bool binaural)
{
    const std::size_t channels = audio.channelCount();
    if (binaural || hasImage(emitter)) {
        return {voice, 1.0};
    }
    switch (emitter.placement.channels) {
    case ChannelUse::left: return {0, 1.0};
    case ChannelUse::right: return {std::min<std::size_t>(1, channels - 1), 1.0};
    case ChannelUse::equalPower: return {{}, std::sqrt(static_cast<double>(channels))};
    default: return {{}, 1.0};
    }
}

void shapeVoice(const Voicing& v, VoiceOrder& order)
{
    const double share = v.heard.worldShare;
    double level = gainOf(v.heard.level_db + v.level_db);
    if (v.layout == Layout::mono && v.emitter.kind != EmitterKind::bed) {
        level /= std::sqrt(static_cast<double>(v.voices));
    }
    const Vec3 direction = directionOf(v);
    const ChannelGains world = share > 0.0 ? directionGains(v.layout, direction) : ChannelGains{};
    const Placement& placement = v.emitter.placement;
    ChannelGains ears{};
    if (share < 1.0 && v.voices == 1 && !placement.earsSpeaker.empty()) {
        ears = speakerGains(v.layout, placement.earsSpeaker);
    } else if (share < 1.0) {
        ears = headGains(v.layout, v.voice, v.voices, unitOf(placement.earsAzimuth_deg, placement.earsElevation_deg));
    }
    const ChannelGains both = share >= 1.0 ? world : share <= 0.0 ? ears : blendGains(v.layout, world, ears, share);
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        order.target[channel] = both[channel] * static_cast<float>(level);
    }
    order.head = v.head;
    const double length = glm::length(direction);
    if (v.layout == Layout::binaural && share > 0.0 && length > 0.0) {
        order.choice = v.head->choose(direction / length);
        order.target[headGain] = static_cast<float>(level * std::sqrt(share) * BinauralBus::pointShare(length));
    }
}

} // namespace stone
