#include "media/sound_bank.h"

#include "media/sound_file.h"
#include "project/file_error.h"

namespace stone
{

SoundBank::SoundBank(int rate) : rate_(rate), worker_([this] { work(); })
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
        return {State::ready, readSoundFile(key.first, rate_, key.second), {}};
    } catch (const FileError& error) {
        return {State::failed, {}, error.what()};
    } catch (const std::bad_alloc&) {
        return {State::failed, {}, key.first + ": too little memory to decode it; cut it into shorter files"};
    }
}

SoundBank::Entry SoundBank::get(const std::filesystem::path& file, bool loop)
{
    const std::lock_guard lock(mutex_);
    const Key key{file.string(), loop};
    const auto [entry, added] = entries_.try_emplace(key);
    if (added) {
        queue_.push_back(key);
        wake_.notify_one();
    }
    return entry->second;
}

SoundBank::Entry SoundBank::load(const std::filesystem::path& file, bool loop)
{
    const Key key{file.string(), loop};
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
    entries_.erase({file.string(), false});
    entries_.erase({file.string(), true});
}

void SoundBank::onLoaded(std::function<void()> notify)
{
    const std::lock_guard lock(mutex_);
    notify_ = std::move(notify);
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
        entries_[key] = std::move(entry);
        const std::function<void()> notify = notify_;
        lock.unlock();
        if (notify) {
            notify();
        }
        lock.lock();
    }
}

} // namespace stone
