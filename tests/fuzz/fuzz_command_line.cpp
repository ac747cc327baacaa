// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/command_line.h"

#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

/// A line of arguments, one each line of the input, is a command or refused with one message. Nothing is carried out.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    std::vector<std::string> arguments;
    std::string_view rest(reinterpret_cast<const char*>(data), size);
    while (!rest.empty() && arguments.size() < 64) {
        const std::size_t end = std::min(rest.find('\n'), rest.size());
        arguments.emplace_back(rest.substr(0, end));
        rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    try {
        stone::cli::commandFrom(std::move(arguments));
    } catch (const std::exception&) {
    }
    return 0;
}
