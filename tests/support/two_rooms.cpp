// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/two_rooms.h"

#include <algorithm>
#include <random>

namespace fixture
{

Room boxRoom(const std::string& id, const Vec3& at, const Vec3& size)
{
    Room room;
    room.id = {id};
    room.name = id;
    room.at = at;
    room.shape = Box{size};
    return room;
}

TwoRooms::TwoRooms(double width_m, const Vec3& source, double open)
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

void TwoRooms::change(const std::function<void(Level&)>& how)
{
    project = withLevel(std::move(project), {"level"}, how);
}

HearingModel TwoRooms::model() const
{
    auto document = std::make_shared<const Project>(project);
    return HearingModel(std::make_shared<const World>(document, document->levels[0]->id, ground, LengthOf{}));
}

Ears earsAt(const Vec3& at, double heading)
{
    return Ears(at, heading, 0.0, 0.0);
}

SharedBuffer noise()
{
    auto buffer = std::make_shared<SampleBuffer>();
    std::mt19937 chance(5);
    std::normal_distribution<float> gauss(0.0F, 0.1F);
    std::vector<float> samples(96'000);
    std::generate(samples.begin(), samples.end(), [&] { return gauss(chance); });
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

std::vector<float> renderedAt(const TwoRooms& rooms, const SharedBuffer& buffer, double seconds,
                              std::function<Pose(double)> ears)
{
    OfflineJob job;
    job.scene = sceneOf(rooms.project, {buffer}, rooms.ground);
    job.to_s = seconds;
    job.ears = std::move(ears);
    return rendered(job);
}

} // namespace fixture
