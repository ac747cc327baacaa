#include "engine/room_slots.h"

#include "dsp/decibel.h"
#include "geometry/spread.h"
#include "spatial/panning.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Longer than any plan is on its way, and than a room fades.
constexpr std::uint64_t safeSteps = 64;
/// Shares of a room's energy below this are not worth a network (-75 dB, with the level of the room).
constexpr double leastEnergy = 3e-8;
/// In the headphones' bus a sound must be wide to be in it alone.
constexpr double busWidth_deg = 100.0;

/// Where the outputs of a network come from: evenly round the head, a little up and down in turn.
ChannelGains gainsAround(Layout layout, std::size_t output, double width)
{
    const double azimuth_deg = 360.0 * (static_cast<double>(output) + 0.5) / static_cast<double>(LateNetwork::surround);
    const Vec3 there = unitOf(wrapDegrees(azimuth_deg), output % 2 == 0 ? 25.0 : -10.0);
    const Vec3 mixed = there * width + Vec3{0.0, 1.0, 0.0} * (1.0 - width);
    const double length = glm::length(mixed);
    const Vec3 unit = length > 1e-6 ? mixed / length : Vec3{0.0, 1.0, 0.0};
    return directionGains(layout, layout == Layout::binaural ? unit * widthToLength(busWidth_deg) : unit);
}

bool sameRoom(const Room& a, const Room& b)
{
    return a.reverb == b.reverb && a.shape == b.shape;
}

} // namespace

RoomSlots::RoomSlots(Layout layout, int rate) : layout_(layout), rate_(rate)
{
}

void RoomSlots::release(Slot& slot, std::uint64_t step)
{
    if (slot.room) {
        old_.push_back({std::move(slot.design), step + safeSteps});
        slot.room.reset();
        slot.index = RoomMap::outside;
        slot.freeFrom = step + safeSteps;
    }
}

/// Works out what the room asks for; other line lengths make another network of it, and the old one fades.
void RoomSlots::furnish(const HearingModel& model, Slot& slot, std::uint64_t step)
{
    const auto& room = model.level().rooms[slot.index];
    const Reverb& reverb = room->reverb;
    auto design = std::make_shared<const LateNetwork::Design>(LateNetwork::design(
        reverb.rt60_s, std::max(model.rooms().map().volume_m3(slot.index), 1.0), reverb.preDelay_ms / 1000.0, rate_));
    if (slot.design) {
        old_.push_back({std::move(slot.design), step + safeSteps});
    }
    slot.design = std::move(design);
    slot.room = room;
    slot.tail_s = *std::max_element(reverb.rt60_s.begin(), reverb.rt60_s.end());
    for (std::size_t output = 0; output < slot.around.size(); ++output) {
        slot.around[output] = gainsAround(layout_, output, reverb.width);
    }
}

RoomSlots::Slot* RoomSlots::slotFor(const HearingModel& model, std::uint32_t room, std::uint64_t step)
{
    const auto& wanted = model.level().rooms[room];
    Slot* fresh = nullptr;
    for (Slot& slot : slots_) {
        if (slot.room && slot.index == room) {
            if (slot.room == wanted || sameRoom(*slot.room, *wanted)) {
                slot.room = wanted;
                return &slot;
            }
            const std::shared_ptr<const LateNetwork::Design> before = slot.design;
            furnish(model, slot, step);
            if (slot.design->delays == before->delays && slot.design->preDelay == before->preDelay) {
                return &slot;
            }
            // Other lines want another network; this one fades by what it had, which furnish() keeps.
            release(slot, step);
        }
        if (!slot.room && slot.freeFrom <= step && fresh == nullptr) {
            fresh = &slot;
        }
    }
    if (fresh == nullptr) {
        return nullptr;
    }
    if (!fresh->network) {
        fresh->network = std::make_unique<LateNetwork>(rate_);
    } else {
        fresh->network->reset();
    }
    fresh->index = room;
    fresh->generation = nextGeneration_++;
    fresh->lastHeard = step;
    furnish(model, *fresh, step);
    return fresh;
}

void RoomSlots::decide(const HearingModel& model, const BandFilter::Designer& designer, const std::vector<RoomHeard>& heard,
                       const Ears& ears, std::uint64_t step, StepPlan& plan)
{
    std::erase_if(old_, [step](const Old& old) { return old.until < step; });
    plan.rooms.clear();
    const Frame frame = frameOf(ears);
    for (const RoomHeard& room : heard) {
        if (room.share() * model.rooms().lateEnergy(room.room) > leastEnergy) {
            if (Slot* slot = slotFor(model, room.room, step)) {
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
                        .design = slot.design.get()};
        const auto found = std::find_if(heard.begin(), heard.end(), [&](const RoomHeard& h) { return h.room == slot.index; });
        if (found != heard.end()) {
            const double late = gainOf(slot.room->reverb.late_db);
            const auto surround = static_cast<float>(late * std::sqrt(found->surround));
            for (std::size_t output = 0; output < slot.around.size(); ++output) {
                std::transform(slot.around[output].begin(), slot.around[output].end(), order.around[output].begin(),
                               [surround](float gain) { return gain * surround; });
            }
            // One of the outputs, which has an eighth of the energy.
            const double window = late * std::sqrt(static_cast<double>(LateNetwork::surround) * found->window);
            const Vec3& way = found->towards;
            const Vec3 direction{glm::dot(way, frame.right), glm::dot(way, frame.ahead), glm::dot(way, frame.up)};
            const double length = glm::length(direction);
            const double most = widthToLength(busWidth_deg);
            const ChannelGains gains = directionGains(
                layout_, layout_ == Layout::binaural && length > most ? direction * (most / length) : direction);
            for (std::size_t channel = 0; channel < gains.size(); ++channel) {
                order.window[channel] = gains[channel] * static_cast<float>(window);
            }
            if (found->window > 0.0) {
                BandFilter::Levels_db levels{};
                for (std::size_t band = 0; band < levels.size(); ++band) {
                    levels[band] = -std::min(found->loss_db[band], 60.0);
                }
                order.losses = designer(levels);
            }
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
