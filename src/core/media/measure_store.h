// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sound_facts.h"
#include "media/stop_asked.h"

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace stone
{

/// $XDG_CACHE_HOME/stone-echo, else ~/.cache/stone-echo; empty where there is no home. What lies in it can be made anew.
std::filesystem::path cacheFolder();

/// Where measures are kept in it.
std::filesystem::path measuresFolder(const std::filesystem::path& cache);

/// Names what is in a file: the same for every copy of it, whatever it is called. Empty when it cannot be read, or when `stop`
/// says so. Reads the whole file.
std::string contentOf(const std::filesystem::path& file, const StopAsked& stop = {});

/// The smallest and largest samples of short stretches of every channel, and the largest value between the samples.
struct MeasuredPeaks {
    using Stretches = std::vector<std::pair<float, float>>;
    std::vector<Stretches> channels; ///< all of one length, see PeakPyramid::finest()
    double truePeak = 0.0;
};

/// What was measured of sounds, kept in a folder by what is in their files, so that each is measured once. What is damaged
/// there counts as not measured; what cannot be written is not kept. Any thread; several programs may share the folder.
class MeasureStore
{
public:
    /// `folder`: of this program's alone, made when something is kept. Empty: nothing is.
    explicit MeasureStore(std::filesystem::path folder);

    std::optional<Measured> find(const std::string& content) const;
    void keep(const std::string& content, const Measured& measured) const;

    /// Peaks depend on how a sound is brought to a rate as well. `frames`: how long it is then; what does not fit is damaged.
    struct PeaksKey {
        std::string content;
        int rate = 48'000;
        bool loop = false;
        std::size_t channels = 0;
        std::size_t stretches = 0;
    };
    std::optional<MeasuredPeaks> findPeaks(const PeaksKey& key) const;
    void keepPeaks(const PeaksKey& key, const MeasuredPeaks& peaks) const;

    const std::filesystem::path& folder() const { return folder_; }
    struct Size {
        std::size_t files = 0;
        std::uint64_t bytes = 0;
    };
    Size size() const;
    /// Forgets all of it.
    void clear() const;
    /// Forgets what has not been used for so long.
    void clearUnused() const;
    static constexpr int keptFor_days = 90;

private:
    std::filesystem::path pathOf(const std::string& content, const std::string& kind) const;
    std::optional<std::string> read(const std::filesystem::path& path) const;
    void write(const std::filesystem::path& path, const std::string& bytes) const;
    /// What this program kept, for anything else that may lie in the folder stays.
    std::vector<std::filesystem::path> kept() const;

    std::filesystem::path folder_;
};

} // namespace stone
