// SPDX-License-Identifier: MPL-2.0
#include "exports/prepared_sounds.h"

#include "dsp/decibel.h"
#include "dsp/loudness_meter.h"
#include "media/sound_decoder.h"
#include "media/sound_file.h"
#include "project/file_error.h"
#include "project/references.h"

#include <sndfile.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <set>
#include <string_view>
#include <type_traits>
#include <unistd.h>
#include <utility>

namespace stone
{

namespace
{

using Channels = PreparedSound::Channels;

constexpr const char* endings[soundFormatCount] = {".wav", ".wav", ".flac", ".ogg", ".opus"};
constexpr int formats[soundFormatCount] = {SF_FORMAT_WAV | SF_FORMAT_PCM_16, SF_FORMAT_WAV | SF_FORMAT_PCM_24,
                                           SF_FORMAT_FLAC | SF_FORMAT_PCM_24, SF_FORMAT_OGG | SF_FORMAT_VORBIS,
                                           SF_FORMAT_OGG | SF_FORMAT_OPUS};
/// What is softer than this, -72 dB, is silence at the ends of a sound.
constexpr float silent = 2.5e-4F;

std::size_t indexOf(SoundTarget::Format format)
{
    return static_cast<std::size_t>(format);
}

Channels howUsed(const EmitterSettings& settings)
{
    const bool placed = settings.kind != EmitterKind::bed && settings.placement.inWorld > 0.0;
    if (!placed || settings.placement.channels == ChannelUse::image) {
        return Channels::kept;
    }
    switch (settings.placement.channels) {
    case ChannelUse::equalPower: return Channels::equalPower;
    case ChannelUse::left: return Channels::left;
    case ChannelUse::right: return Channels::right;
    default: return Channels::mid;
    }
}

/// All ways in which sounds are used.
std::map<SoundId, std::set<Channels>> usesOf(const Project& project)
{
    std::map<SoundId, std::set<Channels>> uses;
    const auto add = [&](const EmitterSettings& settings) {
        const Channels how = howUsed(settings);
        seeSettingReferences(settings, [&](const auto& id) {
            if constexpr (std::is_same_v<std::decay_t<decltype(id)>, SoundId>) {
                uses[id].insert(how);
            }
        });
    };
    for (const auto& level : project.levels) {
        for (const auto& emitter : level->emitters) {
            add(*emitter);
        }
    }
    for (const auto& pattern : project.patterns) {
        add(pattern->settings);
    }
    return uses;
}

/// A rate that the format has, nearest to what is wanted.
int rateFor(SoundTarget::Format format, int wanted)
{
    constexpr std::array<int, 5> ofOpus{8'000, 12'000, 16'000, 24'000, 48'000};
    const bool has = format != SoundTarget::Format::opus || std::find(ofOpus.begin(), ofOpus.end(), wanted) != ofOpus.end();
    return has ? wanted : ofOpus.back();
}

std::vector<std::vector<float>> folded(const SampleBuffer& buffer, Channels how)
{
    const auto& channels = buffer.channels;
    if (how == Channels::kept || channels.size() == 1) {
        return channels;
    }
    if (how == Channels::left || how == Channels::right) {
        return {channels[how == Channels::left ? 0 : 1]};
    }
    const auto count = static_cast<float>(channels.size());
    const float share = how == Channels::mid ? 1.0F / count : 1.0F / std::sqrt(count);
    std::vector<float> mono(channels.front().size(), 0.0F);
    for (const auto& channel : channels) {
        std::transform(mono.begin(), mono.end(), channel.begin(), mono.begin(),
                       [share](float sum, float x) { return sum + share * x; });
    }
    return {mono};
}

/// The frames between what is silent in all channels; all of them where nothing else is.
std::pair<std::size_t, std::size_t> audible(const std::vector<std::vector<float>>& channels)
{
    std::size_t from = channels.front().size();
    std::size_t to = 0;
    for (const auto& channel : channels) {
        const auto loud = [](float x) { return std::abs(x) > silent; };
        const auto first = std::find_if(channel.begin(), channel.end(), loud);
        const auto last = std::find_if(channel.rbegin(), channel.rend(), loud);
        from = std::min(from, static_cast<std::size_t>(first - channel.begin()));
        to = std::max(to, static_cast<std::size_t>(channel.rend() - last));
    }
    return from < to ? std::pair(from, to) : std::pair(std::size_t{0}, channels.front().size());
}

/// One whole number's triangle of noise, the same each time.
class Dither
{
public:
    float next()
    {
        constexpr float step = 1.0F / 32'768.0F;
        return (unit() - unit()) * step;
    }

private:
    float unit()
    {
        state_ = state_ * 1'664'525U + 1'013'904'223U;
        return static_cast<float>(state_ >> 8U) / 16'777'216.0F;
    }
    std::uint32_t state_ = 1;
};

/// A file that is written whole or not at all.
class Writing
{
public:
    Writing(const std::filesystem::path& file, const SoundTarget& target, int rate, int channels)
        : file_(file), partial_(file.string() + ".part-" + std::to_string(::getpid()))
    {
        SF_INFO info{};
        info.samplerate = rate;
        info.channels = channels;
        info.format = formats[indexOf(target.format)];
        handle_ = sf_open(partial_.c_str(), SFM_WRITE, &info);
        if (handle_ == nullptr) {
            throw FileError(file.string() + ": cannot be written as " + wordOf(target.format) + " (" + sf_strerror(nullptr) +
                            ")");
        }
        double quality = std::clamp(target.quality, 0.0, 1.0);
        sf_command(handle_, SFC_SET_VBR_ENCODING_QUALITY, &quality, sizeof quality);
        sf_command(handle_, SFC_SET_CLIPPING, nullptr, SF_TRUE);
    }
    ~Writing()
    {
        if (handle_ != nullptr) {
            sf_close(handle_);
            std::error_code ignored;
            std::filesystem::remove(partial_, ignored);
        }
    }
    Writing(const Writing&) = delete;
    Writing& operator=(const Writing&) = delete;

    void loop(std::uint64_t from, std::uint64_t to)
    {
        SF_INSTRUMENT points{};
        points.gain = 1;
        points.basenote = 60;
        points.velocity_hi = points.key_hi = 127;
        points.loop_count = 1;
        points.loops[0] = {SF_LOOP_FORWARD, static_cast<std::uint32_t>(from), static_cast<std::uint32_t>(to), 0};
        sf_command(handle_, SFC_SET_INSTRUMENT, &points, sizeof points);
    }

    void write(const std::vector<float>& interleaved, std::size_t channels)
    {
        const auto frames = static_cast<sf_count_t>(interleaved.size() / channels);
        if (sf_writef_float(handle_, interleaved.data(), frames) != frames) {
            throw FileError(file_.string() + ": cannot be written (" + sf_strerror(handle_) + ")");
        }
    }

    void finish()
    {
        const int failed = sf_close(std::exchange(handle_, nullptr));
        std::error_code error;
        if (failed == 0) {
            std::filesystem::rename(partial_, file_, error);
        }
        if (failed != 0 || error) {
            std::error_code ignored;
            std::filesystem::remove(partial_, ignored);
            throw FileError(file_.string() + ": cannot be written" + (error ? " (" + error.message() + ")" : std::string()));
        }
    }

private:
    std::filesystem::path file_;
    std::filesystem::path partial_;
    SNDFILE* handle_ = nullptr;
};

/// Lower case letters, digits and single underscores; "sound" where nothing is left.
std::string plainly(const std::string& name)
{
    std::string plain = slug(name);
    std::replace(plain.begin(), plain.end(), '-', '_');
    return plain == "thing" ? "sound" : plain;
}

/// A sound's name as one that every file system takes.
std::string asFileName(std::string name)
{
    const auto forbidden = [](char c) {
        return std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos || (c >= 0 && c < ' ');
    };
    std::replace_if(name.begin(), name.end(), forbidden, '_');
    while (!name.empty() && (name.back() == '.' || name.back() == ' ')) {
        name.pop_back();
    }
    return name.empty() || name.front() == '.' ? "_" + name : name;
}

/// What a file is called by the target's rule, without its ending.
std::string stemFor(const Sound& sound, const SoundFile& file, SoundTarget::Naming naming)
{
    const std::filesystem::path own(file.file);
    switch (naming) {
    case SoundTarget::Naming::files: return (own.parent_path() / own.stem()).generic_string();
    case SoundTarget::Naming::sounds: return asFileName(sound.name);
    case SoundTarget::Naming::plain: return plainly(sound.name);
    }
    return {};
}

/// A name of its own for each, with a number where it is taken.
std::string nameFor(const std::string& stem, const char* between, const char* ending, std::set<std::string>& taken)
{
    std::string name = stem + ending;
    for (int number = 2; !taken.insert(name).second; ++number) {
        name = stem + between + std::to_string(number) + ending;
    }
    return name;
}

double loudnessOf(const std::vector<std::vector<float>>& channels, std::size_t from, std::size_t to, int rate)
{
    LoudnessMeter meter(static_cast<int>(channels.size()), rate);
    std::vector<float> interleaved;
    const auto add = [&](std::size_t first, std::size_t last) {
        interleaved.clear();
        for (std::size_t i = first; i < last; ++i) {
            for (const auto& channel : channels) {
                interleaved.push_back(channel[i]);
            }
        }
        meter.add(interleaved);
    };
    // What is shorter than the meter's window is measured as if it went round and round.
    const auto window = static_cast<std::size_t>(0.5 * rate);
    const std::size_t rounds = to - from >= window ? 1 : window / std::max<std::size_t>(to - from, 1) + 1;
    for (std::size_t round = 0; round < rounds; ++round) {
        for (std::size_t first = from; first < to; first += chunkFrames) {
            add(first, std::min(first + chunkFrames, to));
        }
    }
    return meter.integrated_lufs();
}

/// By how much a sound has to be louder to be as loud as is wanted, without going beyond full scale.
double gainFor_db(const std::vector<std::vector<float>>& channels, double is_lufs, double wanted_lufs)
{
    float peak = 0.0F;
    for (const auto& channel : channels) {
        peak = std::accumulate(channel.begin(), channel.end(), peak, [](float p, float x) { return std::max(p, std::abs(x)); });
    }
    constexpr double headroom_db = 1.0; // between samples it may be higher
    const double room_db = peak > 0.0F ? -20.0 * std::log10(static_cast<double>(peak)) - headroom_db : 0.0;
    return std::isfinite(is_lufs) ? std::min(wanted_lufs - is_lufs, room_db) : 0.0;
}

} // namespace

std::vector<PreparedSound> soundsToPrepare(const Project& project, const SoundTarget& target,
                                           const std::function<std::filesystem::path(const std::string&)>& resolve)
{
    const auto uses = usesOf(project);
    std::vector<PreparedSound> all;
    std::set<std::string> taken;
    for (const auto& sound : project.sounds) {
        const auto used = uses.find(sound->id);
        const bool alike = target.fold && !sound->binaural && used != uses.end() && used->second.size() == 1;
        for (const SoundFile& file : sound->files) {
            all.push_back(
                {.sound = sound->id,
                 .from = resolve(file.file),
                 .to = nameFor(stemFor(*sound, file, target.naming), target.naming == SoundTarget::Naming::plain ? "_" : "-",
                               endings[indexOf(target.format)], taken),
                 .channels = alike ? *used->second.begin() : Channels::kept,
                 .loop = sound->loop,
                 .loopFrom_s = file.loopFrom_s,
                 .loopTo_s = file.loopTo_s});
        }
    }
    return all;
}

PreparedFacts prepareSound(const PreparedSound& what, const SoundTarget& target, const std::filesystem::path& folder,
                           const StopAsked& stop)
{
    PreparedFacts facts;
    {
        const SoundDecoder decoder(what.from);
        facts.channelsBefore = decoder.channels();
        facts.rate = rateFor(target.format, target.rate > 0 ? target.rate : decoder.rate());
    }
    std::error_code error;
    facts.bytesBefore = std::filesystem::file_size(what.from, error);
    const SharedBuffer buffer = readSoundFile(what.from, facts.rate, what.loop, stop, {Measure::peak});
    auto channels = folded(*buffer, what.channels);
    const auto [from, to] = target.trim && !what.loop ? audible(channels) : std::pair(std::size_t{0}, channels.front().size());
    facts.channels = channels.size();
    facts.frames = to - from;
    facts.trimmedFrames = from;
    if (what.loop) {
        const auto frame = [&](double seconds) {
            return std::min(static_cast<std::uint64_t>(std::llround(seconds * facts.rate)), facts.frames);
        };
        facts.loopFrom = frame(what.loopFrom_s);
        facts.loopTo = what.loopTo_s > 0.0 ? frame(what.loopTo_s) : facts.frames;
    }
    facts.loudness_lufs = loudnessOf(channels, from, to, facts.rate);
    if (target.loudness == SoundTarget::Loudness::matched) {
        facts.gain_db = gainFor_db(channels, facts.loudness_lufs, target.loudness_lufs);
        facts.loudness_lufs += facts.gain_db;
        const auto gain = static_cast<float>(gainOf(facts.gain_db));
        for (auto& channel : channels) {
            std::transform(channel.begin(), channel.end(), channel.begin(), [gain](float x) { return x * gain; });
        }
    }
    const auto file = folder / what.to;
    std::filesystem::create_directories(file.parent_path(), error);
    Writing writing(file, target, facts.rate, static_cast<int>(channels.size()));
    if (facts.loopTo > 0) {
        writing.loop(facts.loopFrom, facts.loopTo);
    }
    Dither dither;
    const bool dithered = target.format == SoundTarget::Format::wav16;
    std::vector<float> interleaved;
    for (std::size_t first = from; first < to; first += chunkFrames) {
        if (stop && stop()) {
            throw FileError(file.string() + ": stopped");
        }
        interleaved.clear();
        for (std::size_t i = first; i < std::min(first + chunkFrames, to); ++i) {
            for (const auto& channel : channels) {
                interleaved.push_back(channel[i] + (dithered ? dither.next() : 0.0F));
            }
        }
        writing.write(interleaved, channels.size());
    }
    writing.finish();
    facts.bytes = std::filesystem::file_size(file, error);
    return facts;
}

CsvTable preparedTable(const std::vector<PreparedSound>& sounds, const std::vector<PreparedFacts>& facts)
{
    CsvTable table{"prepared",
                   {"sound", "file", "from", "bytes_before", "bytes", "channels_before", "channels", "rate_hz", "frames",
                    "trimmed_frames", "loop_from_frame", "loop_to_frame", "gain_db", "loudness_lufs"},
                   {}};
    for (std::size_t i = 0; i < facts.size(); ++i) {
        const PreparedFacts& f = facts[i];
        const bool loops = f.loopTo > 0;
        table.rows.push_back(
            {sounds[i].sound.text, sounds[i].to, sounds[i].from.filename().string(), std::to_string(f.bytesBefore),
             std::to_string(f.bytes), std::to_string(f.channelsBefore), std::to_string(f.channels), std::to_string(f.rate),
             std::to_string(f.frames), std::to_string(f.trimmedFrames), loops ? std::to_string(f.loopFrom) : std::string(),
             loops ? std::to_string(f.loopTo) : std::string(), csvNumber(std::round(f.gain_db * 100.0) / 100.0),
             csvNumber(std::round(f.loudness_lufs * 10.0) / 10.0)});
    }
    return table;
}

} // namespace stone
