// SPDX-License-Identifier: MPL-2.0
#include "engine/echo_slots.h"

#include "dsp/decibel.h"
#include "engine/wide_gains.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Longer than any plan is on its way and than a reflection fades, in decisions; see reuseAfter.
constexpr std::uint64_t safeSteps = 256;
/// What the nearest reflection would be weaker than is not worth its taps.
constexpr double least_db = -75.0;
/// Rays are cast anew for a sound once in so many steps.
constexpr std::uint64_t turns = 8;
constexpr double nearest_m = 1.0;
constexpr double sameDirection = 0.9995; ///< the cosine of 1.8 degrees

double loudness_db(const Heard& heard)
{
    return heard.given_db - levelOf(std::max(heard.bearing.distance_m, nearest_m));
}

} // namespace

EchoSlots::EchoSlots(Layout layout, int rate) : layout_(layout), rate_(rate)
{
}

EchoSlots::Slot* EchoSlots::slotFor(std::uint64_t key, std::uint64_t step)
{
    Slot* fresh = nullptr;
    for (Slot& slot : slots_) {
        if (slot.used && slot.key == key) {
            return &slot;
        }
        if (!slot.used && slot.freeFrom <= step && fresh == nullptr) {
            fresh = &slot;
        }
    }
    if (fresh != nullptr) {
        if (!fresh->taps) {
            fresh->taps = std::make_unique<EchoTaps>(rate_);
        } else {
            fresh->taps->reset();
        }
        fresh->used = true;
        fresh->key = key;
        fresh->generation = nextGeneration_++;
        fresh->known = {};
        fresh->room = RoomMap::outside;
        fresh->lossFor_db.fill(-1.0);
    }
    return fresh;
}

const ChannelGains& EchoSlots::gainsFrom(const Vec3& from, std::uint32_t name, const std::vector<Aimed>& before,
                                         std::vector<Aimed>& now) const
{
    const auto known = std::find_if(before.begin(), before.end(), [&](const Aimed& a) { return a.name == name; });
    if (known != before.end() && glm::dot(known->from, from) > sameDirection) {
        now.push_back(*known);
    } else {
        now.push_back({name, from, gainsWithoutHead(layout_, from)});
    }
    return now.back().gains;
}

void EchoSlots::furnish(const HearingModel& model, const BandFilter::Designer& designer, const Heard& heard, const Ears& ears,
                        RoomField::Scratch& rooms, bool look, Slot& slot)
{
    const Reflections& reflections = model.reflections();
    // What was known of its walls is of another room, or of another scene: its loss has not been asked for again.
    if (slot.room != heard.room || slot.lossFor_db.front() < 0.0) {
        slot.room = heard.room;
        slot.known = {};
        look = true;
    }
    reflections.find(ears.at, heard.at, heard.room, rooms.open, look, scratch_, slot.known, found_);
    const Frame frame = frameOf(ears);
    const double direct_m = glm::length(heard.at - ears.at);
    const double gain = reflections.gain(heard.room);
    EchoOrder& order = slot.order;
    order.count = 0;
    aimed_.clear();
    for (const Reflection& reflection : found_) {
        const Vec3 way = reflection.image - ears.at;
        const Vec3 unit = frame.seen(way) / reflection.length_m;
        EchoTap& tap = order.taps[order.count++];
        tap.name = reflection.walls;
        tap.bounces = reflection.bounces;
        tap.delay = static_cast<float>(std::max(reflection.length_m - direct_m, 0.0) / speedOfSound_m_s * rate_);
        const ChannelGains& gains = gainsFrom(unit, reflection.walls, slot.aimed, aimed_);
        const auto at = static_cast<float>(gain * reflection.share / std::max(reflection.length_m, nearest_m));
        std::transform(gains.begin(), gains.end(), tap.gains.begin(), [at](float g) { return g * at; });
    }
    std::swap(slot.aimed, aimed_);
    if (const Bands& loss_db = reflections.loss_db(heard.room); loss_db != slot.lossFor_db) {
        slot.lossFor_db = loss_db;
        BandFilter::Levels_db levels{};
        std::transform(loss_db.begin(), loss_db.end(), levels.begin(), [](double db) { return -db; });
        slot.loss = designer(levels);
    }
    order.losses = {slot.loss, slot.loss};
}

void EchoSlots::decide(const HearingModel& model, const BandFilter::Designer& designer, std::span<const Candidate> candidates,
                       const Ears& ears, RoomField::Scratch& rooms, std::uint64_t step, StepPlan& plan)
{
    plan.echoes.clear();
    step_ = step;
    const Reflections& reflections = model.reflections();
    const std::uint32_t here = model.rooms().map().roomAt(ears.at);
    loudest_.clear();
    if (reflections.any(here)) {
        for (const Candidate& candidate : candidates) {
            if (candidate.heard->room == here && loudness_db(*candidate.heard) > least_db) {
                loudest_.push_back(candidate);
            }
        }
    }
    if (loudest_.size() > mostEchoing) {
        std::nth_element(loudest_.begin(), loudest_.begin() + mostEchoing, loudest_.end(),
                         [](const Candidate& a, const Candidate& b) {
                             const double la = loudness_db(*a.heard);
                             const double lb = loudness_db(*b.heard);
                             return la != lb ? la > lb : a.key < b.key;
                         });
        loudest_.resize(mostEchoing);
    }
    for (const Candidate& candidate : loudest_) {
        if (Slot* slot = slotFor(candidate.key, step)) {
            const bool look =
                slot->lastFed + 1 != step || (step + static_cast<std::uint64_t>(slot - slots_.data())) % turns == 0;
            furnish(model, designer, *candidate.heard, ears, rooms, look, *slot);
            slot->lastFed = step;
        }
    }
    const auto tail = static_cast<std::uint64_t>(EchoTaps::longest_s * rate_ / static_cast<double>(stepFrames)) + 2;
    for (std::uint32_t i = 0; i < slots_.size(); ++i) {
        Slot& slot = slots_[i];
        if (slot.used && step - slot.lastFed > tail) {
            slot.used = false;
            slot.key = nobody;
            slot.freeFrom = step + safeSteps;
        }
        if (slot.used) {
            slot.order.slot = i;
            slot.order.generation = slot.generation;
            slot.order.line = slot.taps.get();
            plan.echoes.push_back(slot.order);
        }
    }
}

VoiceSend EchoSlots::sendOf(std::uint64_t key, double given_db) const
{
    for (std::uint32_t i = 0; i < slots_.size(); ++i) {
        if (slots_[i].used && slots_[i].key == key) {
            // Not among the loudest any more: what has gone in rings out.
            return {i, slots_[i].lastFed == step_ ? static_cast<float>(gainOf(given_db)) : 0.0F};
        }
    }
    return {};
}

void EchoSlots::renumber(const std::function<std::optional<std::uint64_t>(std::uint64_t)>& now)
{
    scratch_ = {};
    for (Slot& slot : slots_) {
        if (slot.used) {
            slot.key = slot.key != nobody ? now(slot.key).value_or(nobody) : nobody;
            slot.room = RoomMap::outside;
            slot.known = {};
            slot.lossFor_db.fill(-1.0);
        }
    }
}

void EchoSlots::restart(std::uint64_t step)
{
    for (Slot& slot : slots_) {
        if (slot.used) {
            slot.used = false;
            slot.key = nobody;
            slot.freeFrom = step + safeSteps;
        }
    }
}

} // namespace stone
