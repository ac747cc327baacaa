// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace stone
{

/// Replaces a file by these bytes, or leaves it as it was: temporary file beside it, fsync, rename, fsync of the
/// folder. Throws FileError.
void writeAtomically(const std::filesystem::path& path, std::string_view bytes);

/// All of a file; empty where it cannot be read.
std::string fileText(const std::filesystem::path& file);

} // namespace stone
