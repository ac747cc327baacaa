// SPDX-License-Identifier: MPL-2.0
#include "media/sound_blocks.h"

#include "project/file_error.h"

#include <algorithm>
#include <chrono>
#include <utility>

namespace stone
{

namespace
{

constexpr std::size_t usualBlock = 32'768;
constexpr std::size_t blocksKept = 16;
/// Blocks fetched before they are needed: 1.4 s at 48 kHz.
constexpr std::size_t blocksAhead = 2;

} // namespace

BlockLoader::BlockLoader(Helpers helpers)
{
    if (helpers == Helpers::own) {
        thread_ = std::thread([this] { work(); });
    }
}

BlockLoader::~BlockLoader()
{
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    if (thread_.joinable()) {
        thread_.join();
    }
}

void BlockLoader::want(std::weak_ptr<SoundBlocks> sound, std::size_t block)
{
    const std::lock_guard lock(mutex_);
    queue_.emplace_back(std::move(sound), block);
    wake_.notify_one();
}

void BlockLoader::work()
{
    std::unique_lock lock(mutex_);
    for (;;) {
        wake_.wait(lock, [this] { return stop_ || !queue_.empty(); });
        if (stop_) {
            return;
        }
        const auto [weak, index] = queue_.front();
        queue_.pop_front();
        lock.unlock();
        decode(weak, index);
        lock.lock();
    }
}

void BlockLoader::fetch()
{
    decltype(queue_) waiting;
    {
        const std::lock_guard lock(mutex_);
        waiting.swap(queue_);
    }
    for (const auto& [weak, index] : waiting) {
        decode(weak, index);
    }
}

void BlockLoader::decode(const std::weak_ptr<SoundBlocks>& sound, std::size_t block)
{
    if (const std::shared_ptr<SoundBlocks> held = sound.lock()) {
        try {
            held->load(block);
        } catch (const std::exception&) {
            // Too little memory for it, or a disk that did not answer: whoever plays it hears silence and says so.
            held->giveUp(block);
        }
    }
}

std::shared_ptr<SoundBlocks> SoundBlocks::open(const std::filesystem::path& file, int rate, bool loop, Source source,
                                               const std::shared_ptr<BlockLoader>& loader, const StopAsked& stop,
                                               const KnownMeasures& known)
{
    std::shared_ptr<SoundBlocks> blocks(new SoundBlocks(file, rate, loop, source, loader));
    blocks->measure(file.string(), stop, known);
    if (blocks->frames_ == 0) {
        throw FileError(file.string() + ": holds no sound, whatever its header claims; export it again");
    }
    blocks->load(0);
    return blocks;
}

SoundBlocks::SoundBlocks(const std::filesystem::path& file, int rate, bool loop, Source source,
                         const std::shared_ptr<BlockLoader>& loader)
    : loop_(loop), source_(source), bytes_(source == Source::memory ? bytesOf(file) : std::vector<std::uint8_t>{}),
      reader_([this, file] {
          return source_ == Source::disk ? std::make_unique<SoundDecoder>(file)
                                         : std::make_unique<SoundDecoder>(bytes_, file.string());
      }),
      change_{reader_.rate(), rate}, loader_(loader)
{
    // Whole units, so that every block is resampled as the whole file would be.
    blockFrames_ = (usualBlock + change_.unitTo() - 1) / change_.unitTo() * change_.unitTo();
}

void SoundBlocks::measure(const std::string& label, const StopAsked& stop, const KnownMeasures& known)
{
    const bool all = known.measured && known.measured->cost > 0.0;
    if (all && reader_.know(static_cast<std::size_t>(known.measured->frames))) {
        measured_ = *known.measured;
        frames_ = change_.framesOf(reader_.frames());
        return;
    }
    using Clock = std::chrono::steady_clock;
    SoundMeasure measure(reader_.channels(), reader_.rate(), known.measured ? Measure::peak : known.what);
    const auto begun = Clock::now();
    Clock::duration measuring{};
    std::size_t most = static_cast<std::size_t>(longestSound_s * reader_.rate()) * reader_.channels();
    reader_.readThrough([&](std::span<const float> frames) {
        if (stop && stop()) {
            throw FileError(label + ": is not read any more");
        }
        if (frames.size() > most) {
            throw FileError(label + ": longer than six hours; cut it into shorter files");
        }
        most -= frames.size();
        const auto before = Clock::now();
        measure.add(frames);
        measuring += Clock::now() - before;
    });
    const Clock::duration decoding = Clock::now() - begun - measuring;
    if (reader_.frames() > 0) {
        frames_ = change_.framesOf(reader_.frames());
        measured_.facts = known.measured ? known.measured->facts : measure.facts();
        measured_.frames = reader_.frames();
        measured_.cost =
            std::chrono::duration<double>(decoding).count() / (static_cast<double>(reader_.frames()) / change_.from);
    }
}

std::size_t SoundBlocks::bytes() const
{
    std::size_t bytes = bytes_.size();
    const std::lock_guard lock(mutex_);
    for (const auto& [index, kept] : kept_) {
        for (const auto& channel : kept.block ? *kept.block : Block{}) {
            bytes += channel.size() * sizeof(float);
        }
    }
    return bytes;
}

/// Frames of the file as they are, channels interleaved; beyond its ends a loop's other end, or silence.
std::vector<float> SoundBlocks::sourceFrames(std::int64_t first, std::size_t count)
{
    const std::size_t width = reader_.channels();
    const auto length = static_cast<std::int64_t>(reader_.frames());
    std::vector<float> out(count * width, 0.0F);
    std::size_t done = 0;
    while (done < count) {
        std::int64_t at = first + static_cast<std::int64_t>(done);
        if (loop_) {
            at = ((at % length) + length) % length;
        } else if (at < 0) {
            done += static_cast<std::size_t>(std::min<std::int64_t>(-at, static_cast<std::int64_t>(count - done)));
            continue;
        } else if (at >= length) {
            break;
        }
        const auto wanted = std::min<std::size_t>(count - done, static_cast<std::size_t>(length - at));
        const std::size_t got =
            reader_.read(static_cast<std::size_t>(at), std::span(out).subspan(done * width, wanted * width));
        if (got == 0) {
            break;
        }
        done += got;
    }
    return out;
}

std::shared_ptr<SoundBlocks::Block> SoundBlocks::decode(std::size_t index)
{
    const std::lock_guard lock(decoding_);
    const std::size_t width = reader_.channels();
    const std::size_t wanted = std::min(blockFrames_, frames_ - std::min(index * blockFrames_, frames_));
    const std::size_t context = change_.none() ? 0 : change_.context();
    const std::size_t first = index * (blockFrames_ / change_.unitTo() * change_.unitFrom());
    const std::size_t count = change_.none() ? wanted : (wanted + change_.unitTo() - 1) / change_.unitTo() * change_.unitFrom();
    const std::vector<float> frames =
        sourceFrames(static_cast<std::int64_t>(first) - static_cast<std::int64_t>(context), count + 2 * context);
    auto block = std::make_shared<Block>();
    for (std::size_t channel = 0; channel < width; ++channel) {
        std::vector<float> plane(frames.size() / width);
        for (std::size_t i = 0; i < plane.size(); ++i) {
            plane[i] = frames[i * width + channel];
        }
        block->push_back(change_.none() ? std::move(plane) : resample(plane, change_, wanted));
    }
    return block;
}

void SoundBlocks::keep(std::size_t index, SharedBlock block)
{
    kept_[index] = {std::move(block), ++uses_};
    while (kept_.size() > blocksKept) {
        auto oldest = kept_.end();
        for (auto it = kept_.begin(); it != kept_.end(); ++it) {
            // The first one stays, and so does what is still on its way.
            if (it->first != 0 && it->second.block && (oldest == kept_.end() || it->second.used < oldest->second.used)) {
                oldest = it;
            }
        }
        if (oldest == kept_.end()) {
            return;
        }
        kept_.erase(oldest);
    }
}

SoundBlocks::SharedBlock SoundBlocks::get(std::size_t index)
{
    const std::lock_guard lock(mutex_);
    const std::size_t count = (frames_ + blockFrames_ - 1) / blockFrames_;
    for (std::size_t ahead = 0; ahead <= blocksAhead; ++ahead) {
        const std::size_t wanted = loop_ ? (index + ahead) % count : index + ahead;
        if (wanted >= count) {
            break;
        }
        const auto [it, added] = kept_.try_emplace(wanted);
        it->second.used = ++uses_;
        if (added) {
            if (const std::shared_ptr<BlockLoader> loader = loader_.lock()) {
                loader->want(weak_from_this(), wanted);
            }
        }
    }
    return kept_[index].block;
}

void SoundBlocks::giveUp(std::size_t index)
{
    const std::lock_guard lock(mutex_);
    const auto found = kept_.find(index);
    if (found != kept_.end() && !found->second.block) {
        kept_.erase(found);
    }
}

SoundBlocks::SharedBlock SoundBlocks::load(std::size_t index)
{
    {
        const std::lock_guard lock(mutex_);
        const auto found = kept_.find(index);
        if (found != kept_.end() && found->second.block) {
            found->second.used = ++uses_;
            return found->second.block;
        }
    }
    SharedBlock block = decode(index);
    const std::lock_guard lock(mutex_);
    keep(index, block);
    return block;
}

} // namespace stone
