// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace stone
{

/// A project with all that it plays in one file, to be sent or shipped: a line that says what it is, an index, then the files
/// as they are, one after the other. docs/pack-format.md has it byte by byte.
constexpr const char* packEnding = ".stone-pack";
/// Files of a pack, and bytes of all together, at most.
constexpr std::size_t mostPacked = 100'000;
constexpr std::uint64_t mostPackedBytes = 64ULL << 30U;

/// One of its files.
struct PackedFile {
    std::string name;             ///< in the project's folder, '/' between parts
    std::filesystem::path from{}; ///< where it is now; empty: `text` is what is in it
    std::string text{};
};

/// Writes a pack; it appears whole or not at all. `progress`: 0 to 1; false stops, and there is none. Throws FileError.
bool writePack(const std::filesystem::path& pack, const std::vector<PackedFile>& files,
               const std::function<bool(double)>& progress = {});

/// Whether a file says that it is one.
bool isPack(const std::filesystem::path& file);

/// What was found on the geometry of the level of this number while packing: it saves time, and is nobody's file.
std::string findsName(std::size_t level);

/// Unpacks one into a folder, which is made if it is not there; files that are there are replaced, and nothing is written
/// beside it. `finds`: with what was found while packing. Throws FileError where it is damaged: then nothing of that file is
/// there.
void unpack(const std::filesystem::path& pack, const std::filesystem::path& folder, bool finds = false);

/// A folder of its own that goes away with whoever holds it.
class PassingFolder
{
public:
    /// Throws FileError where none can be made.
    PassingFolder();
    ~PassingFolder();
    PassingFolder(const PassingFolder&) = delete;
    PassingFolder& operator=(const PassingFolder&) = delete;

    const std::filesystem::path& path() const { return path_; }

private:
    std::filesystem::path path_;
};

} // namespace stone
