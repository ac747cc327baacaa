// SPDX-License-Identifier: MPL-2.0
#include "project/name_book.h"

namespace stone
{

std::string NameBook::identify(ObjectReader& reader, std::string& name)
{
    std::string id = reader.text("id");
    name = reader.text("name", id);
    if (reader.has("id")) {
        if (id.empty()) {
            reader.fail("id", "an id must not be empty; leave it out to have one made from the name");
        }
        if (!ids_.emplace(id, 1).second) {
            reader.fail("id", "the id \"" + id + "\" is used twice; give one of the two another id");
        }
        if (name.empty()) {
            name = id;
        }
        named_.emplace(name, id);
        return id;
    }
    id = fresh(name);
    if (name.empty()) {
        name = id;
        named_.emplace(name, id);
    }
    return id;
}

std::string NameBook::fresh(const std::string& name)
{
    const std::string base = slug(name.empty() ? kind_ : name);
    std::string id = base;
    while (!ids_.emplace(id, 1).second) {
        id = base + "-" + std::to_string(++ids_[base]);
    }
    if (!name.empty()) {
        named_.emplace(name, id);
    }
    return id;
}

std::string NameBook::settle(const std::string& reference) const
{
    if (has(reference)) {
        return reference;
    }
    const auto found = named_.find(reference);
    return found != named_.end() ? found->second : reference;
}

} // namespace stone
