#pragma once

#include "project/id.h"

#include <algorithm>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

namespace stone
{

/// An ordered list of immutable things that copies of a document share. Changing one thing replaces its pointer and
/// leaves the others as they are, so that copies are cheap and "what changed" is a comparison of pointers.
///
/// Where a thing is by its id is looked up in a table that long lists make when they are first asked; copies, and copies in
/// which things were replaced by things of the same ids, share it. A const list may be asked from any thread.
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
        const auto found = indexOf(id);
        return found ? items_[*found].get() : nullptr;
    }

    /// The same, for whoever keeps it beyond the list.
    Item share(const ThingId& id) const
    {
        const auto found = indexOf(id);
        return found ? items_[*found] : nullptr;
    }

    /// Its place in the list; of several with this id the first.
    std::optional<std::size_t> indexOf(const ThingId& id) const
    {
        if (items_.size() < longFrom) {
            const auto found = std::find_if(items_.begin(), items_.end(), [&](const Item& item) { return item->id == id; });
            return found == items_.end() ? std::nullopt : std::optional(static_cast<std::size_t>(found - items_.begin()));
        }
        std::call_once(places_->made, [this] {
            places_->byId.reserve(items_.size());
            for (std::size_t i = 0; i < items_.size(); ++i) {
                places_->byId.emplace(items_[i]->id.text, i);
            }
        });
        const auto found = places_->byId.find(id.text);
        return found == places_->byId.end() ? std::nullopt : std::optional(found->second);
    }

    /// Whether it is the same things that two lists share, not only equal ones.
    bool shares(const List& other) const { return items_ == other.items_; }

    /// Replaces the thing of the same id, or appends it when there is none.
    void put(Thing thing)
    {
        const auto found = indexOf(thing.id);
        if (found) {
            items_[*found] = std::make_shared<const Thing>(std::move(thing));
        } else {
            append(std::move(thing));
        }
    }

    /// Adds at the end without looking for the id: for readers that have checked it already.
    void append(Thing thing)
    {
        items_.push_back(std::make_shared<const Thing>(std::move(thing)));
        places_ = std::make_shared<Places>();
    }

    void remove(const ThingId& id)
    {
        std::erase_if(items_, [&](const Item& item) { return item->id == id; });
        places_ = std::make_shared<Places>();
    }

    /// Removes all that a condition holds for.
    template <class Condition> void removeIf(Condition&& condition)
    {
        std::erase_if(items_, [&](const Item& item) { return condition(*item); });
        places_ = std::make_shared<Places>();
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
    /// Below this a list is searched faster than a table is asked.
    static constexpr std::size_t longFrom = 24;
    struct Places {
        std::once_flag made;
        std::unordered_map<std::string, std::size_t> byId;
    };

    std::vector<Item> items_;
    std::shared_ptr<Places> places_; ///< null only while the list is empty
};

} // namespace stone
