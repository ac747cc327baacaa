// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/project_files.h"

#include "project/file_error.h"
#include "project/read.h"

#include <algorithm>
#include <fstream>
#include <iterator>

namespace stone
{

namespace
{

bool sameBytes(const std::filesystem::path& a, const std::filesystem::path& b)
{
    std::error_code error;
    if (std::filesystem::equivalent(a, b, error)) {
        return true;
    }
    if (!std::filesystem::is_regular_file(b, error) || std::filesystem::file_size(a) != std::filesystem::file_size(b)) {
        return false;
    }
    std::ifstream first(a, std::ios::binary);
    std::ifstream second(b, std::ios::binary);
    return std::equal(std::istreambuf_iterator<char>(first), {}, std::istreambuf_iterator<char>(second), {});
}

/// Where a copy may be written: inside the folder, links followed. Throws FileError otherwise.
std::filesystem::path writable(const std::filesystem::path& folder, const std::filesystem::path& inside)
{
    const std::filesystem::path resolved = resolveInside(folder, inside.string());
    if (resolved.empty()) {
        throw FileError((folder / inside).string() + ": leads outside the project's folder, so nothing is copied there; " +
                        "put a folder in place of the link, or save elsewhere");
    }
    return resolved;
}

/// A file with those beside it, in a folder: the path of the copy, relative to it. Takes another name than `wanted` where
/// something else has that already. With files beside it, which must keep their names, it is the folder that gets another.
std::filesystem::path copied(const std::filesystem::path& source, const std::vector<std::string>& beside,
                             const std::filesystem::path& folder, const std::filesystem::path& wanted)
{
    const auto free = [&](const std::filesystem::path& from, const std::filesystem::path& to) {
        return !std::filesystem::exists(to) || sameBytes(from, to);
    };
    for (int n = 1;; ++n) {
        const std::string number = n > 1 ? "-" + std::to_string(n) : std::string();
        const std::filesystem::path inside =
            beside.empty()
                ? wanted.parent_path() / (wanted.stem().string() + number + wanted.extension().string())
                : wanted.parent_path() / (n > 1 ? wanted.stem().string() + number : std::string()) / wanted.filename();
        std::vector<std::pair<std::filesystem::path, std::filesystem::path>> copies{{source, writable(folder, inside)}};
        for (const std::string& name : beside) {
            copies.emplace_back(source.parent_path() / name, writable(folder, inside.parent_path() / name));
        }
        if (!std::all_of(copies.begin(), copies.end(), [&](const auto& copy) { return free(copy.first, copy.second); })) {
            continue;
        }
        for (const auto& [from, to] : copies) {
            std::filesystem::create_directories(to.parent_path());
            if (!std::filesystem::exists(to)) {
                std::filesystem::copy_file(from, to);
            }
        }
        return inside.lexically_normal();
    }
}

} // namespace

void ProjectFiles::setDocument(const std::filesystem::path& document)
{
    handPicked_.clear();
    move(document);
}

void ProjectFiles::move(const std::filesystem::path& document)
{
    document_ = document;
    resolved_.clear();
}

std::filesystem::path ProjectFiles::resolve(const std::string& file) const
{
    if (handPicked_.contains(file)) {
        return file;
    }
    const auto known = resolved_.find(file);
    if (known != resolved_.end()) {
        return known->second;
    }
    return resolved_[file] = document_.empty() ? std::filesystem::path{} : resolveInside(folder(), file);
}

std::string ProjectFiles::takeIn(const std::filesystem::path& file, const std::string& subfolder,
                                 const std::vector<std::string>& beside)
{
    const std::filesystem::path source = std::filesystem::absolute(file);
    if (document_.empty()) {
        handPicked_.insert(source.string());
        return source.string();
    }
    const std::filesystem::path relative = source.lexically_relative(folder());
    if (!relative.empty() && *relative.begin() != ".." && !resolveInside(folder(), relative.string()).empty()) {
        return relative.generic_string();
    }
    return copied(source, beside, folder(), std::filesystem::path(subfolder) / source.filename()).generic_string();
}

std::string ProjectFiles::bring(const std::string& file, const std::string& subfolder, const std::filesystem::path& target,
                                const std::vector<std::string>& beside) const
{
    const bool elsewhere = !document_.empty() && target != folder();
    const std::filesystem::path named(file);
    const std::filesystem::path source = resolve(file);
    std::error_code ignored;
    if (source.empty() || (named.is_relative() && !elsewhere) || !std::filesystem::is_regular_file(source, ignored)) {
        return file;
    }
    const std::filesystem::path wanted = named.is_relative() ? named : std::filesystem::path(subfolder) / named.filename();
    return copied(source, beside, target, wanted).generic_string();
}

} // namespace stone
