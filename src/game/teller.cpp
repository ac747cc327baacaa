// SPDX-License-Identifier: GPL-3.0-or-later
#include "game/teller.h"

#include <chrono>

namespace stone::game
{

namespace
{

/// What was told longer ago is not heard any more.
constexpr double fresh_s = 2.0;

double wall_s()
{
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

std::string textOf(const OscValue& value)
{
    const auto* words = std::get_if<std::string>(&value);
    if (words != nullptr) {
        return *words;
    }
    std::string number = std::to_string(std::get<double>(value));
    number.erase(number.find_last_not_of('0') + 1);
    return number.ends_with('.') ? number.substr(0, number.size() - 1) : number;
}

} // namespace

Teller::Teller(const std::string& host, int port, const Project& project, const Level& level)
    : sender_(host, port), project_(project), level_(level)
{
    hello();
    say(GameWord{.kind = GameWord::Kind::level, .name = level.name});
    flush();
}

Teller::~Teller()
{
    say(GameWord{.kind = GameWord::Kind::bye});
    flush();
}

void Teller::hello()
{
    say(GameWord{.kind = GameWord::Kind::hello, .number = static_cast<double>(sender_.ownPort())});
}

void Teller::say(const GameWord& word)
{
    saying_.push_back(messageOf(word));
}

void Teller::say(const Happening& happening)
{
    if (happening.value) {
        if (const GameValue* value = project_.gameValues.find(happening.value->first)) {
            say(GameWord{.kind = GameWord::Kind::value, .name = value->name, .number = happening.value->second});
        }
    } else if (happening.opening) {
        if (const Opening* opening = level_.openings.find(happening.opening->first)) {
            say(GameWord{.kind = GameWord::Kind::opening, .name = opening->name, .number = happening.opening->second});
        }
    } else if (happening.cause == Cause::signal) {
        if (const Signal* signal = project_.signalNames.find(happening.signal)) {
            say(GameWord{.kind = GameWord::Kind::signal, .name = signal->name});
        }
    } else {
        say(GameWord{.kind = GameWord::Kind::act, .act = happening.cause});
    }
}

void Teller::flush()
{
    if (!saying_.empty()) {
        sender_.send(writeOscBundle(saying_, wall_s()));
        saying_.clear();
    }
}

void Teller::listen()
{
    for (auto bytes = sender_.receive(); !bytes.empty(); bytes = sender_.receive()) {
        answered_ = true;
        bool first = true;
        for (const OscMessage& message : readOsc(bytes).messages) {
            if (message.address == "/stone/heard" && message.values.size() == 2) {
                if (std::exchange(first, false)) {
                    heard_.clear();
                }
                heardAt_s_ = wall_s();
                const auto* level_db = std::get_if<double>(&message.values[1]);
                heard_[textOf(message.values[0])] = level_db != nullptr ? *level_db : 0.0;
            } else if (message.address != "/stone/changed") {
                changed_ = message.address.substr(message.address.rfind('/') + 1);
                for (const OscValue& value : message.values) {
                    changed_ += ' ' + textOf(value);
                }
            }
        }
    }
    if (wall_s() - heardAt_s_ > fresh_s) {
        heard_.clear();
    }
}

} // namespace stone::game
