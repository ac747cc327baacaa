// SPDX-License-Identifier: MPL-2.0
#include "engine/scene.h"

#include "project/read.h"

#include <algorithm>

namespace stone
{

namespace
{

/// Null while files are being read, and when none can be.
struct LoadedMaterial {
    SharedMaterial material;
    bool unreadable = false;
};

LoadedMaterial materialOf(const std::shared_ptr<const Sound>& sound, SoundBank& bank, const ResolveFile& resolve,
                          Loading loading)
{
    SoundMaterial material{sound, {}, designEffects(sound->effects, bank.rate())};
    bool any = false;
    for (const SoundFile& file : sound->files) {
        const std::filesystem::path path = resolve(file.file);
        SoundBank::Entry entry{SoundBank::State::failed, {}, {}};
        if (!path.empty()) {
            const bool loop = isLooped(*sound, file);
            entry = loading == Loading::now ? bank.load(path, loop, sound->keeping) : bank.get(path, loop, sound->keeping);
        }
        if (entry.state == SoundBank::State::loading) {
            // With some of its files a sound would go another way than with all of them.
            return {};
        }
        any = any || entry.buffer;
        material.files.push_back(entry.buffer);
    }
    if (!any) {
        return {nullptr, true};
    }
    return {std::make_shared<const SoundMaterial>(std::move(material))};
}

void addFiles(const Sound& sound, const ResolveFile& resolve, std::vector<SoundBank::Key>& files)
{
    for (const SoundFile& file : sound.files) {
        if (const std::filesystem::path path = resolve(file.file); !path.empty()) {
            files.push_back({path.string(), isLooped(sound, file), sound.keeping});
        }
    }
}

void addFiles(const Level& level, const ResolveFile& resolve, std::vector<SoundBank::Key>& files)
{
    for (const auto& room : level.rooms) {
        const std::string& response = room->reverb.response;
        if (const auto path = response.empty() ? std::filesystem::path() : resolve(response); !path.empty()) {
            files.push_back({path.string(), false, Keeping::decoded});
        }
    }
}

} // namespace

std::vector<SoundBank::Key> filesOf(const Project& project, const ResolveFile& resolve)
{
    std::vector<SoundBank::Key> files;
    for (const auto& sound : project.sounds) {
        addFiles(*sound, resolve, files);
    }
    for (const auto& level : project.levels) {
        addFiles(*level, resolve, files);
    }
    return files;
}

std::vector<SoundBank::Key> filesOf(const Sound& sound, const ResolveFile& resolve)
{
    std::vector<SoundBank::Key> files;
    addFiles(sound, resolve, files);
    return files;
}

std::vector<SharedResponse> responsesOf(const Level& level, SoundBank& bank, const ResolveFile& resolve, Loading loading)
{
    std::vector<SharedResponse> responses;
    for (const auto& room : level.rooms) {
        const Reverb& reverb = room->reverb;
        const std::filesystem::path path = reverb.tail == Tail::response ? resolve(reverb.response) : std::filesystem::path();
        if (path.empty()) {
            responses.emplace_back();
        } else {
            const SoundBank::Entry entry =
                loading == Loading::now ? bank.load(path, false, Keeping::decoded) : bank.get(path, false, Keeping::decoded);
            responses.push_back(RoomResponse::of(entry.buffer));
        }
    }
    return responses;
}

Course SoundMaterial::course(std::uint64_t seed, const std::string& id, const std::optional<std::size_t>& file) const
{
    std::vector<double> frames;
    for (const SharedBuffer& audio : files) {
        frames.push_back(audio ? static_cast<double>(audio->frames()) : 0.0);
    }
    return {sound, std::move(frames), rate(), seed, id, file};
}

double SoundMaterial::rate() const
{
    const auto there = std::find_if(files.begin(), files.end(), [](const SharedBuffer& file) { return file != nullptr; });
    return there != files.end() ? static_cast<double>((*there)->rate) : 0.0;
}

ResolveFile filesInside(const std::filesystem::path& folder)
{
    return [folder](const std::string& file) { return resolveInside(folder, file); };
}

bool isLooped(const Sound& sound, const SoundFile& file)
{
    const bool asLoop = sound.make == Make::one || sound.make == Make::layers || (sound.make == Make::mixed && !file.accent);
    return sound.loop && asLoop;
}

LengthOf lengthsOf(std::vector<SharedMaterial> materials, std::uint64_t seed)
{
    return [materials = std::move(materials), seed](std::uint32_t playable, const std::string& courseId,
                                                    const std::optional<std::size_t>& file) {
        const SharedMaterial& material = materials[playable];
        return material
                   ? material->course(seed, courseId, file).frames() / material->rate() + effectTail_s(material->sound->effects)
                   : 0.0;
    };
}

std::shared_ptr<const Scene> makeScene(const std::shared_ptr<const Project>& project, const LevelId& level, SoundBank& bank,
                                       const ResolveFile& resolve, Loading loading, std::shared_ptr<const Ground> ground,
                                       SharedHead head, const ForEars& forEars, const Scene* before)
{
    std::vector<SharedMaterial> materials;
    std::vector<bool> unreadable;
    const Ways ways = loading == Loading::now ? Ways::find : Ways::foundOnly;
    auto planted = plant(project, level, ground, ways, before != nullptr ? &before->model.world().planted() : nullptr);
    std::vector<Playable> playables = playablesOf(*planted->project, planted->level());
    if (loading == Loading::now) {
        std::vector<SoundBank::Key> files;
        for (const Playable& playable : playables) {
            if (playable.used) {
                addFiles(*playable.sound, resolve, files);
            }
        }
        bank.loadAll(std::move(files));
    }
    for (const Playable& playable : playables) {
        LoadedMaterial loaded = playable.used ? materialOf(playable.sound, bank, resolve, loading) : LoadedMaterial{};
        materials.push_back(std::move(loaded.material));
        unreadable.push_back(loaded.unreadable);
    }
    auto world = std::make_shared<const World>(std::move(planted), std::move(ground), lengthsOf(materials, project->seed), ways,
                                               std::move(playables));
    HearingModel model(std::move(world), forEars, std::move(unreadable), before != nullptr ? &before->model : nullptr);
    auto networks = networksOf(model, bank.rate(), before != nullptr ? before->networks : std::vector<SharedNetwork>{});
    return std::make_shared<const Scene>(Scene{std::move(model), std::move(materials), loading == Loading::now, std::move(head),
                                               std::move(networks),
                                               responsesOf(*project->levels.find(level), bank, resolve, loading)});
}

} // namespace stone
