#include "media/sound_bank.h"

#include "media/sound_file.h"
#include "project/file_error.h"

namespace stone
{

SoundBank::SoundBank(int rate) : rate_(rate), loader_(std::make_shared<BlockLoader>()), worker_([this] { work(); })
{
}

SoundBank::~SoundBank()
{
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    worker_.join();
}

SoundBank::Entry SoundBank::read(const Key& key) const
{
    try {
        const auto stop = [this] { return stop_.load(std::memory_order_relaxed); };
        return {State::ready, openSoundFile(key.file, rate_, key.loop, key.keeping, loader_, stop), {}};
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
    return entry->second;
}

SoundBank::Entry SoundBank::load(const std::filesystem::path& file, bool loop, Keeping keeping)
{
    const Key key{file.string(), loop, keeping};
    {
        const std::lock_guard lock(mutex_);
        const auto found = entries_.find(key);
        if (found != entries_.end() && found->second.state != State::loading) {
            return found->second;
        }
    }
    Entry entry = read(key);
    const std::lock_guard lock(mutex_);
    entries_[key] = entry;
    return entry;
}

void SoundBank::forget(const std::filesystem::path& file)
{
    const std::lock_guard lock(mutex_);
    std::erase_if(entries_, [&](const auto& entry) { return entry.first.file == file.string(); });
}

void SoundBank::forgetAll()
{
    const std::lock_guard lock(mutex_);
    entries_.clear();
    queue_.clear();
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
    for (const auto& [key, entry] : entries_) {
        if (entry.buffer) {
            cost.bytes += entry.buffer->bytes();
            cost.decoding += entry.buffer->cost();
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
        wanted->second = std::move(entry);
        const std::function<void()> notify = notify_;
        lock.unlock();
        if (notify) {
            notify();
        }
        lock.lock();
    }
}

} // namespace stone
