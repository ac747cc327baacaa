// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/stop_asked.h"

#include <filesystem>
#include <string>
#include <vector>

namespace stone
{

/// A file that a document names and that is not where it says.
struct MissingFile {
    std::string file;      ///< as in the document
    std::string content{}; ///< see contentOf(); empty: not known
};

struct FoundAgain {
    std::string file; ///< as in the document
    std::filesystem::path at;
    bool byContent = false; ///< what is in it is known to be the same
};

/// Looks for missing files in a folder and all below it: by what is in them where that is known, whatever they are called by
/// now; else by their names, of several the one whose folders are called most alike. What is nowhere, and what could be one of
/// several as likely, is not among the result. In the order of `missing`. Does not throw; reads whole files, so for a thread
/// of its own; `stop` ends it early with what was found by then.
std::vector<FoundAgain> findAgain(const std::vector<MissingFile>& missing, const std::filesystem::path& folder,
                                  const StopAsked& stop = {});

} // namespace stone
