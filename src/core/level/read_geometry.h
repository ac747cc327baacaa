// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// A file of geometry as a level has it: in its unit, the right way up. Throws FileError.
std::shared_ptr<const Ground> readGround(const std::filesystem::path& path, UpAxis up, double metresPerUnit);

/// A level's geometry as far as it could be read.
struct LevelGeometry {
    LevelId level;
    std::shared_ptr<const Ground> ground; ///< null: it has no file, or that could not be read
    std::string error;                    ///< one line when the file could not be read
};

/// Reads the geometry of a level. Does not throw.
LevelGeometry readGeometry(const Level& level, const std::filesystem::path& folder);

/// The same of every level that has a file.
std::vector<LevelGeometry> readGeometry(const Project& project, const std::filesystem::path& folder);

} // namespace stone
