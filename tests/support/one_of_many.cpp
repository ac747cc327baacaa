// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/one_of_many.h"

#include <cstdio>
#include <map>
#include <string>

namespace one_of_many
{

namespace
{

std::map<std::string, Run>& tests()
{
    static std::map<std::string, Run> all;
    return all;
}

} // namespace

bool list(const char* name, Run run)
{
    return tests().emplace(name, run).second;
}

int run(int argc, char** argv)
{
    const std::string called = argv[0];
    auto found = tests().find(called.substr(called.find_last_of('/') + 1));
    if (found == tests().end() && argc > 1) {
        found = tests().find(argv[1]);
        --argc;
        ++argv;
    }
    if (found != tests().end()) {
        return found->second(argc, argv);
    }
    std::fprintf(stderr, "which test? one of:\n");
    for (const auto& [name, run] : tests()) {
        std::fprintf(stderr, "    %s\n", name.c_str());
    }
    return 2;
}

} // namespace one_of_many
