#include "project/json_place.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <string>
#include <vector>

namespace stone {

namespace {

/// Walks over the text and lets others see how far the parser has read.
class CountingIterator {
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

/// Follows the parser's events and stops at the value that the pointer names.
class PlaceFinder : public nlohmann::json_sax<nlohmann::json> {
public:
    explicit PlaceFinder(std::string_view target) : target_(target) {}

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
        std::string escaped;
        for (const char c : name) {
            escaped += c == '~' ? "~0" : c == '/' ? "~1" : std::string(1, c);
        }
        levels_.back().key = escaped;
        return true;
    }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) override { return false; }

    bool found() const { return found_; }

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

    bool value()
    {
        found_ = here() == target_;
        if (!levels_.empty()) {
            ++levels_.back().index;
        }
        return !found_;
    }

    bool open(bool array)
    {
        found_ = here() == target_;
        levels_.push_back({.array = array, .index = 0, .key = {}});
        return !found_;
    }

    bool close()
    {
        levels_.pop_back();
        if (!levels_.empty()) {
            ++levels_.back().index;
        }
        return true;
    }

    std::string target_;
    std::vector<Nesting> levels_;
    bool found_ = false;
};

} // namespace

int lineOfPointer(std::string_view text, std::string_view pointer)
{
    const char* reached = text.data();
    PlaceFinder finder(pointer);
    nlohmann::json::sax_parse(CountingIterator(text.data(), &reached), CountingIterator(text.data() + text.size(), &reached),
                              &finder, nlohmann::json::input_format_t::json, false);
    if (!finder.found()) {
        return 0;
    }
    // A number ends only where the next character was read, and that may be the line break behind it.
    const auto length = std::max<std::ptrdiff_t>(reached - text.data() - 1, 0);
    return 1 + static_cast<int>(std::count(text.data(), text.data() + length, '\n'));
}

} // namespace stone
