// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"
#include "spatial/layout.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// What is rendered for a game that does less by itself: files, one after the other.
struct Rendered {
    std::filesystem::path file; ///< in the folder
    double seconds = 0.0;
    double loudest_db = 0.0; ///< its highest sample, dB over full scale
};

/// What all of these need to know. `progress`: 0 to 1 over all files; false stops, after which nothing is half written.
struct Rendering {
    std::shared_ptr<const Project> project;
    LevelId level;
    std::shared_ptr<const Ground> ground; ///< null: no geometry
    ResolveFile resolve;
    SoundBank& bank; ///< at the working rate
    int rate = 48'000;
    std::filesystem::path folder;
    std::function<bool(double)> progress{};
};

/// The names of the files that each of these writes, in their order.
std::vector<std::string> layoutFiles(const Walk& walk, const std::vector<Layout>& layouts);
std::vector<std::string> directionFiles(const Sound& sound, int count);
std::vector<std::string> responseFiles(const Level& level);

/// A walk as it is heard in several layouts: WALK-LAYOUT.wav. The level must have it.
std::vector<Rendered> renderLayouts(const Rendering& how, const Walk& walk, const std::vector<Layout>& layouts);

/// A sound as it is heard from so many directions round the ears, evenly clockwise from ahead: SOUND-000.wav, SOUND-045.wav,
/// ... Alone, without walls or rooms, as loud everywhere as it is recorded; loops once round. `count`: 1 to 360.
std::vector<Rendered> renderDirections(const Rendering& how, const Sound& sound, int count, Layout layout);

/// What each room of the level answers, heard in its middle, from two metres ahead: ROOM.wav. Rooms without reverb are left
/// out.
std::vector<Rendered> renderResponses(const Rendering& how, Layout layout);

} // namespace stone
