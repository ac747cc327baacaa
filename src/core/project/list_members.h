// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/list.h"

#include <algorithm>
#include <mutex>
#include <string>
#include <unordered_map>
#include <utility>

/// For whoever instantiates a List.
namespace stone
{

/// Below this a list is searched faster than a table is asked.
constexpr std::size_t longListFrom = 24;

template <class Thing> struct List<Thing>::Places {
    std::once_flag made;
    std::unordered_map<std::string, std::size_t> byId;
};

template <class Thing> List<Thing>::List() = default;
template <class Thing> List<Thing>::List(const List& other) = default;
template <class Thing> List<Thing>::List(List&& other) noexcept = default;
template <class Thing> List<Thing>& List<Thing>::operator=(const List& other) = default;
template <class Thing> List<Thing>& List<Thing>::operator=(List&& other) noexcept = default;
template <class Thing> List<Thing>::~List() = default;

template <class Thing> const Thing* List<Thing>::find(const ThingId& id) const
{
    const auto found = indexOf(id);
    return found ? items_[*found].get() : nullptr;
}

template <class Thing> typename List<Thing>::Item List<Thing>::share(const ThingId& id) const
{
    const auto found = indexOf(id);
    return found ? items_[*found] : nullptr;
}

template <class Thing> std::optional<std::size_t> List<Thing>::indexOf(const ThingId& id) const
{
    if (items_.size() < longListFrom) {
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

template <class Thing> bool List<Thing>::shares(const List& other) const
{
    return items_ == other.items_;
}

template <class Thing> void List<Thing>::put(Thing thing)
{
    const auto found = indexOf(thing.id);
    if (found) {
        items_[*found] = std::make_shared<const Thing>(std::move(thing));
    } else {
        append(std::move(thing));
    }
}

template <class Thing> void List<Thing>::append(Thing thing)
{
    items_.push_back(std::make_shared<const Thing>(std::move(thing)));
    forgetPlaces();
}

template <class Thing> void List<Thing>::appendShared(Item item)
{
    items_.push_back(std::move(item));
    forgetPlaces();
}

template <class Thing> void List<Thing>::remove(const ThingId& id)
{
    removeIf([&](const Thing& thing) { return thing.id == id; });
}

template <class Thing> typename List<Thing>::ThingId List<Thing>::freshId(std::string_view name) const
{
    const std::string base = slug(name);
    ThingId id{base};
    for (int n = 2; find(id) != nullptr; ++n) {
        id.text = base + "-" + std::to_string(n);
    }
    return id;
}

template <class Thing> bool List<Thing>::operator==(const List& other) const
{
    return std::equal(begin(), end(), other.begin(), other.end(),
                      [](const Item& a, const Item& b) { return a == b || *a == *b; });
}

template <class Thing> void List<Thing>::forgetPlaces()
{
    places_ = items_.size() < longListFrom ? nullptr : std::make_shared<Places>();
}

} // namespace stone
