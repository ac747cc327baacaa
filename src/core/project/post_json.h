// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/post.h"

namespace stone
{

/// All but id and name. What it refers to may still be a name instead of an id.
void readPost(ObjectReader& reader, Post& post);
Json toJson(const Post& post);

} // namespace stone
