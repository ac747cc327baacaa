// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/command_line.h"

#include <exception>
#include <iostream>

int main(int argc, char** argv)
{
    try {
        return stone::cli::commandFrom({argv + 1, argv + argc})();
    } catch (const std::exception& error) {
        std::cerr << "stone-echo-cli: " << error.what() << '\n';
        return 2;
    }
}
