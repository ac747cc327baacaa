// SPDX-License-Identifier: MPL-2.0
#include "media/found_again.h"

#include "media/measure_store.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <map>
#include <optional>

namespace stone
{

namespace
{

namespace fs = std::filesystem;

constexpr std::array soundEndings{".wav", ".flac", ".ogg", ".opus", ".mp3", ".aiff", ".aif"};

std::string lower(std::string text)
{
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

std::vector<fs::path> soundsIn(const fs::path& folder, const StopAsked& stop)
{
    std::vector<fs::path> files;
    std::error_code error;
    const auto options = fs::directory_options::skip_permission_denied;
    for (fs::recursive_directory_iterator it(folder, options, error), end; !error && it != end; it.increment(error)) {
        if (stop && stop()) {
            break;
        }
        std::error_code ignored;
        const std::string ending = lower(it->path().extension().string());
        if (std::find(soundEndings.begin(), soundEndings.end(), ending) != soundEndings.end() && it->is_regular_file(ignored)) {
            files.push_back(it->path());
        }
    }
    std::sort(files.begin(), files.end());
    return files;
}

/// How many parts two paths have in common, from the end on.
std::size_t alikeFromTheEnd(const fs::path& a, const fs::path& b)
{
    const std::vector<fs::path> as(a.begin(), a.end());
    const std::vector<fs::path> bs(b.begin(), b.end());
    std::size_t same = 0;
    while (same < as.size() && same < bs.size() &&
           lower(as[as.size() - 1 - same].string()) == lower(bs[bs.size() - 1 - same].string())) {
        ++same;
    }
    return same;
}

/// The one of several files of a name whose folders are called most alike; nothing where two are as much.
std::optional<fs::path> bestNamed(const std::string& wanted, const std::vector<fs::path>& files)
{
    std::optional<fs::path> best;
    std::size_t most = 0;
    bool several = false;
    for (const fs::path& file : files) {
        const std::size_t alike = alikeFromTheEnd(fs::path(wanted), file);
        if (alike > most) {
            most = alike;
            best = file;
            several = false;
        } else if (alike == most && alike > 0) {
            several = true;
        }
    }
    return several ? std::nullopt : best;
}

} // namespace

std::vector<FoundAgain> findAgain(const std::vector<MissingFile>& missing, const fs::path& folder, const StopAsked& stop)
{
    const std::vector<fs::path> files = soundsIn(folder, stop);
    std::map<fs::path, std::string> contents; ///< of those that were read
    const auto is = [&](const fs::path& file, const std::string& content) {
        const auto [known, added] = contents.try_emplace(file);
        if (added) {
            known->second = contentOf(file, stop);
        }
        return known->second == content;
    };
    std::vector<FoundAgain> found;
    for (const MissingFile& one : missing) {
        if (stop && stop()) {
            break;
        }
        if (!one.content.empty()) {
            // Those of its name first: then hardly anything else has to be read.
            std::vector<fs::path> order = files;
            std::stable_partition(order.begin(), order.end(),
                                  [&](const fs::path& f) { return alikeFromTheEnd(fs::path(one.file), f) > 0; });
            const auto same = std::find_if(order.begin(), order.end(), [&](const fs::path& f) { return is(f, one.content); });
            if (same != order.end()) {
                found.push_back({one.file, *same, true});
                continue;
            }
        }
        if (const auto named = bestNamed(one.file, files)) {
            found.push_back({one.file, *named, false});
        }
    }
    return found;
}

} // namespace stone
