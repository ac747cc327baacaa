// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <vector>

namespace stone
{

/// One thing that two documents say differently.
struct Difference {
    std::string what;  ///< "Emitter \"Lamp\""; "The project" or "Level \"Yard\"" for what belongs to nothing smaller
    std::string field; ///< as the document names it: "level_db", "placement/spread_deg"; empty: the whole thing
    std::string from;  ///< as the document writes it, shortened; empty: it was not there
    std::string to;    ///< the same; empty: it is not there any more

    bool operator==(const Difference&) const = default;
};

/// What `after` says that `before` does not, in the document's order: things by id, so that one with another name is the same
/// one. What a field leaves out is said as its being away. Costs as much as both documents.
std::vector<Difference> differences(const Project& before, const Project& after);

/// As a line: "Emitter "Lamp": level from -3.0 to -6.0 dB".
std::string inWords(const Difference& difference);

} // namespace stone
