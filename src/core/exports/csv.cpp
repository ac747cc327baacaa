// SPDX-License-Identifier: MPL-2.0
#include "exports/csv.h"

#include "project/file_error.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <utility>

namespace stone
{

namespace
{

void addField(std::string& text, const std::string& field)
{
    if (field.find_first_of(",\"\r\n") == std::string::npos) {
        text += field;
        return;
    }
    text += '"';
    for (const char c : field) {
        text += c;
        if (c == '"') {
            text += c;
        }
    }
    text += '"';
}

void addLine(std::string& text, const std::vector<std::string>& fields)
{
    for (std::size_t i = 0; i < fields.size(); ++i) {
        text += i > 0 ? "," : "";
        addField(text, fields[i]);
    }
    text += "\r\n";
}

/// Goes through a text field by field.
class Reading
{
public:
    Reading(std::string_view text, const std::string& name) : text_(text), name_(name)
    {
        constexpr std::string_view mark = "\xef\xbb\xbf";
        if (text_.starts_with(mark)) {
            text_.remove_prefix(mark.size());
        }
    }

    bool atEnd() const { return at_ >= text_.size(); }
    std::size_t line() const { return line_; }

    std::vector<std::string> row()
    {
        std::vector<std::string> fields;
        bool more = true;
        while (more) {
            fields.push_back(field());
            more = !atEnd() && text_[at_] == ',';
            at_ += more ? 1 : 0;
        }
        endLine();
        return fields;
    }

    [[noreturn]] void fail(std::size_t line, const std::string& what) const
    {
        throw FileError(name_ + ".csv, line " + std::to_string(line) + ": " + what);
    }

private:
    std::string field()
    {
        if (atEnd() || text_[at_] != '"') {
            const std::size_t end = std::min(text_.find_first_of(",\r\n", at_), text_.size());
            return std::string(text_.substr(std::exchange(at_, end), end - at_));
        }
        const std::size_t opened = line_;
        std::string value;
        for (++at_; !atEnd(); ++at_) {
            const char c = text_[at_];
            if (c == '"' && at_ + 1 < text_.size() && text_[at_ + 1] == '"') {
                ++at_;
            } else if (c == '"') {
                ++at_;
                return value;
            }
            line_ += c == '\n' ? 1 : 0;
            value += c;
        }
        fail(opened, "quotation marks that open here do not close");
    }

    void endLine()
    {
        if (!atEnd() && text_[at_] == '\r') {
            ++at_;
        }
        if (!atEnd() && text_[at_] == '\n') {
            ++at_;
        }
        ++line_;
    }

    std::string_view text_;
    const std::string& name_;
    std::size_t at_ = 0;
    std::size_t line_ = 1;
};

} // namespace

std::string CsvTable::text() const
{
    std::string all;
    addLine(all, columns);
    for (const auto& row : rows) {
        addLine(all, row);
    }
    return all;
}

std::size_t CsvTable::column(std::string_view called) const
{
    const auto found = std::find(columns.begin(), columns.end(), called);
    return found == columns.end() ? SIZE_MAX : static_cast<std::size_t>(found - columns.begin());
}

CsvTable readCsv(std::string_view text, const std::string& name)
{
    CsvTable table;
    table.name = name;
    Reading reading(text, name);
    if (reading.atEnd()) {
        reading.fail(1, "there is nothing in it, not even names of columns");
    }
    table.columns = reading.row();
    while (!reading.atEnd()) {
        const std::size_t line = reading.line();
        std::vector<std::string> row = reading.row();
        if (row.size() == 1 && row.front().empty()) {
            continue; // an empty line
        }
        if (row.size() != table.columns.size()) {
            reading.fail(line, std::to_string(row.size()) + " fields, but there are " + std::to_string(table.columns.size()) +
                                   " columns: commas within a field need quotation marks round it");
        }
        table.rows.push_back(std::move(row));
        table.lines.push_back(line);
    }
    return table;
}

std::string csvNumber(double number)
{
    if (!std::isfinite(number)) {
        return {};
    }
    std::array<char, 32> digits;
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), number).ptr;
    return {digits.data(), end};
}

} // namespace stone
