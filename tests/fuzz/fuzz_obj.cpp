// SPDX-License-Identifier: GPL-3.0-or-later
#include "fuzz/input_file.h"
#include "level/level_files.h"
#include "level/mesh_import.h"
#include "project/file_error.h"

/// A level from a stranger is a mesh, or refused with one message.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    static InputFile file("level.obj");
    const auto& path = file.of(data, size);
    try {
        stone::importMesh(path, {});
    } catch (const stone::FileError&) {
    }
    stone::filesBeside(path);
    return 0;
}
