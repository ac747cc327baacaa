// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <string>

/// A file in a folder of its own that takes one input after the other, for readers that want a path.
class InputFile
{
public:
    explicit InputFile(const std::string& name)
    {
        std::string pattern = (std::filesystem::temp_directory_path() / "stone-echo-fuzz-XXXXXX").string();
        if (mkdtemp(pattern.data()) == nullptr) {
            std::abort();
        }
        folder_ = pattern;
        path_ = folder_ / name;
    }
    ~InputFile()
    {
        std::error_code ignored;
        std::filesystem::remove_all(folder_, ignored);
    }
    InputFile(const InputFile&) = delete;
    InputFile& operator=(const InputFile&) = delete;

    const std::filesystem::path& of(const std::uint8_t* data, std::size_t size)
    {
        std::ofstream(path_, std::ios::binary | std::ios::trunc)
            .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
        return path_;
    }

private:
    std::filesystem::path folder_;
    std::filesystem::path path_;
};
