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

} // namespace stone
