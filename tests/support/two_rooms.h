#pragma once

#include "hearing/model.h"
#include "support/boxes.h"
#include "support/fixtures.h"

#include <algorithm>
#include <functional>
#include <random>

/// Two rooms with an opening between them, and what is heard in them.
namespace fixture
{

constexpr TimeSpan now{0.0, 0.0};

inline Room boxRoom(const std::string& id, const Vec3& at, const Vec3& size)
{
    Room room;
    room.id = {id};
    room.name = id;
    room.at = at;
    room.shape = Box{size};
    return room;
}

/// Two rooms of brick, west and east of a wall at x = 0 with a hole in its middle; both 8 x 8 x 4 m.
struct TwoRooms {
    Project project;
    std::shared_ptr<const Ground> ground;

    explicit TwoRooms(double width_m = 1.0, const Vec3& source = {4, 0, 1.6}, double open = 1.0)
    {
        Emitter emitter = pointAt("a", source);
        Falloff flat;
        flat.lanes[0].on = false;
        emitter.falloff = flat;
        project = projectWith({emitter});
        project = withLevel(std::move(project), {"level"}, [&](Level& level) {
            level.rooms.put(boxRoom("west", {-4.2, 0, 0}, {8, 8, 4}));
            level.rooms.put(boxRoom("east", {4.2, 0, 0}, {8, 8, 4}));
            Opening door;
            door.id = {"door"};
            door.from = {0, -width_m / 2};
            door.to = {0, width_m / 2};
            door.open = open;
            level.openings.put(door);
        });
        Mesh mesh;
        mesh.materials = {"brick"};
        for (const double x : {-8.5, 8.2}) {
            addBox(mesh, {x, -4.3, -0.3}, {x + 0.3, 4.3, 4.3});
        }
        for (const double y : {-4.3, 4.0}) {
            addBox(mesh, {-8.5, y, -0.3}, {8.5, y + 0.3, 4.3});
        }
        addBox(mesh, {-8.5, -4.3, -0.3}, {8.5, 4.3, 0});
        addBox(mesh, {-8.5, -4.3, 4}, {8.5, 4.3, 4.3});
        addBox(mesh, {-0.2, -4.3, 0}, {0.2, -width_m / 2, 4});
        addBox(mesh, {-0.2, width_m / 2, 0}, {0.2, 4.3, 4});
        addBox(mesh, {-0.2, -width_m / 2, 2.1}, {0.2, width_m / 2, 4});
        ground = groundOf(mesh);
    }
    void change(const std::function<void(Level&)>& how) { project = withLevel(std::move(project), {"level"}, how); }
    HearingModel model() const
    {
        auto document = std::make_shared<const Project>(project);
        return HearingModel(std::make_shared<const World>(document, document->levels[0]->id, ground, LengthOf{}));
    }
};

inline Ears earsAt(const Vec3& at, double heading = 0.0)
{
    return Ears(at, heading, 0.0, 0.0);
}

/// A second of even noise: a loop.
inline SharedBuffer noise()
{
    auto buffer = std::make_shared<SampleBuffer>();
    std::mt19937 chance(5);
    std::normal_distribution<float> gauss(0.0F, 0.1F);
    std::vector<float> samples(96'000);
    std::generate(samples.begin(), samples.end(), [&] { return gauss(chance); });
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

inline std::vector<float> renderedAt(const TwoRooms& rooms, const SharedBuffer& buffer, double seconds,
                                     std::function<Pose(double)> ears)
{
    OfflineJob job;
    job.scene = sceneOf(rooms.project, {buffer}, rooms.ground);
    job.to_s = seconds;
    job.ears = std::move(ears);
    return rendered(job);
}

} // namespace fixture
