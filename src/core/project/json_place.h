#pragma once

#include <string_view>

namespace stone {

/// The line (from 1) on which the value that a JSON pointer names ends or, for objects and arrays, starts. 0 when the
/// text is not JSON or has no such value. Reads the whole text: for error messages, not for hot paths.
int lineOfPointer(std::string_view text, std::string_view pointer);

} // namespace stone
