// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "engine/offline.h"
#include "exports/rendered.h"

#include <cstdio>
#include <iostream>
#include <unistd.h>

namespace stone::cli
{

namespace
{

std::vector<Layout> layoutsOf(const Export& options, const char* usual)
{
    std::vector<Layout> layouts;
    for (const std::string& name : options.layouts) {
        layouts.push_back(renderedLayout(name));
    }
    if (layouts.empty()) {
        layouts.push_back(*layoutNamed(usual));
    }
    return layouts;
}

const Sound& soundNamed(const Project& project, const std::string& name)
{
    for (const auto& sound : project.sounds) {
        if (sound->name == name || sound->id.text == name) {
            return *sound;
        }
    }
    throw UsageError("no sound is called \"" + name + "\"; see stone-echo-cli info");
}

void list(const std::vector<Rendered>& files)
{
    for (const Rendered& one : files) {
        std::printf("%8.2f s  %6.1f dB  %s\n", one.seconds, one.loudest_db, one.file.c_str());
        if (one.loudest_db > 0.0) {
            std::cerr << "note: " << one.file.string()
                      << " peaks over full scale; it keeps all of it, as a WAV of floats can\n";
        }
    }
}

void preview(const Opened& opened, const Export& options)
{
    const auto say = [](const std::string& folder, const std::vector<std::string>& names) {
        for (const std::string& name : names) {
            std::printf("to be rendered  %s\n", (std::filesystem::path(folder) / name).c_str());
        }
    };
    const Level& level = opened.level(options.level);
    if (!options.renders.empty()) {
        say(options.renders, layoutFiles(walkNamed(level, options.walk), layoutsOf(options, "stereo")));
    }
    if (!options.responses.empty()) {
        say(options.responses, responseFiles(level));
    }
    if (!options.directions.empty()) {
        say(options.directions, directionFiles(soundNamed(*opened.project, options.of), options.count));
    }
}

} // namespace

void exportRendered(const Opened& opened, const Export& options)
{
    if (options.renders.empty() && options.responses.empty() && options.directions.empty()) {
        return;
    }
    if (options.preview) {
        preview(opened, options);
        return;
    }
    const int rate = options.target.rate > 0 ? options.target.rate : 48'000;
    const Level& level = opened.level(options.level);
    SoundBank bank(workingRate(rate), measuring(Measure::peak));
    const InterruptGuard guard;
    const bool terminal = isatty(STDERR_FILENO) != 0;
    Rendering how{.project = opened.project,
                  .level = level.id,
                  .ground = opened.ground(level),
                  .resolve = filesInside(opened.folder),
                  .bank = bank,
                  .rate = rate,
                  .folder = {},
                  .progress = [&](double share) {
                      if (terminal) {
                          std::fprintf(stderr, "\rrendering %3.0f %%", share * 100.0);
                      }
                      return !wasInterrupted();
                  }};
    if (!options.renders.empty()) {
        how.folder = options.renders;
        list(renderLayouts(how, walkNamed(level, options.walk), layoutsOf(options, "stereo")));
    }
    if (!options.responses.empty()) {
        how.folder = options.responses;
        list(renderResponses(how, layoutsOf(options, "stereo").front()));
    }
    if (!options.directions.empty()) {
        how.folder = options.directions;
        list(renderDirections(how, soundNamed(*opened.project, options.of), options.count,
                              layoutsOf(options, "binaural").front()));
    }
    if (terminal) {
        std::fputs("\r               \r", stderr);
    }
    if (wasInterrupted()) {
        std::cerr << "export: interrupted; what is listed is whole, the rest was not written\n";
    }
}

} // namespace stone::cli
