#include "engine/scene.h"

#include "project/read.h"

#include <map>

namespace stone
{

ResolveSound soundsInside(const std::filesystem::path& folder)
{
    return [folder](const Sound& sound) { return resolveInside(folder, sound.file); };
}

std::shared_ptr<const Scene> makeScene(std::shared_ptr<const Project> project, const LevelId& level, SoundBank& bank,
                                       const ResolveSound& resolve, Loading loading, SharedHead head)
{
    std::map<std::string, SharedBuffer> bySound;
    for (const auto& sound : project->sounds) {
        const std::filesystem::path file = resolve(*sound);
        if (!file.empty()) {
            bySound[sound->id.text] =
                (loading == Loading::now ? bank.load(file, sound->loop) : bank.get(file, sound->loop)).buffer;
        }
    }
    std::vector<SharedBuffer> audio;
    std::vector<double> lengths_s;
    for (const auto& emitter : project->levels.find(level)->emitters) {
        const auto found = bySound.find(emitter->sound.text);
        audio.push_back(found != bySound.end() ? found->second : nullptr);
        lengths_s.push_back(audio.back() ? audio.back()->seconds() : 0.0);
    }
    return std::make_shared<const Scene>(Scene{HearingModel(project, level, lengths_s), std::move(audio), {}, std::move(head)});
}

} // namespace stone
