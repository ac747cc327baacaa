// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "engine/scene.h"
#include "exports/gltf_export.h"
#include "exports/packing.h"
#include "exports/tables.h"
#include "exports/web_page.h"
#include "project/atomic_file.h"
#include "project/file_error.h"
#include "project/write.h"

#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <fstream>
#include <iterator>

namespace stone::cli
{

namespace
{

void makeFolder(const std::string& folder)
{
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error) {
        throw FileError(folder + ": " + error.message());
    }
}

void writeTables(const Opened& opened, const std::string& folder, bool preview)
{
    std::vector<std::shared_ptr<const Ground>> grounds;
    for (const auto& level : opened.project->levels) {
        grounds.push_back(opened.ground(*level));
    }
    for (const CsvTable& table : tablesOf(opened.project, grounds)) {
        const std::string text = table.text();
        const auto file = std::filesystem::path(folder) / (table.name + ".csv");
        if (!preview) {
            writeAtomically(file, text);
        }
        std::printf("%8zu rows  %10zu bytes  %s\n", table.rows.size(), text.size(), file.c_str());
    }
}

const SoundTarget& targetNamed(const Project& project, const std::string& name)
{
    std::string all;
    for (const auto& target : project.soundTargets) {
        if (target->name == name || target->id.text == name) {
            return *target;
        }
        all += (all.empty() ? "\"" : ", \"") + target->name + '"';
    }
    throw UsageError("no way to export sounds is called \"" + name + "\"; " +
                     (all.empty() ? "there is none" : "there are " + all));
}

void writeSounds(const Opened& opened, const Export& options)
{
    const InterruptGuard guard;
    const auto sounds = soundsToPrepare(*opened.project, options.target, filesInside(opened.folder));
    std::vector<PreparedFacts> facts;
    std::uint64_t before = 0;
    std::uint64_t after = 0;
    for (const PreparedSound& sound : sounds) {
        std::error_code error;
        const auto bytes = std::filesystem::file_size(sound.from, error);
        if (options.preview) {
            std::printf("%10ju bytes%s  %s\n", static_cast<std::uintmax_t>(error ? 0 : bytes),
                        sound.channels == PreparedSound::Channels::kept ? "" : ", to one channel", sound.to.c_str());
            continue;
        }
        facts.push_back(prepareSound(sound, options.target, options.sounds, wasInterrupted));
        before += facts.back().bytesBefore;
        after += facts.back().bytes;
        std::printf("%10ju -> %10ju bytes  %6.1f LUFS  %s\n", static_cast<std::uintmax_t>(facts.back().bytesBefore),
                    static_cast<std::uintmax_t>(facts.back().bytes), facts.back().loudness_lufs, sound.to.c_str());
    }
    if (!options.preview) {
        writeAtomically(std::filesystem::path(options.sounds) / "prepared.csv", preparedTable(sounds, facts).text());
        std::printf("%ju bytes have become %ju\n", static_cast<std::uintmax_t>(before), static_cast<std::uintmax_t>(after));
    }
}

void writeGltf(const Opened& opened, const Export& options)
{
    const Level& level = opened.level(options.level);
    const std::filesystem::path to(options.gltf);
    // Beside prepared sounds it names those, else the project's own.
    const bool prepared = !options.sounds.empty();
    const auto sounds =
        prepared ? soundsToPrepare(*opened.project, options.target, filesInside(opened.folder)) : std::vector<PreparedSound>{};
    const auto uri = [&](const Sound&, const SoundFile& file) {
        const std::filesystem::path own = filesInside(opened.folder)(file.file);
        const auto made = std::find_if(sounds.begin(), sounds.end(), [&](const PreparedSound& one) { return one.from == own; });
        const auto lies = made != sounds.end() ? std::filesystem::path(options.sounds) / made->to : own;
        return lies.empty() ? std::string() : uriOf(lies, to.parent_path());
    };
    const auto ground = opened.ground(level);
    const auto planted = plant(opened.project, level.id, ground, Ways::find);
    const GltfLevel made = gltfOf(*planted->project, level.id, ground.get(), uri);
    if (!options.preview) {
        writeAtomically(to, made.bytes);
    }
    std::printf("%10zu bytes  %s: %zu emitters, %zu of them in part, %zu as nodes without sound\n", made.bytes.size(),
                to.c_str(), made.emitters, made.inPart.size(), made.without.size());
}

void writePage(const Opened& opened, const Export& options)
{
    const Level& level = opened.level(options.level);
    const auto ground = opened.ground(level);
    const auto planted = plant(opened.project, level.id, ground, Ways::find);
    const WebPage page = webPageOf(*planted->project, level.id, pageOutline(planted->level(), ground.get()),
                                   [&](const SoundFile& file) { return fileText(filesInside(opened.folder)(file.file)); });
    if (!options.preview) {
        writeAtomically(options.page, page.html);
    }
    std::printf("%10zu bytes  %s: %zu emitters\n", page.html.size(), options.page.c_str(), page.emitters);
    for (const std::string& line : page.leavesOut) {
        std::printf("            leaves out %s\n", line.c_str());
    }
}

} // namespace

int exportAll(const Export& asked)
{
    Export options = asked;
    const Opened opened = open(options.project);
    if (!options.as.empty()) {
        options.target = targetNamed(*opened.project, options.as);
    }
    for (const std::string& folder : {options.tables, options.sounds}) {
        if (!folder.empty() && !options.preview) {
            makeFolder(folder);
        }
    }
    if (!options.tables.empty()) {
        writeTables(opened, options.tables, options.preview);
    }
    if (!options.sounds.empty()) {
        writeSounds(opened, options);
    }
    if (!options.gltf.empty()) {
        writeGltf(opened, options);
    }
    if (!options.page.empty()) {
        writePage(opened, options);
    }
    exportRendered(opened, options);
    return 0;
}

int pack(const Packing& options)
{
    const Opened opened = open(options.project);
    const InterruptGuard guard;
    std::optional<SoundTarget> target;
    if (!options.as.empty()) {
        target = targetNamed(*opened.project, options.as);
    } else if (options.prepared) {
        target = options.target;
    }
    const auto report =
        packProject(*opened.project, options.out, target, filesInside(opened.folder), [](double) { return !wasInterrupted(); });
    if (!report) {
        std::fprintf(stderr, "pack: interrupted; nothing was written\n");
        return 130;
    }
    for (const std::string& name : report->missing) {
        std::fprintf(stderr, "note: %s is not there, and not in the pack\n", name.c_str());
    }
    std::printf("%s: %zu files, %ju bytes\n", options.out.c_str(), report->files, static_cast<std::uintmax_t>(report->bytes));
    return 0;
}

int unpackTo(const std::string& pack, const std::string& folder)
{
    unpack(pack, folder);
    std::printf("%s: unpacked\n", folder.c_str());
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
