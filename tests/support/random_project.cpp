// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/random_project.h"

#include "project/edit.h"

#include <random>

namespace fixture
{

namespace
{

class RandomProject
{
public:
    explicit RandomProject(unsigned seed) : random_(seed) {}

    stone::Project make()
    {
        using namespace stone;
        Project project;
        project.name = name();
        project.subtitle = flip() ? name() : "";
        project.seed = random_() | (static_cast<std::uint64_t>(random_()) << 32U);
        project.voices = 1 + below(4096);
        project.voicesGiveWay = static_cast<GivesWay>(below(4));
        project.voicesHoldOff_s = flip() ? number(0, 1) : 0.0;
        project.extras = extras();
        for (int i = below(3); i >= 0; --i) {
            GameValue value;
            value.name = name();
            value.id = project.gameValues.freshId(value.name);
            value.least = number(-9, 0);
            value.most = number(0, 9);
            value.smoothing_s = number(0, 3);
            value.extras = extras();
            project.gameValues.put(value);
            const std::string called = name();
            project.signalNames.put({project.signalNames.freshId(called), called, extras()});
            if (flip()) {
                value.mostOn = project.signalNames[0]->id;
                value.restOn = project.signalNames.end()[-1]->id;
                project.gameValues.put(value);
            }
        }
        for (int i = below(3); i > 0; --i) {
            const std::string called = name();
            project.soundTargets.put({project.soundTargets.freshId(called), called, static_cast<SoundTarget::Format>(below(5)),
                                      below(2) * 48'000, number(0, 1), flip(), flip(),
                                      static_cast<SoundTarget::Loudness>(below(2)), number(-60, 0),
                                      static_cast<SoundTarget::Naming>(below(3)), extras()});
        }
        for (int i = below(6); i >= 0; --i) {
            Sound sound;
            sound.name = name();
            sound.id = project.sounds.freshId(sound.name);
            for (int k = below(4); k > 0; --k) {
                sound.files.push_back(soundFile());
            }
            sound.loop = flip();
            sound.level_db = number(-100, 20);
            if (flip()) {
                sound.limit = limit();
            }
            if (flip()) {
                sound.levelSpread_db = number(0, 6);
                sound.pitchSpread_st = number(0, 2);
                sound.lowPass_hz = number(100, 9000);
                sound.highPass_hz = number(30, 900);
                sound.copiesApart = flip();
                sound.binaural = flip();
                sound.tags = {name(), "rain"};
                sound.folder = name();
                recipe(sound);
            }
            sound.extras = extras();
            project.sounds.put(sound);
        }
        for (int i = below(4); i >= 0; --i) {
            Falloff made = falloff();
            made.name = name();
            made.id = project.falloffs.freshId(made.name);
            project.falloffs.put(made);
        }
        for (int i = below(3); i >= 0; --i) {
            Family made;
            made.name = name();
            made.id = project.families.freshId(made.name);
            made.level_db = number(-60, 10);
            made.lowPass_hz = flip() ? 20'000.0 : number(100, 10'000);
            made.highPass_hz = flip() ? 20.0 : number(50, 1000);
            made.reachFactor = number(0.1, 5);
            made.muted = flip();
            if (flip()) {
                made.priority = static_cast<Priority>(below(4));
            }
            if (flip()) {
                made.lanes.push_back(lane(flip() ? LaneProperty::nearness : LaneProperty::level, LaneInput::gameValue));
                made.lanes.back().value = {name()};
                made.otherFalloff = project.falloffs[0]->id;
                made.otherWhen = {{name()}, static_cast<Comparison>(below(2)), number(-9, 9)};
            }
            made.extras = extras();
            made.limit = limit();
            project.families.put(made);
        }
        for (int i = below(3); i >= 0; --i) {
            Pattern made;
            made.name = name();
            made.id = project.patterns.freshId(made.name);
            settings(project, made.settings);
            made.extras = extras();
            project.patterns.put(made);
        }
        project.air = {number(-20, 40), number(0, 100), number(80, 110), extras()};
        for (int i = below(3); i >= 0; --i) {
            Level made = level(project);
            made.id = project.levels.freshId(made.name);
            project.levels.put(made);
        }
        return project;
    }

private:
    int below(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }
    bool flip() { return random_() % 2 == 0; }
    double number(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }
    stone::Vec3 place() { return {number(-1e5, 1e5), number(-10, 10), number(-1e-9, 1e-9)}; }

    std::string name()
    {
        static const char* parts[] = {"Lamp", "urn \"hot\"",       "Größe",  "線",   "a/b~c", "tab\there",
                                      "x",    "Loose enamel sign", "\\back", "ticks"};
        return std::string(parts[below(10)]) + " " + parts[below(10)] + std::to_string(below(1000));
    }

    stone::Extras extras()
    {
        stone::Extras result;
        if (below(4) == 0) {
            result["later"] = R"({"deep":[1,{"x":null}],"t":"ä"})";
        }
        if (below(4) == 0) {
            result["key/with~odd \"signs"] = "[1.5,true]";
        }
        return result;
    }

    stone::Drift drift() { return {number(0, 6), number(1, 90), flip()}; }

    stone::Limit limit()
    {
        return {.atOnce = below(5),
                .givesWay = static_cast<stone::GivesWay>(below(4)),
                .eachEmitter = flip(),
                .holdOff_s = number(0, 2),
                .extras = extras()};
    }

    stone::SoundFile soundFile()
    {
        stone::SoundFile made{.file = "sounds/" + name() + ".wav"};
        if (flip()) {
            made.level_db = number(-20, 20);
            made.loopFrom_s = number(0, 1);
            made.loopTo_s = number(2, 3);
            made.accent = flip();
            made.levelDrift = drift();
            if (flip()) {
                made.levelDrift.drawn = {{0.0, number(-6, 0)}, {number(1, 9), number(0, 6), stone::Segment::smooth}};
            }
            made.pitchDrift = drift();
            made.credit = {name(), name(), "CC0"};
        }
        made.extras = extras();
        return made;
    }

    void recipe(stone::Sound& sound)
    {
        using namespace stone;
        sound.make = static_cast<Make>(below(5));
        const double gap_s = number(0, 5);
        const double slice_s = number(0.1, 5);
        sound.sequence = {static_cast<Order>(below(3)), gap_s,       gap_s + number(0, 5), number(0, 1), number(0, 2), slice_s,
                          slice_s + number(0, 5),       1 + below(8)};
        sound.delay_s = number(0, 2);
        sound.fadeIn_s = number(0, 2);
        sound.fadeOut_s = number(0, 2);
        sound.lanes = {lane(LaneProperty::level, LaneInput::time), lane(LaneProperty::highPass, LaneInput::time)};
        sound.effects.equaliser = {flip(),         number(50, 500),    number(-9, 9), number(500, 2000), number(-9, 9),
                                   number(0.3, 9), number(2000, 9000), number(-9, 9), extras()};
        sound.effects.saturation = {flip(), number(0, 40), extras()};
        sound.effects.tremolo = {flip(), number(0.1, 20), number(0, 1), extras()};
        sound.effects.echo = {flip(), number(0.01, 0.5), number(-40, -1), number(500, 20'000), extras()};
        sound.effects.extras = extras();
        sound.keeping = static_cast<Keeping>(below(4));
    }

    stone::Falloff falloff()
    {
        stone::Falloff made;
        stone::DistanceFormula& f = made.lanes.front().formula;
        f.model = static_cast<stone::DistanceModel>(below(3));
        f.reference_m = number(0, 100);
        f.maximum_m = number(0, 1e5);
        f.factor = number(0, 10);
        f.silentAt_m = flip() ? number(0, 500) : 0.0;
        f.staysFrom_m = flip() ? number(0, 500) : 0.0;
        made.lanes.front().extras = extras();
        if (flip()) {
            made.lanes.push_back(lane(static_cast<stone::LaneProperty>(1 + below(5)), stone::LaneInput::distance));
            if (flip()) {
                made.lanes.push_back(
                    lane(flip() ? stone::LaneProperty::interval : stone::LaneProperty::pitch, stone::LaneInput::distance));
            }
        }
        made.extras = extras();
        return made;
    }

    stone::Lane lane(stone::LaneProperty property, stone::LaneInput over)
    {
        stone::Lane made;
        made.property = property;
        made.over = over;
        made.on = flip();
        made.shape = over == stone::LaneInput::offFront && flip() ? stone::LaneShape::twoAngles : stone::LaneShape::curve;
        const bool cutoff = property == stone::LaneProperty::lowPass || property == stone::LaneProperty::highPass;
        const bool aboveNothing = property == stone::LaneProperty::nearness || property == stone::LaneProperty::interval;
        const double least = aboveNothing ? 0.02 : 0.0;
        const auto value = [&] { return cutoff ? number(20, 20'000) : number(least, 1); };
        if (made.shape == stone::LaneShape::twoAngles) {
            made.angles = {number(0, 360), number(0, 360), value(), value()};
        }
        double x = -50.0;
        for (int i = below(5); i >= 0; --i) {
            made.curve.push_back({x, value(), static_cast<stone::Segment>(below(5))});
            x += number(0, 50);
        }
        made.extras = extras();
        return made;
    }

    void settings(const stone::Project& project, stone::EmitterSettings& made)
    {
        using namespace stone;
        made.kind = static_cast<EmitterKind>(below(emitterKindCount));
        made.sound = project.sounds[static_cast<std::size_t>(below(static_cast<int>(project.sounds.size())))]->id;
        if (flip()) {
            made.falloff = falloff();
        } else {
            made.falloff = project.falloffs[0]->id;
        }
        made.level_db = number(-200, 60);
        made.pitch_st = number(-48, 48);
        made.startAfter_s = flip() ? 0.0 : number(0, 1000);
        made.family = flip() ? project.families[0]->id : FamilyId{};
        if (flip()) {
            made.priority = static_cast<Priority>(below(4));
        }
        if (flip()) {
            made.lanes = {lane(LaneProperty::level, LaneInput::offFront), lane(LaneProperty::lowPass, LaneInput::speed)};
        }
        if (flip()) {
            made.placement = {number(0, 1),
                              number(-180, 180),
                              number(-90, 90),
                              flip() ? "LFE" : "",
                              number(0, 360),
                              number(0, 9),
                              static_cast<ChannelUse>(below(6)),
                              number(0, 360),
                              flip(),
                              flip(),
                              flip(),
                              number(0, 2),
                              number(1, 12),
                              flip(),
                              extras()};
        }
        ambience(project, made);
    }

    stone::Shape shape()
    {
        using namespace stone;
        switch (below(6)) {
        case 0: return Box{{number(0, 9), number(0, 9), number(0, 9)}};
        case 1: return Ball{number(0, 9)};
        case 2: return Capsule{place(), place(), number(0, 9)};
        case 3: return Prism{{{0, 0}, {number(1, 9), 0}, {1, number(1, 9)}}, number(0, 9), flip()};
        case 4: return Ribbon{{place(), place(), place()}, number(0, 9), flip()};
        default: return flip() ? Hull{name(), {}, {}} : Hull{"", {place(), place(), place()}, {{0, 1, 2}, {2, 1, 0}}};
        }
    }

    stone::Plant plant(const stone::Project& project, const stone::Level& level)
    {
        using namespace stone;
        Plant made;
        made.name = name();
        made.id = level.plants.freshId(made.name);
        made.on = flip();
        made.pattern = flip() ? project.patterns[0]->id : PatternId{name()};
        made.where = static_cast<Plant::Where>(below(plantWhereCount));
        for (bool& kind : made.edges) {
            kind = flip();
        }
        made.surface = flip() ? name() : "";
        made.names = flip() ? "*" : name();
        made.roamer.text = level.emitters.empty() || flip() ? "" : level.emitters[0]->id.text;
        made.at = place();
        made.heading_deg = number(-360, 360);
        made.shape = made.where == Plant::Where::line ? Ribbon{{place(), place(), place()}, number(0, 9), flip()} : shape();
        made.every_m = number(1, 9);
        made.bend_deg = number(1, 180);
        made.apart_m = number(1, 9);
        made.offset = place();
        made.turns = flip();
        made.turn_deg = number(-360, 360);
        made.tilt_deg = number(-90, 90);
        made.onFloor = flip();
        made.chance = flip() ? 1.0 : number(0, 1);
        made.zone.text = level.zones.empty() || flip() ? "" : level.zones[0]->id.text;
        made.lowest_m = number(-99, 0);
        made.highest_m = number(0, 99);
        for (int i = below(3); i > 0; --i) {
            made.exceptions.push_back(
                {name(), place(), flip(), flip() ? std::optional(number(-60, 6)) : std::nullopt, extras()});
        }
        made.extras = extras();
        return made;
    }

    std::vector<stone::Trigger> triggers(const stone::Project& project)
    {
        using namespace stone;
        std::vector<Trigger> made;
        for (int i = below(4); i > 0; --i) {
            Trigger trigger;
            trigger.cause = static_cast<Cause>(below(11));
            if (trigger.cause == Cause::enter || trigger.cause == Cause::leave) {
                trigger.zone.text = name();
            } else if (trigger.cause == Cause::signal) {
                trigger.signal = project.signalNames[0]->id;
            } else if (trigger.cause == Cause::interact || trigger.cause == Cause::near || trigger.cause == Cause::far) {
                trigger.within_m = number(1, 9);
            }
            made.push_back(trigger);
        }
        return made;
    }

    void ambience(const stone::Project& project, stone::EmitterSettings& made)
    {
        using namespace stone;
        const SoundId sound = project.sounds[0]->id;
        if (flip()) {
            made.lanes.push_back(lane(LaneProperty::level, LaneInput::gameValue));
            made.lanes.back().value = project.gameValues[0]->id;
            made.zone.text = name();
            made.starting = {triggers(project),
                             triggers(project),
                             triggers(project),
                             {{project.gameValues[0]->id, static_cast<Comparison>(below(2)), number(-9, 9)}},
                             static_cast<SecondStart>(below(5)),
                             flip(),
                             number(0, 9),
                             number(0, 9),
                             static_cast<Rounds>(below(3)),
                             extras()};
        }
        if (flip()) {
            made.area = {shape(), number(1, 99), flip(), flip(), extras()};
            Pulsing& pulsing = made.pulsing;
            pulsing.drops = flip();
            pulsing.kerbs = flip();
            pulsing.looks = static_cast<Pulsing::Looks>(below(3));
            pulsing.aside_deg = number(1, 80);
            pulsing.within_m = number(0.1, 200);
            pulsing.margin_m = number(0, 3);
            pulsing.nearest_s = number(0.02, 1);
            pulsing.farthest_s = number(0.02, 10);
            pulsing.wallSound = sound;
            pulsing.stepSound = sound;
            pulsing.extras = extras();
            made.stepping = {{{name(), sound, number(-9, 9)}}, {{1, number(0.1, 1)}, {3, number(1, 2)}}, extras()};
        }
        if (flip()) {
            const double least = number(0.1, 5);
            made.sprinkling = {least,
                               least + number(0, 5),
                               flip(),
                               flip(),
                               1 + below(32),
                               below(99),
                               number(0, 1),
                               static_cast<Sprinkling::Where>(below(4)),
                               least,
                               least + 1,
                               -least,
                               least,
                               -least,
                               least,
                               Vec3{-1, -2, -3},
                               Vec3{number(0, 9), 2, 3},
                               shape(),
                               flip(),
                               flip(),
                               flip(),
                               flip(),
                               sound,
                               least,
                               least + 2,
                               number(0, 1),
                               extras()};
        }
        if (flip()) {
            made.roaming = {{{place(), number(0, 9), number(0.1, 9), extras()}, {place(), {}, number(0.1, 9), extras()}},
                            static_cast<Roaming::Order>(below(3)),
                            flip(),
                            number(0.1, 9),
                            number(0.1, 9),
                            number(0, 0.5),
                            number(0, 9),
                            static_cast<Roaming::RoundEnd>(below(2)),
                            number(0, 9),
                            number(0, 9),
                            below(9),
                            flip(),
                            flip(),
                            sound,
                            number(0, 9),
                            number(0, 9),
                            number(-9, 9),
                            extras()};
        }
    }

    stone::Riding riding()
    {
        using namespace stone;
        return flip() ? Riding{} : Riding{static_cast<Riding::On>(1 + below(4)), {"gone " + name()}, name(), flip(), name()};
    }

    stone::Level level(const stone::Project& project)
    {
        using namespace stone;
        Level made;
        made.name = name();
        const int kind = below(3);
        if (kind == 1) {
            made.geometry = GeometryFile{"level/" + name() + ".glb", flip() ? UpAxis::y : UpAxis::z, extras()};
        } else if (kind == 2) {
            made.geometry = GeometryPicture{name() + ".png", number(0.1, 500), Vec2{number(-9, 9), number(-9, 9)}, extras()};
        }
        made.metresPerUnit = number(0.001, 100);
        made.character = {place(),         number(-360, 360),
                          number(0, 5),    number(0.1, 20),
                          flip(),          static_cast<Character::Moves>(below(3)),
                          number(0.1, 9),  number(0, 9),
                          number(0.1, 30), extras()};
        made.sideOn = flip() ? std::optional(flip() ? Looking::north : Looking::west) : std::nullopt;
        for (int i = below(3); i >= 0; --i) {
            made.storeys.push_back({name(), number(-20, 20), number(-20, 20), extras()});
        }
        for (int i = below(5); i > 0; --i) {
            Zone zone;
            zone.name = name();
            zone.id = made.zones.freshId(zone.name);
            zone.at = place();
            zone.heading_deg = number(-360, 360);
            zone.shape = shape();
            zone.margin_m = number(0, 9);
            zone.margins = {number(0, 9), number(0, 9)};
            zone.parent.text = name();
            zone.fades = {lane(LaneProperty::level, LaneInput::depth)};
            zone.holdsSprinkles = flip();
            zone.riding = riding();
            zone.extras = extras();
            made.zones.put(zone);
            Room room;
            room.name = name();
            room.id = made.rooms.freshId(room.name);
            room.at = place();
            room.heading_deg = number(-360, 360);
            room.shape = shape();
            for (double& rt60_s : room.reverb.rt60_s) {
                rt60_s = number(0.05, 30);
            }
            room.reverb.on = flip();
            room.reverb.tail = static_cast<Tail>(below(3));
            room.reverb.response = flip() ? name() + ".wav" : "";
            room.reverb.early_db = number(-96, 24);
            room.reverb.late_db = number(-96, 24);
            room.reverb.width = number(0, 1);
            room.extras = extras();
            made.rooms.put(room);
            Opening opening;
            opening.name = name();
            opening.id = made.openings.freshId(opening.name);
            opening.from = {number(-50, 50), number(-50, 50)};
            opening.to = {opening.from.x + number(0.1, 5), opening.from.y + number(-5, 5)};
            opening.sill_m = number(-10, 10);
            opening.head_m = opening.sill_m + number(0.1, 5);
            opening.open = number(0, 1);
            opening.follows.text = name();
            opening.opensOn = project.signalNames[0]->id;
            opening.swing_s = number(0, 60);
            opening.leaf.text = name();
            opening.extras = extras();
            made.openings.put(opening);
            made.outside.echoes_db = number(-96, 24);
            made.edges.kerb_m = number(0.01, 0.3);
            made.edges.step_m = number(0.31, 2);
            made.edges.stride_m = number(0.1, 5);
            made.edges.water = {name(), name()};
        }
        for (int i = below(20); i > 0; --i) {
            Emitter emitter;
            emitter.riding = riding();
            emitter.name = name();
            emitter.id = made.emitters.freshId(emitter.name);
            emitter.at = place();
            emitter.heading_deg = number(-360, 360);
            emitter.tilt_deg = number(-90, 90);
            emitter.muted = flip();
            settings(project, emitter);
            if (flip()) {
                // A copy: its own settings are its own, the others its pattern's.
                emitter.pattern = project.patterns[0]->id;
                emitter.own = SettingSet(static_cast<unsigned>(below(1 << settingCount)));
                takeSettings(emitter, project.patterns[0]->settings, ~emitter.own);
            }
            emitter.extras = extras();
            made.emitters.put(emitter);
        }
        for (int i = below(3); i > 0; --i) {
            Walk walk;
            walk.name = name();
            walk.id = made.walks.freshId(walk.name);
            double t = 0.0;
            for (int k = below(9); k > 0; --k) {
                walk.points.push_back({t, place(), flip() ? std::optional(number(-360, 360)) : std::nullopt,
                                       flip() ? 0.0 : number(-90, 90), extras()});
                t += number(0, 10);
            }
            for (const auto is :
                 {WalkEvent::Kind::signal, WalkEvent::Kind::value, WalkEvent::Kind::interact, WalkEvent::Kind::burst}) {
                WalkEvent event;
                event.t_s = t++;
                event.kind = is;
                event.extras = extras();
                if (is == WalkEvent::Kind::signal) {
                    event.signal = project.signalNames[0]->id;
                } else if (is == WalkEvent::Kind::value) {
                    event.value = project.gameValues[0]->id;
                    event.number = number(-9, 9);
                } else if (is == WalkEvent::Kind::burst) {
                    event.burst = {.of = static_cast<Burst::Of>(below(3)),
                                   .emitter = made.emitters.empty() ? EmitterId{} : made.emitters[0]->id,
                                   .allOfItsSound = flip(),
                                   .signal = flip() ? project.signalNames[0]->id : SignalId{},
                                   .where = static_cast<Burst::Where>(below(3)),
                                   .count = 1 + below(50),
                                   .every_s = number(0.01, 1),
                                   .irregular = flip()};
                }
                walk.events.push_back(event);
            }
            if (flip()) {
                const auto zone = [&] { return made.zones.empty() ? ZoneId{name()} : made.zones[0]->id; };
                walk.run = {zone(), {zone(), {name()}}, {zone()}, number(0, 9), project.signalNames[0]->id,
                            {},     {name()},           extras()};
            }
            walk.extras = extras();
            made.walks.put(walk);
        }
        for (int i = below(3); i > 0; --i) {
            made.plants.put(plant(project, made));
        }
        for (int i = below(4); i > 0; --i) {
            made.places.push_back({name(), place(), number(-360, 360), extras()});
        }
        made.extras = extras();
        return made;
    }

    std::mt19937 random_;
};

} // namespace

stone::Project randomProject(unsigned seed)
{
    return RandomProject(seed).make();
}

} // namespace fixture
