// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <algorithm>
#include <stdexcept>
#include <string>

namespace stone
{

/// A file that could not be read or written. what() is one line: which file, where in it, what is wrong, what to do. What a
/// file holds may be quoted in it: what would break the line becomes a space.
class FileError : public std::runtime_error
{
public:
    explicit FileError(std::string text) : std::runtime_error(inOneLine(std::move(text))) {}

private:
    static std::string inOneLine(std::string text)
    {
        std::replace_if(
            text.begin(), text.end(), [](char c) { return (c >= 0 && c < ' ') || c == '\x7f'; }, ' ');
        return text;
    }
};

} // namespace stone
