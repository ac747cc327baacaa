// SPDX-License-Identifier: MPL-2.0
#include "media/pack.h"

#include "project/file_error.h"

#include <nlohmann/json.hpp>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <fstream>
#include <set>
#include <unistd.h>

namespace stone
{

namespace
{

constexpr std::string_view head = "Stone Echo pack 1\n";
constexpr std::size_t indexBytes = 16; ///< its size, as digits, in front of it
constexpr std::uint64_t mostIndex = 64U << 20U;
constexpr std::size_t chunk = 1U << 20U;
const std::string findsFolder = ".finds/";

struct FreeHash {
    void operator()(XXH3_state_t* state) const { XXH3_freeState(state); }
};

/// Counts what goes by.
class Hash
{
public:
    Hash() : state_(XXH3_createState()) { XXH3_64bits_reset(state_.get()); }
    void add(const char* bytes, std::size_t size) { XXH3_64bits_update(state_.get(), bytes, size); }
    std::string text() const
    {
        std::array<char, 20> digits{};
        std::snprintf(digits.data(), digits.size(), "%016llx",
                      static_cast<unsigned long long>(XXH3_64bits_digest(state_.get())));
        return digits.data();
    }

private:
    std::unique_ptr<XXH3_state_t, FreeHash> state_;
};

/// Reads all of a stream's next bytes, in pieces.
void eachPiece(std::istream& in, std::uint64_t size, const std::string& label,
               const std::function<void(const char*, std::size_t)>& take)
{
    std::vector<char> piece(chunk);
    while (size > 0) {
        const auto n = static_cast<std::streamsize>(std::min<std::uint64_t>(size, chunk));
        in.read(piece.data(), n);
        if (in.gcount() != n) {
            throw FileError(label + ": ends too soon; get the pack again");
        }
        take(piece.data(), static_cast<std::size_t>(n));
        size -= static_cast<std::uint64_t>(n);
    }
}

/// Whether a name stays inside of the folder.
bool isInside(const std::string& name)
{
    const std::filesystem::path path(name);
    return !name.empty() && name.find('\0') == std::string::npos && path.is_relative() &&
           std::none_of(path.begin(), path.end(),
                        [](const std::filesystem::path& part) { return part == ".." || part == "." || part.empty(); });
}

struct Listed {
    std::string name;
    std::uint64_t size = 0;
    std::string hash;
};

std::vector<Listed> readIndex(std::istream& in, const std::string& label)
{
    const auto damaged = [&](const char* what) { throw FileError(label + ": a damaged pack (" + what + "); get it again"); };
    std::string begins(head.size(), '\0');
    std::string digits(indexBytes, '\0');
    in.read(begins.data(), static_cast<std::streamsize>(begins.size()));
    if (!in || begins != head) {
        throw FileError(label + ": is no pack of Stone Echo's");
    }
    in.read(digits.data(), static_cast<std::streamsize>(digits.size()));
    if (!in || digits.find_first_not_of("0123456789") != std::string::npos) {
        damaged("its index has no size");
    }
    const std::uint64_t size = std::stoull(digits);
    if (size > mostIndex) {
        damaged("its index is too large");
    }
    std::string text;
    eachPiece(in, size, label, [&](const char* bytes, std::size_t n) { text.append(bytes, n); });
    const auto json = nlohmann::json::parse(text, nullptr, false);
    std::vector<Listed> files;
    std::set<std::string> names;
    std::uint64_t all = 0;
    if (!json.is_object() || !json.contains("files") || !json["files"].is_array() || json["files"].size() > mostPacked) {
        damaged("its index is none");
    }
    for (const auto& one : json["files"]) {
        const bool good = one.is_object() && one.contains("name") && one["name"].is_string() && one.contains("size") &&
                          one["size"].is_number_unsigned() && one.contains("hash") && one["hash"].is_string();
        if (!good) {
            damaged("a file of its index is none");
        }
        files.push_back({one["name"].get<std::string>(), one["size"].get<std::uint64_t>(), one["hash"].get<std::string>()});
        if (!isInside(files.back().name) || !names.insert(files.back().name).second) {
            damaged("a file would lie elsewhere, or twice in one place");
        }
        if (files.back().size > mostPackedBytes || (all += files.back().size) > mostPackedBytes) {
            damaged("it is too large");
        }
    }
    return files;
}

} // namespace

bool isPack(const std::filesystem::path& file)
{
    std::ifstream in(file, std::ios::binary);
    std::string begins(head.size(), '\0');
    in.read(begins.data(), static_cast<std::streamsize>(begins.size()));
    return in && begins == head;
}

bool writePack(const std::filesystem::path& pack, const std::vector<PackedFile>& files,
               const std::function<bool(double)>& progress)
{
    nlohmann::ordered_json index{{"files", nlohmann::ordered_json::array()}};
    std::uint64_t all = 0;
    const auto each = [](const PackedFile& file, const std::function<void(const char*, std::size_t)>& take) {
        if (file.from.empty()) {
            take(file.text.data(), file.text.size());
            return;
        }
        std::error_code error;
        const auto size = std::filesystem::file_size(file.from, error);
        std::ifstream in(file.from, std::ios::binary);
        if (error || !in) {
            throw FileError(file.from.string() +
                            ": cannot be read, and is not in the pack; bring it back, or take out what names it");
        }
        eachPiece(in, size, file.from.string(), take);
    };
    for (const PackedFile& file : files) {
        Hash hash;
        std::uint64_t size = 0;
        each(file, [&](const char* bytes, std::size_t n) {
            hash.add(bytes, n);
            size += n;
        });
        all += size;
        index["files"].push_back({{"name", file.name}, {"size", size}, {"hash", hash.text()}});
    }
    const std::filesystem::path partial = pack.string() + ".part-" + std::to_string(::getpid());
    const auto drop = [&] {
        std::error_code ignored;
        std::filesystem::remove(partial, ignored);
    };
    std::ofstream out(partial, std::ios::binary | std::ios::trunc);
    std::string text = index.dump(1);
    std::string digits = std::to_string(text.size());
    digits.insert(0, indexBytes - digits.size(), '0');
    out << head << digits << text;
    std::uint64_t done = 0;
    bool stopped = false;
    try {
        for (const PackedFile& file : files) {
            each(file, [&](const char* bytes, std::size_t n) {
                out.write(bytes, static_cast<std::streamsize>(n));
                done += n;
                stopped =
                    stopped ||
                    (progress && !progress(static_cast<double>(done) / static_cast<double>(std::max<std::uint64_t>(all, 1))));
            });
            if (stopped) {
                break;
            }
        }
    } catch (const FileError&) {
        drop();
        throw;
    }
    out.close();
    std::error_code error;
    if (out && !stopped) {
        std::filesystem::rename(partial, pack, error);
    }
    if (!out || stopped || error) {
        drop();
    }
    if (!out || error) {
        throw FileError(pack.string() + ": cannot be written" + (error ? " (" + error.message() + ")" : std::string()) +
                        "; make room, or choose another place");
    }
    return !stopped;
}

std::string findsName(std::size_t level)
{
    return findsFolder + std::to_string(level) + ".bin";
}

void unpack(const std::filesystem::path& pack, const std::filesystem::path& folder, bool finds)
{
    std::ifstream in(pack, std::ios::binary);
    if (!in) {
        throw FileError(pack.string() + ": cannot be opened; choose the file again");
    }
    const std::vector<Listed> files = readIndex(in, pack.string());
    std::error_code error;
    for (const Listed& file : files) {
        if (!finds && file.name.starts_with(findsFolder)) {
            eachPiece(in, file.size, pack.string(), [](const char*, std::size_t) {});
            continue;
        }
        const std::filesystem::path to = folder / file.name;
        std::filesystem::create_directories(to.parent_path(), error);
        // Through a link that lies there already it would be written elsewhere.
        std::filesystem::remove(to, error);
        std::ofstream out(to, std::ios::binary | std::ios::trunc);
        Hash hash;
        try {
            eachPiece(in, file.size, pack.string(), [&](const char* bytes, std::size_t n) {
                hash.add(bytes, n);
                out.write(bytes, static_cast<std::streamsize>(n));
            });
            out.close();
            if (!out) {
                throw FileError(to.string() + ": cannot be written; make room, or choose another place");
            }
            if (hash.text() != file.hash) {
                throw FileError(pack.string() + ": " + file.name + " in it is damaged; get the pack again");
            }
        } catch (const FileError&) {
            std::filesystem::remove(to, error);
            throw;
        }
    }
}

PassingFolder::PassingFolder()
{
    std::error_code error;
    std::string pattern = (std::filesystem::temp_directory_path(error) / "stone-echo-XXXXXX").string();
    if (error || mkdtemp(pattern.data()) == nullptr) {
        throw FileError(pattern + ": no folder can be made there; set TMPDIR to one that can be written to");
    }
    path_ = pattern;
}

PassingFolder::~PassingFolder()
{
    std::error_code ignored;
    std::filesystem::remove_all(path_, ignored);
}

} // namespace stone
