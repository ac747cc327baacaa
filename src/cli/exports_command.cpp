#include "cli/commands.h"
#include "exports/tables.h"
#include "project/atomic_file.h"
#include "project/file_error.h"
#include "project/write.h"
#include "world/planting.h"

#include <cstdio>
#include <fstream>
#include <iterator>

namespace stone::cli
{

int exportTables(const std::string& path, const std::string& folder, bool preview)
{
    const Opened opened = open(path);
    std::vector<std::shared_ptr<const Planted>> levels;
    for (const auto& level : opened.project->levels) {
        levels.push_back(plant(opened.project, level->id, opened.ground(*level), Ways::find));
    }
    if (!preview) {
        std::error_code error;
        std::filesystem::create_directories(folder, error);
        if (error) {
            throw FileError(folder + ": " + error.message());
        }
    }
    for (const CsvTable& table : tablesOf(*opened.project, levels)) {
        const std::string text = table.text();
        const auto file = std::filesystem::path(folder) / (table.name + ".csv");
        if (!preview) {
            writeAtomically(file, text);
        }
        std::printf("%8zu rows  %10zu bytes  %s\n", table.rows.size(), text.size(), file.c_str());
    }
    return 0;
}

int takeTables(const std::string& path, const std::vector<std::string>& tables, const std::string& out)
{
    const Opened opened = open(path);
    Project project = *opened.project;
    for (const std::string& name : tables) {
        std::ifstream file(name, std::ios::binary);
        if (!file) {
            throw FileError(name + ": cannot be opened");
        }
        const std::string text{std::istreambuf_iterator<char>(file), {}};
        TakenIn taken = withTable(project, readCsv(text, std::filesystem::path(name).stem().string()));
        std::printf("%s: %d changed, %d new", name.c_str(), taken.changed, taken.added);
        if (taken.planted > 0) {
            std::printf(", %d planted by rules and left to them", taken.planted);
        }
        std::printf("\n");
        project = std::move(taken.project);
    }
    writeAtomically(out, projectText(project));
    return 0;
}

} // namespace stone::cli
