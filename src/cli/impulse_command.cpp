// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"

#include "analysis/decay.h"
#include "analysis/impulse_response.h"
#include "engine/offline.h"
#include "media/sound_writer.h"

#include <nlohmann/json.hpp>

#include <cmath>
#include <cstdio>
#include <iostream>

namespace stone::cli
{

namespace
{

nlohmann::json toJson(const Decay& decay)
{
    const auto number = [](const std::optional<double>& value) { return value ? nlohmann::json(*value) : nlohmann::json(); };
    return {{"edt_s", number(decay.edt_s)},
            {"t20_s", number(decay.t20_s)},
            {"t30_s", number(decay.t30_s)},
            {"c50_db", decay.c50_db},
            {"level_db", decay.level_db}};
}

void print(const char* name, const Decay& decay)
{
    const auto seconds = [](const std::optional<double>& value) {
        char text[16];
        std::snprintf(text, sizeof text, value ? "%8.2f" : "       -", value.value_or(0.0));
        return std::string(text);
    };
    std::printf("%-8s %s %s %s %8.1f %9.1f\n", name, seconds(decay.edt_s).c_str(), seconds(decay.t20_s).c_str(),
                seconds(decay.t30_s).c_str(), decay.c50_db, decay.level_db);
}

} // namespace

void noteSilentRooms(const Level& level, const std::vector<SharedResponse>& responses)
{
    for (std::size_t i = 0; i < level.rooms.size(); ++i) {
        const Reverb& reverb = level.rooms[i]->reverb;
        if (reverb.on && reverb.tail == Tail::response && !responses[i]) {
            std::cerr << "note: the room \"" << level.rooms[i]->name
                      << "\" has no impulse response that can be read and does not answer; see stone-echo-cli check\n";
        }
    }
}

int impulse(const Impulse& options)
{
    const std::optional<Layout> layout = layoutNamed(options.layout);
    if (!layout) {
        throw UsageError("the layout \"" + options.layout + "\" cannot be rendered; use one of " + layoutNames());
    }
    const Opened opened = open(options.project);
    const Level& level = opened.level(options.level);
    SoundBank bank(workingRate(options.rate), measuring(Measure::peak));
    ImpulseQuestion question{.project = opened.project,
                             .level = level.id,
                             .ground = opened.ground(level),
                             .responses = responsesOf(level, bank, filesInside(opened.folder), Loading::now),
                             .ears = options.ears,
                             .source = options.source,
                             .layout = *layout,
                             .rate = options.rate};
    noteSilentRooms(level, question.responses);
    const auto response = impulseResponse(question, {});
    if (!options.out.empty()) {
        SoundWriter writer(options.out, static_cast<int>(channelsOf(*layout)), options.rate);
        writer.write(response->interleaved);
        writer.finish();
    }
    const DecayReport report = analyseDecay(response->interleaved, channelsOf(*layout), options.rate);
    if (options.json) {
        nlohmann::json json{{"all", toJson(report.all)}, {"bands", nlohmann::json::array()}};
        for (std::size_t band = 0; band < report.bands.size(); ++band) {
            nlohmann::json item = toJson(report.bands[band]);
            item["hz"] = octaveBands_hz[band];
            json["bands"].push_back(std::move(item));
        }
        std::printf("%s\n", json.dump(2).c_str());
        return 0;
    }
    std::printf("%-8s %8s %8s %8s %8s %9s\n", "band", "EDT s", "T20 s", "T30 s", "C50 dB", "level dB");
    for (std::size_t band = 0; band < report.bands.size(); ++band) {
        const double hz = octaveBands_hz[band];
        print(
            (hz < 1000.0 ? std::to_string(std::lround(hz)) + " Hz" : std::to_string(std::lround(hz / 1000.0)) + " kHz").c_str(),
            report.bands[band]);
    }
    print("all", report.all);
    return 0;
}

} // namespace stone::cli
