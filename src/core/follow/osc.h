// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

/// Open Sound Control 1.0 (M. Wright, "The Open Sound Control 1.0 Specification", 2002): packets of messages and bundles, as
/// one UDP datagram carries them. Any thread.
namespace stone
{

/// A whole or fractional number, or true or false as 1 and 0; or words.
using OscValue = std::variant<double, std::string>;

struct OscMessage {
    std::string address; ///< begins with a slash
    std::vector<OscValue> values{};
    std::optional<double> time_s{}; ///< of its bundle's time tag, seconds since 1970; none: at once

    bool operator==(const OscMessage&) const = default;
};

/// Of one datagram; more than a game has to say at once.
constexpr std::size_t mostOscBytes = 65'507;

/// All messages of a packet in their order. What cannot be read is left out, and counted.
struct OscPacket {
    std::vector<OscMessage> messages;
    int unreadable = 0; ///< messages and bundles
};
OscPacket readOsc(std::span<const std::byte> bytes);

/// A packet of one message; its numbers as 32 bit floats. A time tag is left out.
std::vector<std::byte> writeOsc(const OscMessage& message);
/// A bundle of several with a time tag, seconds since 1970; none: at once.
std::vector<std::byte> writeOscBundle(std::span<const OscMessage> messages, std::optional<double> time_s);

} // namespace stone
