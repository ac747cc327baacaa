// SPDX-License-Identifier: GPL-3.0-or-later
#include "fuzz/input_file.h"
#include "project/file_error.h"
#include "takes/moment_codec.h"
#include "takes/sound_chunk.h"
#include "takes/take_compare.h"
#include "takes/take_findings.h"

#include <cmath>
#include <cstdlib>
#include <string_view>

/// A take from a stranger is read as far as it goes, or refused with one message; what it refers to is there. Its parts are
/// tried by themselves too: most of what is done to a whole file only makes it no database.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view bytes(reinterpret_cast<const char*>(data), size);
    for (const stone::TakenMoment& moment : stone::decodeMoments(bytes)) {
        for (const stone::TakenCopy& copy : moment.copies) {
            if (std::isnan(copy.level_db) || copy.terms.size() > stone::Terms::most) {
                std::abort();
            }
        }
    }
    stone::decodeSoundChunk(bytes, 2);
    static InputFile file("stranger.take");
    try {
        const stone::Take take(file.of(data, size));
        take.eachMoment([&](const stone::TakenMoment& moment) {
            for (const stone::TakenCopy& copy : moment.copies) {
                if (copy.copy >= take.copies().size() || take.copies()[copy.copy].emitter >= take.emitters().size()) {
                    std::abort();
                }
            }
            return true;
        });
        take.overview();
        take.costs();
        take.sound(0, 1'000);
        stone::totalsOf(take);
        stone::findInTake(take);
    } catch (const stone::FileError&) {
    }
    return 0;
}
