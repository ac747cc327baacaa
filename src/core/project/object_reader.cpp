// SPDX-License-Identifier: MPL-2.0
#include "project/object_reader.h"

#include "project/json_place.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

std::string describe(const Json& value)
{
    const std::string shown = value.dump(-1, ' ', false, Json::error_handler_t::replace);
    const std::string kind = value.is_object() ? "an object" : value.is_array() ? "a list" : shown.substr(0, 40);
    return kind;
}

std::string bound(double value)
{
    return Json(value).dump();
}

} // namespace

ObjectReader::ObjectReader(const Json& value, std::string pointer, std::vector<Notice>& notices)
    : value_(value), pointer_(std::move(pointer)), notices_(notices)
{
    if (!value.is_object()) {
        throw ValueError(pointer_, "expected an object in braces, found " + describe(value));
    }
}

std::string ObjectReader::pointerTo(const std::string& key) const
{
    return pointer_ + '/' + pointerPart(key);
}

void ObjectReader::fail(const std::string& key, const std::string& message) const
{
    throw ValueError(key.empty() ? pointer_ : pointerTo(key), message);
}

const Json* ObjectReader::member(const std::string& key)
{
    known_.insert(key);
    const auto found = value_.find(key);
    return found == value_.end() ? nullptr : &*found;
}

bool ObjectReader::has(const std::string& key)
{
    return member(key) != nullptr;
}

std::string ObjectReader::text(const std::string& key, std::string fallback)
{
    const Json* value = member(key);
    if (value == nullptr) {
        return fallback;
    }
    if (!value->is_string()) {
        fail(key, "expected text in quotes, found " + describe(*value));
    }
    return value->get<std::string>();
}

double ObjectReader::number(const std::string& key, double fallback, Range range)
{
    const Json* value = member(key);
    if (value != nullptr && !value->is_number()) {
        fail(key, "expected a number, found " + describe(*value));
    }
    const double number = value != nullptr ? value->get<double>() : fallback;
    if (!std::isfinite(number) || number < range.least || number > range.most) {
        const std::string wanted = "expected a number from " + bound(range.least) + " to " + bound(range.most);
        // What is left out must fit as well: a cut-off of 0 Hz would be saved, and refused the next time.
        fail(key, value != nullptr ? wanted + ", found " + describe(*value)
                                   : wanted + "; left out, it would be " + bound(number) + ": give one");
    }
    return number;
}

std::uint64_t ObjectReader::whole(const std::string& key, std::uint64_t fallback, std::uint64_t least, std::uint64_t most)
{
    const Json* value = member(key);
    if (value == nullptr) {
        return fallback;
    }
    const bool negative = !value->is_number_unsigned() && value->is_number_integer() && value->get<std::int64_t>() < 0;
    if (!value->is_number_integer() || negative || value->get<std::uint64_t>() < least || value->get<std::uint64_t>() > most) {
        fail(key, "expected a whole number from " + std::to_string(least) + " to " + std::to_string(most) + ", found " +
                      describe(*value));
    }
    return value->get<std::uint64_t>();
}

bool ObjectReader::flag(const std::string& key, bool fallback)
{
    const Json* value = member(key);
    if (value == nullptr) {
        return fallback;
    }
    if (!value->is_boolean()) {
        fail(key, "expected true or false, found " + describe(*value));
    }
    return value->get<bool>();
}

std::vector<double> ObjectReader::numbers(const std::string& key, const Json* value, std::size_t least, std::size_t most)
{
    if (value == nullptr) {
        return {};
    }
    const std::string wanted = "expected a list of " + std::to_string(least) +
                               (most > least ? " or " + std::to_string(most) : "") + " numbers in metres";
    if (!value->is_array() || value->size() < least || value->size() > most) {
        fail(key, wanted + ", found " + describe(*value));
    }
    std::vector<double> result;
    for (const Json& item : *value) {
        const double number = item.is_number() ? item.get<double>() : NAN;
        if (!(number >= ranges::metres.least && number <= ranges::metres.most)) {
            fail(key, wanted + " within a thousand kilometres, found " + describe(item) + " in it");
        }
        result.push_back(number);
    }
    return result;
}

Vec2 ObjectReader::plane(const std::string& key, const Vec2& fallback)
{
    const std::vector<double> n = numbers(key, member(key), 2, 2);
    return n.empty() ? fallback : Vec2{n[0], n[1]};
}

Vec3 ObjectReader::place(const std::string& key, const Vec3& fallback)
{
    const std::vector<double> n = numbers(key, member(key), 2, 3);
    return n.empty() ? fallback : Vec3{n[0], n[1], n.size() == 3 ? n[2] : 0.0};
}

std::vector<Vec2> ObjectReader::planes(const std::string& key)
{
    std::vector<Vec2> found;
    if (const Json* items = array(key)) {
        for (const Json& item : *items) {
            const std::vector<double> n = numbers(key, &item, 2, 2);
            found.push_back({n[0], n[1]});
        }
    }
    return found;
}

std::vector<Vec3> ObjectReader::places(const std::string& key)
{
    std::vector<Vec3> found;
    if (const Json* items = array(key)) {
        for (const Json& item : *items) {
            const std::vector<double> n = numbers(key, &item, 2, 3);
            found.push_back({n[0], n[1], n.size() == 3 ? n[2] : 0.0});
        }
    }
    return found;
}

std::vector<double> ObjectReader::lengths(const std::string& key)
{
    std::vector<double> found = numbers(key, member(key), 0, 10'000);
    if (std::any_of(found.begin(), found.end(), [](double length) { return length < 0.0; })) {
        fail(key, "a length in metres is never below 0");
    }
    return found;
}

std::size_t ObjectReader::word(const std::string& key, std::size_t fallback, std::span<const char* const> words)
{
    if (!has(key)) {
        return fallback;
    }
    const std::string found = text(key);
    std::string all;
    std::size_t index = 0;
    for (const char* candidate : words) {
        if (found == candidate) {
            return index;
        }
        all += (all.empty() ? "\"" : ", \"") + std::string(candidate) + '"';
        ++index;
    }
    fail(key, "expected one of " + all + ", found \"" + found + '"');
}

std::vector<std::string> ObjectReader::texts(const std::string& key)
{
    std::vector<std::string> found;
    if (const Json* items = array(key)) {
        for (const Json& item : *items) {
            if (!item.is_string()) {
                fail(key, "expected words in quotes, found " + describe(item));
            }
            found.push_back(item.get<std::string>());
        }
    }
    return found;
}

ObjectReader ObjectReader::object(const std::string& key)
{
    return {*member(key), pointerTo(key), notices_};
}

const Json* ObjectReader::array(const std::string& key)
{
    const Json* value = member(key);
    if (value != nullptr && !value->is_array()) {
        fail(key, "expected a list in square brackets, found " + describe(*value));
    }
    return value;
}

void ObjectReader::drop(const std::string& key, const std::string& why)
{
    const Json* value = member(key);
    if (value != nullptr && *value != false) {
        notices_.push_back({pointerTo(key), '"' + key + "\" is left out: " + why});
    }
}

Extras ObjectReader::rest()
{
    Extras extras;
    for (const auto& [key, value] : value_.items()) {
        if (!known_.contains(key)) {
            extras[key] = value.dump(-1, ' ', false, Json::error_handler_t::replace);
            notices_.push_back({pointerTo(key), "this version does not know \"" + key + "\"; it is kept as it is"});
        }
    }
    return extras;
}

} // namespace stone
