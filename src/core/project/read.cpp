#include "project/read.h"

#include "project/ambience_json.h"
#include "project/emitter_json.h"
#include "project/gaze_json.h"
#include "project/json_place.h"
#include "project/lane_json.h"
#include "project/material_json.h"
#include "project/object_reader.h"
#include "project/rig_json.h"
#include "project/room_json.h"
#include "project/sound_json.h"

#include <algorithm>
#include <fstream>
#include <sstream>

namespace stone
{

namespace
{

constexpr std::uintmax_t largestDocument = 256ULL << 20U;
constexpr int deepestNesting = 64;
constexpr std::uint64_t firstWithWalls = 6;

/// Reads the things of a document and settles what needs more than one of them: ids that were left out, references by
/// name.
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
        if (reader.has("air")) {
            project.air = air(reader.object("air"));
        }
        reader.each("sounds", [&](ObjectReader& item) { project.sounds.append(sound(item)); });
        reader.each("falloffs", [&](ObjectReader& item) { project.falloffs.append(falloff(item)); });
        reader.each("game_values", [&](ObjectReader& item) {
            GameValue value;
            value.id.text = identify(item, value.name, "value", gameValueIds_);
            readGameValue(item, value);
            project.gameValues.append(std::move(value));
        });
        reader.each("signals", [&](ObjectReader& item) {
            Signal signal;
            signal.id.text = identify(item, signal.name, "signal", signalIds_);
            signal.extras = item.rest();
            project.signalNames.append(std::move(signal));
        });
        reader.each("rigs", [&](ObjectReader& item) {
            Rig rig;
            rig.id.text = identify(item, rig.name, "rig", rigIds_);
            readRig(item, rig);
            project.rigs.append(std::move(rig));
        });
        project.rig.text = settle(project.rigs, reader.text("rig"));
        if (reader.has("counting")) {
            project.counting = readCounting(reader.object("counting"));
        }
        reader.each("materials", [&](ObjectReader& item) {
            Material material;
            material.id.text = identify(item, material.name, "material", materialIds_);
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
            gaze.id.text = identify(item, gaze.name, "gaze", gazeIds_);
            readGaze(item, gaze);
            gaze.from.text = settle(project.signalNames, gaze.from.text);
            gaze.until.text = settle(project.signalNames, gaze.until.text);
            for (FamilyId& family : gaze.families) {
                family.text = settle(project.families, family.text);
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
    /// The id under "id", or one made from the name; unique within `taken`.
    std::string identify(ObjectReader& reader, std::string& name, const char* kind, std::set<std::string>& taken)
    {
        std::string id = reader.text("id");
        name = reader.text("name", id);
        if (reader.has("id")) {
            if (id.empty()) {
                reader.fail("id", "an id must not be empty; leave it out to have one made from the name");
            }
            if (!taken.insert(id).second) {
                reader.fail("id", "the id \"" + id + "\" is used twice; give one of the two another id");
            }
        } else {
            const std::string base = slug(name.empty() ? kind : name);
            id = base;
            for (int n = 2; !taken.insert(id).second; ++n) {
                id = base + "-" + std::to_string(n);
            }
        }
        if (name.empty()) {
            name = id;
        }
        return id;
    }

    static Air air(ObjectReader reader)
    {
        Air air;
        air.temperature_c = reader.number("temperature_c", air.temperature_c, {-50.0, 60.0});
        air.humidity_pct = reader.number("humidity_pct", air.humidity_pct, {0.0, 100.0});
        air.pressure_kpa = reader.number("pressure_kpa", air.pressure_kpa, {10.0, 200.0});
        air.extras = reader.rest();
        return air;
    }

    Sound sound(ObjectReader& reader)
    {
        Sound sound;
        sound.id.text = identify(reader, sound.name, "sound", soundIds_);
        readSound(reader, sound);
        return sound;
    }

    Falloff falloff(ObjectReader& reader)
    {
        Falloff falloff;
        falloff.id.text = identify(reader, falloff.name, "falloff", falloffIds_);
        readFalloffLanes(reader, falloff);
        return falloff;
    }

    Family family(ObjectReader& reader)
    {
        Family family;
        family.id.text = identify(reader, family.name, "family", familyIds_);
        readFamily(reader, family);
        return family;
    }

    /// `zones` may be null, for patterns: they belong to no level.
    References references(Project& project, const List<Zone>* zones)
    {
        return {.sound = [&](const std::string& text) { return soundReference(project, text); },
                .falloff = [&](const std::string& text) { return FalloffId{settle(project.falloffs, text)}; },
                .family = [&](const std::string& text) { return FamilyId{settle(project.families, text)}; },
                .steering = steering(project, zones)};
    }

    static SteeringReferences steering(const Project& project, const List<Zone>* zones)
    {
        return {.zone = [zones](const std::string& text) { return ZoneId{zones != nullptr ? settle(*zones, text) : text}; },
                .signal = [&](const std::string& text) { return SignalId{settle(project.signalNames, text)}; },
                .value = [&](const std::string& text) { return GameValueId{settle(project.gameValues, text)}; }};
    }

    Pattern pattern(ObjectReader& reader, Project& project)
    {
        Pattern pattern;
        pattern.id.text = identify(reader, pattern.name, "pattern", patternIds_);
        readSettings(reader, references(project, nullptr), pattern.settings);
        pattern.extras = reader.rest();
        return pattern;
    }

    /// The id of the thing that a reference means, by id or, failing that, by name. A reference that leads nowhere
    /// stays as it is: a finding will say so.
    template <class Thing> static std::string settle(const List<Thing>& things, const std::string& reference)
    {
        if (things.find({reference}) != nullptr) {
            return reference;
        }
        for (const auto& thing : things) {
            if (thing->name == reference) {
                return thing->id.text;
            }
        }
        return reference;
    }

    SoundId soundReference(Project& project, const std::string& reference)
    {
        const std::string id = settle(project.sounds, reference);
        const bool file = reference.find('.') != std::string::npos;
        if (file && project.sounds.find({id}) == nullptr) {
            for (const auto& known : project.sounds) {
                if (known->files.size() == 1 && known->files.front().file == reference) {
                    return known->id;
                }
            }
            // A file name in place of a sound: the shortest way to write one down by hand.
            Sound sound;
            const std::filesystem::path path(reference);
            sound.name = path.stem().string();
            sound.id = project.sounds.freshId(sound.name);
            sound.files.push_back({.file = reference});
            soundIds_.insert(sound.id.text);
            project.sounds.append(sound);
            return sound.id;
        }
        return {id};
    }

    Emitter emitter(ObjectReader& reader, Project& project, const List<Zone>& zones, std::set<std::string>& taken)
    {
        Emitter emitter;
        emitter.id.text = identify(reader, emitter.name, "emitter", taken);
        emitter.pattern = {settle(project.patterns, reader.text("pattern"))};
        const Pattern* pattern = project.patterns.find(emitter.pattern);
        if (pattern != nullptr) {
            static_cast<EmitterSettings&>(emitter) = pattern->settings;
        }
        emitter.own = readSettings(reader, references(project, &zones), emitter);
        if (pattern == nullptr) {
            // A pattern that is not there leaves nothing to follow: everything is the emitter's own.
            emitter.own = emitter.pattern.empty() ? SettingSet{} : SettingSet{}.set();
        }
        emitter.at = reader.place("at", emitter.at);
        emitter.heading_deg = reader.number("heading_deg", 0.0, ranges::degrees);
        emitter.tilt_deg = reader.number("tilt_deg", 0.0, {-90.0, 90.0});
        if (reader.has("riding")) {
            emitter.riding = readRiding(reader.object("riding"));
        }
        emitter.muted = reader.flag("muted", false);
        emitter.solo = reader.flag("solo", false);
        emitter.extras = reader.rest();
        return emitter;
    }

    /// Zones may name parents and carriers that come later.
    static void settleLater(Level& level)
    {
        const auto settled = [&](Riding& riding) {
            const EmitterId found{settle(level.emitters, riding.roamer.text)};
            const bool other = found != riding.roamer;
            riding.roamer = found;
            return other;
        };
        for (const auto& old : List(level.zones)) {
            Zone zone = *old;
            zone.parent = {settle(level.zones, zone.parent.text)};
            if (settled(zone.riding) || zone.parent != old->parent) {
                level.zones.put(std::move(zone));
            }
        }
        for (const auto& old : List(level.emitters)) {
            if (Emitter emitter = *old; settled(emitter.riding)) {
                level.emitters.put(std::move(emitter));
            }
        }
    }

    static Walk walk(ObjectReader& reader, const std::string& id, const std::string& name, const SteeringReferences& steering)
    {
        Walk walk;
        walk.id.text = id;
        walk.name = name;
        reader.each("points", [&](ObjectReader& item) {
            WalkPoint point;
            const double earliest = walk.points.empty() ? 0.0 : walk.points.back().t_s;
            point.t_s = item.number("t_s", earliest, {earliest, ranges::seconds.most});
            point.at = item.place("at", walk.points.empty() ? Vec3{0.0} : walk.points.back().at);
            if (item.has("heading_deg")) {
                point.heading_deg = item.number("heading_deg", 0.0, ranges::degrees);
            }
            point.pitch_deg = item.number("pitch_deg", 0.0, ranges::degrees);
            point.extras = item.rest();
            walk.points.push_back(std::move(point));
        });
        reader.each("events", [&](ObjectReader& item) { walk.events.push_back(readWalkEvent(item, steering)); });
        std::stable_sort(walk.events.begin(), walk.events.end(),
                         [](const WalkEvent& a, const WalkEvent& b) { return a.t_s < b.t_s; });
        walk.extras = reader.rest();
        return walk;
    }

    static Geometry geometry(ObjectReader reader)
    {
        Geometry geometry;
        if (reader.has("picture")) {
            GeometryPicture picture;
            picture.file = reader.text("picture");
            picture.width_m = reader.number("width_m", picture.width_m, ranges::scale);
            picture.at = reader.plane("at", picture.at);
            picture.extras = reader.rest();
            geometry = std::move(picture);
        } else if (reader.has("file")) {
            GeometryFile file;
            file.file = reader.text("file");
            file.up = static_cast<UpAxis>(reader.word("up", 0, {"y", "z"}));
            file.extras = reader.rest();
            geometry = std::move(file);
        }
        return geometry;
    }

    static Character character(ObjectReader reader)
    {
        Character character;
        character.start = reader.place("at", character.start);
        character.heading_deg = reader.number("heading_deg", 0.0, ranges::degrees);
        character.earsHeight_m = reader.number("ears_height_m", character.earsHeight_m, {0.0, 1000.0});
        character.speed_m_s = reader.number("speed_m_s", character.speed_m_s, {0.01, 100.0});
        character.collides = reader.flag("collides", character.collides);
        character.extras = reader.rest();
        return character;
    }

    Level level(ObjectReader& reader, Project& project)
    {
        Level level;
        level.id.text = identify(reader, level.name, "level", levelIds_);
        if (reader.has("geometry")) {
            level.geometry = geometry(reader.object("geometry"));
        }
        level.metresPerUnit = reader.number("metres_per_unit", 1.0, ranges::scale);
        if (reader.has("character")) {
            level.character = character(reader.object("character"));
        }
        reader.each("storeys", [&](ObjectReader& item) {
            Storey storey;
            storey.name = item.text("name", "Storey");
            storey.floor_m = item.number("floor_m", 0.0, ranges::metres);
            storey.cut_m = item.number("cut_m", storey.floor_m + 1.5, ranges::metres);
            storey.extras = item.rest();
            level.storeys.push_back(storey);
        });
        if (level.storeys.empty()) {
            level.storeys.push_back(Storey{.name = "Ground", .extras = {}});
        }
        std::set<std::string> zoneIds;
        reader.each("zones", [&](ObjectReader& item) {
            Zone zone;
            zone.id.text = identify(item, zone.name, "zone", zoneIds);
            readZone(item, zone, steering(project, nullptr).value);
            level.zones.append(std::move(zone));
        });
        std::set<std::string> roomIds;
        reader.each("rooms", [&](ObjectReader& item) {
            Room room;
            room.id.text = identify(item, room.name, "room", roomIds);
            readRoom(item, room);
            level.rooms.append(std::move(room));
        });
        std::set<std::string> openingIds;
        reader.each("openings", [&](ObjectReader& item) {
            Opening opening;
            opening.id.text = identify(item, opening.name, "opening", openingIds);
            readOpening(item, opening);
            opening.follows.text = settle(project.gameValues, opening.follows.text);
            opening.opensOn.text = settle(project.signalNames, opening.opensOn.text);
            opening.closesOn.text = settle(project.signalNames, opening.closesOn.text);
            level.openings.append(std::move(opening));
        });
        if (reader.has("outside")) {
            level.outside = readOutside(reader.object("outside"));
        }
        std::set<std::string> emitterIds;
        reader.each("emitters",
                    [&](ObjectReader& item) { level.emitters.append(emitter(item, project, level.zones, emitterIds)); });
        settleLater(level);
        std::set<std::string> walkIds;
        reader.each("walks", [&](ObjectReader& item) {
            std::string name;
            const std::string id = identify(item, name, "walk", walkIds);
            level.walks.append(walk(item, id, name, steering(project, nullptr)));
        });
        reader.each("places", [&](ObjectReader& item) {
            Place place;
            place.name = item.text("name", "Place");
            place.at = item.place("at", place.at);
            place.heading_deg = item.number("heading_deg", 0.0, ranges::degrees);
            place.extras = item.rest();
            level.places.push_back(place);
        });
        return level;
    }

    std::vector<Notice>& notices_;
    std::set<std::string> soundIds_;
    std::set<std::string> falloffIds_;
    std::set<std::string> familyIds_;
    std::set<std::string> patternIds_;
    std::set<std::string> levelIds_;
    std::set<std::string> gameValueIds_;
    std::set<std::string> signalIds_;
    std::set<std::string> rigIds_;
    std::set<std::string> materialIds_;
    std::set<std::string> gazeIds_;
};

Json parse(std::string_view text, const std::string& label)
{
    const auto guard = [](int depth, Json::parse_event_t, Json&) {
        if (depth > deepestNesting) {
            throw ValueError("", "nested more than " + std::to_string(deepestNesting) + " deep");
        }
        return true;
    };
    try {
        return Json::parse(text.begin(), text.end(), guard);
    } catch (const Json::parse_error& error) {
        const auto reached = std::min<std::size_t>(error.byte > 0 ? error.byte - 1 : 0, text.size());
        const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(reached), '\n');
        throw FileError(label + ":" + std::to_string(line) +
                        ": this is not JSON here; check for a missing comma, quote or brace, "
                        "or for NaN and Infinity, which JSON does not have");
    } catch (const Json::exception&) {
        throw FileError(label + ": a number in it is too large to be read; give finite numbers");
    } catch (const ValueError& error) {
        throw FileError(label + ": " + error.what() + "; this is not a Stone Echo document");
    }
}

} // namespace

ReadProject readProjectText(std::string_view text, const std::string& label)
{
    const Json root = parse(text, label);
    std::vector<Notice> notices;
    ReadProject result;
    try {
        result.project = DocumentReader(notices).read(root);
    } catch (const ValueError& error) {
        const int line = lineOfPointer(text, error.pointer);
        throw FileError(label + (line > 0 ? ":" + std::to_string(line) : "") + ": at " +
                        (error.pointer.empty() ? "the top" : error.pointer) + ": " + error.what());
    }
    std::set<std::string> pointers;
    for (const Notice& notice : notices) {
        pointers.insert(notice.pointer);
    }
    const std::map<std::string, int> lines = pointers.empty() ? std::map<std::string, int>{} : linesOfPointers(text, pointers);
    for (const Notice& notice : notices) {
        const auto line = lines.find(notice.pointer);
        result.notices.push_back({line != lines.end() ? line->second : 0, notice.pointer, notice.message});
    }
    return result;
}

std::filesystem::path documentPath(const std::filesystem::path& path)
{
    std::error_code ignored;
    return std::filesystem::is_directory(path, ignored) ? path / "project.json" : path;
}

ReadProject readProjectFile(const std::filesystem::path& path)
{
    const std::filesystem::path document = documentPath(path);
    std::error_code error;
    const std::uintmax_t size = std::filesystem::file_size(document, error);
    if (error) {
        throw FileError(document.string() + ": cannot be read (" + error.message() + "); check the path");
    }
    if (size > largestDocument) {
        throw FileError(document.string() + ": larger than " + std::to_string(largestDocument >> 20U) +
                        " MiB; this is not a Stone Echo document");
    }
    std::ifstream file(document, std::ios::binary);
    std::ostringstream text;
    text << file.rdbuf();
    if (!file) {
        throw FileError(document.string() + ": cannot be read; check that you may read it");
    }
    return readProjectText(text.str(), document.string());
}

std::filesystem::path resolveInside(const std::filesystem::path& folder, const std::string& relative)
{
    const std::filesystem::path asked(relative);
    if (relative.empty() || asked.is_absolute() || relative.find('\0') != std::string::npos) {
        return {};
    }
    std::error_code error;
    const std::filesystem::path home = std::filesystem::weakly_canonical(std::filesystem::absolute(folder), error);
    if (error) {
        return {};
    }
    const std::filesystem::path resolved = std::filesystem::weakly_canonical(home / asked, error);
    if (error) {
        return {};
    }
    const auto [homeEnd, rest] = std::mismatch(home.begin(), home.end(), resolved.begin(), resolved.end());
    return homeEnd == home.end() ? resolved : std::filesystem::path{};
}

} // namespace stone
