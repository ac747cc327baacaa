// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/file_error.h"

#include <filesystem>
#include <string>

namespace stone
{

/// The document as text: stable order, one thing to a block, short lists of numbers on one line, so that a one-line
/// change is a one-line difference. Reading it gives an equal project.
std::string projectText(const Project& project);

/// Writes the document. Atomic: the previous file stays as it was until the new one is complete and on the disk.
/// Throws FileError.
void writeProjectFile(const Project& project, const std::filesystem::path& document);

} // namespace stone
