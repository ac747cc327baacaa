// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "hearing/model.h"
#include "support/boxes.h"
#include "support/fixtures.h"

#include <functional>

/// Two rooms with an opening between them, and what is heard in them.
namespace fixture
{

constexpr TimeSpan now{0.0, 0.0};

Room boxRoom(const std::string& id, const Vec3& at, const Vec3& size);

/// Two rooms of brick, west and east of a wall at x = 0 with a hole in its middle; both 8 x 8 x 4 m.
struct TwoRooms {
    Project project;
    std::shared_ptr<const Ground> ground;

    explicit TwoRooms(double width_m = 1.0, const Vec3& source = {4, 0, 1.6}, double open = 1.0);
    void change(const std::function<void(Level&)>& how);
    HearingModel model() const;
};

Ears earsAt(const Vec3& at, double heading = 0.0);

/// A second of even noise: a loop.
SharedBuffer noise();

std::vector<float> renderedAt(const TwoRooms& rooms, const SharedBuffer& buffer, double seconds,
                              std::function<Pose(double)> ears);

} // namespace fixture
