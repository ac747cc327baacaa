// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"
#include "spatial/layout.h"

#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace stone
{

/// What a place answers to an impulse.
struct ImpulseQuestion {
    std::shared_ptr<const Project> project;
    LevelId level;                         ///< the project must have it
    std::shared_ptr<const Ground> ground;  ///< null: no geometry
    std::vector<SharedResponse> responses; ///< of the level's rooms, see Scene
    Pose ears;
    Vec3 source{0.0};
    Layout layout = Layout::mono;
    int rate = 48'000;
};

struct ImpulseResponse {
    Layout layout = Layout::mono;
    int rate = 48'000;
    std::vector<float> interleaved;
};

/// Renders it by the same engine that plays: a single sample of 1 from an emitter with the default falloff, alone in the
/// level; so its walls, ways, reflections and rooms are all in it. The response begins with what arrives straight, without the
/// time that takes. Openings stand as they do when the level begins. As long as the longest room rings; some tenths of that
/// time to compute. `progress` gets 0 to 1 and stops it by returning false: then there is nothing.
std::optional<ImpulseResponse> impulseResponse(const ImpulseQuestion& question, const std::function<bool(double)>& progress);

} // namespace stone
