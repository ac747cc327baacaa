// SPDX-License-Identifier: GPL-3.0-or-later
#include "fuzz/input_file.h"
#include "media/pack.h"
#include "project/file_error.h"

#include <cstdlib>

/// A pack from a stranger is unpacked into its folder or refused with one message, and nothing lies beside that.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    static InputFile file("stranger.stone-pack");
    const std::filesystem::path& pack = file.of(data, size);
    try {
        stone::unpack(pack, pack.parent_path() / "in");
    } catch (const stone::FileError&) {
    }
    for (const auto& entry : std::filesystem::directory_iterator(pack.parent_path())) {
        if (entry.path() != pack && entry.path().filename() != "in") {
            std::abort();
        }
    }
    std::error_code ignored;
    std::filesystem::remove_all(pack.parent_path() / "in", ignored);
    return 0;
}
