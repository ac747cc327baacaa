#include "engine/scene.h"

#include "project/read.h"

#include <algorithm>
#include <map>

namespace stone
{

namespace
{

SharedMaterial materialOf(const std::shared_ptr<const Sound>& sound, SoundBank& bank, const ResolveFile& resolve,
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
            any = false;
            break;
        }
        any = any || entry.buffer;
        material.files.push_back(entry.buffer);
    }
    return any && material.files.size() == sound->files.size() ? std::make_shared<const SoundMaterial>(std::move(material))
                                                               : nullptr;
}

} // namespace

Course SoundMaterial::course(std::uint64_t seed, const std::string& id) const
{
    std::vector<double> frames;
    for (const SharedBuffer& file : files) {
        frames.push_back(file ? static_cast<double>(file->frames()) : 0.0);
    }
    return {sound, std::move(frames), rate(), seed, id};
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

std::shared_ptr<const Scene> makeScene(std::shared_ptr<const Project> project, const LevelId& level, SoundBank& bank,
                                       const ResolveFile& resolve, Loading loading, SharedHead head)
{
    std::map<std::string, SharedMaterial> bySound;
    for (const auto& sound : project->sounds) {
        bySound[sound->id.text] = materialOf(sound, bank, resolve, loading);
    }
    std::vector<SharedMaterial> materials;
    std::vector<double> lengths_s;
    for (const auto& emitter : project->levels.find(level)->emitters) {
        const auto found = bySound.find(emitter->sound.text);
        materials.push_back(found != bySound.end() ? found->second : nullptr);
        double length_s = 0.0;
        if (const SharedMaterial& material = materials.back()) {
            length_s = material->course(project->seed, courseIdOf(*material->sound, *emitter)).frames() / material->rate() +
                       effectTail_s(material->sound->effects);
        }
        lengths_s.push_back(length_s);
    }
    return std::make_shared<const Scene>(
        Scene{HearingModel(project, level, lengths_s), std::move(materials), {}, loading == Loading::now, std::move(head)});
}

} // namespace stone
