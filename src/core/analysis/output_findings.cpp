#include "analysis/output_findings.h"

#include "analysis/words.h"

#include <algorithm>

namespace stone
{

void findInOutput(const Project& project, const OutputInUse& output, std::vector<Finding>& found)
{
    const auto add = [&](const char* code, const std::string& what, const std::string& fix) {
        found.push_back(
            {.code = code, .severity = Finding::Severity::warning, .what = what, .where = "the output", .fix = fix});
    };
    const bool placed = std::any_of(project.levels.begin(), project.levels.end(), [](const auto& level) {
        return std::any_of(level->emitters.begin(), level->emitters.end(), [](const auto& emitter) {
            return emitter->kind == EmitterKind::point && emitter->placement.inWorld > 0.0;
        });
    });
    if (output.layout == Layout::mono && placed) {
        add("output-flat", "one channel comes out, and sounds are placed in the world: no side can be heard",
            "choose headphones or loudspeakers at the top");
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
