// SPDX-License-Identifier: MPL-2.0
#include "project/credits.h"

#include <algorithm>
#include <map>
#include <tuple>

namespace stone
{

std::vector<CreditLine> creditsOf(const Project& project)
{
    std::map<std::string, CreditLine> byFile;
    for (const auto& sound : project.sounds) {
        for (const SoundFile& file : sound->files) {
            if (file.file.empty()) {
                continue;
            }
            CreditLine& line = byFile[file.file];
            line.file = file.file;
            if (line.sounds.empty() || line.sounds.back() != sound->name) {
                line.sounds.push_back(sound->name);
            }
            if (line.credit.empty()) {
                line.credit = file.credit;
            }
        }
    }
    std::vector<CreditLine> lines;
    for (auto& [file, line] : byFile) {
        lines.push_back(std::move(line));
    }
    std::stable_sort(lines.begin(), lines.end(), [](const CreditLine& a, const CreditLine& b) {
        return std::make_tuple(a.credit.empty(), a.credit.author) < std::make_tuple(b.credit.empty(), b.credit.author);
    });
    return lines;
}

std::string creditsText(const std::vector<CreditLine>& lines)
{
    std::string text;
    const CreditLine* before = nullptr;
    for (const CreditLine& line : lines) {
        const bool sameBlock =
            before != nullptr && before->credit.empty() == line.credit.empty() && before->credit.author == line.credit.author;
        if (!sameBlock) {
            const std::string author = line.credit.author.empty() ? "No author given" : line.credit.author;
            text +=
                (text.empty() ? "" : "\n") + (line.credit.empty() ? std::string("Nothing is said of these") : author) + '\n';
        }
        text += "  " + line.file;
        for (const std::string& part : {line.credit.source, line.credit.licence}) {
            text += part.empty() ? "" : ", " + part;
        }
        text += '\n';
        before = &line;
    }
    return text.empty() ? "no sounds\n" : text;
}

} // namespace stone
