// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <string>
#include <string_view>

namespace stone
{

/// Bytes as text (RFC 4648, section 4): for what stands in a page for a browser.
std::string base64(std::string_view bytes);

} // namespace stone
