// SPDX-License-Identifier: MPL-2.0
#include "media/measure_store.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <limits>
#include <memory>
#include <sstream>
#include <system_error>
#include <unistd.h>
#include <xxhash.h>

namespace stone
{

namespace
{

// Another number whenever the same sound would be measured otherwise.
const std::string measuresHead = "stone-echo measures 1";
const std::string peaksHead = "stone-echo peaks 1\n";
const std::string measuresKind = ".measures";
const std::string peaksKind = ".peaks";
constexpr std::size_t nameLength = 32;
constexpr auto usedEvery = std::chrono::hours(24);

struct MeasureField {
    const char* name;
    double Measured::*own;
    double SoundFacts::*fact;
    bool maybeInfinite;
};

const std::array measureFields{
    MeasureField{"cost", &Measured::cost, nullptr, false},
    MeasureField{"integrated_lufs", nullptr, &SoundFacts::integrated_lufs, true},
    MeasureField{"loudest_lufs", nullptr, &SoundFacts::loudest_lufs, true},
    MeasureField{"dc", nullptr, &SoundFacts::dc, false},
    MeasureField{"head_silence_s", nullptr, &SoundFacts::headSilence_s, false},
    MeasureField{"tail_silence_s", nullptr, &SoundFacts::tailSilence_s, false},
    MeasureField{"inner_silence_s", nullptr, &SoundFacts::innerSilence_s, false},
    MeasureField{"swell_db", nullptr, &SoundFacts::swell_db, false},
};

template <class Number> std::string exactly(Number number)
{
    std::array<char, 40> text{};
    const auto end = std::to_chars(text.data(), text.data() + text.size(), number).ptr;
    return {text.data(), end};
}

/// A line "name number" of a file of measures; false when it is another.
template <class Number> bool takeNumber(std::istream& in, const char* name, Number& number)
{
    std::string line;
    if (!std::getline(in, line)) {
        return false;
    }
    const std::string start = std::string(name) + ' ';
    const char* end = line.data() + line.size();
    return line.starts_with(start) && std::from_chars(line.data() + start.size(), end, number).ptr == end;
}

std::string textOf(const Measured& measured)
{
    std::ostringstream out;
    out << measuresHead << '\n' << "frames " << measured.frames << '\n';
    for (const MeasureField& field : measureFields) {
        out << field.name << ' ' << exactly(field.own != nullptr ? measured.*field.own : measured.facts.*field.fact) << '\n';
    }
    const SoundFacts& facts = measured.facts;
    out << "peak " << exactly(facts.peak) << "\nalike " << int{facts.alike} << "\nseam_step_db " << exactly(facts.seam.step_db)
        << "\nseam_spectrum_db " << exactly(facts.seam.spectrum_db) << "\nend\n";
    return out.str();
}

std::optional<Measured> measuredFrom(const std::string& text)
{
    std::istringstream in(text);
    std::string line;
    Measured measured;
    bool good = std::getline(in, line) && line == measuresHead && takeNumber(in, "frames", measured.frames);
    for (const MeasureField& field : measureFields) {
        double& number = field.own != nullptr ? measured.*field.own : measured.facts.*field.fact;
        good = good && takeNumber(in, field.name, number) && !std::isnan(number) &&
               (std::isfinite(number) || (field.maybeInfinite && number < 0.0));
    }
    SoundFacts& facts = measured.facts;
    int alike = 0;
    good = good && takeNumber(in, "peak", facts.peak) && takeNumber(in, "alike", alike) &&
           takeNumber(in, "seam_step_db", facts.seam.step_db) && takeNumber(in, "seam_spectrum_db", facts.seam.spectrum_db) &&
           std::getline(in, line) && line == "end" && std::isfinite(facts.peak) && std::isfinite(facts.seam.step_db) &&
           std::isfinite(facts.seam.spectrum_db) && measured.frames > 0 && measured.cost >= 0.0;
    facts.alike = alike != 0;
    return good ? std::optional(measured) : std::nullopt;
}

std::string ending(const MeasureStore::PeaksKey& key)
{
    return '-' + std::to_string(key.rate) + (key.loop ? "-loop" : "") + peaksKind;
}

} // namespace

std::filesystem::path cacheFolder()
{
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache != nullptr && *cache == '/') {
        return std::filesystem::path(cache) / "stone-echo";
    }
    const char* home = std::getenv("HOME");
    return home != nullptr && *home == '/' ? std::filesystem::path(home) / ".cache/stone-echo" : std::filesystem::path();
}

std::filesystem::path measuresFolder(const std::filesystem::path& cache)
{
    return cache.empty() ? cache : cache / "measures";
}

std::string contentOf(const std::filesystem::path& file, const StopAsked& stop)
{
    std::error_code ignored;
    if (!std::filesystem::is_regular_file(file, ignored)) {
        return {};
    }
    const std::unique_ptr<XXH3_state_t, decltype(&XXH3_freeState)> state(XXH3_createState(), &XXH3_freeState);
    XXH3_128bits_reset(state.get());
    std::ifstream in(file, std::ios::binary);
    std::vector<char> chunk(1U << 20U);
    while (in) {
        if (stop && stop()) {
            return {};
        }
        in.read(chunk.data(), static_cast<std::streamsize>(chunk.size()));
        XXH3_128bits_update(state.get(), chunk.data(), static_cast<std::size_t>(in.gcount()));
    }
    if (!in.eof()) {
        return {};
    }
    XXH128_canonical_t bytes{};
    XXH128_canonicalFromHash(&bytes, XXH3_128bits_digest(state.get()));
    std::string name;
    for (const unsigned char byte : bytes.digest) {
        constexpr const char* digits = "0123456789abcdef";
        name += digits[byte >> 4U];
        name += digits[byte & 15U];
    }
    return name;
}

MeasureStore::MeasureStore(std::filesystem::path folder) : folder_(std::move(folder))
{
}

std::filesystem::path MeasureStore::pathOf(const std::string& content, const std::string& kind) const
{
    return folder_.empty() || content.size() != nameLength ? std::filesystem::path()
                                                           : folder_ / content.substr(0, 2) / (content + kind);
}

std::optional<std::string> MeasureStore::read(const std::filesystem::path& path) const
{
    std::error_code error;
    if (path.empty() || !std::filesystem::is_regular_file(path, error)) {
        return {};
    }
    std::ifstream in(path, std::ios::binary);
    std::ostringstream bytes;
    bytes << in.rdbuf();
    if (!in) {
        return {};
    }
    // What is used stays; once a day is enough to say so.
    const auto now = std::filesystem::file_time_type::clock::now();
    if (const auto used = std::filesystem::last_write_time(path, error); !error && now - used > usedEvery) {
        std::filesystem::last_write_time(path, now, error);
    }
    return bytes.str();
}

void MeasureStore::write(const std::filesystem::path& path, const std::string& bytes) const
{
    if (path.empty()) {
        return;
    }
    std::error_code error;
    std::filesystem::create_directories(path.parent_path(), error);
    // Under a name of its own until it is whole; not pressed onto the disk, as it can be made anew.
    std::string half = path.string() + ".XXXXXX";
    const int made = ::mkstemp(half.data());
    if (made < 0) {
        return;
    }
    ::close(made);
    bool whole = false;
    {
        std::ofstream out(half, std::ios::binary | std::ios::trunc);
        out << bytes;
        out.close();
        whole = !out.fail();
    }
    if (whole) {
        std::filesystem::rename(half, path, error);
    }
    if (!whole || error) {
        std::filesystem::remove(half, error);
    }
}

std::optional<Measured> MeasureStore::find(const std::string& content) const
{
    const std::optional<std::string> text = read(pathOf(content, measuresKind));
    return text ? measuredFrom(*text) : std::nullopt;
}

void MeasureStore::keep(const std::string& content, const Measured& measured) const
{
    write(pathOf(content, measuresKind), textOf(measured));
}

std::optional<MeasuredPeaks> MeasureStore::findPeaks(const PeaksKey& key) const
{
    const std::optional<std::string> bytes = read(pathOf(key.content, ending(key)));
    const std::size_t each = key.stretches * sizeof(MeasuredPeaks::Stretches::value_type);
    MeasuredPeaks peaks;
    if (!bytes || !bytes->starts_with(peaksHead) ||
        bytes->size() != peaksHead.size() + sizeof(peaks.truePeak) + key.channels * each) {
        return {};
    }
    const char* from = bytes->data() + peaksHead.size();
    std::memcpy(&peaks.truePeak, from, sizeof(peaks.truePeak));
    from += sizeof(peaks.truePeak);
    bool good = std::isfinite(peaks.truePeak);
    for (std::size_t channel = 0; channel < key.channels; ++channel, from += each) {
        MeasuredPeaks::Stretches& stretches = peaks.channels.emplace_back(key.stretches);
        std::memcpy(static_cast<void*>(stretches.data()), from, each);
        good = good && std::all_of(stretches.begin(), stretches.end(),
                                   [](const auto& s) { return std::isfinite(s.first) && std::isfinite(s.second); });
    }
    return good ? std::optional(std::move(peaks)) : std::nullopt;
}

void MeasureStore::keepPeaks(const PeaksKey& key, const MeasuredPeaks& peaks) const
{
    std::string bytes = peaksHead;
    const auto add = [&bytes](const void* from, std::size_t size) { bytes.append(static_cast<const char*>(from), size); };
    add(&peaks.truePeak, sizeof(peaks.truePeak));
    for (const MeasuredPeaks::Stretches& stretches : peaks.channels) {
        add(stretches.data(), stretches.size() * sizeof(stretches.front()));
    }
    write(pathOf(key.content, ending(key)), bytes);
}

std::vector<std::filesystem::path> MeasureStore::kept() const
{
    std::vector<std::filesystem::path> files;
    std::error_code error;
    if (folder_.empty()) {
        return files;
    }
    for (std::filesystem::recursive_directory_iterator it(folder_, error), end; !error && it != end; it.increment(error)) {
        const std::string name = it->path().filename().string();
        const bool ours = it->is_regular_file(error) && name.size() > nameLength &&
                          name.find_first_not_of("0123456789abcdef") == nameLength &&
                          (name.find(measuresKind) != std::string::npos || name.find(peaksKind) != std::string::npos);
        if (ours) {
            files.push_back(it->path());
        }
    }
    return files;
}

MeasureStore::Size MeasureStore::size() const
{
    Size size;
    for (const std::filesystem::path& file : kept()) {
        std::error_code error;
        const auto bytes = std::filesystem::file_size(file, error);
        size.bytes += error ? 0 : bytes;
        ++size.files;
    }
    return size;
}

void MeasureStore::clear() const
{
    std::error_code ignored;
    for (const std::filesystem::path& file : kept()) {
        std::filesystem::remove(file, ignored);
        std::filesystem::remove(file.parent_path(), ignored); // when it was the last
    }
}

void MeasureStore::clearUnused() const
{
    std::error_code error;
    const auto oldest = std::filesystem::file_time_type::clock::now() - std::chrono::hours(24 * keptFor_days);
    for (const std::filesystem::path& file : kept()) {
        const auto used = std::filesystem::last_write_time(file, error);
        if (!error && used < oldest) {
            std::filesystem::remove(file, error);
            std::filesystem::remove(file.parent_path(), error);
        }
    }
}

} // namespace stone
