// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace stone
{

/// A table as RFC 4180 has it: one line of names, then rows of as many fields. UTF-8, a point as decimal sign.
struct CsvTable {
    std::string name; ///< of its file, without what says that it is a table
    std::vector<std::string> columns;
    std::vector<std::vector<std::string>> rows;
    std::vector<std::size_t> lines{}; ///< in the file, of each row that was read; from 1

    /// Its text: lines that end as the RFC says, fields in quotation marks where they need them.
    std::string text() const;
    /// The column of that name; nothing is SIZE_MAX.
    std::size_t column(std::string_view called) const;
};

/// Reads such a text; ends of lines may be of any kind, a byte order mark may lead. Throws FileError with the line: where
/// quotation marks do not close, or a row has more or fewer fields than there are columns.
CsvTable readCsv(std::string_view text, const std::string& name);

/// A number as it is read back to the bit, in as few digits as that takes; nothing for what is not finite.
std::string csvNumber(double number);

} // namespace stone
