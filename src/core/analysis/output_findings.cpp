// SPDX-License-Identifier: MPL-2.0
#include "analysis/output_findings.h"

#include "analysis/words.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace stone
{

namespace
{

/// Heights further apart than this are told apart by who has loudspeakers overhead, or ears of one's own.
constexpr double overhead_m = 2.5;

bool isPlaced(const Emitter& emitter)
{
    return (emitter.kind == EmitterKind::point || emitter.kind == EmitterKind::roamer) && emitter.placement.inWorld > 0.0;
}

/// Whether things of some level lie so far above each other, or their character, that it should be heard.
bool hasHeights(const Project& project)
{
    return std::any_of(project.levels.begin(), project.levels.end(), [](const auto& level) {
        return std::any_of(level->emitters.begin(), level->emitters.end(), [&](const auto& emitter) {
            return isPlaced(*emitter) && std::abs(emitter->at.z - level->character.start.z) > overhead_m;
        });
    });
}

} // namespace

void findInOutput(const Project& project, const OutputInUse& output, std::vector<Finding>& found)
{
    const auto add = [&](const char* code, const std::string& what, const std::string& fix) {
        found.push_back(
            {.code = code, .severity = Finding::Severity::warning, .what = what, .where = "the output", .fix = fix});
    };
    const bool placed = std::any_of(project.levels.begin(), project.levels.end(), [](const auto& level) {
        return std::any_of(level->emitters.begin(), level->emitters.end(),
                           [](const auto& emitter) { return isPlaced(*emitter); });
    });
    if (output.layout == Layout::mono && placed) {
        add("output-flat", "one channel comes out, and sounds are placed in the world: no side can be heard",
            "choose headphones or loudspeakers at the top");
    }
    // What a layout cannot tell apart is no fault of the project: worth knowing, and gone with headphones.
    const auto note = [&](const char* code, const std::string& what, const std::string& fix) {
        add(code, what, fix);
        found.back().severity = Finding::Severity::note;
    };
    const bool flat =
        output.layout == Layout::quad || output.layout == Layout::surround51 || output.layout == Layout::surround71;
    if (output.layout == Layout::stereo && placed) {
        note("output-front-back",
             "two loudspeakers cannot tell ahead from behind, nor above from below, and sounds are placed in the world",
             "choose headphones at the top to hear where they are");
    } else if (flat && hasHeights(project)) {
        note("output-height", "the loudspeakers all stand at one height, and sounds are placed above and below",
             "choose headphones or 7.1.4 at the top to hear how high they are");
    }
    if (output.over_db > 0.0) {
        std::array<char, 96> size{};
        std::snprintf(size.data(), size.size(), "peaks reach %.1f dB over full scale, at ", output.over_db);
        add("output-over",
            size.data() + clock(output.over_s) + (output.loudest.empty() ? "" : ", when " + output.loudest + " is loudest") +
                ": your ears get them limited, a render keeps them",
            "turn down what is loudest there, or the master level of the render");
    }
    if (output.layout == Layout::binaural && output.cardChannels > 2) {
        add("binaural-on-loudspeakers",
            "sound for headphones goes to a card with " + std::to_string(output.cardChannels) +
                " channels, which hardly has headphones on it",
            "choose the layout of your loudspeakers at the top");
    }
    for (const auto& sound : project.sounds) {
        if (sound->binaural && output.layout != Layout::binaural && output.layout != Layout::stereo) {
            add("binaural-recording-on-loudspeakers",
                quoted(sound->name) + " is made for two ears and comes out of loudspeakers: it cannot sound as it was recorded",
                "listen to it on headphones");
        }
    }
    if (!output.broken.empty()) {
        add("sound-not-finite",
            quoted(output.broken) + " gave something that is no sound (not a number, or endless) and was silent for that time",
            "look at its file and its effects: one of them is damaged or set beyond all bounds");
    }
    if (output.starved) {
        add("disk-slow", "a sound was silent for a moment: it did not come from the disk in time",
            "keep the sounds that are streamed compressed or decoded instead");
    }
}

} // namespace stone
