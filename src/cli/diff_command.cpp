// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "project/difference.h"
#include "project/merge.h"
#include "project/read.h"
#include "project/write.h"

#include <nlohmann/json.hpp>

#include <cstdio>
#include <iostream>

namespace stone::cli
{

int diff(const std::string& before, const std::string& after, bool json)
{
    const std::vector<Difference> found = differences(readProjectFile(before).project, readProjectFile(after).project);
    if (json) {
        nlohmann::ordered_json list = nlohmann::ordered_json::array();
        for (const Difference& difference : found) {
            list.push_back(
                {{"what", difference.what}, {"field", difference.field}, {"from", difference.from}, {"to", difference.to}});
        }
        std::cout << nlohmann::ordered_json{{"changed", std::move(list)}}.dump(2) << '\n';
        return 0;
    }
    for (const Difference& difference : found) {
        std::cout << inWords(difference) << '\n';
    }
    return 0;
}

int merge(const std::string& base, const std::string& ours, const std::string& theirs, const std::string& out)
{
    const Merged both = merged(readProjectFile(base).project, readProjectFile(ours).project, readProjectFile(theirs).project);
    const std::filesystem::path target = documentPath(out);
    std::error_code error;
    if (std::filesystem::exists(target, error)) {
        readProjectFile(target); // nothing but a document is written over
    }
    writeProjectFile(both.project, target);
    for (const Clash& clash : both.clashes) {
        std::cout << "clash: " << clash.what << " was changed in both; taken as in " << ours << '\n';
    }
    return both.clashes.empty() ? 0 : 1;
}

} // namespace stone::cli
