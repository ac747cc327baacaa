#pragma once

#include "project/id.h"

#include <algorithm>
#include <memory>
#include <vector>

namespace stone
{

/// An ordered list of immutable things that copies of a document share. Changing one thing replaces its pointer and
/// leaves the others as they are, so that copies are cheap and "what changed" is a comparison of pointers.
template <class Thing> class List
{
public:
    using Item = std::shared_ptr<const Thing>;
    using ThingId = decltype(Thing::id);

    auto begin() const { return items_.begin(); }
    auto end() const { return items_.end(); }
    std::size_t size() const { return items_.size(); }
    bool empty() const { return items_.empty(); }
    const Item& operator[](std::size_t index) const { return items_[index]; }

    /// The thing with this id, or null.
    const Thing* find(const ThingId& id) const
    {
        const auto found = locate(id);
        return found == items_.end() ? nullptr : found->get();
    }

    /// The same, for whoever keeps it beyond the list.
    Item share(const ThingId& id) const
    {
        const auto found = locate(id);
        return found == items_.end() ? nullptr : *found;
    }

    /// Replaces the thing of the same id, or appends it when there is none.
    void put(Thing thing)
    {
        const auto found = locate(thing.id);
        auto item = std::make_shared<const Thing>(std::move(thing));
        if (found == items_.end()) {
            items_.push_back(std::move(item));
        } else {
            items_[static_cast<std::size_t>(found - items_.begin())] = std::move(item);
        }
    }

    /// Adds at the end without looking for the id: for readers that have checked it already.
    void append(Thing thing) { items_.push_back(std::make_shared<const Thing>(std::move(thing))); }

    void remove(const ThingId& id)
    {
        std::erase_if(items_, [&](const Item& item) { return item->id == id; });
    }

    /// An id made from the name that no thing in this list has yet.
    ThingId freshId(std::string_view name) const
    {
        const std::string base = slug(name);
        ThingId id{base};
        for (int n = 2; find(id) != nullptr; ++n) {
            id.text = base + "-" + std::to_string(n);
        }
        return id;
    }

    bool operator==(const List& other) const
    {
        return std::equal(begin(), end(), other.begin(), other.end(),
                          [](const Item& a, const Item& b) { return a == b || *a == *b; });
    }

private:
    auto locate(const ThingId& id) const
    {
        return std::find_if(items_.begin(), items_.end(), [&](const Item& item) { return item->id == id; });
    }

    std::vector<Item> items_;
};

} // namespace stone
