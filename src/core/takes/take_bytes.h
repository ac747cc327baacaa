// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cmath>
#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>

/// Numbers as bytes, and back. Small numbers take one byte.
namespace stone
{

class ByteWriter
{
public:
    void byte(std::uint8_t value) { bytes_.push_back(static_cast<char>(value)); }
    /// Seven bits in each byte, the lowest first.
    void count(std::uint64_t value)
    {
        while (value >= 0x80U) {
            byte(static_cast<std::uint8_t>(value | 0x80U));
            value >>= 7U;
        }
        byte(static_cast<std::uint8_t>(value));
    }
    /// Small in either direction.
    void whole(std::int64_t value)
    {
        count((static_cast<std::uint64_t>(value) << 1U) ^ static_cast<std::uint64_t>(value >> 63U));
    }
    void real(float value)
    {
        std::uint32_t bits = 0;
        std::memcpy(&bits, &value, sizeof bits);
        for (unsigned i = 0; i < 4; ++i) {
            byte(static_cast<std::uint8_t>(bits >> (8U * i)));
        }
    }
    void text(std::string_view value)
    {
        count(value.size());
        bytes_.append(value);
    }

    const std::string& bytes() const { return bytes_; }

private:
    std::string bytes_;
};

/// Reads what a ByteWriter has written. Beyond the end everything is 0, and failed() says so.
class ByteReader
{
public:
    explicit ByteReader(std::string_view bytes) : bytes_(bytes) {}

    std::uint8_t byte()
    {
        if (at_ >= bytes_.size()) {
            failed_ = true;
            return 0;
        }
        return static_cast<std::uint8_t>(bytes_[at_++]);
    }
    std::uint64_t count()
    {
        std::uint64_t value = 0;
        for (unsigned shift = 0; shift < 64U; shift += 7U) {
            const std::uint8_t next = byte();
            value |= static_cast<std::uint64_t>(next & 0x7FU) << shift;
            if ((next & 0x80U) == 0) {
                return value;
            }
        }
        failed_ = true;
        return value;
    }
    std::int64_t whole()
    {
        const std::uint64_t value = count();
        return static_cast<std::int64_t>(value >> 1U) ^ -static_cast<std::int64_t>(value & 1U);
    }
    float real()
    {
        std::uint32_t bits = 0;
        for (unsigned i = 0; i < 4; ++i) {
            bits |= static_cast<std::uint32_t>(byte()) << (8U * i);
        }
        float value = 0.0F;
        std::memcpy(&value, &bits, sizeof value);
        return value;
    }
    std::string text()
    {
        const std::uint64_t size = count();
        if (size > bytes_.size() - std::min(at_, bytes_.size())) {
            failed_ = true;
            return {};
        }
        std::string value(bytes_.substr(at_, static_cast<std::size_t>(size)));
        at_ += static_cast<std::size_t>(size);
        return value;
    }

    bool failed() const { return failed_; }
    std::size_t left() const { return bytes_.size() - std::min(at_, bytes_.size()); }

private:
    std::string_view bytes_;
    std::size_t at_ = 0;
    bool failed_ = false;
};

} // namespace stone
