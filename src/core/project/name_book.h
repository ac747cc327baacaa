// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"

#include <string>
#include <unordered_map>

namespace stone
{

/// The ids and names of the things of one kind while a document is being read: makes ids that were left out and settles
/// references that were given by name. Each call takes about the same time however many there are.
class NameBook
{
public:
    /// `kind`: from which ids of things without a name are made.
    explicit NameBook(const char* kind) : kind_(kind) {}

    /// The id under "id", or one made from the name, and the name. Fails where an id is empty or used twice.
    std::string identify(ObjectReader& reader, std::string& name);

    /// An id made from a name, which is taken from then on.
    std::string fresh(const std::string& name);

    bool has(const std::string& id) const { return ids_.contains(id); }

    /// The id of what a reference means, by id or, failing that, by name. A reference that leads nowhere stays as it is: a
    /// finding will say so.
    std::string settle(const std::string& reference) const;

private:
    const char* kind_;
    std::unordered_map<std::string, int> ids_;           ///< and the last number tried behind each
    std::unordered_map<std::string, std::string> named_; ///< by name, the first of that name
};

} // namespace stone
