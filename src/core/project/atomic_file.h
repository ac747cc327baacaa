// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <filesystem>
#include <string_view>

namespace stone
{

/// Replaces a file by these bytes, or leaves it as it was: temporary file beside it, fsync, rename, fsync of the
/// folder. Throws FileError.
void writeAtomically(const std::filesystem::path& path, std::string_view bytes);

} // namespace stone
