// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/sqlite.h"
#include "takes/take.h"

#include <filesystem>
#include <utility>
#include <vector>

namespace stone
{

/// What a take's file is known by, and the version of what is in it.
constexpr int takeFileId = 0x5345544B;
constexpr int takeVersion = 1;

/// Puts the tables into a new file. Always true.
bool makeTables(Database& db);

/// Whether a file begins as a take does. Does not throw.
bool isTake(const std::filesystem::path& file);

/// What is true of a whole take as keys and texts, and back; keys that are not known are left out.
std::vector<std::pair<const char*, std::string>> inWords(const TakeInfo& info);
void takeWord(TakeInfo& info, std::string_view key, const std::string& text);

} // namespace stone
