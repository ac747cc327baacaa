// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sample_buffer.h"
#include "media/sound_file.h"
#include "project/sound.h"

#include <atomic>
#include <condition_variable>
#include <cstdint>
#include <deque>
#include <filesystem>
#include <functional>
#include <map>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace stone
{

/// Keeps decoded sounds by path and loads them off every thread that plays or paints. All methods may be called from
/// any thread but the audio callback.
class SoundBank
{
public:
    enum class State { loading, ready, failed };

    struct Entry {
        State state = State::loading;
        SharedBuffer buffer; ///< when ready
        std::string error;   ///< when failed: one line
    };

    /// `measuring`: how what is read is measured. Without helpers of its own only load() and loadAll() read files, and
    /// stream() what is streamed.
    explicit SoundBank(int rate, Measuring measuring = {}, Helpers helpers = Helpers::own);
    ~SoundBank();
    SoundBank(const SoundBank&) = delete;
    SoundBank& operator=(const SoundBank&) = delete;

    int rate() const { return rate_; }
    /// Where measures are kept; null: nowhere.
    const std::shared_ptr<const MeasureStore>& measures() const { return measuring_.store; }

    /// What is known of a file now; asks for it to be loaded when nothing is.
    Entry get(const std::filesystem::path& file, bool loop, Keeping keeping);

    /// The same, but loads here and now when it is not there yet. For renders and checks.
    Entry load(const std::filesystem::path& file, bool loop, Keeping keeping);

    struct Key;
    /// Loads all of them here and now, as many at once as there are cores.
    void loadAll(std::vector<Key> files);

    /// Decodes here and now what streamed sounds have asked for: for banks without helpers.
    void stream() { loader_->fetch(); }

    /// Of what waits to be loaded these come first, in this order.
    void loadFirst(const std::vector<Key>& wanted);

    /// Forgets a file, so that the next get() reads it again.
    void forget(const std::filesystem::path& file);

    /// Reads a file again that has changed; until that is done it is as it was.
    void readAgain(const std::filesystem::path& file);

    /// Forgets all files: those of another project come.
    void forgetAll();

    /// Names a file as it is kept.
    struct Key {
        std::string file;
        bool loop;
        Keeping keeping;
        auto operator<=>(const Key&) const = default;
    };
    /// What is not among these rests: an undo may bring it back. Beyond restingBytes what rests is let go, what was asked for
    /// the longest ago first. What still plays of it goes on.
    void letGoBut(std::vector<Key> used);
    static constexpr std::size_t restingBytes = 128U << 20U;

    /// Called on the loading thread each time that a file became ready or failed.
    void onLoaded(std::function<void()> notify);

    /// What all sounds take in memory now, and how long it takes to decode a second of each that is not kept decoded.
    struct Cost {
        std::size_t bytes = 0;   ///< without what rests
        std::size_t resting = 0; ///< see letGoBut()
        double decoding = 0.0;
    };
    Cost cost() const;

    /// How many files are waiting or being read.
    std::size_t pending() const;

private:
    struct Kept {
        Entry entry;
        std::uint64_t asked = 0; ///< when it was last asked for, counted in questions
        bool rests = false;
    };

    Entry read(const Key& key) const;
    void work();

    const int rate_;
    const Helpers helpers_;
    const Measuring measuring_;
    const std::shared_ptr<BlockLoader> loader_;
    mutable std::mutex mutex_;
    std::condition_variable wake_;
    std::map<Key, Kept> entries_;
    std::uint64_t questions_ = 0;
    std::deque<Key> queue_;
    std::function<void()> notify_;
    std::size_t busy_ = 0;
    std::atomic<bool> stop_ = false;
    std::thread worker_;
};

} // namespace stone
