// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/range.h"

#include <nlohmann/json.hpp>

#include <set>
#include <span>
#include <stdexcept>
#include <string>
#include <vector>

namespace stone
{

using Json = nlohmann::ordered_json;

/// A value of the wrong type or out of range, at a JSON pointer.
class ValueError : public std::runtime_error
{
public:
    ValueError(std::string where, const std::string& message) : std::runtime_error(message), pointer(std::move(where)) {}
    std::string pointer;
};

/// Something worth knowing about a file that was read all the same.
struct Notice {
    std::string pointer;
    std::string message;
};

/// Reads one JSON object key by key. Every read names the key it knows; rest() keeps and reports the others. Throws
/// ValueError with the pointer of whatever is not as it should be.
class ObjectReader
{
public:
    ObjectReader(const Json& value, std::string pointer, std::vector<Notice>& notices);

    const std::string& pointer() const { return pointer_; }
    bool has(const std::string& key);
    std::string text(const std::string& key, std::string fallback = {});
    double number(const std::string& key, double fallback, Range range);
    std::uint64_t whole(const std::string& key, std::uint64_t fallback, std::uint64_t least, std::uint64_t most);
    bool flag(const std::string& key, bool fallback);
    /// A list of words; empty when it is not there.
    std::vector<std::string> texts(const std::string& key);
    Vec2 plane(const std::string& key, const Vec2& fallback);
    Vec3 place(const std::string& key, const Vec3& fallback);
    /// Lists of such; empty when they are not there.
    std::vector<Vec2> planes(const std::string& key);
    std::vector<Vec3> places(const std::string& key);
    std::vector<double> lengths(const std::string& key);

    /// One of the words in `words`; the index of the match.
    std::size_t word(const std::string& key, std::size_t fallback, std::span<const char* const> words);
    std::size_t word(const std::string& key, std::size_t fallback, std::initializer_list<const char*> words)
    {
        return word(key, fallback, std::span(words.begin(), words.size()));
    }

    /// A reader for the object under the key. Only when has(key).
    ObjectReader object(const std::string& key);

    /// Calls read(ObjectReader&) for each object of the array under the key, if there is one.
    template <class Read> void each(const std::string& key, Read&& read)
    {
        const Json* items = array(key);
        if (items == nullptr) {
            return;
        }
        for (std::size_t i = 0; i < items->size(); ++i) {
            ObjectReader item((*items)[i], pointerTo(key) + '/' + std::to_string(i), notices_);
            read(item);
        }
    }

    /// A key that means nothing any more: it is left out from now on. Says so where it says more than
    /// `false`.
    void drop(const std::string& key, const std::string& why);

    /// The keys that nobody asked for. Call it last.
    Extras rest();

    [[noreturn]] void fail(const std::string& key, const std::string& message) const;

private:
    const Json* member(const std::string& key);
    const Json* array(const std::string& key);
    std::vector<double> numbers(const std::string& key, const Json* value, std::size_t least, std::size_t most);
    std::string pointerTo(const std::string& key) const;

    const Json& value_;
    std::string pointer_;
    std::vector<Notice>& notices_;
    std::set<std::string> known_;
};

} // namespace stone
