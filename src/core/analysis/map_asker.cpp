// SPDX-License-Identifier: MPL-2.0
#include "analysis/map_asker.h"

#include "analysis/masking.h"
#include "dsp/decibel.h"
#include "geometry/solid.h"
#include "world/carriage.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace stone
{

namespace
{

/// What is left out of a sum may be this part of it: 0.043 dB.
constexpr double leftOut = 0.01;
/// Less than this is nothing: -100 dB, far below what is audible.
constexpr double nothing = 1e-10;

double asLevel_db(double power)
{
    return power > nothing ? 10.0 * std::log10(power) : MapCell::silent_db;
}

} // namespace

MapAsker::MapAsker(const HearingModel& model, MapQuestion question)
    : model_(&model), question_(std::move(question)), counts_(model.level().emitters.size(), question_.which.empty())
{
    for (const std::uint32_t index : question_.which) {
        counts_.at(index) = true;
    }
    const bool starts = question_.state != nullptr && !question_.mean;
    canCrowd_ = starts ? model.mayCrowd() : model.mayCrowdForEver();
    for (std::uint32_t index = 0; question_.mean && index < counts_.size(); ++index) {
        if (counts_[index] && isIrregular(model.world(), index)) {
            const Emitter& emitter = *model.level().emitters[index];
            irregular_.push_back(
                {.index = index,
                 .zone = emitter.kind == EmitterKind::sprinkle ? model.world().zones().indexOf(emitter.zone) : std::nullopt,
                 .places = meanPlaces(model.world(), index)});
            mostPlaces_ += irregular_.back().places.size();
        }
    }
}

/// Whether it is one of the places over which something is spread.
bool MapAsker::isSpread(const Scratch::Candidate& one)
{
    return one.start->part == Start::Part::burst && !one.listed;
}

Moment MapAsker::momentAt(const Pose& ears, Scratch& scratch) const
{
    Moment moment(Ears(ears), question_.when);
    moment.feet.at.z = ears.at.z - model_->level().character.earsHeight_m;
    if (question_.state != nullptr) {
        if (!scratch.begun) {
            scratch.state = *question_.state;
            if (question_.mean) {
                scratch.state.starts.clear();
            }
            scratch.begun = true;
        }
        scratch.state.zones.clear();
        model_->world().zonesAt(moment, scratch.state.zones);
        moment.state = &scratch.state;
    }
    return moment;
}

/// Everything that may be heard there, as loudly as it were without walls.
void MapAsker::gather(const Moment& moment, Scratch& scratch) const
{
    const World& world = model_->world();
    scratch.candidates.clear();
    scratch.near.clear();
    model_->near(moment.ears.at, scratch.near);
    scratch.hear.withoutWalls = true;
    const auto add = [&](std::uint32_t index, const Start& start, bool listed) {
        Heard heard = model_->hearStart(moment, index, start, scratch.hear);
        const double bound = powerOf(-heard.level_db);
        if (bound > nothing) {
            scratch.candidates.push_back({index, &start, 1.0, listed, bound, heard});
        }
    };
    for (const std::uint32_t index : scratch.near) {
        const bool meant = question_.mean && isIrregular(world, index);
        if (!counts_[index] || meant) {
            continue;
        }
        if (world.simple(index)) {
            add(index, world.simpleStart(index), true);
        } else if ((question_.mean || moment.state == nullptr) && !givesShots(model_->level().emitters[index]->kind)) {
            add(index, world.simpleStart(index), false); // what waits for its start, as if it sounded
        }
    }
    if (moment.state != nullptr) {
        for (const Start& start : moment.state->starts) {
            if (counts_[start.emitter]) {
                add(start.emitter, start, true);
            }
        }
    }
    gatherIrregular(moment, scratch);
    scratch.hear.withoutWalls = false;
}

void MapAsker::gatherIrregular(const Moment& moment, Scratch& scratch) const
{
    const World& world = model_->world();
    scratch.placed.clear();
    scratch.placed.reserve(mostPlaces_); // pointers into it stay good
    const ZonesAt& zones = moment.state != nullptr ? moment.state->zones : scratch.hear.zones;
    for (const Irregular& one : irregular_) {
        if (one.zone && !world.zones().sprinklesIn(*one.zone, zones)) {
            continue;
        }
        const Emitter& emitter = *model_->level().emitters[one.index];
        const bool keepsIn = one.zone && emitter.sprinkling.insideZone;
        for (const MeanPlace& place : one.places) {
            const Vec3 at = place.follows ? moment.feet.at + place.at : place.at;
            if (glm::length(at - moment.ears.at) > model_->reach_m(one.index)) {
                continue;
            }
            if (keepsIn) {
                const Carriage home = world.carriageOf(world.zones().zone(*one.zone).riding, moment);
                if (!world.zones().solid(*one.zone).contains(home.own(at))) {
                    continue;
                }
            }
            // A part that is heard where the start says, whatever its emitter does.
            scratch.placed.push_back({.emitter = one.index,
                                      .part = Start::Part::burst,
                                      .playable = world.playableOf(one.index).value_or(Start::nothing),
                                      .at = at});
            Heard heard = model_->hearStart(moment, one.index, scratch.placed.back(), scratch.hear);
            const double bound = place.share * powerOf(-heard.level_db);
            if (bound > nothing) {
                scratch.candidates.push_back({one.index, &scratch.placed.back(), place.share, false, bound, heard});
            }
        }
    }
}

/// Each as it is heard, with everybody round it, so that it is known who gives way.
void MapAsker::hearAllOf(const Moment& moment, Scratch& scratch) const
{
    model_->hear(moment, scratch.all, scratch.hear);
    for (Scratch::Candidate& one : scratch.candidates) {
        const auto known = std::find_if(scratch.all.begin(), scratch.all.end(), [&](const Heard& heard) {
            return heard.index == one.index && heard.start.key() == one.start->key();
        });
        one.heard =
            one.listed && known != scratch.all.end() ? *known : model_->hearStart(moment, one.index, *one.start, scratch.hear);
    }
}

/// The walls of those that can count, the loudest first; the others are left out.
void MapAsker::hearLoudOnes(const Moment& moment, Scratch& scratch) const
{
    auto& loud = scratch.counting;
    std::sort(loud.begin(), loud.end(), [](const auto* a, const auto* b) { return a->bound > b->bound; });
    double left = std::accumulate(loud.begin(), loud.end(), 0.0, [](double sum, const auto* one) { return sum + one->bound; });
    double sum = 0.0;
    std::size_t heard = 0;
    for (; heard < loud.size() && left > std::max(leftOut * sum, nothing); ++heard) {
        Scratch::Candidate& one = *loud[heard];
        left -= one.bound;
        model_->addWalls(moment, one.heard, scratch.hear);
        sum += one.share * powerOf(-one.heard.level_db);
    }
    loud.resize(heard);
}

void MapAsker::lookForMasked(const Scratch& scratch, MapCell& cell) const
{
    std::vector<Bands> levels;
    BandEnergies all;
    for (const Scratch::Candidate* const candidate : scratch.counting) {
        const Scratch::Candidate& one = *candidate;
        Bands level = model_->bands_db(one.heard);
        const std::uint32_t playable = one.start->playable;
        for (std::size_t band = 0; band < level.size(); ++band) {
            level[band] += playable < question_.masking_db.size() ? question_.masking_db[playable][band] : -200.0;
            level[band] += 10.0 * std::log10(std::max(one.share, 1e-20));
        }
        all.add(level);
        levels.push_back(level);
    }
    double deepest_db = -maskedBelow_db;
    for (std::size_t i = 0; i < levels.size(); ++i) {
        const Scratch::Candidate& one = *scratch.counting[i];
        // How loud something is in the mean is not how loud it is when it is there: it masks, but is not masked.
        if (model_->priority(one.index) < Priority::notable || !one.heard.audible || isSpread(one)) {
            continue;
        }
        const double stands_db = standsOut_db(levels[i], all.without_db(levels[i]));
        if (!std::isfinite(stands_db) || stands_db >= deepest_db) {
            continue;
        }
        deepest_db = stands_db;
        cell.masked = one.index;
        cell.maskedBy = scratch.counting[maskerOf(levels, i)]->index;
    }
}

MapCell MapAsker::addUp(const Scratch& scratch) const
{
    MapCell cell;
    double power = 0.0;
    double reverb = 0.0;
    // Places of one emitter are one sound.
    std::uint32_t last = MapCell::nobody;
    double ofLast = 0.0;
    const auto rank = [&] {
        const double level_db = asLevel_db(ofLast);
        if (last == MapCell::nobody || level_db <= cell.second_db) {
            return;
        }
        if (level_db > cell.loudest_db) {
            cell.second = std::exchange(cell.loudest, last);
            cell.second_db = std::exchange(cell.loudest_db, level_db);
        } else {
            cell.second = last;
            cell.second_db = level_db;
        }
    };
    for (const Scratch::Candidate* const candidate : scratch.counting) {
        const Scratch::Candidate& one = *candidate;
        const double own = std::isfinite(one.heard.level_db) ? one.share * powerOf(-one.heard.level_db) : 0.0;
        power += own;
        reverb += question_.voices && one.heard.reverb_db > -199.0 ? one.share * powerOf(-one.heard.reverb_db) : 0.0;
        // Copies count each, the places of something that is spread once.
        const bool another = one.index != last;
        cell.voices += question_.voices && one.heard.audible && (another || !isSpread(one)) ? 1 : 0;
        if (another) {
            rank();
            last = one.index;
            ofLast = 0.0;
        }
        ofLast += own;
    }
    rank();
    cell.level_db = asLevel_db(power);
    cell.reverb_db = asLevel_db(reverb);
    return cell;
}

MapCell MapAsker::ask(const Pose& ears, Scratch& scratch) const
{
    const bool whole = question_.voices || !question_.masking_db.empty();
    const Moment moment = momentAt(ears, scratch);
    scratch.hear.walls.keepsSources = true;
    scratch.hear.withoutGaze = !question_.gaze;
    scratch.hear.withoutRooms = !whole;
    scratch.hear.withoutDirections = true;
    model_->ready(moment, scratch.hear);
    gather(moment, scratch);
    scratch.counting.resize(scratch.candidates.size());
    std::transform(scratch.candidates.begin(), scratch.candidates.end(), scratch.counting.begin(),
                   [](auto& one) { return &one; });
    if (whole || (canCrowd_ && model_->crowded(moment, scratch.near))) {
        scratch.hear.withoutRooms = false;
        hearAllOf(moment, scratch);
    } else {
        hearLoudOnes(moment, scratch);
    }
    // One emitter's places together, whatever the order was.
    std::stable_sort(scratch.counting.begin(), scratch.counting.end(),
                     [](const auto* a, const auto* b) { return a->index < b->index; });
    MapCell cell = addUp(scratch);
    if (!question_.masking_db.empty()) {
        lookForMasked(scratch, cell);
    }
    return cell;
}

} // namespace stone
