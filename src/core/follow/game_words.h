// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "follow/osc.h"
#include "geometry/pose.h"
#include "project/starting.h"

#include <string>
#include <variant>

namespace stone
{

/// Something that a followed game tells, as docs/osc.md lists it.
struct GameWord {
    enum class Kind {
        ears,      ///< pose: of whoever listens
        character, ///< pose: feet
        camera,    ///< pose
        thing,     ///< name, pose: where something is
        appear,    ///< name, of (a pattern), pose: something more is there
        gone,      ///< name: it is not there any more
        signal,    ///< name
        value,     ///< name, number
        level,     ///< name: it plays there now
        opening,   ///< name, number: how far it stands open, 0 to 1
        step,      ///< name: of the surface, or empty: what is below the character
        act,       ///< act: jump, land, fall, reset, interact
        hello,     ///< number: the port to which it wants answers
        bye
    };

    Kind kind = Kind::bye;
    std::string name{};
    std::string of{};
    Pose pose{};
    double number = 0.0;
    Cause act = Cause::interact;
};

/// No name of the protocol is longer.
constexpr std::size_t longestGameName = 200;

/// What a message means; else in one line what is wrong with it. Places are at most 100 km from the origin, numbers finite.
std::variant<GameWord, std::string> gameWordOf(const OscMessage& message);

/// The message that says it, as a game would.
OscMessage messageOf(const GameWord& word);

} // namespace stone
