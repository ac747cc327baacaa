// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>

namespace stone
{

/// The lines (from 1) on which the values that JSON pointers name end or, for objects and arrays, start. Pointers to
/// nothing are left out, all of them when the text is not JSON. Reads the text once: for messages, not for hot paths.
std::map<std::string, int> linesOfPointers(std::string_view text, const std::set<std::string>& pointers);

/// The line of what one pointer names or, where there is no such value, of the nearest thing around it.
int lineNearPointer(std::string_view text, const std::string& pointer);

/// The line (from 1) of a place in a text.
int lineOfByte(std::string_view text, std::size_t byte);

/// Why a text cannot be taken as a document at all, and where.
struct TextTrouble {
    int line;
    std::string message;
};

/// Looks for what a document's text must not have: anything that is not JSON, numbers that do not fit a double, nesting
/// deeper than `deepest`. Nothing: it can be parsed.
std::optional<TextTrouble> troubleIn(std::string_view text, int deepest);

/// A key as it stands in a JSON pointer (RFC 6901).
std::string pointerPart(std::string_view key);

} // namespace stone
