// SPDX-License-Identifier: MPL-2.0
#include "exports/rendered.h"

#include "analysis/impulse_response.h"
#include "dsp/decibel.h"
#include "engine/offline.h"
#include "media/sound_writer.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace stone
{

namespace
{

/// Where a direction's sound stands: a metre away, which is what levels refer to.
constexpr double away_m = 1.0;
/// Longest that goes on by itself: then it is cut, as nobody wants hours of a file for each direction.
constexpr double most_s = 600.0;
/// What is heard of a one-shot after its end, where effects ring on.
constexpr double tail_s = 0.05;
constexpr double earsHeight_m = 1.6;
constexpr double before_m = 2.0;

double highest_db(const std::vector<float>& interleaved)
{
    float peak = 0.0F;
    for (const float sample : interleaved) {
        peak = std::max(peak, std::abs(sample));
    }
    return levelOf(static_cast<double>(peak));
}

Rendered written(const Rendering& how, const std::string& name, Layout layout, const std::vector<float>& interleaved)
{
    std::error_code error;
    std::filesystem::create_directories(how.folder, error);
    const std::filesystem::path file = how.folder / name;
    const std::size_t channels = channelsOf(layout);
    SoundWriter writer(file, static_cast<int>(channels), how.rate, interleaved.size() / channels);
    writer.write(interleaved);
    writer.finish();
    return {file, static_cast<double>(interleaved.size() / channels) / how.rate, highest_db(interleaved)};
}

/// Nothing where it was stopped.
std::vector<float> played(const OfflineJob& job, const std::function<bool(double)>& progress)
{
    std::vector<float> out;
    const bool whole = renderOffline(
        job, [&](std::span<const float> frames) { out.insert(out.end(), frames.begin(), frames.end()); }, progress);
    return whole ? out : std::vector<float>{};
}

/// The part of all that one of several files is.
std::function<bool(double)> partOf(const Rendering& how, std::size_t index, std::size_t count)
{
    return [&how, index, count](double share) {
        return !how.progress || how.progress((static_cast<double>(index) + share) / static_cast<double>(count));
    };
}

double azimuthOf_deg(int direction, int count)
{
    return 360.0 * direction / count;
}

} // namespace

std::vector<std::string> layoutFiles(const Walk& walk, const std::vector<Layout>& layouts)
{
    std::vector<std::string> names;
    for (const Layout layout : layouts) {
        names.push_back(slug(walk.name) + '-' + slug(nameOf(layout)) + ".wav");
    }
    return names;
}

std::vector<std::string> directionFiles(const Sound& sound, int count)
{
    std::vector<std::string> names;
    for (int i = 0; i < count; ++i) {
        char degrees[16];
        std::snprintf(degrees, sizeof degrees, "-%03ld.wav", std::lround(azimuthOf_deg(i, count)));
        names.push_back(slug(sound.name) + degrees);
    }
    return names;
}

std::vector<std::string> responseFiles(const Level& level)
{
    std::vector<std::string> names;
    for (const auto& room : level.rooms) {
        if (room->reverb.on) {
            // Two rooms of one name are two files.
            const std::string own = slug(room->name);
            std::string name = own;
            for (int n = 2; std::find(names.begin(), names.end(), name + ".wav") != names.end(); ++n) {
                name = own + '-' + std::to_string(n);
            }
            names.push_back(name + ".wav");
        }
    }
    return names;
}

std::vector<Rendered> renderLayouts(const Rendering& how, const Walk& walk, const std::vector<Layout>& layouts)
{
    std::vector<Rendered> all;
    const auto names = layoutFiles(walk, layouts);
    const auto scene = makeScene(how.project, how.level, how.bank, how.resolve, Loading::now, how.ground);
    for (std::size_t i = 0; i < layouts.size(); ++i) {
        OfflineJob job;
        job.scene = scene;
        job.layout = layouts[i];
        job.rate = how.rate;
        job.to_s = walk.seconds();
        followWalk(job, walk);
        const std::vector<float> out = played(job, partOf(how, i, layouts.size()));
        if (out.empty()) {
            return all;
        }
        all.push_back(written(how, names[i], layouts[i], out));
    }
    return all;
}

std::vector<Rendered> renderDirections(const Rendering& how, const Sound& sound, int count, Layout layout)
{
    std::vector<Rendered> all;
    const auto names = directionFiles(sound, count);
    for (int i = 0; i < count; ++i) {
        const double azimuth_deg = azimuthOf_deg(i, count);
        Project project = blankProject();
        project.seed = how.project->seed;
        project.sounds.put(sound);
        Emitter emitter;
        emitter.id = {"it"};
        emitter.sound = sound.id;
        emitter.at = aheadOf(azimuth_deg, 0.0) * away_m + Vec3{0.0, 0.0, earsHeight_m};
        emitter.placement.nearRange_m = 0.0;
        Level level = *project.levels[0];
        level.emitters.put(emitter);
        const LevelId id = level.id;
        project.levels.put(std::move(level));
        OfflineJob job;
        job.scene = makeScene(std::make_shared<const Project>(std::move(project)), id, how.bank, how.resolve, Loading::now);
        const World& world = job.scene->model.world();
        const SharedMaterial material = job.scene->materialOf(0);
        if (!material) {
            return all;
        }
        const double own_s = world.lengthOf_s(world.simpleStart(0));
        const double loop_s = material->files.front() ? material->files.front()->seconds() : 0.0;
        job.layout = layout;
        job.rate = how.rate;
        // Of a loop the second round: the first one begins from silence.
        job.from_s = std::isfinite(own_s) ? 0.0 : loop_s;
        job.to_s = job.from_s + std::min(std::isfinite(own_s) ? own_s + tail_s : loop_s, most_s);
        job.ears = [](double) { return Pose{{0.0, 0.0, earsHeight_m}}; };
        const std::vector<float> out = played(job, partOf(how, static_cast<std::size_t>(i), static_cast<std::size_t>(count)));
        if (out.empty()) {
            return all;
        }
        all.push_back(written(how, names[static_cast<std::size_t>(i)], layout, out));
    }
    return all;
}

std::vector<Rendered> renderResponses(const Rendering& how, Layout layout)
{
    std::vector<Rendered> all;
    const Level& level = *how.project->levels.find(how.level);
    const auto names = responseFiles(level);
    const auto scene = makeScene(how.project, how.level, how.bank, how.resolve, Loading::now, how.ground);
    const auto responses = responsesOf(level, how.bank, how.resolve, Loading::now);
    for (std::size_t i = 0; i < level.rooms.size(); ++i) {
        const Room& room = *level.rooms[i];
        if (!room.reverb.on) {
            continue;
        }
        const Sphere bounds = scene->model.world().rooms().solid(static_cast<std::uint32_t>(i)).bounds();
        const Pose ears{{bounds.centre.x, bounds.centre.y, std::min(bounds.centre.z, room.at.z + earsHeight_m)}};
        const auto response = impulseResponse({.project = how.project,
                                               .level = how.level,
                                               .ground = how.ground,
                                               .responses = responses,
                                               .ears = ears,
                                               .source = ears.at + Vec3{0.0, before_m, 0.0},
                                               .layout = layout,
                                               .rate = how.rate},
                                              partOf(how, all.size(), names.size()));
        if (!response) {
            return all;
        }
        all.push_back(written(how, names[all.size()], layout, response->interleaved));
    }
    return all;
}

} // namespace stone
