// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "support/fixtures.h"
#include "takes/moment_codec.h"
#include "takes/take_recorder.h"
#include "takes/take_writer.h"

#include <cmath>
#include <filesystem>
#include <map>

/// Takes to test with: recorded from a small yard, or made up moment by moment.
namespace fixture
{

/// Two lamps, moths between them, a value that softens one and a signal; along a walk of eight seconds.
inline Project takenYard()
{
    Emitter soft = pointAt("soft", {4, 6, 1.6});
    Lane lane;
    lane.over = LaneInput::gameValue;
    lane.value = {"wind"};
    lane.shape = LaneShape::curve;
    lane.curve = {{0.0, 0.0}, {1.0, -12.0}};
    soft.lanes = {lane};
    Emitter moths = pointAt("moths", {0, 3, 1.6});
    moths.kind = EmitterKind::sprinkle;
    moths.sound = {"shot"};
    moths.sprinkling.least_s = 0.3;
    moths.sprinkling.most_s = 0.9;
    Project project = projectWith({pointAt("lamp", {-4, 2, 1.6}), soft, moths});
    Sound shot = *project.sounds.find({"tone"});
    shot.id = {"shot"};
    shot.name = "shot";
    shot.loop = false;
    project.sounds.put(shot);
    GameValue wind;
    wind.id = {"wind"};
    wind.name = "Wind";
    wind.smoothing_s = 0.0;
    project.gameValues.put(wind);
    project.signalNames.put({{"gust"}, "Gust", {}});
    Walk walk;
    walk.id = {"walk"};
    walk.name = "Along";
    walk.points = {{0.0, {0, -4, 0}, {}, 0.0, {}}, {8.0, {0, 12, 0}, {}, 0.0, {}}};
    WalkEvent set;
    set.t_s = 4.0;
    set.kind = WalkEvent::Kind::value;
    set.value = {"wind"};
    set.number = 1.0;
    WalkEvent gust;
    gust.t_s = 2.0;
    gust.signal = {"gust"};
    walk.events = {gust, set};
    return withLevel(std::move(project), {"level"}, [&](Level& level) { level.walks.put(walk); });
}

inline TakeInfo infoOf(const Project& project)
{
    TakeInfo info;
    info.project = project.name;
    info.walk = "Along";
    info.walkId = "walk";
    info.rate = 48'000;
    info.channels = 2;
    return info;
}

/// Records the yard's walk; what is heard at each step and what comes out, beside it.
struct Recorded {
    std::map<double, std::vector<Heard>> heard;
    std::vector<float> sound;
};
inline Recorded record(const Project& project, const std::filesystem::path& file, bool sound = true)
{
    Recorded recorded;
    OfflineJob job;
    job.scene = sceneOf(project, toneBuffer());
    const Walk& walk = *job.scene->model.level().walks[0];
    job.to_s = walk.seconds();
    followWalk(job, walk);
    TakeRecorder recorder(file, infoOf(project), sound, true);
    recorder.beginAt(0.0);
    recorder.followWalk([](double level_s) { return level_s; });
    recorder.changed(std::make_shared<const Project>(project), {});
    job.listener = &recorder;
    job.heard = [&](std::uint64_t step, std::span<const Heard> heard) {
        recorded.heard[static_cast<double>(step * stepFrames) / 48'000.0] = {heard.begin(), heard.end()};
    };
    recorded.sound = rendered(job);
    recorder.finish();
    return recorded;
}

/// A take of one emitter for each level that a function of time gives; below -150 it is not there.
class Made
{
public:
    explicit Made(const std::filesystem::path& file, std::vector<std::string> names = {"lamp"})
        : writer_(file, TakeInfo{.rate = 48'000})
    {
        for (std::uint32_t i = 0; i < names.size(); ++i) {
            writer_.addEmitter({{names[i]}, names[i], EmitterKind::point, {}, {}});
            writer_.addCopy({i, 0, 0, {"tone"}, "tone", 0.0});
        }
    }
    void add(double t_s, const std::vector<TakenCopy>& copies) { addWithRooms(t_s, copies, {}); }
    /// Nothing is heard, with the feet somewhere.
    void addAt(double t_s, const Vec3& feet)
    {
        TakenMoment moment;
        moment.t_s = t_s;
        moment.feet.at = feet;
        encoder_.add(moment);
        last_s_ = t_s;
    }
    void addWithRooms(double t_s, const std::vector<TakenCopy>& copies, const std::vector<TakenRoom>& rooms)
    {
        TakenMoment moment;
        moment.t_s = t_s;
        moment.walk_s = t_s;
        moment.copies = copies;
        moment.rooms = rooms;
        moment.voices = static_cast<std::uint32_t>(copies.size());
        moment.feet.at = {t_s, 0, 0};
        encoder_.add(moment);
        last_s_ = t_s;
    }
    void finish()
    {
        writer_.addMoments(0.0, last_s_, encoder_.take());
        writer_.finish(last_s_, -20.0, -3.0);
    }
    TakeWriter& writer() { return writer_; }

private:
    TakeWriter writer_;
    MomentEncoder encoder_;
    double last_s_ = 0.0;
};

inline TakenCopy heardAt(std::uint32_t copy, double level_db, double side = 0.0)
{
    TakenCopy taken;
    taken.copy = copy;
    taken.audible = true;
    taken.level_db = level_db;
    taken.direction = {side, std::sqrt(1.0 - side * side), 0.0};
    taken.terms.add(TermKind::sound, level_db);
    return taken;
}

} // namespace fixture
