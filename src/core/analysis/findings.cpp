// SPDX-License-Identifier: MPL-2.0
#include "analysis/findings.h"

#include "analysis/ambience_findings.h"
#include "analysis/crowd_findings.h"
#include "analysis/ears_findings.h"
#include "analysis/emitter_findings.h"
#include "analysis/gaze_findings.h"
#include "analysis/output_findings.h"
#include "analysis/plant_findings.h"
#include "analysis/post_findings.h"
#include "analysis/reverb_findings.h"
#include "analysis/room_findings.h"
#include "analysis/run_findings.h"
#include "analysis/sound_findings.h"
#include "analysis/steering_findings.h"
#include "analysis/walls_findings.h"
#include "analysis/words.h"
#include "level/walk_surface.h"
#include "project/edit.h"
#include "world/level_edges.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

std::string metres(double m)
{
    char text[32];
    std::snprintf(text, sizeof text, "%.4g m", m);
    return text;
}

/// Whether something upright stands in the way between two places of the feet, so high above them. A roof or deck that one's
/// head comes through is none: its top lies right above where it is met.
bool wallBetween(const Ground& ground, const Vec3& from, const Vec3& to, double height_m)
{
    constexpr double thick_m = 0.3;
    constexpr double before_m = 0.01;
    const Vec3 up{0.0, 0.0, height_m};
    const double length_m = glm::length(to - from);
    const Vec3 way = (to - from) / length_m;
    const auto met = ground.distanceTo(from + up, way, length_m);
    if (!met) {
        return false;
    }
    const Vec3 there = from + up + way * (*met - before_m) + Vec3{0.0, 0.0, thick_m};
    return !ground.floorBelow(there, 2.0 * thick_m);
}

/// Collects findings about one project.
class Examination
{
public:
    explicit Examination(const Examined& examined) : e_(examined) {}

    std::vector<Finding> run()
    {
        for (const ReadNotice& notice : e_.notices) {
            add({.code = "unknown-key",
                 .severity = Severity::note,
                 .what = notice.message,
                 .where = notice.pointer,
                 .fix = "remove it or open the document with the version that wrote it"});
        }
        if (e_.loading == Loading::now) {
            e_.bank.loadAll(filesOf(e_.project, e_.resolve));
        }
        for (const auto& sound : e_.project.sounds) {
            examine(*sound);
        }
        for (const auto& falloff : e_.project.falloffs) {
            findInFalloff(*falloff, "falloff " + quoted(falloff->name), {}, {}, found_);
        }
        for (const auto& level : e_.project.levels) {
            examine(*level);
        }
        findInEars(e_.project, found_);
        findInGazes(e_.project, found_);
        findInSteering(e_.project, found_);
        if (e_.output) {
            findInOutput(e_.project, *e_.output, found_);
        }
        std::stable_sort(found_.begin(), found_.end(),
                         [](const Finding& a, const Finding& b) { return a.severity > b.severity; });
        return std::move(found_);
    }

private:
    void add(Finding finding) { found_.push_back(std::move(finding)); }

    SoundBank::Entry entryOf(const Sound& sound, const SoundFile& file) const
    {
        const std::filesystem::path path = e_.resolve(file.file);
        const bool loop = isLooped(sound, file);
        return e_.loading == Loading::now ? e_.bank.load(path, loop, sound.keeping) : e_.bank.get(path, loop, sound.keeping);
    }

    /// Of its loudest file.
    std::optional<double> loudnessOf(const Sound& sound) const
    {
        std::optional<double> loudest;
        for (const SoundFile& file : sound.files) {
            if (const SoundBank::Entry entry = entryOf(sound, file); entry.buffer) {
                loudest = std::max(loudest.value_or(-200.0), entry.buffer->facts.loudness_lufs());
            }
        }
        return loudest;
    }

    void examine(const Sound& sound)
    {
        if (sound.files.empty()) {
            add({.code = "sound-without-file",
                 .severity = Finding::Severity::error,
                 .what = quoted(sound.name) + " has no file",
                 .where = "sound " + quoted(sound.name),
                 .fix = "choose a sound file for it",
                 .sound = sound.id});
            return;
        }
        std::vector<SharedBuffer> files;
        for (std::size_t i = 0; i < sound.files.size(); ++i) {
            files.push_back(examine(sound, i));
        }
        findInSound(sound, files, found_);
    }

    /// What the file holds; null while it is being read or when it cannot be.
    SharedBuffer examine(const Sound& sound, std::size_t index)
    {
        const SoundFile& asked = sound.files[index];
        Finding finding{.code = "", .where = "sound " + quoted(sound.name), .sound = sound.id, .file = index};
        finding.severity = Finding::Severity::error;
        const std::filesystem::path file = e_.resolve(asked.file);
        std::error_code ignored;
        if (asked.file.empty()) {
            finding.code = "sound-without-file";
            finding.what = quoted(sound.name) + " has a file without a name";
            finding.fix = "choose a sound file for it";
        } else if (file.empty()) {
            finding.code = "sound-outside";
            finding.what = asked.file + " leads outside the project's folder and is not read";
            finding.fix = "copy the file into the project's folder and choose it there";
        } else if (!std::filesystem::exists(file, ignored)) {
            finding.code = "sound-missing";
            finding.what = "the file " + asked.file + " is not there";
            finding.fix = "put it back, or relocate the sound to where it is now";
        } else {
            const SoundBank::Entry entry = entryOf(sound, asked);
            if (entry.state != SoundBank::State::failed) {
                return entry.buffer;
            }
            finding.code = "sound-unreadable";
            finding.what = entry.error;
            finding.fix = "replace the file";
        }
        add(finding);
        return {};
    }

    void examine(const Level& level)
    {
        const auto geometry =
            std::find_if(e_.geometry.begin(), e_.geometry.end(), [&](const LevelGeometry& g) { return g.level == level.id; });
        const auto ground = geometry != e_.geometry.end() ? geometry->ground : nullptr;
        const Mesh* mesh = ground ? &ground->mesh() : nullptr;
        if (geometry != e_.geometry.end() && !geometry->error.empty()) {
            add({.code = "level-unreadable",
                 .severity = Severity::error,
                 .what = geometry->error,
                 .where = "level " + quoted(level.name),
                 .fix = "put the file back, or choose where it is now",
                 .level = level.id});
        }
        if (mesh != nullptr) {
            examine(level, *ground);
        }
        const Ways ways = e_.loading == Loading::now ? Ways::find : Ways::foundOnly;
        const auto planted = plant(std::make_shared<const Project>(e_.project), level.id, ground, ways);
        findInPlants(*planted, found_);
        const bool anyRun =
            std::any_of(level.walks.begin(), level.walks.end(), [](const auto& walk) { return !walk->run.goal.empty(); });
        findInRuns(planted->level(), anyRun ? edgesOf(level, ground.get(), ways).get() : nullptr, found_);
        if (planted->level().emitters.empty()) {
            add({.code = "level-empty",
                 .severity = Severity::note,
                 .what = quoted(level.name) + " has no emitters: nothing will be heard",
                 .where = "level " + quoted(level.name),
                 .fix = "drop a sound on the Plan",
                 .level = level.id});
        }
        for (const auto& emitter : level.emitters) {
            examine(level, *emitter);
        }
        const auto bounds = mesh != nullptr && !mesh->triangles.empty() ? mesh->bounds() : std::array<Vec3, 2>{};
        findInAmbience(
            e_.project, level, ground, e_.loading, [this](const Sound& sound) { return loudnessOf(sound); }, found_);
        findInEmitters(e_.project, level, glm::length(bounds[1] - bounds[0]), found_);
        findInCrowds(*planted->project, planted->level(), found_);
        findInPosts(level, ground.get(), found_);
        const RoomMap rooms(level);
        findInRooms(e_.project, level, rooms, found_);
        findInReverb(e_, level, rooms, ground.get(), found_);
        findInWalls(e_.project, level, ground, e_.loading == Loading::now, found_);
        for (const auto& walk : level.walks) {
            examine(level, *walk, ground.get());
        }
    }

    void examine(const Level& level, const Walk& walk, const Ground* ground)
    {
        const std::string where = "walk " + quoted(walk.name);
        if (walk.points.size() < 2) {
            add({.code = "walk-short",
                 .severity = Severity::warning,
                 .what = quoted(walk.name) + " has fewer than two points",
                 .where = where,
                 .fix = "add points to it, or remove it",
                 .level = level.id});
        }
        // A table stands in the way of the hips, a low door in that of the head; a wall in both.
        constexpr double hips_m = 0.9;
        constexpr double head_m = 1.5;
        for (std::size_t i = 1; ground != nullptr && i < walk.points.size(); ++i) {
            const Vec3& from = walk.points[i - 1].at;
            const Vec3& to = walk.points[i].at;
            const auto blocked = [&](double height_m) { return wallBetween(*ground, from, to, height_m); };
            if (glm::length(to - from) > 0.01 && blocked(hips_m) && blocked(head_m)) {
                add({.code = "walk-through-wall",
                     .severity = Severity::warning,
                     .what = quoted(walk.name) + " goes through a wall between its points " + std::to_string(i) + " and " +
                             std::to_string(i + 1),
                     .where = where,
                     .fix = "pull its points round the wall, or leave it if that is meant",
                     .level = level.id});
                return;
            }
        }
    }

    void examine(const Level& level, const Ground& ground)
    {
        const Mesh& mesh = ground.mesh();
        const std::string where = "level " + quoted(level.name);
        if (mesh.triangles.empty()) {
            add({.code = "level-without-surfaces",
                 .severity = Severity::warning,
                 .what = quoted(level.name) + " has no surfaces",
                 .where = where,
                 .fix = "export it with its geometry",
                 .level = level.id});
            return;
        }
        const auto [low, high] = mesh.bounds();
        const double size = glm::length(high - low);
        if (size > 10'000.0 || size < 2.0) {
            add({.code = "level-scale",
                 .severity = Severity::warning,
                 .what = quoted(level.name) + " is " + metres(size) + " from corner to corner at " +
                         metres(level.metresPerUnit) + " to the unit: is the unit right?",
                 .where = where,
                 .fix = "set the metres per unit of the level",
                 .level = level.id});
        }
        if (!ground.floorBelow(level.character.start + Vec3{0.0, 0.0, WalkSurface::highestStep_m}, 2.0 * size)) {
            add({.code = "no-floor",
                 .severity = Severity::warning,
                 .what = "there is no floor under the character's start",
                 .where = where,
                 .fix = "move the start onto a floor",
                 .level = level.id});
        }
    }

    void examine(const Level& level, const Emitter& emitter)
    {
        const std::string where = "emitter " + quoted(emitter.name);
        Finding finding{.code = "", .where = where, .level = level.id, .emitter = emitter.id};
        const Sound* sound = e_.project.sounds.find(emitter.sound);
        if (sound == nullptr && !isOfCharacter(emitter.kind)) {
            finding.code = "emitter-without-sound";
            finding.severity = Severity::error;
            finding.what = emitter.sound.empty() ? quoted(emitter.name) + " has no sound"
                                                 : quoted(emitter.name) + " refers to the sound " + quoted(emitter.sound.text) +
                                                       ", which is not in the project";
            finding.fix = "choose a sound for it";
            add(finding);
        }
        if (const auto* shared = std::get_if<FalloffId>(&emitter.falloff)) {
            if (!shared->empty() && e_.project.falloffs.find(*shared) == nullptr) {
                finding.code = "falloff-unknown";
                finding.severity = Severity::warning;
                finding.what = quoted(emitter.name) + " refers to the falloff " + quoted(shared->text) +
                               ", which is not in the project; it uses the default";
                finding.fix = "choose a falloff for it";
                add(finding);
            }
        } else {
            findInFalloff(std::get<Falloff>(emitter.falloff), "the falloff of " + quoted(emitter.name), level.id, emitter.id,
                          found_);
        }
        if (sound == nullptr || sound->binaural) {
            return;
        }
        // One of its files with more channels than one is enough.
        for (const SoundFile& file : sound->files) {
            const SoundBank::Entry entry = e_.resolve(file.file).empty() ? SoundBank::Entry{} : entryOf(*sound, file);
            if (entry.state == SoundBank::State::ready && entry.buffer->channelCount() > 1) {
                findChannels(level, emitter, *entry.buffer, found_);
                return;
            }
        }
    }

    const Examined& e_;
    std::vector<Finding> found_;
};

} // namespace

const char* nameOf(Finding::Severity severity)
{
    static constexpr const char* names[] = {"note", "warning", "error"};
    return names[static_cast<std::size_t>(severity)];
}

std::vector<Finding> findAll(const Examined& examined)
{
    return Examination(examined).run();
}

} // namespace stone
