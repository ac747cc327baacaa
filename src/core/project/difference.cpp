// SPDX-License-Identifier: MPL-2.0
#include "project/difference.h"

#include "project/document_json.h"
#include "project/document_things.h"

#include <algorithm>
#include <array>
#include <utility>

namespace stone
{

namespace
{

constexpr std::size_t mostShown = 60;

std::string shown(const Json& value)
{
    std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
    if (text.size() > mostShown) {
        text = value.is_array() ? "a list of " + std::to_string(value.size()) : text.substr(0, mostShown) + "...";
    }
    return text;
}

/// Collects what differs, walking both documents side by side.
class SideBySide
{
public:
    std::vector<Difference> take() { return std::move(found_); }

    /// `what`: whose fields these are.
    void compare(const std::string& what, const std::string& field, const Json& before, const Json& after)
    {
        if (before == after) {
            return;
        }
        if (!before.is_object() || !after.is_object()) {
            found_.push_back({what, field, shown(before), shown(after)});
            return;
        }
        const auto within = [&](const std::string& key) { return field.empty() ? key : field + '/' + key; };
        for (const auto& [key, value] : before.items()) {
            const auto other = after.find(key);
            const ThingList* list = field.empty() ? thingListOf(key) : nullptr;
            if (list != nullptr) {
                things(*list, value, other != after.end() ? *other : Json::array());
            } else if (other == after.end()) {
                oneSided(what, within(key), value, true);
            } else {
                compare(what, within(key), value, *other);
            }
        }
        for (const auto& [key, value] : after.items()) {
            if (before.contains(key)) {
                continue;
            }
            if (const ThingList* list = field.empty() ? thingListOf(key) : nullptr) {
                things(*list, Json::array(), value);
            } else {
                oneSided(what, within(key), value, false);
            }
        }
    }

private:
    /// What is only in one of the two: of a group of settings each, as a person sets them.
    void oneSided(const std::string& what, const std::string& field, const Json& value, bool before)
    {
        if (value.is_object() && !value.empty()) {
            for (const auto& [key, inner] : value.items()) {
                oneSided(what, field + '/' + key, inner, before);
            }
        } else if (before) {
            found_.push_back({what, field, shown(value), {}});
        } else {
            found_.push_back({what, field, {}, shown(value)});
        }
    }

    static std::string keyOf(const ThingList& list, const Json& thing, std::size_t index)
    {
        return list.named ? thing.value("id", std::string()) : std::to_string(index);
    }

    void things(const ThingList& list, const Json& before, const Json& after)
    {
        std::map<std::string, const Json*> now;
        for (std::size_t i = 0; i < after.size(); ++i) {
            now.emplace(keyOf(list, after[i], i), &after[i]);
        }
        std::set<std::string> there;
        for (std::size_t i = 0; i < before.size(); ++i) {
            const std::string key = keyOf(list, before[i], i);
            there.insert(key);
            const auto same = now.find(key);
            if (same == now.end()) {
                found_.push_back({calledThing(list, before[i]), {}, "there", {}});
            } else {
                compare(calledThing(list, before[i]), {}, before[i], *same->second);
            }
        }
        for (std::size_t i = 0; i < after.size(); ++i) {
            if (!there.contains(keyOf(list, after[i], i))) {
                found_.push_back({calledThing(list, after[i]), {}, {}, "there"});
            }
        }
    }

    std::vector<Difference> found_;
};

} // namespace

const ThingList* thingListOf(const std::string& key)
{
    const auto* found =
        std::find_if(thingLists.begin(), thingLists.end(), [&](const ThingList& list) { return key == list.key; });
    return found != thingLists.end() ? found : nullptr;
}

std::string calledThing(const ThingList& list, const Json& thing)
{
    for (const char* key : {"name", "surface", "id"}) {
        const auto name = thing.find(key);
        if (name != thing.end() && name->is_string() && !name->get<std::string>().empty()) {
            return std::string(list.thing) + " \"" + name->get<std::string>() + '"';
        }
    }
    return list.thing;
}

std::vector<Difference> differences(const Project& before, const Project& after)
{
    SideBySide comparison;
    comparison.compare("The project", {}, documentJson(before), documentJson(after));
    return comparison.take();
}

namespace
{

/// A field's name ends in its unit; people say the unit behind the number.
struct Unit {
    const char* ending;
    const char* said;
};
constexpr std::array<Unit, 8> units{{{"_m_s", " m/s"},
                                     {"_db", " dB"},
                                     {"_deg", " degrees"},
                                     {"_hz", " Hz"},
                                     {"_st", " semitones"},
                                     {"_ms", " ms"},
                                     {"_m", " m"},
                                     {"_s", " s"}}};

/// "placement/spread_deg" as "placement, spread" and " degrees".
std::pair<std::string, std::string> fieldInWords(std::string field)
{
    std::string unit;
    for (const Unit& known : units) {
        const std::string ending = known.ending;
        if (field.size() > ending.size() && field.ends_with(ending)) {
            field.resize(field.size() - ending.size());
            unit = known.said;
            break;
        }
    }
    std::string words;
    for (const char c : field) {
        words += c == '_' ? " " : c == '/' ? ", " : std::string(1, c);
    }
    return {words, unit};
}

std::string valueInWords(const std::string& value, const std::string& unit)
{
    return value == "true" ? "on" : value == "false" ? "off" : value + unit;
}

} // namespace

std::string inWords(const Difference& difference)
{
    if (difference.field.empty() && difference.from.empty()) {
        return difference.what + " added";
    }
    if (difference.field.empty() && difference.to.empty()) {
        return difference.what + " taken out";
    }
    const auto [field, unit] = fieldInWords(difference.field);
    const std::string head = difference.what + ": " + field;
    if (difference.from.empty()) {
        return head + " " + valueInWords(difference.to, unit) + ", was as usual";
    }
    if (difference.to.empty()) {
        return head + " as usual, was " + valueInWords(difference.from, unit);
    }
    return head + " from " + valueInWords(difference.from, {}) + " to " + valueInWords(difference.to, unit);
}

} // namespace stone
