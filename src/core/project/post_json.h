#pragma once

#include "project/object_reader.h"
#include "project/post.h"

#include <span>

namespace stone
{

/// All but id and name. What it refers to may still be a name instead of an id.
void readPost(ObjectReader& reader, Post& post);
Json toJson(const Post& post);

/// The words of the document, in the order of the enumerations.
std::span<const char* const> postWhereWords();
std::span<const char* const> postExpectsWords();

} // namespace stone
