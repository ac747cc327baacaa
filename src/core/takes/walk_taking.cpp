// SPDX-License-Identifier: MPL-2.0
#include "takes/walk_taking.h"

#include "takes/take_recorder.h"

namespace stone
{

bool takeWalk(const WalkTaking& taking, const std::filesystem::path& file, const std::function<bool(double)>& progress)
{
    const Project& project = taking.scene->model.project();
    const Level& level = taking.scene->model.level();
    OfflineJob job;
    job.scene = taking.scene;
    job.layout = taking.layout;
    job.rate = taking.rate;
    if (taking.walk != nullptr) {
        job.to_s = taking.walk->seconds();
        followWalk(job, *taking.walk);
    } else {
        job.to_s = taking.seconds;
        job.feet = [feet = taking.feet](double) { return feet; };
    }
    TakeInfo info;
    info.project = project.name;
    info.level = level.name;
    info.levelId = level.id.text;
    info.walk = taking.walk != nullptr ? taking.walk->name : std::string();
    info.walkId = taking.walk != nullptr ? taking.walk->id.text : std::string();
    info.layout = nameOf(taking.layout);
    info.seed = project.seed;
    info.rate = taking.rate;
    info.channels = static_cast<int>(channelsOf(taking.layout));
    info.note = taking.note;
    info.recorded = takeTime();
    info.machine = thisMachine();
    TakeRecorder recorder(file, info, taking.keepsSound, true);
    recorder.beginAt(0.0);
    if (taking.walk != nullptr) {
        recorder.followWalk([](double level_s) { return level_s; });
    }
    recorder.setMemory(taking.soundBytes);
    recorder.changed(taking.scene->model.world().document(), {});
    job.listener = &recorder;
    const bool done = renderOffline(
        job, [](std::span<const float>) {},
        [&](double part) { return (!progress || progress(part)) && recorder.failure().empty(); });
    recorder.finish();
    return done;
}

} // namespace stone
