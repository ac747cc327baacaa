// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "follow/game_link.h"
#include "world/world_state.h"

#include <map>
#include <string>
#include <vector>

namespace stone::game
{

/// Tells Stone Echo what goes on in a game: what is said between two calls of flush() goes out as one bundle. For one thread.
class Teller
{
public:
    /// Says hello. Throws FileError where there is no such machine.
    Teller(const std::string& host, int port, const Project& project, const Level& level);
    /// Says bye.
    ~Teller();
    Teller(const Teller&) = delete;
    Teller& operator=(const Teller&) = delete;

    void say(const GameWord& word);
    /// What happens on a walk, under the names of the document.
    void say(const Happening& happening);
    /// Hello, now and then, for a Stone Echo that was started later.
    void hello();
    void flush();

    /// Takes in what Stone Echo tells back.
    void listen();
    /// How loud each thing is that is heard, dB, as it was told last; empty: nothing was told for some seconds.
    const std::map<std::string, double>& heard() const { return heard_; }
    /// What was changed last, in one line; empty: nothing was.
    const std::string& changed() const { return changed_; }
    bool answered() const { return answered_; }

private:
    GameSender sender_;
    const Project& project_;
    const Level& level_;
    std::vector<OscMessage> saying_;
    std::map<std::string, double> heard_;
    double heardAt_s_ = 0.0;
    std::string changed_;
    bool answered_ = false;
};

} // namespace stone::game
