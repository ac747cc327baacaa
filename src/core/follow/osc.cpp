// SPDX-License-Identifier: MPL-2.0
#include "follow/osc.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <lo/lo.h>
#include <memory>

namespace stone
{

namespace
{

constexpr std::array<char, 8> bundleHead{'#', 'b', 'u', 'n', 'd', 'l', 'e', '\0'};
constexpr std::size_t timeTagBytes = 8;
constexpr std::size_t sizeBytes = 4;
/// Bundles within bundles: nobody needs more.
constexpr int deepest = 4;
/// From 1900, where time tags begin, to 1970.
constexpr double toUnix_s = 2'208'988'800.0;
constexpr double fractions = 4'294'967'296.0;
/// The time tag that says: at once.
constexpr std::uint64_t atOnce = 1;

struct FreeMessage {
    void operator()(void* message) const { lo_message_free(message); }
};
using Message = std::unique_ptr<void, FreeMessage>;

template <class Whole> Whole bigEndian(std::span<const std::byte> bytes)
{
    Whole whole = 0;
    for (std::size_t i = 0; i < sizeof(Whole); ++i) {
        whole = static_cast<Whole>(whole << 8U) | std::to_integer<Whole>(bytes[i]);
    }
    return whole;
}

template <class Whole> void putBigEndian(std::vector<std::byte>& bytes, Whole whole)
{
    for (std::size_t i = sizeof(Whole); i-- > 0;) {
        bytes.push_back(static_cast<std::byte>(whole >> (8U * i)));
    }
}

/// A number as it lies in a message: at whole fours of bytes, whatever its own size is.
template <class Number> double numberAt(const void* at)
{
    Number number;
    std::memcpy(&number, at, sizeof number);
    return static_cast<double>(number);
}

/// A value; nothing for kinds that are not used here.
std::optional<OscValue> valueOf(char type, const void* at)
{
    switch (type) {
    case 'i': return numberAt<std::int32_t>(at);
    case 'h': return numberAt<std::int64_t>(at);
    case 'f': return numberAt<float>(at);
    case 'd': return numberAt<double>(at);
    case 's':
    case 'S': return std::string(static_cast<const char*>(at));
    case 'T': return 1.0;
    case 'F': return 0.0;
    default: return {};
    }
}

std::optional<OscMessage> readMessage(std::span<const std::byte> bytes, std::optional<double> time_s)
{
    if (bytes.empty() || bytes.front() != std::byte{'/'}) {
        return {};
    }
    // The library takes what it may write to.
    std::vector<std::byte> copy(bytes.begin(), bytes.end());
    if (std::find(copy.begin(), copy.end(), std::byte{0}) == copy.end()) {
        return {};
    }
    int result = 0;
    const Message message(lo_message_deserialise(copy.data(), copy.size(), &result));
    if (!message) {
        return {};
    }
    OscMessage read{reinterpret_cast<const char*>(copy.data()), {}, time_s};
    const char* types = lo_message_get_types(message.get());
    lo_arg** arguments = lo_message_get_argv(message.get());
    const int count = lo_message_get_argc(message.get());
    for (int i = 0; i < count; ++i) {
        const auto value = valueOf(types[i], arguments[i]);
        if (!value) {
            return {};
        }
        read.values.push_back(*value);
    }
    return read;
}

void readInto(OscPacket& packet, std::span<const std::byte> bytes, std::optional<double> time_s, int depth)
{
    const bool bundle = bytes.size() >= bundleHead.size() + timeTagBytes &&
                        std::memcmp(bytes.data(), bundleHead.data(), bundleHead.size()) == 0;
    if (!bundle) {
        if (auto message = readMessage(bytes, time_s)) {
            packet.messages.push_back(std::move(*message));
        } else {
            ++packet.unreadable;
        }
        return;
    }
    if (depth >= deepest) {
        ++packet.unreadable;
        return;
    }
    const auto tag = bigEndian<std::uint64_t>(bytes.subspan(bundleHead.size()));
    if (tag != atOnce) {
        time_s = static_cast<double>(tag >> 32U) - toUnix_s + static_cast<double>(tag & 0xFFFFFFFFU) / fractions;
    }
    bytes = bytes.subspan(bundleHead.size() + timeTagBytes);
    while (!bytes.empty()) {
        const std::size_t size = bytes.size() >= sizeBytes ? bigEndian<std::uint32_t>(bytes) : 0;
        if (size == 0 || size > bytes.size() - sizeBytes) {
            ++packet.unreadable;
            return;
        }
        readInto(packet, bytes.subspan(sizeBytes, size), time_s, depth + 1);
        bytes = bytes.subspan(sizeBytes + size);
    }
}

} // namespace

OscPacket readOsc(std::span<const std::byte> bytes)
{
    OscPacket packet;
    readInto(packet, bytes, {}, 0);
    return packet;
}

std::vector<std::byte> writeOsc(const OscMessage& message)
{
    const Message made(lo_message_new());
    for (const OscValue& value : message.values) {
        if (const auto* words = std::get_if<std::string>(&value)) {
            lo_message_add_string(made.get(), words->c_str());
        } else {
            lo_message_add_float(made.get(), static_cast<float>(std::get<double>(value)));
        }
    }
    std::vector<std::byte> bytes(lo_message_length(made.get(), message.address.c_str()));
    std::size_t size = 0;
    lo_message_serialise(made.get(), message.address.c_str(), bytes.data(), &size);
    bytes.resize(size);
    return bytes;
}

std::vector<std::byte> writeOscBundle(std::span<const OscMessage> messages, std::optional<double> time_s)
{
    std::vector<std::byte> bytes;
    for (const char letter : bundleHead) {
        bytes.push_back(static_cast<std::byte>(letter));
    }
    std::uint64_t tag = atOnce;
    if (time_s) {
        const double whole = std::floor(*time_s);
        tag = static_cast<std::uint64_t>(whole + toUnix_s) << 32U | static_cast<std::uint64_t>((*time_s - whole) * fractions);
    }
    putBigEndian(bytes, tag);
    for (const OscMessage& message : messages) {
        const std::vector<std::byte> one = writeOsc(message);
        putBigEndian(bytes, static_cast<std::uint32_t>(one.size()));
        bytes.insert(bytes.end(), one.begin(), one.end());
    }
    return bytes;
}

} // namespace stone
