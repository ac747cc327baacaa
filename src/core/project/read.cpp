// SPDX-License-Identifier: MPL-2.0
#include "project/read.h"

#include "project/document_reader.h"
#include "project/json_place.h"

#include <algorithm>
#include <fstream>
#include <sstream>
#include <vector>

namespace stone
{

namespace
{

constexpr std::uintmax_t largestDocument = 256ULL << 20U;
constexpr int deepestNesting = 64;

Json parse(std::string_view text, const std::string& label)
{
    if (const auto trouble = troubleIn(text, deepestNesting)) {
        throw FileError(label + ":" + std::to_string(trouble->line) + ": " + trouble->message);
    }
    return Json::parse(text.begin(), text.end());
}

} // namespace

ReadProject readProjectText(std::string_view text, const std::string& label)
{
    const Json root = parse(text, label);
    std::vector<Notice> notices;
    ReadProject result;
    try {
        result.project = readDocument(root, notices);
    } catch (const ValueError& error) {
        throw FileError(label + ":" + std::to_string(lineNearPointer(text, error.pointer)) + ": at " +
                        (error.pointer.empty() ? "the top" : error.pointer) + ": " + error.what());
    }
    std::set<std::string> pointers;
    for (const Notice& notice : notices) {
        pointers.insert(notice.pointer);
    }
    const std::map<std::string, int> lines = pointers.empty() ? std::map<std::string, int>{} : linesOfPointers(text, pointers);
    for (const Notice& notice : notices) {
        const auto line = lines.find(notice.pointer);
        result.notices.push_back({line != lines.end() ? line->second : 0, notice.pointer, notice.message});
    }
    return result;
}

std::filesystem::path documentPath(const std::filesystem::path& path)
{
    std::error_code ignored;
    if (!std::filesystem::is_directory(path, ignored)) {
        return path;
    }
    const auto plain = path / "project.json";
    if (std::filesystem::exists(plain, ignored)) {
        return plain;
    }
    // The one that is called like the folder goes first; else the first by name.
    std::vector<std::filesystem::path> documents;
    for (const auto& entry : std::filesystem::directory_iterator(path, ignored)) {
        if (entry.path().extension() == documentEnding) {
            documents.push_back(entry.path());
        }
    }
    std::sort(documents.begin(), documents.end());
    const auto own = std::find_if(documents.begin(), documents.end(), [&](const std::filesystem::path& document) {
        return document.stem() == std::filesystem::absolute(path).lexically_normal().filename();
    });
    return own != documents.end() ? *own : documents.empty() ? plain : documents.front();
}

ReadProject readProjectFile(const std::filesystem::path& path)
{
    const std::filesystem::path document = documentPath(path);
    std::error_code error;
    const std::uintmax_t size = std::filesystem::file_size(document, error);
    if (error) {
        throw FileError(document.string() + ": cannot be read (" + error.message() + "); check the path");
    }
    if (size > largestDocument) {
        throw FileError(document.string() + ": larger than " + std::to_string(largestDocument >> 20U) +
                        " MiB; this is not a Stone Echo document");
    }
    std::ifstream file(document, std::ios::binary);
    std::ostringstream text;
    text << file.rdbuf();
    if (!file) {
        throw FileError(document.string() + ": cannot be read; check that you may read it");
    }
    return readProjectText(text.str(), document.string());
}

std::filesystem::path resolveInside(const std::filesystem::path& folder, const std::string& relative)
{
    const std::filesystem::path asked(relative);
    if (relative.empty() || asked.is_absolute() || relative.find('\0') != std::string::npos) {
        return {};
    }
    std::error_code error;
    const std::filesystem::path home = std::filesystem::weakly_canonical(std::filesystem::absolute(folder), error);
    if (error) {
        return {};
    }
    const std::filesystem::path resolved = std::filesystem::weakly_canonical(home / asked, error);
    if (error) {
        return {};
    }
    const auto [homeEnd, rest] = std::mismatch(home.begin(), home.end(), resolved.begin(), resolved.end());
    return homeEnd == home.end() ? resolved : std::filesystem::path{};
}

} // namespace stone
