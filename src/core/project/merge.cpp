// SPDX-License-Identifier: MPL-2.0
#include "project/merge.h"

#include "project/document_json.h"
#include "project/document_reader.h"
#include "project/document_things.h"
#include "project/file_error.h"

#include <algorithm>
#include <functional>
#include <optional>
#include <utility>

namespace stone
{

namespace
{

using Side = std::optional<Json>; ///< nothing: it is not there

class Merger
{
public:
    /// Who wins a clash, by its number.
    using Judge = std::function<Wins(std::size_t clash)>;
    explicit Merger(Judge judge) : judge_(std::move(judge)) {}

    std::vector<Clash> takeClashes() { return std::move(clashes_); }

    /// Of the project or a level: its lists of things by id, everything else key by key.
    Json object(const std::string& what, const Json& base, const Json& ours, const Json& theirs)
    {
        Json result = Json::object();
        std::vector<std::string> keys;
        for (const Json* side : {&ours, &theirs, &base}) {
            for (const auto& [key, value] : side->items()) {
                if (std::find(keys.begin(), keys.end(), key) == keys.end()) {
                    keys.push_back(key);
                }
            }
        }
        for (const std::string& key : keys) {
            const ThingList* list = thingListOf(key);
            const auto of = [&](const Json& side) { return side.contains(key) ? Side(side.at(key)) : Side(); };
            if (list != nullptr && list->named) {
                Json all = things(*list, of(base).value_or(Json::array()), of(ours).value_or(Json::array()),
                                  of(theirs).value_or(Json::array()));
                if (!all.empty() || ours.contains(key) || theirs.contains(key)) {
                    result[key] = std::move(all);
                }
            } else if (Side value = choose(what + ", " + key, of(base), of(ours), of(theirs))) {
                result[key] = std::move(*value);
            }
        }
        return result;
    }

private:
    /// One value, whole.
    Side choose(const std::string& what, const Side& base, const Side& ours, const Side& theirs)
    {
        if (ours == theirs || theirs == base) {
            return ours;
        }
        if (ours == base) {
            return theirs;
        }
        clashes_.push_back({.what = what, .oursGone = !ours, .theirsGone = !theirs});
        return judge_(clashes_.size() - 1) == Wins::ours ? ours : theirs;
    }

    using ById = std::map<std::string, const Json*>;

    static ById byId(const Json& list)
    {
        ById index;
        for (const Json& thing : list) {
            index.emplace(thing.value("id", std::string()), &thing);
        }
        return index;
    }

    static Side find(const ById& index, const std::string& id)
    {
        const auto found = index.find(id);
        return found != index.end() ? Side(*found->second) : Side();
    }

    Json things(const ThingList& list, const Json& base, const Json& ours, const Json& theirs)
    {
        Json result = Json::array();
        const std::array<ById, 3> indices{byId(base), byId(ours), byId(theirs)};
        const auto add = [&](const std::string& id) {
            const Side before = find(indices[0], id);
            const Side mine = find(indices[1], id);
            const Side other = find(indices[2], id);
            const std::string what = calledThing(list, mine ? *mine : other ? *other : *before);
            if (std::string(list.key) == "levels" && before && mine && other) {
                result.push_back(object(what, *before, *mine, *other));
            } else if (Side chosen = choose(what, before, mine, other)) {
                result.push_back(std::move(*chosen));
            }
        };
        // In our order, then what only they have, then what both took out or only one did.
        std::set<std::string> done;
        for (const Json* side : {&ours, &theirs, &base}) {
            for (const Json& thing : *side) {
                const std::string id = thing.value("id", std::string());
                if (done.insert(id).second) {
                    add(id);
                }
            }
        }
        return result;
    }

    Judge judge_;
    std::vector<Clash> clashes_;
};

Merged mergedBy(Merger::Judge judge, const Project& base, const Project& ours, const Project& theirs)
{
    Merger merger(std::move(judge));
    const Json json = merger.object("The project", documentJson(base), documentJson(ours), documentJson(theirs));
    std::vector<Notice> notices;
    try {
        return {readDocument(json, notices), merger.takeClashes()};
    } catch (const ValueError& error) {
        throw FileError("the two cannot be put together: at " + error.pointer + ": " + error.what() +
                        "; take one of them, and bring the other's changes in by hand");
    }
}

} // namespace

Merged merged(const Project& base, const Project& ours, const Project& theirs, Wins wins)
{
    return mergedBy([wins](std::size_t) { return wins; }, base, ours, theirs);
}

Merged merged(const Project& base, const Project& ours, const Project& theirs, const std::vector<Wins>& wins)
{
    return mergedBy([&wins](std::size_t clash) { return clash < wins.size() ? wins[clash] : Wins::ours; }, base, ours, theirs);
}

} // namespace stone
