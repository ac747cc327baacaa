#pragma once

#include <map>
#include <set>
#include <string>
#include <string_view>

namespace stone
{

/// The lines (from 1) on which the values that JSON pointers name end or, for objects and arrays, start. Pointers to
/// nothing are left out, all of them when the text is not JSON. Reads the text once: for messages, not for hot paths.
std::map<std::string, int> linesOfPointers(std::string_view text, const std::set<std::string>& pointers);

/// The same for one pointer; 0 when there is no such value.
int lineOfPointer(std::string_view text, const std::string& pointer);

/// A key as it stands in a JSON pointer (RFC 6901).
std::string pointerPart(std::string_view key);

} // namespace stone
