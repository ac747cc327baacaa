// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "exports/csv.h"
#include "project/document.h"
#include "world/planting.h"

#include <memory>
#include <vector>

namespace stone
{

/// What a project says, as tables for whoever works with lists: emitters (with what plant rules put), falloffs (their lanes,
/// sampled), zones, rooms, openings, walks, sounds and posts. Each column's name has its unit. `grounds`: of each
/// level, in the project's order; null, or missing, for those without. Rules plant meanwhile, so it takes as long as that. Any
/// thread.
std::vector<CsvTable> tablesOf(const std::shared_ptr<const Project>& document,
                               const std::vector<std::shared_ptr<const Ground>>& grounds);

/// What came of a table that was taken in.
struct TakenIn {
    Project project;
    int changed = 0; ///< things that are otherwise now
    int added = 0;
    int planted = 0; ///< rows of what rules plant, which are the rules' and left
};

/// Takes a table of emitters or walks back in, as tablesOf() writes it, changed by hand or by another program: known ones by
/// level and id, those without an id or with another one are new. Only columns that are there count, in any order; what is in
/// no row stays as it was. Of emitters: name, place, heading, tilt, sound, falloff (empty: as it was), family, level, pitch,
/// muted, and the kind of new ones; of walks their name and all their points. Throws FileError with the line, and changes
/// nothing then.
TakenIn withTable(const Project& project, const CsvTable& table);

} // namespace stone
