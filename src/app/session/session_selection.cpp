// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/session.h"
#include "app/session/things.h"
#include "world/planting.h"

#include <algorithm>

/// What of the session's level is selected, and on the bench.
namespace stone
{

const std::set<EmitterId>& Session::selection() const
{
    static const std::set<EmitterId> none;
    const auto* emitters = std::get_if<SelectedEmitters>(&selected_);
    return emitters != nullptr ? emitters->ids : none;
}

const Emitter* Session::primary() const
{
    const auto* emitters = std::get_if<SelectedEmitters>(&selected_);
    return emitters != nullptr ? level().emitters.find(emitters->primary) : nullptr;
}

int Session::indexOf(const EmitterId& id) const
{
    const auto found = level().emitters.indexOf(id);
    return found ? static_cast<int>(*found) : -1;
}

int Session::primaryIndex() const
{
    const Emitter* emitter = primary();
    return emitter != nullptr ? indexOf(emitter->id) : -1;
}

const Emitter* Session::subject() const
{
    const Emitter* kept = level().emitters.find(pinned_);
    return kept != nullptr ? kept : primary();
}

int Session::subjectIndex() const
{
    const Emitter* emitter = subject();
    return emitter != nullptr ? indexOf(emitter->id) : -1;
}

std::set<EmitterId> Session::inHand() const
{
    std::set<EmitterId> which = selection();
    if (const Emitter* emitter = subject()) {
        which.insert(emitter->id);
    }
    return which;
}

void Session::pin(bool on)
{
    const Emitter* emitter = on ? subject() : nullptr;
    pinned_ = emitter != nullptr ? emitter->id : EmitterId{};
    emit selectionChanged();
}

void Session::select(std::set<EmitterId> ids, const EmitterId& primary)
{
    if (ids.size() == 1 && selectCopy(*ids.begin())) {
        return;
    }
    std::erase_if(ids, [this](const EmitterId& id) { return indexOf(id) < 0; });
    SelectedEmitters next{std::move(ids), primary};
    if (!next.ids.contains(primary)) {
        next.primary = next.ids.empty() ? EmitterId{} : *next.ids.begin();
    }
    if (selected_ == Selection(next)) {
        return;
    }
    selected_ = std::move(next);
    copy_ = {};
    history_.endGesture();
    emit selectionChanged();
}

bool Session::selectCopy(const EmitterId& id)
{
    const auto& rules = level().plants;
    const auto rule = std::find_if(rules.begin(), rules.end(),
                                   [&](const auto& known) { return id.text.starts_with(copyId(known->id, {}).text); });
    if (rule == rules.end() || indexOf(id) >= 0) {
        return false;
    }
    selected_ = (*rule)->id;
    copy_ = id;
    history_.endGesture();
    emit selectionChanged();
    return true;
}

/// After an edit: emitters that are gone are not selected any more. Whether there were any.
bool Session::dropGone()
{
    auto* emitters = std::get_if<SelectedEmitters>(&selected_);
    if (emitters == nullptr) {
        return false;
    }
    const std::size_t gone = std::erase_if(emitters->ids, [this](const EmitterId& id) { return indexOf(id) < 0; });
    if (!emitters->ids.contains(emitters->primary)) {
        emitters->primary = emitters->ids.empty() ? EmitterId{} : *emitters->ids.begin();
    }
    return gone > 0;
}

template <class Thing> const Thing* Session::selected() const
{
    const auto* id = std::get_if<decltype(Thing::id)>(&selected_);
    return id != nullptr ? (level().*Kind<Thing>::list).find(*id) : nullptr;
}

template <class Thing> void Session::selectThing(const decltype(Thing::id)& id)
{
    selected_ = id;
    copy_ = {};
    history_.endGesture();
    emit selectionChanged();
}

bool Session::thingSelected() const
{
    return selected<Zone>() != nullptr || selected<Room>() != nullptr || selected<Opening>() != nullptr ||
           selected<Walk>() != nullptr || selected<Plant>() != nullptr;
}

template const Zone* Session::selected() const;
template const Room* Session::selected() const;
template const Opening* Session::selected() const;
template const Walk* Session::selected() const;
template const Plant* Session::selected() const;
template void Session::selectThing<Zone>(const ZoneId& id);
template void Session::selectThing<Room>(const RoomId& id);
template void Session::selectThing<Opening>(const OpeningId& id);
template void Session::selectThing<Walk>(const WalkId& id);
template void Session::selectThing<Plant>(const PlantId& id);

} // namespace stone
