// SPDX-License-Identifier: MPL-2.0
#include "level/read_geometry.h"

#include "level/mesh_import.h"
#include "project/file_error.h"
#include "project/read.h"

namespace stone
{

std::shared_ptr<const Ground> readGround(const std::filesystem::path& path, UpAxis up, double metresPerUnit)
{
    return std::make_shared<const Ground>(std::make_shared<const Mesh>(importMesh(path, {metresPerUnit, up == UpAxis::z})));
}

LevelGeometry readGeometry(const Level& level, const std::filesystem::path& folder)
{
    LevelGeometry geometry{level.id, {}, {}};
    const auto* file = std::get_if<GeometryFile>(&level.geometry);
    if (file == nullptr) {
        return geometry;
    }
    const std::filesystem::path path = resolveInside(folder, file->file);
    if (path.empty()) {
        geometry.error = file->file + ": leads outside the project's folder and is not read";
        return geometry;
    }
    try {
        geometry.ground = readGround(path, file->up, level.metresPerUnit);
    } catch (const FileError& error) {
        geometry.error = error.what();
    }
    return geometry;
}

std::vector<LevelGeometry> readGeometry(const Project& project, const std::filesystem::path& folder)
{
    std::vector<LevelGeometry> all;
    for (const auto& level : project.levels) {
        if (std::holds_alternative<GeometryFile>(level->geometry)) {
            all.push_back(readGeometry(*level, folder));
        }
    }
    return all;
}

} // namespace stone
