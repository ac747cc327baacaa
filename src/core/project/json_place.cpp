// SPDX-License-Identifier: MPL-2.0
#include "project/json_place.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

namespace stone
{

namespace
{

/// Walks over the text and lets others see how far the parser has read.
class CountingIterator
{
public:
    using iterator_category = std::input_iterator_tag;
    using value_type = char;
    using difference_type = std::ptrdiff_t;
    using pointer = const char*;
    using reference = const char&;

    CountingIterator(const char* at, const char** reached) : at_(at), reached_(reached) {}
    reference operator*() const { return *at_; }
    CountingIterator& operator++()
    {
        ++at_;
        *reached_ = std::max(*reached_, at_);
        return *this;
    }
    CountingIterator operator++(int)
    {
        const CountingIterator before = *this;
        ++*this;
        return before;
    }
    bool operator==(const CountingIterator& other) const { return at_ == other.at_; }
    bool operator!=(const CountingIterator& other) const { return at_ != other.at_; }

private:
    const char* at_;
    const char** reached_;
};

/// Follows the parser's events, notes where the wanted values are and stops once it has them all.
class PlaceFinder : public nlohmann::json_sax<nlohmann::json>
{
public:
    PlaceFinder(const std::set<std::string>& wanted, const char* const& reached) : wanted_(wanted), reached_(reached) {}

    bool null() override { return value(); }
    bool boolean(bool) override { return value(); }
    bool number_integer(number_integer_t) override { return value(); }
    bool number_unsigned(number_unsigned_t) override { return value(); }
    bool number_float(number_float_t, const string_t&) override { return value(); }
    bool string(string_t&) override { return value(); }
    bool binary(binary_t&) override { return value(); }
    bool start_object(std::size_t) override { return open(false); }
    bool start_array(std::size_t) override { return open(true); }
    bool end_object() override { return close(); }
    bool end_array() override { return close(); }
    bool key(string_t& name) override
    {
        levels_.back().key = pointerPart(name);
        return true;
    }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) override { return false; }

    /// How far the text was read when each value came up.
    const std::map<std::string, const char*>& places() const { return places_; }

private:
    struct Nesting {
        bool array = false;
        std::size_t index = 0;
        std::string key;
    };

    std::string here() const
    {
        std::string pointer;
        for (const Nesting& level : levels_) {
            pointer += '/' + (level.array ? std::to_string(level.index) : level.key);
        }
        return pointer;
    }

    bool note()
    {
        const std::string pointer = here();
        if (wanted_.contains(pointer)) {
            places_.emplace(pointer, reached_);
        }
        return places_.size() < wanted_.size();
    }

    bool value()
    {
        const bool more = note();
        if (!levels_.empty()) {
            ++levels_.back().index;
        }
        return more;
    }

    bool open(bool array)
    {
        const bool more = note();
        levels_.push_back({.array = array, .index = 0, .key = {}});
        return more;
    }

    bool close()
    {
        levels_.pop_back();
        if (!levels_.empty()) {
            ++levels_.back().index;
        }
        return true;
    }

    const std::set<std::string>& wanted_;
    const char* const& reached_;
    std::vector<Nesting> levels_;
    std::map<std::string, const char*> places_;
};

/// Follows the parser's events and stops at what a document must not have.
class TroubleFinder : public nlohmann::json_sax<nlohmann::json>
{
public:
    explicit TroubleFinder(int deepest) : deepest_(deepest) {}

    bool null() override { return true; }
    bool boolean(bool) override { return true; }
    bool number_integer(number_integer_t) override { return true; }
    bool number_unsigned(number_unsigned_t) override { return true; }
    bool number_float(number_float_t value, const string_t&) override
    {
        return std::isfinite(value) || stop("a number here is too large to be read; give finite numbers");
    }
    bool string(string_t&) override { return true; }
    bool binary(binary_t&) override { return true; }
    bool start_object(std::size_t) override { return open(); }
    bool start_array(std::size_t) override { return open(); }
    bool end_object() override { return close(); }
    bool end_array() override { return close(); }
    bool key(string_t&) override { return true; }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception& error) override
    {
        constexpr int numberOverflow = 406;
        return error.id == numberOverflow
                   ? stop("a number here is too large to be read; give finite numbers")
                   : stop("this is not JSON here; check for a missing comma, quote or brace, or for NaN and Infinity, which "
                          "JSON does not have");
    }

    const std::string& message() const { return message_; }

private:
    bool open()
    {
        return ++depth_ <= deepest_ ||
               stop("nested more than " + std::to_string(deepest_) + " deep here; no document needs that");
    }

    bool close()
    {
        --depth_;
        return true;
    }

    bool stop(std::string message)
    {
        message_ = std::move(message);
        return false;
    }

    int deepest_;
    int depth_ = 0;
    std::string message_;
};

} // namespace

std::string pointerPart(std::string_view key)
{
    std::string escaped;
    for (const char c : key) {
        escaped += c == '~' ? "~0" : c == '/' ? "~1" : std::string(1, c);
    }
    return escaped;
}

std::map<std::string, int> linesOfPointers(std::string_view text, const std::set<std::string>& pointers)
{
    const char* reached = text.data();
    PlaceFinder finder(pointers, reached);
    nlohmann::json::sax_parse(CountingIterator(text.data(), &reached), CountingIterator(text.data() + text.size(), &reached),
                              &finder, nlohmann::json::input_format_t::json, false);
    std::vector<std::pair<const char*, const std::string*>> inOrder;
    for (const auto& [pointer, place] : finder.places()) {
        // A number ends only where the next character was read, and that may be the line break behind it.
        inOrder.emplace_back(std::max(place - 1, text.data()), &pointer);
    }
    std::sort(inOrder.begin(), inOrder.end());
    std::map<std::string, int> lines;
    const char* counted = text.data();
    int line = 1;
    for (const auto& [place, pointer] : inOrder) {
        line += static_cast<int>(std::count(counted, place, '\n'));
        counted = place;
        lines[*pointer] = line;
    }
    return lines;
}

int lineNearPointer(std::string_view text, const std::string& pointer)
{
    std::set<std::string> candidates{pointer};
    for (std::size_t end = pointer.rfind('/'); end != std::string::npos && end > 0; end = pointer.rfind('/', end - 1)) {
        candidates.insert(pointer.substr(0, end));
    }
    int line = 1; // the document itself
    std::size_t longest = 0;
    for (const auto& [found, at] : linesOfPointers(text, candidates)) {
        if (found.size() >= longest) {
            longest = found.size();
            line = at;
        }
    }
    return line;
}

int lineOfByte(std::string_view text, std::size_t byte)
{
    const auto reached = text.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text.size()));
    return 1 + static_cast<int>(std::count(text.begin(), reached, '\n'));
}

std::optional<TextTrouble> troubleIn(std::string_view text, int deepest)
{
    const char* reached = text.data();
    TroubleFinder finder(deepest);
    const CountingIterator begin(text.data(), &reached);
    const CountingIterator end(text.data() + text.size(), &reached);
    if (nlohmann::json::sax_parse(begin, end, &finder)) {
        return {};
    }
    // The parser has read one character too many to know that something ended.
    const auto byte = static_cast<std::size_t>(reached - text.data());
    return TextTrouble{lineOfByte(text, byte > 0 ? byte - 1 : 0), finder.message()};
}

} // namespace stone
