// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace stone::cli
{

/// Carries out what was asked for; returns the program's exit code. May throw as the commands do.
using Command = std::function<int()>;

/// What the arguments after the program's name ask for. Nothing is carried out yet, but help and the version are printed.
/// Throws UsageError with one line that says what is wrong.
Command commandFrom(std::vector<std::string> arguments);

} // namespace stone::cli
