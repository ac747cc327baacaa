// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/offline.h"
#include "project/edit.h"

#include <string>
#include <vector>

/// Small projects and sounds that tests are about, and what they measure.
namespace fixture
{

using namespace stone;

void writeTone(const std::filesystem::path& file, double hz, double seconds, int rate = 48'000, int channels = 1,
               double gain = 0.5);

void writeText(const std::filesystem::path& file, const std::string& text);

/// A buffer with a sine of a whole number of cycles: a loop without a seam.
SharedBuffer toneBuffer(double hz = 480.0, double seconds = 1.0, float gain = 0.5F);

/// A Point of the inverse model with the usual reference of 1 m.
Emitter pointAt(const std::string& id, const Vec3& at);

Project projectWith(const std::vector<Emitter>& emitters, bool loop = true);

/// A scene in which the files of every sound are these buffers.
std::shared_ptr<Scene> sceneOf(const Project& project, const std::vector<SharedBuffer>& files,
                               std::shared_ptr<const Ground> ground = {});

std::shared_ptr<Scene> sceneOf(const Project& project, const SharedBuffer& buffer);

std::vector<float> rendered(OfflineJob job);

/// RMS of one channel of interleaved sound between two times.
double rms_db(const std::vector<float>& interleaved, std::size_t channel, double from_s, double to_s, std::size_t channels = 2);

/// Both ears together.
double energy_db(const std::vector<float>& interleaved, double from_s, double to_s);

/// The largest third difference of a channel: a smooth signal's is small, a step's is as high as the step.
double largestBreak(const std::vector<float>& x, std::size_t channel, std::size_t channels = 2);

} // namespace fixture
