// SPDX-License-Identifier: MPL-2.0
#include "analysis/ambience_findings.h"

#include "analysis/looped.h"
#include "analysis/words.h"
#include "geometry/polygon.h"
#include "hearing/model.h"
#include "project/edit.h"
#include "world/carriage.h"
#include "world/reach.h"
#include "world/walk_pose.h"
#include "world/world.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr double hardFade_m = 0.5; ///< a parent that is gone within less is cut off
constexpr double overlap_m = 1.0;  ///< zones that reach into each other by less only touch
constexpr double gap_m = 6.0;      ///< zones farther apart than this are no neighbours
constexpr double regular = 0.05;   ///< least and most that differ by less of themselves are a rhythm
constexpr double silence = -std::numeric_limits<double>::infinity();
constexpr std::size_t mostPlaces = 24; ///< at which steps are compared with everything else
constexpr int looks = 9;               ///< places along each side of a box at which shapes are compared

/// What is said of a thing, with its name in place of a first "it".
std::string sentence(const std::string& name, const std::string& what)
{
    return quoted(name) + (what.starts_with("it ") ? what.substr(2) : ": " + what);
}

/// Looks at one level.
class Ambience
{
public:
    Ambience(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, Loading loading,
             LoudnessOf loudnessOf, std::vector<Finding>& found)
        : project_(project), level_(level), loudnessOf_(std::move(loudnessOf)), mesh_(ground ? &ground->mesh() : nullptr),
          world_(std::make_shared<const Project>(project), level.id, ground, {},
                 loading == Loading::now ? Ways::find : Ways::foundOnly),
          found_(found)
    {
    }

    void run()
    {
        lookAtZones();
        for (std::uint32_t i = 0; i < level_.emitters.size(); ++i) {
            const Emitter& emitter = *level_.emitters[i];
            if (emitter.muted) {
                continue;
            }
            lookAtReferences(emitter);
            lookAtStart(emitter);
            switch (emitter.kind) {
            case EmitterKind::bed: lookAtBed(emitter); break;
            case EmitterKind::area: lookAtArea(emitter); break;
            case EmitterKind::sprinkle: lookAtSprinkle(emitter); break;
            case EmitterKind::roamer: lookAtRoamer(emitter, i); break;
            case EmitterKind::steps: lookAtSteps(emitter, i); break;
            case EmitterKind::pulse: lookAtPulse(emitter); break;
            case EmitterKind::point: break;
            }
        }
    }

private:
    void add(const Emitter& emitter, const char* code, Severity severity, const std::string& what, const std::string& fix,
             std::vector<Remedy> remedies = {})
    {
        found_.push_back({.code = code,
                          .severity = severity,
                          .what = sentence(emitter.name, what),
                          .where = "emitter " + quoted(emitter.name),
                          .fix = fix,
                          .level = level_.id,
                          .emitter = emitter.id,
                          .remedies = std::move(remedies)});
    }
    void add(const Zone& zone, const char* code, Severity severity, const std::string& what, const std::string& fix,
             std::vector<Remedy> remedies = {})
    {
        found_.push_back({.code = code,
                          .severity = severity,
                          .what = sentence(zone.name, what),
                          .where = "zone " + quoted(zone.name),
                          .fix = fix,
                          .level = level_.id,
                          .remedies = std::move(remedies)});
    }
    Remedy onEmitter(const std::string& label, const Emitter& emitter, std::function<void(Emitter&)> change) const
    {
        return {label, [level = level_.id, id = emitter.id, change = std::move(change)](Project project) {
                    return withEmitter(std::move(project), level, id, change);
                }};
    }
    Remedy onZone(const std::string& label, const Zone& zone, std::function<void(Zone&)> change) const
    {
        return {label, [level = level_.id, id = zone.id, change = std::move(change)](Project project) {
                    return withLevel(std::move(project), level, [&](Level& l) {
                        if (const Zone* old = l.zones.find(id)) {
                            Zone next = *old;
                            change(next);
                            l.zones.put(std::move(next));
                        }
                    });
                }};
    }

    bool hasThings(const ZoneId& id) const
    {
        return std::any_of(level_.emitters.begin(), level_.emitters.end(), [&](const auto& e) { return e->zone == id; });
    }

    /// Places inside a zone, on a grid.
    std::vector<Vec3> placesIn(std::uint32_t zone) const
    {
        const Solid& solid = world_.zones().solid(zone);
        const auto [low, high] = solid.box();
        std::vector<Vec3> places;
        for (int i = 0; i < looks * looks * 3; ++i) {
            const Vec3 share{(i % looks + 0.5) / looks, (i / looks % looks + 0.5) / looks, (i / looks / looks + 0.5) / 3.0};
            const Vec3 p = low + (high - low) * share;
            if (solid.contains(p)) {
                places.push_back(p);
            }
        }
        return places;
    }

    void lookAtZones()
    {
        const ZoneMap& zones = world_.zones();
        for (std::uint32_t i = 0; i < zones.size(); ++i) {
            const Zone& zone = zones.zone(i);
            lookAtShape(zone, zone.shape);
            if (!zone.parent.empty() && !zones.parentOf(i)) {
                add(zone, "zone-parent", Severity::error,
                    zones.indexOf(zone.parent) ? "it is inside of itself, by way of its parents"
                                               : "the zone that it is inside of is gone",
                    "choose another zone to be inside of, or none",
                    {onZone("Inside of none", zone, [](Zone& z) { z.parent = {}; })});
            }
            const std::vector<Vec3> places = placesIn(i);
            if (places.empty() && std::get_if<Hull>(&zone.shape) == nullptr) {
                add(zone, "zone-empty", Severity::warning, "there is no room inside, so nobody ever enters", "make it larger");
            }
            if (const auto parent = zones.parentOf(i)) {
                const auto outside = std::count_if(places.begin(), places.end(),
                                                   [&](const Vec3& p) { return !zones.solid(*parent).contains(p); });
                if (static_cast<std::size_t>(outside) * 4 > places.size()) {
                    add(zone, "zone-outgrows", Severity::warning,
                        "a good part of it lies outside of " + quoted(zones.zone(*parent).name) +
                            ", which it is said to be inside of",
                        "make it smaller, or its parent larger");
                }
                for (const Lane& lane : zone.fades) {
                    const bool steep = lane.on && lane.property == LaneProperty::level && lane.over == LaneInput::depth &&
                                       !lane.curve.empty() &&
                                       laneAt(lane, 0.0) - std::max(laneAt(lane, hardFade_m), -96.0) > 30.0;
                    if (steep) {
                        add(zone, "hard-cut", Severity::warning,
                            "what is around it is cut off within " + number("%.1f m", hardFade_m) + " of its border",
                            "let its parent fade over a few metres",
                            {onZone("Fade over 5 m", zone, [](Zone& z) { z.fades = {fadeOverDepth(5.0)}; })});
                    }
                }
            }
            for (std::uint32_t k = i + 1; k < zones.size(); ++k) {
                lookAtNeighbours(i, k, places);
            }
        }
    }

    template <class Thing> void lookForNode(const Thing& thing, const std::string& node)
    {
        if (mesh_ != nullptr && (mesh_->node(node) == nullptr || mesh_->node(node)->triangleCount == 0)) {
            add(thing, "node-missing", Severity::error,
                "the part " + quoted(node) + " of the level is not there, or has no surface",
                "choose another part, or another shape");
        }
    }

    template <class Thing> void lookAtShape(const Thing& thing, const Shape& shape)
    {
        if (const auto* prism = std::get_if<Prism>(&shape); prism != nullptr && crossesItself(prism->corners)) {
            add(thing, "outline-crosses", Severity::warning,
                "its outline crosses itself, so what is inside is not what it seems", "pull its corners apart on the Plan");
        }
        if (const auto* hull = std::get_if<Hull>(&shape); hull != nullptr && !hull->node.empty()) {
            lookForNode(thing, hull->node);
        }
    }

    void lookAtNeighbours(std::uint32_t a, std::uint32_t b, const std::vector<Vec3>& inA)
    {
        const ZoneMap& zones = world_.zones();
        if (zones.isWithin(a, b) || zones.isWithin(b, a)) {
            return;
        }
        const bool overlap = std::any_of(inA.begin(), inA.end(), [&](const Vec3& p) {
            return zones.solid(b).depth(p) > overlap_m && zones.solid(a).depth(p) > overlap_m;
        });
        const std::string both = quoted(zones.zone(a).name) + " and " + quoted(zones.zone(b).name);
        const bool together = hasThings(zones.zone(a).id) && hasThings(zones.zone(b).id);
        if (overlap && together) {
            add(zones.zone(b), "zones-overlap", Severity::warning,
                both + " overlap, and neither is inside of the other: they share by depth",
                "put one inside of the other, or draw them apart",
                {onZone("Put it inside of " + quoted(zones.zone(a).name), zones.zone(b),
                        [parent = zones.zone(a).id](Zone& z) { z.parent = parent; })});
            return;
        }
        if (!together || zones.parentOf(a) != zones.parentOf(b) ||
            (zones.parentOf(a) && hasThings(zones.zone(*zones.parentOf(a)).id))) {
            return; // whoever is between them hears what is around both
        }
        lookForGap(a, b, both);
    }

    /// Between two zones that lie close: a place where neither is heard.
    void lookForGap(std::uint32_t a, std::uint32_t b, const std::string& both)
    {
        const ZoneMap& zones = world_.zones();
        Vec3 inB = (zones.solid(b).box()[0] + zones.solid(b).box()[1]) / 2.0;
        Vec3 onA = zones.solid(a).nearest(inB);
        inB = zones.solid(b).nearest(onA);
        onA = zones.solid(a).nearest(inB);
        const double apart = glm::length(inB - onA);
        if (apart < overlap_m || apart > gap_m) {
            return;
        }
        const bool everywhere = std::any_of(level_.emitters.begin(), level_.emitters.end(), [](const auto& e) {
            return e->kind == EmitterKind::bed && e->zone.empty() && !e->muted;
        });
        if (everywhere) {
            return;
        }
        for (const auto& emitter : level_.emitters) {
            const bool ofBoth =
                emitter->kind == EmitterKind::bed && (emitter->zone == zones.zone(a).id || emitter->zone == zones.zone(b).id);
            if (ofBoth && apart / 2.0 < audibleWithin_m(project_, *emitter)) {
                return;
            }
        }
        add(zones.zone(b), "zones-gap", Severity::warning,
            "between " + both + " are " + number("%.1f m", apart) + " in which neither is heard",
            "draw them together, or give their beds a longer falloff");
    }

    void lookAtReferences(const Emitter& emitter)
    {
        if (!emitter.zone.empty() && level_.zones.find(emitter.zone) == nullptr) {
            add(emitter, "zone-gone", Severity::error, "the zone that it belongs to is gone", "choose another zone, or none",
                {onEmitter("Belong to none", emitter, [](Emitter& e) { e.zone = {}; })});
        }
        for (const Lane& lane : emitter.lanes) {
            if (lane.on && lane.over == LaneInput::gameValue && project_.gameValues.find(lane.value) == nullptr) {
                add(emitter, "value-gone", Severity::error,
                    "one of its lanes follows the game value " + quoted(lane.value.text) + ", which is not there",
                    "choose another game value for the lane, or add it on the pad");
            }
            if (lane.on && lane.over == LaneInput::depth && emitter.zone.empty()) {
                add(emitter, "depth-of-nothing", Severity::warning,
                    "one of its lanes follows the depth in its zone, and it has none", "choose a zone for it");
            }
        }
        const Riding& riding = emitter.riding;
        const bool roamerGone =
            riding.on == Riding::On::roamer && (level_.emitters.find(riding.roamer) == nullptr ||
                                                level_.emitters.find(riding.roamer)->kind != EmitterKind::roamer);
        const bool nodeGone = riding.on == Riding::On::node && mesh_ != nullptr && mesh_->node(riding.node) == nullptr;
        if (roamerGone || nodeGone) {
            add(emitter, "carrier-gone", Severity::error, "what it rides on is not there", "choose another carrier, or none");
        }
    }

    void lookAtPulse(const Emitter& emitter)
    {
        const Pulsing& how = emitter.pulsing;
        const std::pair<bool, const SoundId*> tells[] = {{how.drops, &how.dropSound},
                                                         {how.walls, &how.wallSound},
                                                         {how.water, &how.waterSound},
                                                         {how.kerbs, &how.kerbSound},
                                                         {how.steps, &how.stepSound}};
        if (std::none_of(std::begin(tells), std::end(tells), [](const auto& tell) { return tell.first; })) {
            add(emitter, "pulse-of-nothing", Severity::error, "it tells of no kind of edge",
                "choose what it tells of: drops, walls, water");
        }
        if (std::any_of(std::begin(tells), std::end(tells), [&](const auto& tell) {
                return tell.first && project_.sounds.find(tell.second->empty() ? emitter.sound : *tell.second) == nullptr;
            })) {
            add(emitter, "pulse-silent", Severity::error, "it has no sound for something that it tells of",
                "choose a sound, or one for each kind");
        }
        if (!std::holds_alternative<GeometryFile>(level_.geometry)) {
            add(emitter, "pulse-without-floor", Severity::warning,
                "it tells of edges of the level's floor, and the level has no geometry", "bring in the level's geometry");
        }
    }

    void lookAtStart(const Emitter& emitter)
    {
        const Starting& starting = emitter.starting;
        if (emitter.kind == EmitterKind::steps) {
            return;
        }
        const auto works = [&](const Trigger& trigger) {
            switch (trigger.cause) {
            case Cause::enter:
            case Cause::leave: return level_.zones.find(trigger.zone) != nullptr;
            case Cause::signal: return project_.signalNames.find(trigger.signal) != nullptr;
            default: return true;
            }
        };
        if (std::none_of(starting.starts.begin(), starting.starts.end(), works)) {
            add(emitter, "never-starts", Severity::error,
                starting.starts.empty() ? "nothing starts it" : "what would start it is gone: a zone or a signal",
                "add a start on its bench",
                {onEmitter("Start with the level", emitter, [](Emitter& e) { e.starting.starts = {Trigger{}}; })});
        } else if (!std::all_of(starting.starts.begin(), starting.starts.end(), works) ||
                   !std::all_of(starting.stops.begin(), starting.stops.end(), works)) {
            add(emitter, "trigger-gone", Severity::warning,
                "one of its starts or stops waits for a zone or a signal that is gone", "take it out on its bench");
        }
        const bool atOnce = starting.starts == std::vector<Trigger>{Trigger{}} && emitter.startAfter_s == 0.0;
        const Sound* sound = project_.sounds.find(emitter.sound);
        if (emitter.kind == EmitterKind::point && atOnce && sound != nullptr && !looped(project_, emitter)) {
            add(emitter, "one-shot-at-start", Severity::note, "it plays once as the level starts, when nobody may be near",
                "let something start it: a signal, a zone, a time");
        }
        for (const Condition& condition : starting.conditions) {
            if (project_.gameValues.find(condition.value) == nullptr) {
                add(emitter, "value-gone", Severity::error,
                    "it starts only by the game value " + quoted(condition.value.text) + ", which is not there",
                    "choose another game value, or take the condition out");
            }
        }
    }

    void lookAtBed(const Emitter& bed)
    {
        if (project_.sounds.find(bed.sound) != nullptr && !looped(project_, bed)) {
            add(bed, "bed-runs-out", Severity::warning, "it plays once and is over: a bed is there all the time",
                "let it go round and round",
                {onEmitter("Round and round", bed, [](Emitter& e) { e.starting.rounds = Rounds::endless; })});
        }
        const Zone* zone = level_.zones.find(bed.zone);
        const bool sides =
            zone != nullptr && std::any_of(zone->margins.begin(), zone->margins.end(), [](double m) { return m <= 0.0; });
        if (zone != nullptr && (zone->margin_m <= 0.0 || sides)) {
            add(*zone, "hard-cut", Severity::warning, "it has no margin: its bed snaps open at the border",
                "give it a margin of a metre or more", {onZone("Margin of 2 m", *zone, [](Zone& z) {
                    z.margin_m = std::max(z.margin_m, 2.0);
                    std::replace_if(
                        z.margins.begin(), z.margins.end(), [](double m) { return m <= 0.0; }, 2.0);
                })});
        }
    }

    void lookAtArea(const Emitter& area)
    {
        if (area.placement.nearRange_m <= 0.0) {
            add(area, "hard-cut", Severity::warning, "it opens up at its very border: one walks into it as into a wall",
                "let it open up within a metre or more",
                {onEmitter("Open up within 2 m", area, [](Emitter& e) { e.placement.nearRange_m = 2.0; })});
        }
        lookAtShape(area, area.area.shape);
    }

    void lookAtSprinkle(const Emitter& sprinkle)
    {
        const Sprinkling& s = sprinkle.sprinkling;
        if (!s.naturalRate && !s.waitsForTail && s.most_s - s.least_s <= regular * s.most_s) {
            add(sprinkle, "regular-rhythm", Severity::warning,
                "it starts every " + number("%.3g s", s.least_s) + ": one hears the clock",
                "let the least and the most time differ", {onEmitter("Half to one and a half times", sprinkle, [](Emitter& e) {
                    const double mean = (e.sprinkling.least_s + e.sprinkling.most_s) / 2.0;
                    e.sprinkling.least_s = mean / 2.0;
                    e.sprinkling.most_s = 1.5 * mean;
                })});
        }
        const Sound* sound = project_.sounds.find(sprinkle.sound);
        if (sound != nullptr && sound->make == Make::one && sound->files.size() < 2) {
            add(sprinkle, "same-each-time", Severity::note, "its sound has one file: the same is heard each time",
                "add variations to the sound, or spread its pitch");
        }
        if (s.where == Sprinkling::Where::shape) {
            lookAtShape(sprinkle, s.shape);
        }
        if (sound != nullptr && sound->loop && sprinkle.starting.rounds == Rounds::asTheSound) {
            add(sprinkle, "loop-falls", Severity::note,
                quoted(sound->name) + " is a loop: each start goes through it once and stops, cut where a loop is cut",
                "choose a sound that plays once", {{"Let the sound play once", [id = sound->id](Project project) {
                                                        Sound next = *project.sounds.find(id);
                                                        next.loop = false;
                                                        project.sounds.put(std::move(next));
                                                        return project;
                                                    }}});
        }
        const Zone* zone = level_.zones.find(sprinkle.zone);
        if (s.where == Sprinkling::Where::zone && zone == nullptr) {
            add(sprinkle, "never-starts", Severity::error, "it falls inside its zone, and has none", "choose a zone for it");
        }
        if (zone != nullptr && s.insideZone && s.where == Sprinkling::Where::ring) {
            const auto [low, high] = Solid(zone->shape, frameAt(zone->at, zone->heading_deg)).box();
            if (s.nearest_m > glm::length(high - low)) {
                add(sprinkle, "no-place", Severity::error,
                    "it falls " + number("%.3g m", s.nearest_m) +
                        " away at the nearest, and its zone is smaller than that: there is never room",
                    "let it fall nearer, or beyond its zone");
            }
        }
        if (!std::isfinite(audibleWithin_m(project_, sprinkle)) || s.where != Sprinkling::Where::ring) {
            return;
        }
        if (s.nearest_m >= audibleWithin_m(project_, sprinkle)) {
            add(sprinkle, "out-of-earshot", Severity::warning, "all of it falls beyond the end of its falloff and is not heard",
                "let it fall nearer, or farther be heard");
        }
    }

    void lookAtRoamer(const Emitter& roamer, std::uint32_t index)
    {
        const Roaming& r = roamer.roaming;
        if (r.stops.size() < 2) {
            add(roamer, "no-way", Severity::warning, "it has fewer than two stops, so it stands still",
                "draw its stops on the Plan");
            return;
        }
        if (r.order == Roaming::Order::inTurn && r.roundEnd == Roaming::RoundEnd::startsOver && !r.onlyMoving &&
            r.rounds != 1) {
            add(roamer, "jumps-back", Severity::warning, "it jumps back to its first stop while it sounds",
                "let it travel back, or be heard only on the way",
                {onEmitter("Travel back", roamer, [](Emitter& e) { e.roaming.roundEnd = Roaming::RoundEnd::travelsBack; }),
                 onEmitter("Only on the way", roamer, [](Emitter& e) { e.roaming.onlyMoving = true; })});
        }
        for (const auto& [from, to] : world_.routeOf(index).blocked()) {
            add(roamer, "no-way", Severity::warning,
                "no way leads from stop " + std::to_string(from + 1) + " to stop " + std::to_string(to + 1) +
                    ": it goes straight through",
                "move one of the two, or let it go straight");
        }
        if (project_.sounds.find(roamer.sound) != nullptr && !looped(project_, roamer) && r.rounds != 1) {
            add(roamer, "bed-runs-out", Severity::note, "its sound plays once; after that it goes on in silence",
                "let it go round and round",
                {onEmitter("Round and round", roamer, [](Emitter& e) { e.starting.rounds = Rounds::endless; })});
        }
    }

    void lookAtSteps(const Emitter& steps, std::uint32_t index)
    {
        lookAtStepLevel(steps, index);
        if (mesh_ == nullptr || !steps.sound.empty()) {
            return;
        }
        std::set<std::string> silent(mesh_->materials.begin(), mesh_->materials.end());
        silent.erase("");
        for (const SurfaceSound& surface : steps.stepping.surfaces) {
            silent.erase(surface.surface);
        }
        if (!silent.empty()) {
            add(steps, "surface-silent", Severity::note,
                "there is no step for " + quoted(*silent.begin()) +
                    (silent.size() > 1 ? " and " + std::to_string(silent.size() - 1) + " more surfaces" : ""),
                "choose a sound for all others");
        }
    }

    /// How loud something with this sound is, besides what is done to it on the way.
    double loudness(const SoundId& id) const
    {
        const Sound* sound = project_.sounds.find(id);
        return sound != nullptr ? loudnessOf_(*sound).value_or(silence) : silence;
    }

    /// The steps on the loudest surface, as a sound that the character carries at its feet.
    std::pair<HearingModel, double> carriedSteps(const Emitter& steps) const
    {
        SurfaceSound loudest{"", steps.sound, 0.0};
        const auto loud = [this](const SurfaceSound& s) {
            const Sound* sound = project_.sounds.find(s.sound);
            return sound != nullptr ? loudness(s.sound) + sound->level_db + s.level_db : silence;
        };
        for (const SurfaceSound& surface : steps.stepping.surfaces) {
            if (loud(surface) > loud(loudest)) {
                loudest = surface;
            }
        }
        auto project = std::make_shared<const Project>(withEmitter(project_, level_.id, steps.id, [&](Emitter& e) {
            e.kind = EmitterKind::point;
            e.at = Vec3{0.0};
            e.riding = {Riding::On::character, {}, "", false};
            e.sound = loudest.sound;
            e.starting = {};
        }));
        return {HearingModel(project, level_.id), loudness(loudest.sound) + loudest.level_db};
    }

    /// Compared where the walks lead and where one starts, by the loudness of the files and all that is set.
    void lookAtStepLevel(const Emitter& steps, std::uint32_t index)
    {
        std::vector<Vec3> places{level_.character.start};
        for (const auto& walk : level_.walks) {
            for (const WalkPoint& point : walk->points) {
                places.push_back(point.at);
            }
        }
        const auto [model, own_db] = carriedSteps(steps);
        // Asked of the sound bank once, not at every place.
        std::vector<double> loud_db;
        for (const auto& emitter : level_.emitters) {
            loud_db.push_back(loudness(emitter->sound));
        }
        const std::size_t every = places.size() / mostPlaces + 1;
        for (std::size_t i = 0; i < places.size(); i += every) {
            const Pose feet{places[i], 0.0, 0.0, 0.0};
            const Pose head = headOf(level_.character, feet);
            const auto heard = model.hearAll({Ears(head), TimeSpan{}, feet, head.at, nullptr});
            double others_db = silence;
            for (std::size_t k = 0; k < heard.size(); ++k) {
                if (k != index && heard[k].audible) {
                    others_db = std::max(others_db, loud_db[k] + heard[k].level_db);
                }
            }
            if (!std::isfinite(others_db) || !heard[index].audible || own_db + heard[index].level_db <= others_db) {
                return;
            }
        }
        add(steps, "steps-loudest", Severity::warning, "it is louder than everything else wherever the walks lead",
            "lower its level", {onEmitter("12 dB lower", steps, [](Emitter& e) { e.level_db -= 12.0; })});
    }

    const Project& project_;
    const Level& level_;
    LoudnessOf loudnessOf_;
    const Mesh* mesh_; ///< null: none
    World world_;
    std::vector<Finding>& found_;
};

} // namespace

void findInAmbience(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, Loading loading,
                    const LoudnessOf& loudnessOf, std::vector<Finding>& found)
{
    Ambience(project, level, ground, loading, loudnessOf, found).run();
}

} // namespace stone
