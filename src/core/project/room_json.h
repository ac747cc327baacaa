// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/room.h"

namespace stone
{

/// Rooms and openings in the document: all but id and name, which the caller reads. Readers throw FileError; writers leave out
/// what is as usual.
void readRoom(ObjectReader& reader, Room& room);
Json toJson(const Room& room);
Outside readOutside(ObjectReader reader);
Json toJson(const Outside& outside);
void readOpening(ObjectReader& reader, Opening& opening);
Json toJson(const Opening& opening);

} // namespace stone
