// SPDX-License-Identifier: MPL-2.0
#include "project/unlike_names.h"

namespace stone
{

std::string NamesTaken::unlike(const std::string& wanted)
{
    if (wanted.empty() || taken_.insert(wanted).second) {
        return wanted;
    }
    constexpr std::size_t mostDigits = 6;
    const std::size_t space = wanted.find_last_not_of("0123456789");
    const std::size_t digits = space == std::string::npos ? wanted.size() : wanted.size() - space - 1;
    const bool numbered = digits > 0 && digits <= mostDigits && space != std::string::npos && space > 0 && wanted[space] == ' ';
    const std::string stem = numbered ? wanted.substr(0, space) : wanted;
    int& number = last_.try_emplace(stem, numbered ? std::stoi(wanted.substr(space + 1)) : 1).first->second;
    std::string name;
    do {
        name = stem + ' ' + std::to_string(++number);
    } while (!taken_.insert(name).second);
    return name;
}

std::string IdsTaken::fresh(const std::string& name)
{
    const std::string base = slug(name);
    std::string id = base;
    for (int n = 2; !taken_.insert(id).second; ++n) {
        id = base + "-" + std::to_string(n);
    }
    return id;
}

} // namespace stone
