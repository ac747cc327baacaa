// SPDX-License-Identifier: MPL-2.0
#include "world/planting.h"

#include "project/edit.h"
#include "world/carriage.h"
#include "world/level_edges.h"

#include <algorithm>
#include <functional>
#include <unordered_map>
#include <unordered_set>

namespace stone
{

namespace
{

bool plantable(EmitterKind kind)
{
    return kind == EmitterKind::point || kind == EmitterKind::area || kind == EmitterKind::sprinkle;
}

/// The rule without what says nothing of where its places are.
Plant placesAlone(Plant plant)
{
    plant.name.clear();
    plant.pattern = {};
    plant.offset = {};
    plant.turns = true;
    plant.turn_deg = 0.0;
    plant.tilt_deg = 0.0;
    plant.on = true;
    plant.exceptions.clear();
    plant.extras = {};
    return plant;
}

PlantSurroundings surroundingsOf(const Plant& plant, const Project& project, const Level& level,
                                 const std::shared_ptr<const Ground>& ground, Ways ways)
{
    PlantSurroundings around;
    around.seed = project.seed;
    around.ground = ground;
    around.ways = ways;
    if (needsEdges(plant.where)) {
        around.edges = edgesOf(level, ground.get(), ways);
    }
    if (!plant.zone.empty()) {
        around.zone = level.zones.share(plant.zone);
    }
    if (plant.where == Plant::Where::route) {
        const auto roamer = level.emitters.share(plant.roamer);
        around.roamer = roamer && roamer->kind == EmitterKind::roamer ? roamer : nullptr;
    }
    if (plant.where == Plant::Where::openings) {
        around.openings = level.openings;
    }
    return around;
}

/// How far a place may have moved for an exception to be of it still.
double sameWithin_m(const Plant& plant)
{
    constexpr double most_m = 1.0;
    const double spacing_m = goesAlong(plant.where) ? plant.every_m : plant.apart_m;
    return spacing_m > 0.0 ? std::min(spacing_m * 0.45, most_m) : most_m;
}

/// Which exception is of which place: by its key, else the nearest place that nobody claims.
std::vector<const OddCopy*> exceptionsByPlace(const Plant& plant, const std::vector<PlantSpot>& places)
{
    std::vector<const OddCopy*> by(places.size(), nullptr);
    if (plant.exceptions.empty()) {
        return by;
    }
    std::unordered_map<std::string, std::size_t> keys;
    for (std::size_t i = 0; i < places.size(); ++i) {
        keys.emplace(places[i].key, i);
    }
    std::vector<const OddCopy*> moved;
    for (const OddCopy& exception : plant.exceptions) {
        const auto found = keys.find(exception.copy);
        if (found != keys.end() && by[found->second] == nullptr) {
            by[found->second] = &exception;
        } else {
            moved.push_back(&exception);
        }
    }
    if (plant.where == Plant::Where::nodes || plant.where == Plant::Where::openings) {
        return by;
    }
    for (const OddCopy* exception : moved) {
        std::optional<std::size_t> nearest;
        double nearest_m = sameWithin_m(plant);
        for (std::size_t i = 0; i < places.size(); ++i) {
            const double distance_m = glm::distance(places[i].at, exception->at);
            if (by[i] == nullptr && distance_m < nearest_m) {
                nearest = i;
                nearest_m = distance_m;
            }
        }
        if (nearest) {
            by[*nearest] = exception;
        }
    }
    return by;
}

void makeCopies(PlantedRule& rule, const List<Emitter>& written)
{
    const Plant& plant = *rule.plant;
    const auto exceptions = exceptionsByPlace(plant, rule.spots->spots);
    const std::unordered_set<const OddCopy*> matched(exceptions.begin(), exceptions.end());
    for (const OddCopy& one : plant.exceptions) {
        if (!matched.contains(&one)) {
            rule.unmatched.push_back(one.copy);
        }
    }
    Emitter copy;
    static_cast<EmitterSettings&>(copy) = rule.pattern->settings;
    copy.pattern = rule.pattern->id;
    std::size_t number = 0;
    for (std::size_t i = 0; i < rule.spots->spots.size(); ++i) {
        PlantSpot place = rule.spots->spots[i];
        ++number;
        const OddCopy* exception = exceptions[i];
        if (exception != nullptr) {
            place.key = exception->copy;
            if (exception->leftOut) {
                ++rule.leftOut;
                continue;
            }
        }
        copy.id = copyId(plant.id, place.key);
        if (rule.loose && written.find(copy.id) != nullptr) {
            ++rule.leftOut; // somebody who was let loose stands there
            continue;
        }
        copy.name = plant.name + ' ' + std::to_string(number);
        copy.at = Carriage{place.at, place.heading_deg, true}.placed(plant.offset);
        copy.heading_deg = wrapDegrees((plant.turns ? place.heading_deg : 0.0) + plant.turn_deg);
        copy.tilt_deg = plant.tilt_deg;
        const bool ownLevel = exception != nullptr && exception->level_db;
        copy.level_db = ownLevel ? *exception->level_db : rule.pattern->settings.level_db;
        copy.own.set(static_cast<std::size_t>(Setting::level), ownLevel);
        rule.copies.push_back(std::make_shared<const Emitter>(copy));
        rule.places.push_back(std::move(place));
    }
}

const PlantedRule* ruleBefore(const Planted* before, const PlantId& id)
{
    if (before == nullptr) {
        return nullptr;
    }
    const auto found =
        std::find_if(before->rules.begin(), before->rules.end(), [&](const PlantedRule& rule) { return rule.plant->id == id; });
    return found != before->rules.end() ? &*found : nullptr;
}

PlantedRule planted(const std::shared_ptr<const Plant>& plant, const Project& project, const Level& level,
                    const std::shared_ptr<const Ground>& ground, Ways ways, const Planted* before)
{
    PlantedRule rule;
    rule.plant = plant;
    rule.pattern = project.patterns.share(plant->pattern);
    if (!plant->on) {
        rule.trouble = PlantTrouble::off;
    } else if (!rule.pattern) {
        rule.trouble = PlantTrouble::noPattern;
    } else if (!plantable(rule.pattern->settings.kind)) {
        rule.trouble = PlantTrouble::notPlantable;
    }
    rule.around = surroundingsOf(*plant, project, level, ground, ways);
    const PlantedRule* known = ruleBefore(before, plant->id);
    if (known != nullptr && known->spots && known->spots->settled && known->around == rule.around &&
        (known->plant == plant || placesAlone(*known->plant) == placesAlone(*plant))) {
        rule.spots = known->spots;
    } else {
        rule.spots = std::make_shared<const PlantSpots>(spotsOf(*plant, rule.around));
    }
    if (rule.trouble != PlantTrouble::none) {
        return rule;
    }
    rule.trouble = rule.spots->trouble;
    const std::string begins = copyId(plant->id, {}).text;
    rule.loose = std::any_of(level.emitters.begin(), level.emitters.end(),
                             [&](const auto& emitter) { return emitter->id.text.starts_with(begins); });
    if (known != nullptr && known->spots == rule.spots && known->plant == plant && known->pattern == rule.pattern &&
        !rule.loose && !known->loose) {
        rule.copies = known->copies;
        rule.places = known->places;
        rule.leftOut = known->leftOut;
        rule.unmatched = known->unmatched;
    } else {
        makeCopies(rule, level.emitters);
    }
    return rule;
}

/// The exception of a copy, which comes into being where there is none.
OddCopy& exceptionOf(Plant& rule, const PlantSpot& place)
{
    auto found =
        std::find_if(rule.exceptions.begin(), rule.exceptions.end(), [&](const OddCopy& one) { return one.copy == place.key; });
    if (found == rule.exceptions.end()) {
        found = rule.exceptions.insert(found, OddCopy{.copy = place.key, .level_db = {}, .extras = {}});
    }
    found->at = place.at;
    return *found;
}

Project withRule(Project project, const LevelId& level, const PlantId& id, const std::function<void(Plant&)>& change)
{
    return withLevel(std::move(project), level, [&](Level& changed) {
        if (const Plant* known = changed.plants.find(id)) {
            Plant rule = *known;
            change(rule);
            // What says nothing is not kept.
            std::erase_if(rule.exceptions,
                          [](const OddCopy& one) { return !one.leftOut && !one.level_db && one.extras.empty(); });
            changed.plants.put(std::move(rule));
        }
    });
}

} // namespace

std::optional<Planted::Copy> Planted::copyAt(std::uint32_t emitter) const
{
    for (std::size_t i = 0; i < rules.size(); ++i) {
        if (emitter >= rules[i].first && emitter - rules[i].first < rules[i].copies.size()) {
            return Copy{i, emitter - rules[i].first};
        }
    }
    return {};
}

std::optional<Planted::Copy> Planted::copyOf(const EmitterId& id) const
{
    const auto emitter = level().emitters.indexOf(id);
    return emitter ? copyAt(static_cast<std::uint32_t>(*emitter)) : std::nullopt;
}

std::shared_ptr<const Planted> plant(std::shared_ptr<const Project> document, const LevelId& levelId,
                                     const std::shared_ptr<const Ground>& ground, Ways ways, const Planted* before)
{
    Planted result;
    result.document = std::move(document);
    result.project = result.document;
    result.levelId = levelId;
    const Level& level = *result.document->levels.find(levelId);
    if (level.plants.empty()) {
        return std::make_shared<const Planted>(std::move(result));
    }
    Level grown = level;
    for (const auto& rule : level.plants) {
        result.rules.push_back(planted(rule, *result.document, level, ground, ways, before));
        result.rules.back().first = static_cast<std::uint32_t>(grown.emitters.size());
        for (const auto& copy : result.rules.back().copies) {
            grown.emitters.appendShared(copy);
        }
    }
    if (grown.emitters.size() > level.emitters.size()) {
        auto project = std::make_shared<Project>(*result.document);
        project->levels.put(std::move(grown));
        result.project = std::move(project);
    }
    return std::make_shared<const Planted>(std::move(result));
}

EmitterId copyId(const PlantId& plant, const std::string& key)
{
    return {plant.text + '@' + key};
}

std::string wordsOf(PlantTrouble trouble)
{
    switch (trouble) {
    case PlantTrouble::none: return {};
    case PlantTrouble::off: return "it is switched off";
    case PlantTrouble::noPattern: return "it has no pattern to copy; make one of an emitter, and choose it";
    case PlantTrouble::notPlantable:
        return "its pattern has no place of its own; only Points, Areas and Sprinkles can be planted";
    case PlantTrouble::noGeometry:
        return "it goes by the level's geometry, and there is none; bring in a level, or plant along a line or in a shape";
    case PlantTrouble::waits: return "the edges of the floor are still being looked for";
    case PlantTrouble::noRoamer: return "it goes along a Roamer's route, and there is no such Roamer; choose one";
    case PlantTrouble::tooMany:
        return "it would be more than " + std::to_string(mostPlanted) +
               "; let them be farther apart, or make the shape smaller";
    }
    return {};
}

Project withCopyLeftOut(Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place, bool leftOut)
{
    return withRule(std::move(project), level, plant, [&](Plant& rule) { exceptionOf(rule, place).leftOut = leftOut; });
}

Project withCopyLevel(Project project, const LevelId& level, const PlantId& plant, const PlantSpot& place,
                      const std::optional<double>& level_db)
{
    return withRule(std::move(project), level, plant, [&](Plant& rule) { exceptionOf(rule, place).level_db = level_db; });
}

Project withCopiesLoose(Project project, const Planted& planted, std::size_t which, const std::vector<std::size_t>& copies)
{
    const PlantedRule& planter = planted.rules[which];
    project = withRule(std::move(project), planted.levelId, planter.plant->id, [&](Plant& rule) {
        // All at once: thousands would look for each of theirs among thousands.
        std::unordered_map<std::string, std::size_t> known;
        for (std::size_t i = 0; i < rule.exceptions.size(); ++i) {
            known.emplace(rule.exceptions[i].copy, i);
        }
        for (const std::size_t copy : copies) {
            const PlantSpot& place = planter.places[copy];
            const auto [found, fresh] = known.try_emplace(place.key, rule.exceptions.size());
            if (fresh) {
                rule.exceptions.push_back(OddCopy{.copy = place.key, .level_db = {}, .extras = {}});
            }
            OddCopy& one = rule.exceptions[found->second];
            one.at = place.at;
            one.leftOut = true;
        }
    });
    return withLevel(std::move(project), planted.levelId, [&](Level& level) {
        for (const std::size_t copy : copies) {
            level.emitters.appendShared(planter.copies[copy]);
        }
    });
}

} // namespace stone
