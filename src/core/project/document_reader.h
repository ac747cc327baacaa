// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

#include <vector>

namespace stone
{

/// A document's JSON as a project, with every rule that a document keeps: this is the one place that refuses. Settles ids that
/// were left out and references by name. Throws ValueError.
Project readDocument(const Json& root, std::vector<Notice>& notices);

} // namespace stone
