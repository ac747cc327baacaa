// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file_error.h"
#include "project/read.h"
#include "project/write.h"

#include <cstdlib>
#include <string_view>

/// A document loads or is refused with one message; what loads is written and loads the same.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    using namespace stone;
    ReadProject read;
    try {
        read = readProjectText({reinterpret_cast<const char*>(data), size}, "input");
    } catch (const FileError&) {
        return 0;
    }
    if (!(readProjectText(projectText(read.project), "written").project == read.project)) {
        std::abort();
    }
    return 0;
}
