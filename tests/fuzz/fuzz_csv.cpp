// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/tables.h"
#include "project/file_error.h"

#include <cstdlib>
#include <string_view>

using namespace stone;

/// A table from a stranger is taken in whole, by the document's rules, or refused with one message; written again it reads the
/// same.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    for (const char* name : {"emitters", "walks"}) {
        try {
            const CsvTable table = readCsv(text, name);
            const CsvTable again = readCsv(table.text(), name);
            if (again.columns != table.columns || again.rows != table.rows) {
                std::abort();
            }
            withTable(blankProject(), table);
        } catch (const FileError&) {
        }
    }
    return 0;
}
