// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/material.h"
#include "project/object_reader.h"

namespace stone
{

/// All but id and name.
void readMaterial(ObjectReader& reader, Material& material);
Json toJson(const Material& material);
SurfaceUse readSurfaceUse(ObjectReader& reader);
Json toJson(const SurfaceUse& use);
Occlusion readOcclusion(ObjectReader reader);
Json toJson(const Occlusion& occlusion);
Screening readScreening(ObjectReader reader);
Json toJson(const Screening& screening);

} // namespace stone
