#include "project/json_place.h"

#include <nlohmann/json.hpp>

#include <algorithm>
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
    std::map<std::string, int> lines;
    for (const auto& [pointer, place] : finder.places()) {
        // A number ends only where the next character was read, and that may be the line break behind it.
        const auto length = std::max<std::ptrdiff_t>(place - text.data() - 1, 0);
        lines[pointer] = 1 + static_cast<int>(std::count(text.data(), text.data() + length, '\n'));
    }
    return lines;
}

int lineOfPointer(std::string_view text, const std::string& pointer)
{
    const auto lines = linesOfPointers(text, {pointer});
    return lines.empty() ? 0 : lines.begin()->second;
}

} // namespace stone
