// SPDX-License-Identifier: MPL-2.0
#include "project/violations.h"

#include "project/document_json.h"
#include "project/document_reader.h"
#include "project/document_things.h"

#include <algorithm>
#include <unordered_set>
#include <vector>

namespace stone
{

namespace
{

std::vector<std::string> partsOf(const std::string& pointer)
{
    std::vector<std::string> parts;
    for (std::size_t at = 0; at < pointer.size();) {
        const std::size_t end = std::min(pointer.find('/', at + 1), pointer.size());
        parts.push_back(pointer.substr(at + 1, end - at - 1));
        at = end;
    }
    return parts;
}

/// What a pointer into a document's JSON means to a person.
Violation violationAt(const Json& root, const std::string& pointer, std::string message)
{
    Violation found{"The project", {}, std::move(message)};
    const std::vector<std::string> parts = partsOf(pointer);
    const Json* value = &root;
    std::size_t fieldFrom = 0;
    for (std::size_t i = 0; i + 1 < parts.size(); i += 2) {
        const ThingList* kind = thingListOf(parts[i]);
        const auto list = value->find(parts[i]);
        if (kind == nullptr || list == value->end() || !list->is_array()) {
            break;
        }
        const auto index = static_cast<std::size_t>(std::stoul(parts[i + 1]));
        if (index >= list->size()) {
            break;
        }
        value = &(*list)[index];
        found.what = calledThing(*kind, *value);
        fieldFrom = i + 2;
    }
    for (std::size_t i = fieldFrom; i < parts.size(); ++i) {
        found.field += (found.field.empty() ? "" : "/") + parts[i];
    }
    return found;
}

/// The things of `after` that `before` does not share.
template <class Thing> List<Thing> changed(const List<Thing>& after, const List<Thing>& before)
{
    List<Thing> different;
    std::size_t index = 0;
    for (const auto& item : after) {
        // Mostly things stand where they stood: look there before asking everywhere.
        const bool inPlace = index < before.size() && before[index] == item;
        ++index;
        if (!inPlace && before.find(item->id) != item.get()) {
            different.append(*item);
        }
    }
    return different;
}

/// An id that stands twice in a list that is not as it was, or is empty.
template <class Thing> std::optional<std::string> doubledId(const List<Thing>& after, const List<Thing>& before)
{
    const auto sameId = [](const auto& a, const auto& b) { return a == b || a->id == b->id; };
    if (std::equal(after.begin(), after.end(), before.begin(), before.end(), sameId)) {
        return {};
    }
    std::unordered_set<std::string> ids;
    for (const auto& item : after) {
        if (item->id.empty() || !ids.insert(item->id.text).second) {
            return item->id.text;
        }
    }
    return {};
}

/// Collects what changed, list by list, and the first id that is used twice.
class ChangedThings
{
public:
    template <class Thing> List<Thing> of(const List<Thing>& after, const List<Thing>& before, const char* kind)
    {
        if (!doubled_) {
            if (const auto id = doubledId(after, before)) {
                doubled_ = Violation{std::string(kind) + " \"" + *id + '"', "id",
                                     id->empty() ? "an id must not be empty" : "this id is used twice; each must be unlike"};
            }
        }
        return changed(after, before);
    }

    const std::optional<Violation>& doubled() const { return doubled_; }

private:
    std::optional<Violation> doubled_;
};

Level changedParts(const Level& after, const Level& before, ChangedThings& changes)
{
    Level part = after;
    part.emitters = changes.of(after.emitters, before.emitters, "Emitter");
    part.plants = changes.of(after.plants, before.plants, "Plant rule");
    part.zones = changes.of(after.zones, before.zones, "Zone");
    part.rooms = changes.of(after.rooms, before.rooms, "Room");
    part.openings = changes.of(after.openings, before.openings, "Opening");
    part.walks = changes.of(after.walks, before.walks, "Walk");
    part.posts = changes.of(after.posts, before.posts, "Post");
    return part;
}

Project changedParts(const Project& after, const Project& before, ChangedThings& changes)
{
    Project part = after;
    part.sounds = changes.of(after.sounds, before.sounds, "Sound");
    part.falloffs = changes.of(after.falloffs, before.falloffs, "Falloff");
    part.families = changes.of(after.families, before.families, "Family");
    part.patterns = changes.of(after.patterns, before.patterns, "Pattern");
    part.gameValues = changes.of(after.gameValues, before.gameValues, "Value");
    part.signalNames = changes.of(after.signalNames, before.signalNames, "Signal");
    part.rigs = changes.of(after.rigs, before.rigs, "Ears");
    part.soundTargets = changes.of(after.soundTargets, before.soundTargets, "Way to export sounds");
    part.gazes = changes.of(after.gazes, before.gazes, "Gaze");
    part.levels = {};
    static const Level nothing;
    for (const auto& level : changes.of(after.levels, before.levels, "Level")) {
        const Level* old = before.levels.find(level->id);
        part.levels.append(changedParts(*level, old != nullptr ? *old : nothing, changes));
    }
    return part;
}

} // namespace

std::string Violation::text() const
{
    return what + (field.empty() ? "" : ", " + field) + ": " + message;
}

std::optional<Violation> violationIn(const Project& after, const Project& before)
{
    if (after.levels.empty()) {
        return Violation{"The project", "levels", "a project has at least one level"};
    }
    ChangedThings changes;
    const Project part = changedParts(after, before, changes);
    if (changes.doubled()) {
        return changes.doubled();
    }
    const Json json = documentJson(part);
    std::vector<Notice> notices;
    try {
        readDocument(json, notices);
    } catch (const ValueError& error) {
        return violationAt(json, error.pointer, error.what());
    }
    return {};
}

} // namespace stone
