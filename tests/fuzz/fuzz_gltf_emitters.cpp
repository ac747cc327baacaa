// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/gltf_export.h"
#include "fuzz/input_file.h"

#include <cmath>
#include <cstdlib>

using namespace stone;

/// Emitters in a level from a stranger have places and levels that are numbers, and names; sounds lead nowhere by themselves.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    static InputFile file("stranger.gltf");
    const GltfEmitters found = emittersInGltf(file.of(data, size), 1.0);
    for (const Emitter& emitter : found.emitters) {
        if (!std::isfinite(emitter.at.x + emitter.at.y + emitter.at.z + emitter.level_db + emitter.heading_deg +
                           emitter.tilt_deg)) {
            std::abort();
        }
    }
    const Project project = blankProject();
    withEmittersOf(project, project.levels[0]->id, found, [](const std::string&) { return std::string(); });
    return 0;
}
