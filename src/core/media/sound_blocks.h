// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/frame_reader.h"
#include "media/resampling.h"
#include "media/sound_facts.h"
#include "media/stop_asked.h"

#include <condition_variable>
#include <cstdint>
#include <deque>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace stone
{

class SoundBlocks;

/// What of a sound is to be measured, and what is known of it already.
struct KnownMeasures {
    Measure what = Measure::all;
    std::optional<Measured> measured{};
};

/// Who does what sounds need beside being played.
enum class Helpers {
    own, ///< threads that are made for it
    none ///< whoever asks, when asked
};

/// Decodes blocks of sounds in the order in which they were asked for: on a thread of its own, or when fetch() is called.
class BlockLoader
{
public:
    explicit BlockLoader(Helpers helpers = Helpers::own);
    ~BlockLoader();
    BlockLoader(const BlockLoader&) = delete;
    BlockLoader& operator=(const BlockLoader&) = delete;

    void want(std::weak_ptr<SoundBlocks> sound, std::size_t block);

    /// Decodes here and now what waits for it.
    void fetch();

private:
    void work();
    static void decode(const std::weak_ptr<SoundBlocks>& sound, std::size_t block);

    std::mutex mutex_;
    std::condition_variable wake_;
    std::deque<std::pair<std::weak_ptr<SoundBlocks>, std::size_t>> queue_;
    bool stop_ = false;
    std::thread thread_;
};

/// A sound that is not kept decoded: read from the disk, or from its file's bytes in memory, a block at a time. Keeps the
/// blocks that were asked for last, and always the first one, so that a start does not have to wait. Any thread but the
/// audio thread.
class SoundBlocks : public std::enable_shared_from_this<SoundBlocks>
{
public:
    enum class Source { disk, memory };

    /// Channels side by side, all of blockFrames() but the last block's.
    using Block = std::vector<std::vector<float>>;
    using SharedBlock = std::shared_ptr<const Block>;

    /// Reads the file once from end to end to measure it, unless all is known and the format can be read from any place.
    /// `loop`: as in readSoundFile(). Throws FileError.
    static std::shared_ptr<SoundBlocks> open(const std::filesystem::path& file, int rate, bool loop, Source source,
                                             const std::shared_ptr<BlockLoader>& loader, const StopAsked& stop = {},
                                             const KnownMeasures& known = {});

    std::size_t frames() const { return frames_; }
    std::size_t channels() const { return reader_.channels(); }
    std::size_t blockFrames() const { return blockFrames_; }
    const Measured& measured() const { return measured_; }
    Source source() const { return source_; }
    /// A block that could not be decoded is asked for again the next time it is needed.
    void giveUp(std::size_t index);

    /// Seconds of computing for a second of sound, as it took to measure it.
    double cost() const { return measured_.cost; }
    /// What it takes in memory now.
    std::size_t bytes() const;

    /// The block if it is there; else asks for it. Asks for the ones after it too: whoever plays goes on.
    SharedBlock get(std::size_t index);
    /// Waits for it.
    SharedBlock load(std::size_t index);

private:
    SoundBlocks(const std::filesystem::path& file, int rate, bool loop, Source source,
                const std::shared_ptr<BlockLoader>& loader);

    struct Kept {
        SharedBlock block; ///< null: asked for
        std::uint64_t used = 0;
    };

    void measure(const std::string& label, const StopAsked& stop, const KnownMeasures& known);
    std::shared_ptr<Block> decode(std::size_t index);
    std::vector<float> sourceFrames(std::int64_t first, std::size_t count);
    void keep(std::size_t index, SharedBlock block);

    const bool loop_;
    const Source source_;
    const std::vector<std::uint8_t> bytes_; ///< of the file, when it is kept in memory
    std::mutex decoding_;                   ///< for reader_
    FrameReader reader_;
    const RateChange change_;
    std::size_t frames_ = 0;
    std::size_t blockFrames_ = 0;
    Measured measured_;
    /// Not owned: the loader's own thread may be the last to hold a sound, and must not end itself.
    std::weak_ptr<BlockLoader> loader_;

    mutable std::mutex mutex_; ///< never held while something is decoded
    std::map<std::size_t, Kept> kept_;
    std::uint64_t uses_ = 0;
};

} // namespace stone
