// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"

#include <memory>
#include <optional>
#include <string_view>
#include <vector>

namespace stone
{

/// An ordered list of immutable things that copies of a document share. Changing one thing replaces its pointer and
/// leaves the others as they are, so that copies are cheap and "what changed" is a comparison of pointers.
///
/// Where a thing is by its id is looked up in a table that long lists make when they are first asked; copies, and copies in
/// which things were replaced by things of the same ids, share it. A const list may be asked from any thread.
///
/// What is not defined here is in list_members.h, and compiled once, in lists.cpp: hundreds of files copy documents.
template <class Thing> class List
{
public:
    using Item = std::shared_ptr<const Thing>;
    using ThingId = decltype(Thing::id);

    List();
    List(const List& other);
    List(List&& other) noexcept;
    List& operator=(const List& other);
    List& operator=(List&& other) noexcept;
    ~List();

    auto begin() const { return items_.begin(); }
    auto end() const { return items_.end(); }
    std::size_t size() const { return items_.size(); }
    bool empty() const { return items_.empty(); }
    const Item& operator[](std::size_t index) const { return items_[index]; }

    /// The thing with this id, or null.
    const Thing* find(const ThingId& id) const;

    /// The same, for whoever keeps it beyond the list.
    Item share(const ThingId& id) const;

    /// Its place in the list; of several with this id the first.
    std::optional<std::size_t> indexOf(const ThingId& id) const;

    /// Whether it is the same things that two lists share, not only equal ones.
    bool shares(const List& other) const;

    /// Replaces the thing of the same id, or appends it when there is none.
    void put(Thing thing);

    /// Adds at the end without looking for the id: for readers that have checked it already.
    void append(Thing thing);

    /// The same for a thing that another list has, and that both share from then on.
    void appendShared(Item item);

    void remove(const ThingId& id);

    /// Removes all that a condition holds for.
    template <class Condition> void removeIf(Condition&& condition)
    {
        std::erase_if(items_, [&](const Item& item) { return condition(*item); });
        forgetPlaces();
    }

    /// An id made from the name that no thing in this list has yet.
    ThingId freshId(std::string_view name) const;

    bool operator==(const List& other) const;

private:
    struct Places;

    /// Other things stand at other places now.
    void forgetPlaces();

    std::vector<Item> items_;
    std::shared_ptr<Places> places_; ///< of a long list
};

} // namespace stone
