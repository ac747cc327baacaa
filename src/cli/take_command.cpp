// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/words.h"
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "project/atomic_file.h"
#include "project/file_error.h"
#include "spatial/sofa.h"
#include "takes/take_compare.h"
#include "takes/take_findings.h"
#include "takes/take_page.h"
#include "takes/take_series.h"
#include "takes/walk_taking.h"
#include "world/walk_pose.h"

#include <nlohmann/json.hpp>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <unistd.h>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

/// JSON has no infinities.
Json orNull(double value)
{
    return std::isfinite(value) ? Json(std::round(value * 100.0) / 100.0) : Json();
}

} // namespace

int take(const TakeOptions& options)
{
    const Layout layout = renderedLayout(options.layout);
    Opened opened = open(options.project);
    reseed(opened, options.seed);
    const Level& level = opened.level(options.level);
    const Walk& walk = walkNamed(level, options.walk);
    SoundBank bank(workingRate(options.rate), measuring(Measure::peak));
    WalkTaking taking{.walk = &walk, .layout = layout, .rate = options.rate, .keepsSound = options.sound};
    taking.note = options.note;
    taking.scene = makeScene(opened.project, level.id, bank, filesInside(opened.folder), Loading::now, opened.ground(level));
    noteSilentRooms(level, taking.scene->responses);
    taking.soundBytes = static_cast<double>(bank.cost().bytes);

    const InterruptGuard guard;
    const bool terminal = isatty(STDERR_FILENO) != 0;
    const auto start = std::chrono::steady_clock::now();
    const bool done = takeWalk(taking, options.out, [&](double part) {
        if (terminal) {
            std::fprintf(stderr, "\rtaking %3.0f %%", part * 100.0);
        }
        return !wasInterrupted();
    });
    if (terminal) {
        std::fputs("\r             \r", stderr);
    }
    const double took_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    std::printf("%s: %.2f s in %.2f s%s\n", options.out.c_str(), readTakeInfo(options.out).seconds, took_s,
                done ? "" : ", interrupted: as far as it went");
    return done ? 0 : 130;
}

int compareTakes(const std::string& first, const std::string& second, bool json)
{
    const Take a(first);
    const Take b(second);
    const TakeComparison comparison = stone::compareTakes(a, b);
    if (json) {
        Json changed = Json::array();
        for (const Difference& difference : comparison.changed) {
            changed.push_back({{"what", difference.what + (difference.field.empty() ? "" : ": " + difference.field)},
                               {"from", difference.from},
                               {"to", difference.to}});
        }
        const auto listed = [](const std::vector<TakeDifference>& all) {
            Json list = Json::array();
            for (const TakeDifference& one : all) {
                list.push_back({{"name", one.name},
                                {"mean_db", orNull(one.mean_db)},
                                {"largest_db", orNull(one.largest_db)},
                                {"at_s", orNull(one.at_s)},
                                {"new", one.cameNew},
                                {"gone", one.wentAway}});
            }
            return list;
        };
        const auto pair = [&](double TakeTotals::*what) {
            return Json::array({orNull(comparison.first.*what), orNull(comparison.second.*what)});
        };
        const auto counts = [&](int TakeTotals::*what) {
            return Json::array({comparison.first.*what, comparison.second.*what});
        };
        Json stretches = Json::array();
        for (const TakeStretch& stretch : comparison.stretches) {
            const auto of = [](const TakeStretch::Of& part) {
                return Json{{"from_s", orNull(part.from_s)},
                            {"to_s", orNull(part.to_s)},
                            {"way_m", orNull(part.way_m)},
                            {"bumps", part.bumps},
                            {"falls", part.falls}};
            };
            stretches.push_back({{"to", {orNull(stretch.to.x), orNull(stretch.to.y), orNull(stretch.to.z)}},
                                 {"first", of(stretch.first)},
                                 {"second", of(stretch.second)}});
        }
        std::cout << Json{{"changed", std::move(changed)},
                          {"stretches", std::move(stretches)},
                          {"emitters", listed(comparison.emitters)},
                          {"families", listed(comparison.families)},
                          {"whole",
                           {{"lufs", pair(&TakeTotals::integrated_lufs)},
                            {"true_peak_db", pair(&TakeTotals::truePeak_db)},
                            {"voices_most", pair(&TakeTotals::voicesMost)},
                            {"voices_mean", pair(&TakeTotals::voicesMean)},
                            {"gave_way", counts(&TakeTotals::gaveWay)},
                            {"cpu", pair(&TakeTotals::cpu_pct)},
                            {"jumps", counts(&TakeTotals::jumps)},
                            {"bumps", counts(&TakeTotals::bumps)},
                            {"falls", counts(&TakeTotals::falls)},
                            {"seconds", pair(&TakeTotals::seconds)},
                            {"way_m", pair(&TakeTotals::way_m)}}}}
                         .dump(2)
                  << '\n';
        return 0;
    }
    std::cout << "What was changed:\n";
    for (const Difference& difference : comparison.changed) {
        std::cout << "  " << inWords(difference) << '\n';
    }
    std::cout << (comparison.changed.empty() ? "  nothing\n" : "") << "What that did, second less first, in the mean:\n";
    bool any = false;
    for (const TakeDifference& one : comparison.emitters) {
        if (std::abs(one.mean_db) < 0.05 && std::abs(one.largest_db) < 0.05) {
            continue;
        }
        any = true;
        std::printf("  %+6.1f dB  %s, at most %+.1f dB at %s%s\n", one.mean_db, one.name.c_str(), one.largest_db,
                    clock(one.at_s).c_str(),
                    one.cameNew    ? ", new"
                    : one.wentAway ? ", not heard any more"
                                   : "");
    }
    std::fflush(stdout);
    std::cout << (any ? "" : "  nothing\n");
    const auto line = [](const char* what, const char* unit, int decimals, double was, double is) {
        std::printf("  %-22s%.*f%s  ->  %.*f%s\n", what, decimals, was, unit, decimals, is, unit);
    };
    std::cout << "The whole:\n" << std::flush;
    const TakeTotals& x = comparison.first;
    const TakeTotals& y = comparison.second;
    line("loudness", " LUFS", 1, x.integrated_lufs, y.integrated_lufs);
    line("true peak", " dB", 1, x.truePeak_db, y.truePeak_db);
    line("voices at most", "", 0, x.voicesMost, y.voicesMost);
    line("gave way", " times", 0, x.gaveWay, y.gaveWay);
    line("processor", " %", 1, x.cpu_pct, y.cpu_pct);
    line("jumps", "", 0, x.jumps, y.jumps);
    line("way", " m", 1, x.way_m, y.way_m);
    line("bumps", "", 0, x.bumps, y.bumps);
    line("falls", "", 0, x.falls, y.falls);
    if (!comparison.stretches.empty()) {
        std::cout << "By parts of the way (time, way, bumps, falls):\n" << std::flush;
    }
    for (const TakeStretch& stretch : comparison.stretches) {
        const auto of = [](const TakeStretch::Of& part) {
            char text[80];
            std::snprintf(text, sizeof text, "%.1f s, %.1f m, %d, %d", part.to_s - part.from_s, part.way_m, part.bumps,
                          part.falls);
            return std::string(text);
        };
        std::printf("  to %.1f, %.1f: %s  ->  %s\n", stretch.to.x, stretch.to.y, of(stretch.first).c_str(),
                    of(stretch.second).c_str());
    }
    std::fflush(stdout);
    return 0;
}

int series(const std::string& file, const std::string& what, const std::string& emitter, const std::string& csv)
{
    const Take take(file);
    TakeSeries found;
    try {
        found = seriesOf(take, what, emitter);
    } catch (const std::invalid_argument& error) {
        throw UsageError(error.what());
    }
    std::ofstream out;
    if (!csv.empty()) {
        out.open(csv, std::ios::trunc);
        if (!out) {
            throw FileError(csv + ": cannot be written");
        }
    }
    std::ostream& to = csv.empty() ? std::cout : out;
    to << "t_s," << (found.unit.empty() ? "value" : found.unit) << '\n';
    char text[64];
    for (const auto& [t_s, value] : found.points) {
        if (std::isfinite(value)) {
            std::snprintf(text, sizeof text, "%.3f,%.6g\n", t_s, value);
        } else {
            std::snprintf(text, sizeof text, "%.3f,\n", t_s); // silent
        }
        to << text;
    }
    to.flush();
    if (!to) {
        throw FileError(csv + ": could not be written to its end");
    }
    return 0;
}

int takePage(const std::string& file, const std::string& other, const std::string& out)
{
    const Take take(file);
    const std::unique_ptr<const Take> second = other.empty() ? nullptr : std::make_unique<const Take>(other);
    std::error_code error;
    if (std::filesystem::exists(out, error)) {
        // A page gives way to a page, and nothing else does.
        std::string begin(15, ' ');
        std::ifstream(out, std::ios::binary).read(begin.data(), static_cast<std::streamsize>(begin.size()));
        if (!std::filesystem::is_regular_file(out, error) || begin != "<!DOCTYPE html>") {
            throw FileError(out + ": is no page, and is left as it is; give the page another name");
        }
    }
    const InterruptGuard guard;
    const std::string page = stone::takePage(take, second.get(), [](double) { return !wasInterrupted(); });
    if (page.empty()) {
        std::cerr << "take-page: interrupted; nothing was written\n";
        return 130;
    }
    writeAtomically(out, page);
    return 0;
}

int checkTake(const std::string& file, bool json)
{
    const Take take(file);
    if (!take.damage().empty()) {
        std::cerr << "note: " << take.damage() << "; read as far as it goes\n";
    }
    const std::vector<TakeFinding> found = findInTake(take);
    if (json) {
        Json list = Json::array();
        for (const TakeFinding& finding : found) {
            list.push_back({{"code", finding.code},
                            {"what", finding.what},
                            {"at_s", orNull(finding.t_s)},
                            {"at", {orNull(finding.at.x), orNull(finding.at.y), orNull(finding.at.z)}}});
        }
        std::cout << Json{{"findings", std::move(list)}}.dump(2) << '\n';
    } else {
        for (const TakeFinding& finding : found) {
            std::cout << clock(finding.t_s) << "  " << finding.what << "  (" << finding.code << ")\n";
        }
    }
    return found.empty() ? 0 : 1;
}

} // namespace stone::cli
