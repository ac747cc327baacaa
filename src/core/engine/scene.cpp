#include "engine/scene.h"

#include "project/read.h"

#include <map>

namespace stone {

ResolveSound soundsInside(const std::filesystem::path& folder)
{
    return [folder](const Sound& sound) { return resolveInside(folder, sound.file); };
}

std::shared_ptr<const Scene> makeScene(std::shared_ptr<const Project> project, const LevelId& level, SoundBank& bank,
                                       const ResolveSound& resolve, Loading loading)
{
    auto scene = std::make_shared<Scene>(Scene{HearingModel(project, level), {}, {}});
    std::map<std::string, SharedBuffer> bySound;
    for (const auto& sound : project->sounds) {
        const std::filesystem::path file = resolve(*sound);
        if (!file.empty()) {
            bySound[sound->id.text] = (loading == Loading::now ? bank.load(file, sound->loop) : bank.get(file, sound->loop)).buffer;
        }
    }
    for (const auto& emitter : scene->model.level().emitters) {
        const auto found = bySound.find(emitter->sound.text);
        scene->audio.push_back(found != bySound.end() ? found->second : nullptr);
    }
    return scene;
}

} // namespace stone
