// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <vector>

namespace stone
{

/// One sound file with those who are to be named for it.
struct CreditLine {
    std::string file;
    std::vector<std::string> sounds; ///< names of the sounds that play it
    Credit credit;
};

/// Each sound file once, by author, then file; those of which nothing is known come last.
std::vector<CreditLine> creditsOf(const Project& project);

/// The list as people print it: a block for each author, and at the end the files that nothing is said of.
std::string creditsText(const std::vector<CreditLine>& lines);

} // namespace stone
