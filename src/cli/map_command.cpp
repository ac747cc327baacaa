// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/audibility_map.h"
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "cli/map_picture.h"
#include "engine/offline.h"
#include "project/atomic_file.h"
#include "project/file_error.h"

#include <nlohmann/json.hpp>

#include <atomic>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <mutex>
#include <unistd.h>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

std::size_t storeyNamed(const Level& level, const std::string& name)
{
    if (name.empty()) {
        // Where the character starts.
        std::size_t best = 0;
        for (std::size_t i = 0; i < level.storeys.size(); ++i) {
            const double off_m = std::abs(level.storeys[i].floor_m - level.character.start.z);
            if (off_m < std::abs(level.storeys[best].floor_m - level.character.start.z)) {
                best = i;
            }
        }
        return best;
    }
    std::string names;
    for (std::size_t i = 0; i < level.storeys.size(); ++i) {
        if (level.storeys[i].name == name) {
            return i;
        }
        names += (names.empty() ? "" : ", ") + level.storeys[i].name;
    }
    throw UsageError("no storey is called \"" + name + "\" in the level \"" + level.name + "\"" +
                     (names.empty() ? "; it has none" : "; there are: " + names));
}

/// A cell that may hold a comma or a quotation mark, as CSV has it.
std::string quotedCell(const std::string& text)
{
    std::string out = "\"";
    for (const char c : text) {
        out += c;
        out += c == '"' ? "\"" : "";
    }
    return out + '"';
}

std::string csvOf(const Level& level, const MapGrid& grid, std::span<const MapCell> cells,
                  std::pair<std::uint32_t, std::uint32_t> rows, bool header)
{
    std::string out = header ? "x_m,y_m,z_m,level_db,loudest,voices\n" : "";
    char text[96];
    for (std::uint32_t row = rows.first; row < rows.second; ++row) {
        for (std::uint32_t column = 0; column < grid.columns; ++column) {
            const MapCell& cell = cells[std::size_t{row - rows.first} * grid.columns + column];
            const Vec3 at = grid.at(column, row);
            std::snprintf(text, sizeof text, "%.3f,%.3f,%.3f,", at.x, at.y, at.z);
            out += text;
            if (std::isfinite(cell.level_db)) {
                std::snprintf(text, sizeof text, "%.2f", cell.level_db);
                out += text;
            }
            out += ',' + (cell.loudest != MapCell::nobody ? quotedCell(level.emitters[cell.loudest]->name) : std::string()) +
                   ',' + std::to_string(cell.voices) + '\n';
        }
    }
    return out;
}

} // namespace

int map(const MapOptions& options)
{
    if (!options.png.empty() && options.tiles > 1) {
        throw UsageError("a picture is of the whole map: leave --tile out, or --png");
    }
    const Opened opened = open(options.project);
    const Level& written = opened.level(options.level);
    const auto ground = opened.ground(written);
    // How long sounds are has a part in the mean of what is irregular.
    SoundBank bank(workingRate(48'000), measuring(Measure::peak));
    const std::shared_ptr<const Scene> scene =
        options.begin ? nullptr : makeScene(opened.project, written.id, bank, filesInside(opened.folder), Loading::now, ground);
    const std::optional<HearingModel> silent =
        options.begin ? std::optional<HearingModel>(modelWithoutSounds(opened, written, ground)) : std::nullopt;
    const HearingModel& model = scene != nullptr ? scene->model : *silent;
    const Level& level = model.level();
    const MapQuestion question{.which = options.only.empty() ? std::vector<std::uint32_t>() : named(level, options.only),
                               // Nothing of it is in the picture.
                               .voices = options.png.empty() || !options.csv.empty() || options.json,
                               .gaze = options.gaze,
                               .mean = !options.begin};
    const std::size_t storey = storeyNamed(level, options.storey);
    const MapGrid grid = gridOf(level, storey, ground ? &ground->mesh() : nullptr, options.cells);
    const auto rows = grid.rowsOf(options.tile - 1, options.tiles);
    const InterruptGuard guard;
    const bool terminal = isatty(STDERR_FILENO) != 0;
    std::mutex telling;
    const std::vector<MapCell> cells = mapLevel(model, grid, question, rows, options.threads, [&](double part) {
        if (terminal) {
            const std::lock_guard lock(telling);
            std::fprintf(stderr, "\rmapping %3.0f %%", part * 100.0);
        }
        return !wasInterrupted();
    });
    if (terminal) {
        std::fputs("\r             \r", stderr);
    }
    if (wasInterrupted()) {
        std::cerr << "interrupted: nothing was written\n";
        return 130;
    }
    const std::string csv = csvOf(level, grid, cells, rows, options.tile == 1);
    if (!options.csv.empty()) {
        writeAtomically(options.csv, csv);
    }
    if (!options.png.empty()) {
        const double cut_m = storey < level.storeys.size() ? level.storeys[storey].cut_m : grid.ears_m;
        const PlanCut walls = ground ? PlanCutter(ground->mesh()).at(cut_m) : PlanCut();
        writeMapPicture(options.png, level, grid, cells, walls, options.step_db);
    }
    if (options.json) {
        Json list = Json::array();
        for (const MapCell& cell : cells) {
            list.push_back({std::isfinite(cell.level_db) ? Json(std::round(cell.level_db * 100.0) / 100.0) : Json(),
                            cell.loudest != MapCell::nobody ? Json(level.emitters[cell.loudest]->name) : Json(), cell.voices});
        }
        std::cout << Json{{"level", level.name},
                          {"cells", {grid.columns, rows.second - rows.first}},
                          {"cell_m", grid.cell_m},
                          {"from", {grid.from.x, grid.from.y + rows.first * grid.cell_m, grid.ears_m}},
                          {"each", {"level_db", "loudest", "voices"}},
                          {"map", std::move(list)}}
                         .dump()
                  << '\n';
    } else if (options.csv.empty() && options.png.empty()) {
        std::cout << csv;
    }
    return 0;
}

} // namespace stone::cli
