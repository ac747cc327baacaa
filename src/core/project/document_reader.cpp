// SPDX-License-Identifier: MPL-2.0
#include "project/document_reader.h"

#include "project/ambience_json.h"
#include "project/emitter_json.h"
#include "project/gaze_json.h"
#include "project/lane_json.h"
#include "project/level_json.h"
#include "project/limit_json.h"
#include "project/material_json.h"
#include "project/name_book.h"
#include "project/plant_json.h"
#include "project/post_json.h"
#include "project/read.h"
#include "project/rig_json.h"
#include "project/room_json.h"
#include "project/sound_json.h"
#include "project/sound_target_json.h"

#include <filesystem>
#include <memory>
#include <unordered_map>

namespace stone
{

namespace
{

constexpr std::uint64_t firstWithWalls = 6;

/// Reads the things of a document and settles what needs more than one of them.
class DocumentReader
{
public:
    explicit DocumentReader(std::vector<Notice>& notices) : notices_(notices) {}

    Project read(const Json& root)
    {
        ObjectReader reader(root, "", notices_);
        const auto version = reader.whole("stone_echo", documentVersion, 1, UINT32_MAX);
        if (version > documentVersion) {
            reader.fail("stone_echo", "the document has version " + std::to_string(version) + ", this program reads up to " +
                                          std::to_string(documentVersion) + "; open it with a newer Stone Echo");
        }
        Project project;
        project.name = reader.text("name", "Untitled");
        project.subtitle = reader.text("subtitle");
        project.seed = reader.whole("seed", 1, 0, UINT64_MAX);
        project.voices = static_cast<int>(reader.whole("voices", 64, 1, 4096));
        project.voicesGiveWay = static_cast<GivesWay>(
            reader.word("voices_give_way", static_cast<std::size_t>(GivesWay::quietest), givesWayWords()));
        project.voicesHoldOff_s = reader.number("voices_hold_off_s", 0.0, rangeOf(&Limit::holdOff_s));
        if (reader.has("air")) {
            project.air = readAir(reader.object("air"));
        }
        reader.each("sounds", [&](ObjectReader& item) { project.sounds.append(sound(item)); });
        reader.each("falloffs", [&](ObjectReader& item) { project.falloffs.append(falloff(item)); });
        reader.each("signals", [&](ObjectReader& item) {
            Signal signal;
            signal.id.text = signals_.identify(item, signal.name);
            signal.extras = item.rest();
            project.signalNames.append(std::move(signal));
        });
        reader.each("game_values", [&](ObjectReader& item) {
            GameValue value;
            value.id.text = gameValues_.identify(item, value.name);
            readGameValue(item, value);
            value.mostOn.text = signals_.settle(value.mostOn.text);
            value.restOn.text = signals_.settle(value.restOn.text);
            project.gameValues.append(std::move(value));
        });
        reader.each("sound_targets", [&](ObjectReader& item) {
            SoundTarget target;
            target.id.text = soundTargets_.identify(item, target.name);
            readSoundTarget(item, target);
            project.soundTargets.append(std::move(target));
        });
        reader.each("rigs", [&](ObjectReader& item) {
            Rig rig;
            rig.id.text = rigs_.identify(item, rig.name);
            readRig(item, rig);
            project.rigs.append(std::move(rig));
        });
        project.rig.text = rigs_.settle(reader.text("rig"));
        if (reader.has("counting")) {
            project.counting = readCounting(reader.object("counting"));
        }
        reader.each("materials", [&](ObjectReader& item) {
            Material material;
            material.id.text = materials_.identify(item, material.name);
            readMaterial(item, material);
            project.materials.push_back(std::move(material));
        });
        reader.each("surfaces", [&](ObjectReader& item) { project.surfaces.push_back(readSurfaceUse(item)); });
        // Older documents go on sounding as they did, before walls were reckoned with.
        project.occlusion.on = version >= firstWithWalls;
        if (reader.has("occlusion")) {
            project.occlusion = readOcclusion(reader.object("occlusion"));
        }
        reader.each("families", [&](ObjectReader& item) { project.families.append(family(item)); });
        reader.each("patterns", [&](ObjectReader& item) { project.patterns.append(pattern(item, project)); });
        reader.each("gazes", [&](ObjectReader& item) {
            Gaze gaze;
            gaze.id.text = gazes_.identify(item, gaze.name);
            readGaze(item, gaze);
            gaze.from.text = signals_.settle(gaze.from.text);
            gaze.until.text = signals_.settle(gaze.until.text);
            for (auto* families : {&gaze.families, &gaze.exemptFamilies}) {
                for (FamilyId& family : *families) {
                    family.text = families_.settle(family.text);
                }
            }
            project.gazes.append(std::move(gaze));
        });
        if (reader.has("levels")) {
            reader.each("levels", [&](ObjectReader& item) {
                Level read = level(item, project);
                read.extras = item.rest();
                project.levels.append(std::move(read));
            });
        }
        if (project.levels.empty()) {
            // The shortest documents have one level and no list: its keys stand at the top.
            project.levels.append(level(reader, project));
        }
        project.extras = reader.rest();
        return project;
    }

private:
    Sound sound(ObjectReader& reader)
    {
        Sound sound;
        sound.id.text = sounds_.identify(reader, sound.name);
        readSound(reader, sound);
        if (sound.files.size() == 1) {
            soundOfFile_.emplace(sound.files.front().file, sound.id.text);
        }
        return sound;
    }

    Falloff falloff(ObjectReader& reader)
    {
        Falloff falloff;
        falloff.id.text = falloffs_.identify(reader, falloff.name);
        readFalloffLanes(reader, falloff);
        return falloff;
    }

    Family family(ObjectReader& reader)
    {
        Family family;
        family.id.text = families_.identify(reader, family.name);
        readFamily(reader, family, steering(nullptr));
        family.otherFalloff.text = falloffs_.settle(family.otherFalloff.text);
        return family;
    }

    /// `zones` may be null, for patterns: they belong to no level.
    References references(Project& project, const NameBook* zones)
    {
        return {.sound = [&](const std::string& text) { return soundReference(project, text); },
                .falloff = [this](const std::string& text) { return FalloffId{falloffs_.settle(text)}; },
                .family = [this](const std::string& text) { return FamilyId{families_.settle(text)}; },
                .steering = steering(zones)};
    }

    SteeringReferences steering(const NameBook* zones)
    {
        return {.zone = [zones](const std::string& text) { return ZoneId{zones != nullptr ? zones->settle(text) : text}; },
                .signal = [this](const std::string& text) { return SignalId{signals_.settle(text)}; },
                .value = [this](const std::string& text) { return GameValueId{gameValues_.settle(text)}; }};
    }

    Pattern pattern(ObjectReader& reader, Project& project)
    {
        Pattern pattern;
        pattern.id.text = patterns_.identify(reader, pattern.name);
        readSettings(reader, references(project, nullptr), pattern.settings);
        pattern.extras = reader.rest();
        settingsOf_[pattern.id.text] = std::make_shared<const EmitterSettings>(pattern.settings);
        return pattern;
    }

    SoundId soundReference(Project& project, const std::string& reference)
    {
        const std::string id = sounds_.settle(reference);
        const bool file = reference.find('.') != std::string::npos;
        if (!file || sounds_.has(id)) {
            return {id};
        }
        const auto known = soundOfFile_.find(reference);
        if (known != soundOfFile_.end()) {
            return {known->second};
        }
        // A file name in place of a sound: the shortest way to write one down by hand.
        Sound sound;
        sound.name = std::filesystem::path(reference).stem().string();
        sound.id.text = sounds_.fresh(sound.name);
        sound.files.push_back({.file = reference});
        const SoundId made = sound.id;
        soundOfFile_.emplace(reference, made.text);
        project.sounds.append(std::move(sound));
        return made;
    }

    Emitter emitter(ObjectReader& reader, Project& project, const NameBook& zones, NameBook& emitters)
    {
        Emitter emitter;
        emitter.id.text = emitters.identify(reader, emitter.name);
        emitter.pattern = {patterns_.settle(reader.text("pattern"))};
        const auto pattern = settingsOf_.find(emitter.pattern.text);
        if (pattern != settingsOf_.end()) {
            static_cast<EmitterSettings&>(emitter) = *pattern->second;
        }
        emitter.own = readSettings(reader, references(project, &zones), emitter);
        if (pattern == settingsOf_.end()) {
            // A pattern that is not there leaves nothing to follow: everything is the emitter's own.
            emitter.own = emitter.pattern.empty() ? SettingSet{} : SettingSet{}.set();
        }
        emitter.at = reader.place("at", emitter.at);
        readPose(reader, emitter);
        if (reader.has("riding")) {
            emitter.riding = readRiding(reader.object("riding"));
        }
        emitter.muted = reader.flag("muted", false);
        dropSolo(reader);
        emitter.extras = reader.rest();
        return emitter;
    }

    /// Zones may name parents and carriers that come later, emitters carriers.
    static void settleLater(Level& level, const NameBook& zones, const NameBook& emitters)
    {
        const auto settled = [](const auto& things, auto&& settle) {
            std::remove_cvref_t<decltype(things)> all;
            for (const auto& known : things) {
                auto thing = *known;
                settle(thing);
                all.append(std::move(thing));
            }
            return all;
        };
        level.zones = settled(level.zones, [&](Zone& zone) {
            zone.parent = {zones.settle(zone.parent.text)};
            zone.riding.roamer = {emitters.settle(zone.riding.roamer.text)};
        });
        level.emitters = settled(
            level.emitters, [&](Emitter& emitter) { emitter.riding.roamer = {emitters.settle(emitter.riding.roamer.text)}; });
    }

    /// Reads a list of things that have an id and a name. `read`: what else belongs to one.
    template <class Thing, class Read>
    static void eachNamed(ObjectReader& reader, const char* key, NameBook& book, List<Thing>& list, const Read& read)
    {
        reader.each(key, [&](ObjectReader& item) {
            Thing thing;
            thing.id.text = book.identify(item, thing.name);
            read(item, thing);
            list.append(std::move(thing));
        });
    }

    Level level(ObjectReader& reader, Project& project)
    {
        Level level;
        level.id.text = levels_.identify(reader, level.name);
        if (reader.has("geometry")) {
            level.geometry = readGeometry(reader.object("geometry"));
        }
        level.metresPerUnit = reader.number("metres_per_unit", level.metresPerUnit, rangeOf(&Level::metresPerUnit));
        level.sideOn = readSideOn(reader);
        if (reader.has("character")) {
            level.character = readCharacter(reader.object("character"));
        }
        if (reader.has("edges")) {
            level.edges = readEdgeRules(reader.object("edges"));
        }
        reader.each("storeys", [&](ObjectReader& item) { level.storeys.push_back(readStorey(item)); });
        if (level.storeys.empty()) {
            level.storeys.push_back(Storey{.name = "Ground", .extras = {}});
        }
        NameBook zones("zone");
        eachNamed(reader, "zones", zones, level.zones,
                  [&](ObjectReader& item, Zone& zone) { readZone(item, zone, steering(nullptr).value); });
        NameBook rooms("room");
        eachNamed(reader, "rooms", rooms, level.rooms, [&](ObjectReader& item, Room& room) { readRoom(item, room); });
        NameBook openings("opening");
        eachNamed(reader, "openings", openings, level.openings, [&](ObjectReader& item, Opening& opening) {
            readOpening(item, opening);
            opening.follows.text = gameValues_.settle(opening.follows.text);
            opening.opensOn.text = signals_.settle(opening.opensOn.text);
            opening.closesOn.text = signals_.settle(opening.closesOn.text);
        });
        if (reader.has("outside")) {
            level.outside = readOutside(reader.object("outside"));
        }
        NameBook emitters("emitter");
        reader.each("emitters", [&](ObjectReader& item) { level.emitters.append(emitter(item, project, zones, emitters)); });
        settleLater(level, zones, emitters);
        NameBook plants("plant");
        eachNamed(reader, "plants", plants, level.plants, [&](ObjectReader& item, Plant& plant) {
            readPlant(item, plant);
            plant.pattern.text = patterns_.settle(plant.pattern.text);
            plant.roamer.text = emitters.settle(plant.roamer.text);
            plant.zone.text = zones.settle(plant.zone.text);
        });
        NameBook walks("walk");
        eachNamed(reader, "walks", walks, level.walks, [&](ObjectReader& item, Walk& walk) {
            readWalk(item, walk, steering(&zones));
            for (WalkEvent& event : walk.events) {
                event.burst.emitter.text = emitters.settle(event.burst.emitter.text);
            }
        });
        reader.each("places", [&](ObjectReader& item) { level.places.push_back(readPlace(item)); });
        NameBook posts("post");
        eachNamed(reader, "posts", posts, level.posts, [&](ObjectReader& item, Post& post) {
            readPost(item, post);
            post.walk.text = walks.settle(post.walk.text);
            post.zone.text = zones.settle(post.zone.text);
            post.emitter.text = emitters.settle(post.emitter.text);
            post.other.text = emitters.settle(post.other.text);
        });
        return level;
    }

    std::vector<Notice>& notices_;
    NameBook sounds_{"sound"};
    NameBook falloffs_{"falloff"};
    NameBook families_{"family"};
    NameBook patterns_{"pattern"};
    NameBook levels_{"level"};
    NameBook gameValues_{"value"};
    NameBook signals_{"signal"};
    NameBook rigs_{"rig"};
    NameBook soundTargets_{"target"};
    NameBook materials_{"material"};
    NameBook gazes_{"gaze"};
    std::unordered_map<std::string, std::string> soundOfFile_;                           ///< ids of sounds of one file, by that
    std::unordered_map<std::string, std::shared_ptr<const EmitterSettings>> settingsOf_; ///< of patterns, by id
};

} // namespace

Project readDocument(const Json& root, std::vector<Notice>& notices)
{
    return DocumentReader(notices).read(root);
}

} // namespace stone
