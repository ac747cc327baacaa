// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "project/object_reader.h"

namespace stone
{

/// A shape in the document's JSON, both ways: an object with "is" and what belongs to it.
Shape readShape(ObjectReader reader);
Json toJson(const Shape& shape);

} // namespace stone
