// SPDX-License-Identifier: MPL-2.0
#include "media/sound_bank.h"

#include "project/file_error.h"

#include <algorithm>
#include <functional>

namespace stone
{

SoundBank::SoundBank(int rate, Measuring measuring, Helpers helpers)
    : rate_(rate), helpers_(helpers), measuring_(std::move(measuring)), loader_(std::make_shared<BlockLoader>(helpers))
{
    if (helpers == Helpers::own) {
        worker_ = std::thread([this] { work(); });
    }
}

SoundBank::~SoundBank()
{
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    if (worker_.joinable()) {
        worker_.join();
    }
}

SoundBank::Entry SoundBank::read(const Key& key) const
{
    try {
        const auto stop = [this] { return stop_.load(std::memory_order_relaxed); };
        return {State::ready, openSoundFile(key.file, rate_, key.loop, key.keeping, loader_, stop, measuring_), {}};
    } catch (const FileError& error) {
        return {State::failed, {}, error.what()};
    } catch (const std::bad_alloc&) {
        return {State::failed, {}, key.file + ": too little memory to decode it; stream it, or cut it into shorter files"};
    }
}

SoundBank::Entry SoundBank::get(const std::filesystem::path& file, bool loop, Keeping keeping)
{
    const std::lock_guard lock(mutex_);
    const Key key{file.string(), loop, keeping};
    const auto [entry, added] = entries_.try_emplace(key);
    if (added) {
        queue_.push_back(key);
        wake_.notify_one();
    }
    Kept& kept = entry->second;
    kept.asked = ++questions_;
    kept.rests = false;
    return kept.entry;
}

SoundBank::Entry SoundBank::load(const std::filesystem::path& file, bool loop, Keeping keeping)
{
    const Key key{file.string(), loop, keeping};
    {
        const std::lock_guard lock(mutex_);
        const auto found = entries_.find(key);
        if (found != entries_.end() && found->second.entry.state != State::loading) {
            found->second.asked = ++questions_;
            found->second.rests = false;
            return found->second.entry;
        }
    }
    Entry entry = read(key);
    const std::lock_guard lock(mutex_);
    entries_[key] = {entry, ++questions_};
    return entry;
}

void SoundBank::loadAll(std::vector<Key> files)
{
    std::sort(files.begin(), files.end());
    files.erase(std::unique(files.begin(), files.end()), files.end());
    // The largest first, or one of them would be what all wait for at the end.
    std::vector<std::pair<std::uintmax_t, std::size_t>> order;
    for (std::size_t i = 0; i < files.size(); ++i) {
        std::error_code unknown;
        const std::uintmax_t size = std::filesystem::file_size(files[i].file, unknown);
        order.emplace_back(unknown ? 0 : size, i);
    }
    std::sort(order.begin(), order.end(), std::greater<>());
    std::atomic<std::size_t> next = 0;
    const auto work = [&] {
        for (std::size_t i = next++; i < files.size(); i = next++) {
            const Key& key = files[order[i].second];
            load(key.file, key.loop, key.keeping);
        }
    };
    const std::size_t all =
        helpers_ == Helpers::own ? std::min<std::size_t>(std::thread::hardware_concurrency(), files.size()) : 1;
    std::vector<std::thread> threads;
    for (std::size_t i = 1; i < all; ++i) {
        threads.emplace_back(work);
    }
    work();
    for (std::thread& thread : threads) {
        thread.join();
    }
}

void SoundBank::loadFirst(const std::vector<Key>& wanted)
{
    const std::lock_guard lock(mutex_);
    auto front = queue_.begin();
    for (const Key& key : wanted) {
        if (const auto found = std::find(front, queue_.end(), key); found != queue_.end()) {
            std::rotate(front, found, found + 1);
            ++front;
        }
    }
}

void SoundBank::forget(const std::filesystem::path& file)
{
    const std::lock_guard lock(mutex_);
    std::erase_if(entries_, [&](const auto& entry) { return entry.first.file == file.string(); });
}

void SoundBank::readAgain(const std::filesystem::path& file)
{
    const std::lock_guard lock(mutex_);
    for (const auto& [key, kept] : entries_) {
        if (key.file == file.string() && std::find(queue_.begin(), queue_.end(), key) == queue_.end()) {
            queue_.push_back(key);
        }
    }
    wake_.notify_one();
}

void SoundBank::forgetAll()
{
    const std::lock_guard lock(mutex_);
    entries_.clear();
    queue_.clear();
}

void SoundBank::letGoBut(std::vector<Key> used)
{
    std::sort(used.begin(), used.end());
    const std::lock_guard lock(mutex_);
    std::vector<std::pair<std::uint64_t, Key>> resting;
    for (auto& [key, kept] : entries_) {
        kept.rests = !std::binary_search(used.begin(), used.end(), key);
        if (kept.rests) {
            resting.emplace_back(kept.asked, key);
        }
    }
    std::sort(resting.begin(), resting.end(), std::greater<>());
    std::size_t bytes = 0;
    for (const auto& [asked, key] : resting) {
        const auto kept = entries_.find(key);
        const SharedBuffer& buffer = kept->second.entry.buffer;
        bytes += buffer ? buffer->bytes() : 0;
        if (!buffer || bytes > restingBytes) {
            entries_.erase(kept);
        }
    }
}

void SoundBank::onLoaded(std::function<void()> notify)
{
    const std::lock_guard lock(mutex_);
    notify_ = std::move(notify);
}

SoundBank::Cost SoundBank::cost() const
{
    const std::lock_guard lock(mutex_);
    Cost cost;
    for (const auto& [key, kept] : entries_) {
        if (kept.entry.buffer) {
            (kept.rests ? cost.resting : cost.bytes) += kept.entry.buffer->bytes();
            cost.decoding += kept.rests ? 0.0 : kept.entry.buffer->cost();
        }
    }
    return cost;
}

std::size_t SoundBank::pending() const
{
    const std::lock_guard lock(mutex_);
    return queue_.size() + busy_;
}

void SoundBank::work()
{
    std::unique_lock lock(mutex_);
    for (;;) {
        wake_.wait(lock, [this] { return stop_ || !queue_.empty(); });
        if (stop_) {
            return;
        }
        const Key key = queue_.front();
        queue_.pop_front();
        busy_ = 1;
        lock.unlock();
        Entry entry = read(key);
        lock.lock();
        busy_ = 0;
        // Forgotten while it was being read: then nobody wants what was read.
        const auto wanted = entries_.find(key);
        if (wanted == entries_.end()) {
            continue;
        }
        wanted->second.entry = std::move(entry);
        const std::function<void()> notify = notify_;
        lock.unlock();
        if (notify) {
            notify();
        }
        lock.lock();
    }
}

} // namespace stone
