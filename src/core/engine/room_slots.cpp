// SPDX-License-Identifier: MPL-2.0
#include "engine/room_slots.h"

#include "dsp/decibel.h"
#include "engine/steps.h"
#include "engine/wide_gains.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace stone
{

namespace
{

/// Longer than any plan is on its way and than a room fades, in decisions; see reuseAfter.
constexpr std::uint64_t designSafeSteps = 256;
/// Shares of a room's energy below this are not worth a network (-75 dB, with the level of the room).
constexpr double leastEnergy = 3e-8;

Vec3 widened(const Vec3& there, double width)
{
    const Vec3 mixed = there * width + Vec3{0.0, 1.0, 0.0} * (1.0 - width);
    const double length = glm::length(mixed);
    return length > 1e-6 ? mixed / length : Vec3{0.0, 1.0, 0.0};
}

/// Where the outputs of a network come from: evenly round the head, a little up and down in turn.
ChannelGains gainsAround(Layout layout, std::size_t output, double width)
{
    const double azimuth_deg = 360.0 * (static_cast<double>(output) + 0.5) / static_cast<double>(LateNetwork::surround);
    const Vec3 unit = widened(unitOf(wrapDegrees(azimuth_deg), output % 2 == 0 ? 25.0 : -10.0), width);
    return gainsWithoutHead(layout, unit);
}

constexpr std::array<double, RoomResponse::corners> corners_deg{-50.0, 50.0, -130.0, 130.0};

/// Where the outputs of a response come from: the corners round the head, or where the loudspeakers of its channels stand.
ChannelGains gainsOfResponse(Layout layout, std::size_t output, std::size_t channels, double width)
{
    const auto there = channels > RoomResponse::corners ? fileChannelDirection(output, channels)
                                                        : std::optional(unitOf(corners_deg[output], 0.0));
    return there ? directionGains(layout, widened(*there, width) * widthToLength(busWidth_deg)) : ChannelGains{};
}

} // namespace

RoomSlots::RoomSlots(Layout layout, int rate) : layout_(layout), rate_(rate)
{
}

void RoomSlots::release(Slot& slot, std::uint64_t step)
{
    if (slot.room) {
        old_.push_back({std::move(slot.asked), step + designSafeSteps});
        old_.push_back({std::move(slot.response), step + designSafeSteps});
        slot.room.reset();
        slot.index = RoomMap::outside;
        slot.freeFrom = step + designSafeSteps;
    }
}

/// One ear wants the channels as they are.
std::span<const UniformConvolver::Response> RoomSlots::outputsOf(const Slot& slot) const
{
    const auto outputs = slot.response->outputs();
    return layout_ == Layout::mono ? outputs.first(slot.response->channels()) : outputs;
}

/// From where the outputs come, and how loudly at the level of a diffuse field.
void RoomSlots::aim(const HearingModel& model, Slot& slot) const
{
    const double width = slot.room->reverb.width;
    slot.around = {};
    if (!slot.response) {
        for (std::size_t output = 0; output < slot.around.size(); ++output) {
            slot.around[output] = gainsAround(layout_, output, width);
        }
        // One of the outputs, which has an eighth of the energy.
        slot.windowGain = std::sqrt(static_cast<double>(LateNetwork::surround));
        return;
    }
    const double late = gainOf(slot.room->reverb.late_db);
    const double field = model.rooms().lateEnergy(slot.index) / (late * late);
    const auto outputs = outputsOf(slot);
    double power = 1e-12;
    for (std::size_t output = 0; output < outputs.size(); ++output) {
        power += slot.response->power(output);
    }
    const auto scaled = static_cast<float>(std::sqrt(field / power));
    for (std::size_t output = 0; output < outputs.size(); ++output) {
        const ChannelGains gains = gainsOfResponse(layout_, output, outputs.size(), width);
        std::transform(gains.begin(), gains.end(), slot.around[output].begin(), [scaled](float gain) { return gain * scaled; });
    }
    slot.windowGain = std::sqrt(field / std::max(slot.response->power(0), 1e-12));
}

/// Takes what the room asks for; other line lengths make another network of it, and the old one fades.
void RoomSlots::furnish(const Wanted& wanted, Slot& slot, std::uint64_t step)
{
    slot.room = wanted.model.level().rooms[slot.index];
    if (slot.room->reverb.tail == Tail::response) {
        slot.response = wanted.response(slot.index);
        slot.convolver = std::make_unique<UniformConvolver>(slot.response->outputs().front().partitions());
        slot.tail_s = slot.response->seconds() + slot.room->reverb.preDelay_ms / 1000.0;
    } else {
        if (slot.asked) {
            old_.push_back({std::move(slot.asked), step + designSafeSteps});
        }
        slot.asked = wanted.network(slot.index);
        slot.tail_s = *std::max_element(slot.asked->asked.rt60_s.begin(), slot.asked->asked.rt60_s.end());
    }
    aim(wanted.model, slot);
}

/// Whether what a slot has still makes the field that its room asks for.
bool RoomSlots::goesOn(const Wanted& wanted, const Slot& slot) const
{
    const Room& now = *wanted.model.level().rooms[slot.index];
    const Reverb& before = slot.room->reverb;
    const bool alike =
        before.tail == now.reverb.tail && before.preDelay_ms == now.reverb.preDelay_ms && slot.room->shape == now.shape;
    return alike && (slot.response ? slot.response == wanted.response(slot.index) : slot.asked == wanted.network(slot.index));
}

/// Whether what a room asks for is there: a response that is still being read is not.
bool RoomSlots::ready(const Wanted& wanted, std::uint32_t room) const
{
    if (wanted.model.level().rooms[room]->reverb.tail == Tail::response) {
        return wanted.response(room) != nullptr;
    }
    const SharedNetwork network = wanted.network(room);
    return network != nullptr && network->asked.rate == rate_;
}

RoomSlots::Slot* RoomSlots::slotFor(const Wanted& wanted, std::uint32_t room, std::uint64_t step)
{
    const auto& now = wanted.model.level().rooms[room];
    Slot* fresh = nullptr;
    for (Slot& slot : slots_) {
        if (slot.room && slot.index == room) {
            if (slot.room == now) {
                return &slot;
            }
            if (goesOn(wanted, slot)) {
                slot.room = now;
                aim(wanted.model, slot);
                return &slot;
            }
            if (!slot.response && now->reverb.tail == Tail::network && ready(wanted, room)) {
                const SharedNetwork before = slot.asked;
                furnish(wanted, slot, step);
                if (slot.asked->design.delays == before->design.delays &&
                    slot.asked->design.preDelay == before->design.preDelay) {
                    return &slot;
                }
            }
            // What is of another kind or has other lines wants a slot of its own; this one fades by what it had.
            release(slot, step);
        }
        if (!slot.room && slot.freeFrom <= step && fresh == nullptr) {
            fresh = &slot;
        }
    }
    if (fresh == nullptr || !ready(wanted, room)) {
        return nullptr;
    }
    fresh->index = room;
    fresh->generation = nextGeneration_++;
    fresh->lastHeard = step;
    furnish(wanted, *fresh, step);
    if (!fresh->response) {
        if (!fresh->network) {
            fresh->network = std::make_unique<LateNetwork>(rate_);
        } else {
            fresh->network->reset();
        }
    }
    return fresh;
}

/// What of a room is heard, as gains.
void RoomSlots::fillIn(Slot& slot, const RoomHeard& heard, const BandFilter::Designer& designer, const Frame& frame,
                       RoomOrder& order) const
{
    const double late = gainOf(slot.room->reverb.late_db);
    const auto surround = static_cast<float>(late * std::sqrt(heard.surround));
    for (std::size_t output = 0; output < slot.around.size(); ++output) {
        std::transform(slot.around[output].begin(), slot.around[output].end(), order.around[output].begin(),
                       [surround](float gain) { return gain * surround; });
    }
    const auto window = static_cast<float>(late * slot.windowGain * std::sqrt(heard.window));
    const Vec3& way = heard.towards;
    const Vec3 direction = frame.seen(way);
    const double length = glm::length(direction);
    const double most = widthToLength(busWidth_deg);
    const ChannelGains gains =
        directionGains(layout_, layout_ == Layout::binaural && length > most ? direction * (most / length) : direction);
    std::transform(gains.begin(), gains.end(), order.window.begin(), [window](float gain) { return gain * window; });
    if (heard.window > 0.0 && !sameLosses(heard.loss_db, slot.lossFor_db)) {
        BandFilter::Levels_db levels{};
        std::transform(heard.loss_db.begin(), heard.loss_db.end(), levels.begin(),
                       [](double loss) { return -std::min(loss, 60.0); });
        slot.losses = designer(levels);
        slot.lossFor_db = heard.loss_db;
    }
    order.losses = slot.losses;
}

void RoomSlots::decide(const Wanted& wanted, const BandFilter::Designer& designer, const std::vector<RoomHeard>& heard,
                       const Ears& ears, std::uint64_t step, StepPlan& plan)
{
    std::erase_if(old_, [step](const Old& old) { return old.until < step; });
    plan.rooms.clear();
    const Frame frame = frameOf(ears);
    for (const RoomHeard& room : heard) {
        if (room.share() * wanted.model.rooms().lateEnergy(room.room) > leastEnergy) {
            if (Slot* slot = slotFor(wanted, room.room, step)) {
                slot->lastHeard = step;
            }
        }
    }
    for (std::uint32_t i = 0; i < slots_.size(); ++i) {
        Slot& slot = slots_[i];
        if (!slot.room) {
            continue;
        }
        const double silent_s = static_cast<double>((step - slot.lastHeard) * stepFrames) / rate_;
        if (silent_s > slot.tail_s) {
            release(slot, step);
            continue;
        }
        RoomOrder order{.slot = i,
                        .generation = slot.generation,
                        .network = slot.network.get(),
                        .design = slot.asked ? &slot.asked->design : nullptr};
        if (slot.response) {
            order.convolver = slot.convolver.get();
            order.responses = outputsOf(slot);
            order.responseDelay = static_cast<std::size_t>(slot.room->reverb.preDelay_ms / 1000.0 * rate_);
        }
        const auto found = std::find_if(heard.begin(), heard.end(), [&](const RoomHeard& h) { return h.room == slot.index; });
        if (found != heard.end()) {
            fillIn(slot, *found, designer, frame, order);
        }
        plan.rooms.push_back(order);
    }
}

std::array<VoiceSend, mostSends> RoomSlots::sendsOf(const RoomSends& sends) const
{
    std::array<VoiceSend, mostSends> made{};
    for (std::size_t i = 0; i < sends.size(); ++i) {
        for (std::uint32_t slot = 0; slot < slots_.size() && sends[i].room != RoomMap::outside; ++slot) {
            if (slots_[slot].room && slots_[slot].index == sends[i].room) {
                made[i] = {slot, static_cast<float>(gainOf(sends[i].level_db))};
            }
        }
    }
    return made;
}

void RoomSlots::renumber(const Level& level)
{
    for (Slot& slot : slots_) {
        if (!slot.room) {
            continue;
        }
        const auto found =
            std::find_if(level.rooms.begin(), level.rooms.end(), [&](const auto& room) { return room->id == slot.room->id; });
        // Gone, it dies away unheard.
        slot.index = found != level.rooms.end() ? static_cast<std::uint32_t>(found - level.rooms.begin()) : RoomMap::outside;
    }
}

void RoomSlots::restart(std::uint64_t step)
{
    for (Slot& slot : slots_) {
        release(slot, step);
    }
}

} // namespace stone
