// SPDX-License-Identifier: MPL-2.0
#include "exports/packing.h"

#include "exports/prepared_sounds.h"
#include "level/finds.h"
#include "level/level_files.h"
#include "level/read_geometry.h"
#include "project/file_error.h"
#include "project/write.h"
#include "world/world.h"

#include <algorithm>
#include <map>
#include <set>

namespace stone
{

namespace
{

/// How far packing is when sounds are prepared, and how much further when that has been found which levels want.
constexpr double soundsPrepared = 0.8;
constexpr double levelsSearched = 0.1;

/// Takes a gain off again that a file was given, and points its loop where it is now.
void follow(Sound& sound, std::size_t index, const PreparedSound& prepared, const PreparedFacts& facts)
{
    SoundFile& file = sound.files[index];
    file.file = "sounds/" + prepared.to;
    file.level_db -= facts.gain_db;
    const double trimmed_s = static_cast<double>(facts.trimmedFrames) / std::max(facts.rate, 1);
    file.loopFrom_s = std::max(file.loopFrom_s - trimmed_s, 0.0);
    file.loopTo_s = file.loopTo_s > 0.0 ? std::max(file.loopTo_s - trimmed_s, 0.0) : 0.0;
}

class Packer
{
public:
    explicit Packer(const std::function<std::filesystem::path(const std::string&)>& resolve) : resolve_(resolve) {}

    /// A file that the document names, under the name that it has there.
    void add(const std::string& name)
    {
        std::error_code error;
        const std::filesystem::path path = name.empty() ? std::filesystem::path() : resolve_(name);
        if (!name.empty() && (path.empty() || !std::filesystem::is_regular_file(path, error))) {
            missing.push_back(name);
        } else if (!name.empty() && names_.insert(name).second) {
            files.push_back({name, path});
        }
    }

    void addGeometry(const std::string& name)
    {
        add(name);
        for (const std::string& beside : filesBeside(resolve_(name))) {
            add((std::filesystem::path(name).parent_path() / beside).generic_string());
        }
    }

    std::vector<PackedFile> files;
    std::vector<std::string> missing;

private:
    const std::function<std::filesystem::path(const std::string&)>& resolve_;
    std::set<std::string> names_;
};

/// What whoever plays it would look for on each level's geometry, before it begins: edges of the floor, ways on foot. `goOn`:
/// asked before each level, with how many are done; false stops. Whether it was not stopped.
bool addFinds(const Project& project, const std::function<std::filesystem::path(const std::string&)>& resolve,
              const std::function<bool(double)>& goOn, Packer& packer)
{
    const auto whole = std::make_shared<const Project>(project);
    for (std::size_t i = 0; i < project.levels.size(); ++i) {
        const Level& level = *project.levels[i];
        if (!goOn(static_cast<double>(i) / static_cast<double>(project.levels.size()))) {
            return false;
        }
        const auto* geometry = std::get_if<GeometryFile>(&level.geometry);
        const std::filesystem::path file = geometry != nullptr ? resolve(geometry->file) : std::filesystem::path();
        std::error_code error;
        if (!std::filesystem::is_regular_file(file, error)) {
            continue;
        }
        try {
            const auto ground = readGround(file, geometry->up, level.metresPerUnit);
            const World world(whole, level.id, ground, {}, Ways::find);
            packer.files.push_back({findsName(i), {}, findsOf(*ground)});
        } catch (const FileError&) {
            continue; // damaged geometry is packed as it is: whoever opens it is told
        }
    }
    return true;
}

} // namespace

std::optional<PackReport> packProject(const Project& project, const std::filesystem::path& pack,
                                      const std::optional<SoundTarget>& target,
                                      const std::function<std::filesystem::path(const std::string&)>& resolve,
                                      const std::function<bool(double)>& progress)
{
    const auto tell = [&](double share) { return !progress || progress(share); };
    Project packed = project;
    Packer packer(resolve);
    std::optional<PassingFolder> made;
    if (target) {
        made.emplace();
        const auto all = soundsToPrepare(project, *target, resolve);
        std::size_t next = 0;
        for (const auto& sound : project.sounds) {
            Sound now = *sound;
            for (std::size_t i = 0; i < now.files.size(); ++i, ++next) {
                std::error_code error;
                if (!std::filesystem::is_regular_file(all[next].from, error)) {
                    packer.missing.push_back(now.files[i].file);
                    continue;
                }
                bool stopped = false;
                const auto stop = [&] {
                    stopped = stopped || !tell(soundsPrepared * static_cast<double>(next) / static_cast<double>(all.size()));
                    return stopped;
                };
                if (stop()) {
                    return {};
                }
                const PreparedFacts facts = prepareSound(all[next], *target, made->path());
                follow(now, i, all[next], facts);
                packer.files.push_back({now.files[i].file, made->path() / all[next].to});
            }
            packed.sounds.put(std::move(now));
        }
    } else {
        for (const auto& sound : project.sounds) {
            for (const SoundFile& file : sound->files) {
                packer.add(file.file);
            }
        }
    }
    for (const auto& level : project.levels) {
        if (const auto* geometry = std::get_if<GeometryFile>(&level->geometry)) {
            packer.addGeometry(geometry->file);
        } else if (const auto* picture = std::get_if<GeometryPicture>(&level->geometry)) {
            packer.add(picture->file);
        }
        for (const auto& room : level->rooms) {
            packer.add(room->reverb.response);
        }
    }
    const double sounds = target ? soundsPrepared : 0.0;
    if (!addFinds(
            project, resolve, [&](double share) { return tell(sounds + levelsSearched * share); }, packer)) {
        return {};
    }
    // The document first: who looks at the beginning sees what it is.
    packer.files.insert(packer.files.begin(), {"project.json", {}, projectText(packed)});
    const double from = sounds + levelsSearched;
    if (!writePack(pack, packer.files, [&](double share) { return tell(from + (1.0 - from) * share); })) {
        return {};
    }
    std::error_code error;
    return PackReport{packer.files.size(), std::filesystem::file_size(pack, error), packer.missing};
}

} // namespace stone
