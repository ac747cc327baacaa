// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/file_error.h"

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace stone
{

/// The version that this program writes. Older ones are read; a newer one is refused with a message.
constexpr int documentVersion = 8;

/// Something worth knowing about a document that was read all the same: a key that this version does not know, a
/// reference by name.
struct ReadNotice {
    int line = 0;
    std::string pointer;
    std::string message;
};

struct ReadProject {
    Project project;
    std::vector<ReadNotice> notices;
};

/// Reads a document from text. `label` names it in messages. Throws FileError.
ReadProject readProjectText(std::string_view text, const std::string& label);

/// Reads a project from its folder or its document. Throws FileError.
ReadProject readProjectFile(const std::filesystem::path& path);

/// What a document's file name ends in, unless it is a project.json.
constexpr const char* documentEnding = ".stone-echo";

/// The document that a path means: the path itself or, of a folder, its project.json, else the .stone-echo that is called like
/// it, else the first of those.
std::filesystem::path documentPath(const std::filesystem::path& path);

/// The absolute path of a file that the document names, if it lies inside the project's folder once links are
/// resolved; empty when it would lead outside or is not relative.
std::filesystem::path resolveInside(const std::filesystem::path& folder, const std::string& relative);

} // namespace stone
