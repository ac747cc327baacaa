// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdio>
#include <string>

namespace stone
{

/// A name as findings write it.
inline std::string quoted(const std::string& name)
{
    return '"' + name + '"';
}

/// A number by a printf format for one double.
inline std::string number(const char* format, double value)
{
    char text[48];
    std::snprintf(text, sizeof text, format, value);
    return text;
}

/// Text as it stands in HTML or XML, whatever is in it.
inline std::string escapedMarkup(const std::string& text)
{
    std::string out;
    for (const char c : text) {
        switch (c) {
        case '&': out += "&amp;"; break;
        case '<': out += "&lt;"; break;
        case '>': out += "&gt;"; break;
        case '"': out += "&quot;"; break;
        case '\'': out += "&#39;"; break;
        default: out += c;
        }
    }
    return out;
}

/// A time as people read it: "1:02.4".
inline std::string clock(double seconds)
{
    const int minutes = static_cast<int>(seconds / 60.0);
    char text[32];
    std::snprintf(text, sizeof text, "%d:%04.1f", minutes, seconds - 60.0 * minutes);
    return text;
}

} // namespace stone
