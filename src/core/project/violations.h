// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <optional>
#include <string>

namespace stone
{

/// Something in a document that could not be read back if it were saved.
struct Violation {
    std::string what;    ///< "Opening \"Back door\""; "The project" where it belongs to nothing smaller
    std::string field;   ///< as the document names it: "head_m", "lanes/0/points/1/y"; may be empty
    std::string message; ///< what is wrong, and what to do

    /// The three as one line.
    std::string text() const;
};

/// The first thing that `after` says and `before` does not, and that a reader of documents would refuse: a value out of its
/// range, ends the wrong way round, an id used twice. Asks the reader itself, so there is one statement of each rule. Costs as
/// much as what changed; parts that the two share are not looked at. For a whole document leave `before` empty.
std::optional<Violation> violationIn(const Project& after, const Project& before);

} // namespace stone
