// SPDX-License-Identifier: MPL-2.0
#include "media/base64.h"

#include <algorithm>
#include <cstdint>

namespace stone
{

std::string base64(std::string_view bytes)
{
    static constexpr char letters[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve(bytes.size() * 4 / 3 + 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t three = 0;
        const std::size_t n = std::min<std::size_t>(3, bytes.size() - i);
        for (std::size_t k = 0; k < 3; ++k) {
            three = three << 8U | (k < n ? static_cast<std::uint8_t>(bytes[i + k]) : 0U);
        }
        for (std::size_t k = 0; k < 4; ++k) {
            out += k <= n ? letters[three >> (18U - 6U * k) & 63U] : '=';
        }
    }
    return out;
}

} // namespace stone
