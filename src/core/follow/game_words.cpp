// SPDX-License-Identifier: MPL-2.0
#include "follow/game_words.h"

#include "engine/game_things.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace stone
{

namespace
{

constexpr double furthest_m = 100'000.0;

/// What an address takes: letters as in OSC type tags, those in capitals may be left out from there on.
/// s: a name into `name`, o: one into `of`, x y z: the place, h p r: how it is turned, n: a number, a: an act, v: left unread.
struct Form {
    const char* address;
    GameWord::Kind kind;
    const char* takes;
    const char* example;
};
constexpr std::array<Form, 14> forms{{
    {"/stone/ears", GameWord::Kind::ears, "xyzhPR", "x y z heading pitch roll"},
    {"/stone/character", GameWord::Kind::character, "xyzh", "x y z heading"},
    {"/stone/camera", GameWord::Kind::camera, "xyzhPR", "x y z heading pitch"},
    {"/stone/thing", GameWord::Kind::thing, "sxyzH", "NAME x y z heading"},
    {"/stone/appear", GameWord::Kind::appear, "soxyzH", "NAME PATTERN x y z heading"},
    {"/stone/gone", GameWord::Kind::gone, "s", "NAME"},
    {"/stone/signal", GameWord::Kind::signal, "s", "NAME"},
    {"/stone/value", GameWord::Kind::value, "sn", "NAME number"},
    {"/stone/level", GameWord::Kind::level, "s", "NAME"},
    {"/stone/opening", GameWord::Kind::opening, "sn", "NAME share"},
    {"/stone/step", GameWord::Kind::step, "S", "MATERIAL"},
    {"/stone/act", GameWord::Kind::act, "a", "jump|land|fall|reset|use"},
    {"/stone/hello", GameWord::Kind::hello, "vn", "VERSION PORT"},
    {"/stone/bye", GameWord::Kind::bye, "", ""},
}};

bool fill(GameWord& word, char what, const OscValue& value)
{
    const auto* text = std::get_if<std::string>(&value);
    const auto* number = std::get_if<double>(&value);
    if (what == 'v') {
        return true;
    }
    if (what == 's' || what == 'S' || what == 'o') {
        if (text == nullptr || text->size() > longestGameName || (text->empty() && what != 'S')) {
            return false;
        }
        (what == 'o' ? word.of : word.name) = *text;
        return true;
    }
    if (what == 'a') {
        const auto act = text != nullptr ? actNamed(*text) : std::nullopt;
        word.act = act.value_or(word.act);
        return act.has_value();
    }
    if (number == nullptr || !std::isfinite(*number)) {
        return false;
    }
    switch (what) {
    case 'x': word.pose.at.x = *number; return std::abs(*number) <= furthest_m;
    case 'y': word.pose.at.y = *number; return std::abs(*number) <= furthest_m;
    case 'z': word.pose.at.z = *number; return std::abs(*number) <= furthest_m;
    case 'h':
    case 'H': word.pose.heading_deg = std::remainder(*number, 360.0); return true;
    case 'P': word.pose.pitch_deg = std::clamp(*number, -90.0, 90.0); return true;
    case 'R': word.pose.roll_deg = std::remainder(*number, 360.0); return true;
    default: word.number = *number; return true;
    }
}

OscValue told(const GameWord& word, char what)
{
    switch (what) {
    case 's':
    case 'S': return word.name;
    case 'o': return word.of;
    case 'a': return std::string(nameOfAct(word.act));
    case 'v': return std::string("1");
    case 'x': return word.pose.at.x;
    case 'y': return word.pose.at.y;
    case 'z': return word.pose.at.z;
    case 'h':
    case 'H': return word.pose.heading_deg;
    case 'P': return word.pose.pitch_deg;
    case 'R': return word.pose.roll_deg;
    default: return word.number;
    }
}

} // namespace

std::variant<GameWord, std::string> gameWordOf(const OscMessage& message)
{
    const auto form =
        std::find_if(forms.begin(), forms.end(), [&](const Form& known) { return message.address == known.address; });
    if (form == forms.end()) {
        return message.address.substr(0, longestGameName) + " is no address of Stone Echo's";
    }
    const std::string takes = form->takes;
    const auto required = static_cast<std::size_t>(
        std::count_if(takes.begin(), takes.end(), [](char what) { return what >= 'a' && what <= 'z'; }));
    GameWord word{.kind = form->kind};
    bool good = message.values.size() >= required && message.values.size() <= takes.size();
    for (std::size_t i = 0; good && i < message.values.size(); ++i) {
        good = fill(word, takes[i], message.values[i]);
    }
    if (!good) {
        return message.address + " was not understood; it is followed by: " + (takes.empty() ? "nothing" : form->example);
    }
    return word;
}

OscMessage messageOf(const GameWord& word)
{
    const auto form = std::find_if(forms.begin(), forms.end(), [&](const Form& known) { return word.kind == known.kind; });
    OscMessage message{form->address};
    const std::string takes = form->takes;
    std::transform(takes.begin(), takes.end(), std::back_inserter(message.values), [&](char what) { return told(word, what); });
    return message;
}

} // namespace stone
