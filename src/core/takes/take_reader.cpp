// SPDX-License-Identifier: MPL-2.0
#include "takes/take_reader.h"

#include "takes/moment_codec.h"
#include "takes/sound_chunk.h"
#include "takes/sqlite.h"
#include "takes/take_bytes.h"
#include "takes/take_schema.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

namespace
{

// No part that is written is larger; what claims to be is damaged.
constexpr std::size_t mostChunk = 64U << 20U;
constexpr std::size_t mostDocument = 512U << 20U;

void mustBeTake(const std::filesystem::path& file)
{
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error)) {
        throw FileError(file.string() + ": there is no such file");
    }
    if (!isTake(file)) {
        throw FileError(file.string() + ": is no take of Stone Echo");
    }
}

void mustBeKnown(Database& db, const std::filesystem::path& file)
{
    Statement version(db, "PRAGMA user_version");
    if (version.step() && version.whole(0) > takeVersion) {
        throw FileError(file.string() + ": was made by a later version of Stone Echo; open it with that");
    }
}

} // namespace

TakeInfo readTakeInfo(const std::filesystem::path& file)
{
    mustBeTake(file);
    Database db(file, SQLITE_OPEN_READONLY);
    sqlite3_db_config(db.get(), SQLITE_DBCONFIG_WRITABLE_SCHEMA, 1, nullptr);
    mustBeKnown(db, file);
    TakeInfo info;
    Statement words(db, "SELECT key, text FROM info");
    while (words.step()) {
        takeWord(info, words.text(0), std::string(words.text(1)));
    }
    Statement last(db, "SELECT max(to_s) FROM moments");
    if (last.step()) {
        info.seconds = std::max(info.seconds, last.real(0));
    }
    return info;
}

struct Take::State {
    explicit State(const std::filesystem::path& file) : db(file, SQLITE_OPEN_READONLY)
    {
        // Else a file that was cut off would not be read at all: its first page says that there were more.
        sqlite3_db_config(db.get(), SQLITE_DBCONFIG_WRITABLE_SCHEMA, 1, nullptr);
    }

    struct Chunk {
        std::int64_t number;
        double from_s;
        double to_s;
    };
    struct Sound {
        std::int64_t number;
        std::uint64_t frame;
        std::uint64_t frames;
    };

    mutable std::mutex mutex;
    mutable Database db;
    std::vector<Chunk> chunks;
    std::vector<Sound> sounds;
    mutable std::optional<std::size_t> cachedChunk;
    mutable std::vector<TakenMoment> cached;
    mutable std::optional<std::size_t> cachedSound;
    mutable std::vector<float> soundFrames;
};

Take::Take(const std::filesystem::path& file) : path_(file)
{
    mustBeTake(file);
    state_ = std::make_unique<State>(file);
    mustBeKnown(state_->db, file);
    readAll();
}

Take::~Take() = default;

template <class Each> void Take::eachRow(const char* sql, Each&& each)
{
    try {
        Statement rows(state_->db, sql);
        while (rows.step()) {
            each(rows);
        }
    } catch (const FileError& error) {
        damage_ = damage_.empty() ? error.what() : damage_;
    }
}

void Take::readAll()
{
    const auto text = [](const Statement& row, int column) { return std::string(row.text(column)); };
    eachRow("SELECT key, text FROM info", [&](Statement& row) { takeWord(info_, row.text(0), text(row, 1)); });
    eachRow("SELECT id, name, kind, family, family_name FROM emitters ORDER BY number", [&](Statement& row) {
        const auto kind = std::clamp<std::int64_t>(row.whole(2), 0, static_cast<std::int64_t>(emitterKindCount) - 1);
        emitters_.push_back({{text(row, 0)}, text(row, 1), static_cast<EmitterKind>(kind), {text(row, 3)}, text(row, 4)});
    });
    eachRow("SELECT emitter, part, start, sound, sound_name, began_s FROM copies ORDER BY number", [&](Statement& row) {
        copies_.push_back({static_cast<std::uint32_t>(row.whole(0)),
                           static_cast<std::uint8_t>(row.whole(1)),
                           static_cast<std::uint64_t>(row.whole(2)),
                           {text(row, 3)},
                           text(row, 4),
                           row.real(5)});
    });
    eachRow("SELECT id, name FROM rooms ORDER BY number", [&](Statement& row) {
        rooms_.push_back({text(row, 0), text(row, 1)});
    });
    eachRow("SELECT id, name FROM game_values ORDER BY number", [&](Statement& row) {
        values_.push_back({text(row, 0), text(row, 1)});
    });
    eachRow("SELECT t_s, words FROM documents ORDER BY number", [&](Statement& row) {
        documents_.push_back({row.real(0), text(row, 1)});
    });
    eachRow("SELECT t_s, kind, name, value, document FROM events ORDER BY t_s, number", [&](Statement& row) {
        const auto kind = std::clamp<std::int64_t>(row.whole(1), 0, static_cast<std::int64_t>(TakeEvent::Kind::edit));
        TakeEvent event{row.real(0), static_cast<TakeEvent::Kind>(kind), text(row, 2), row.real(3), {}};
        if (!row.isNull(4) && static_cast<std::size_t>(row.whole(4)) < documents_.size()) {
            event.document = static_cast<std::uint32_t>(row.whole(4));
        }
        events_.push_back(std::move(event));
    });
    eachRow("SELECT from_s, to_s, copy, by_copy, under_db FROM masked ORDER BY from_s, number", [&](Statement& row) {
        const TakenMasking masking{row.real(0), row.real(1), static_cast<std::uint32_t>(row.whole(2)),
                                   static_cast<std::uint32_t>(row.whole(3)), row.real(4)};
        if (masking.copy < copies_.size() && masking.by < copies_.size()) {
            masked_.push_back(masking);
        }
    });
    eachRow("SELECT number, from_s, to_s FROM moments ORDER BY number", [&](Statement& row) {
        state_->chunks.push_back({row.whole(0), row.real(1), row.real(2)});
    });
    eachRow("SELECT number, frame, frames FROM sound ORDER BY number", [&](Statement& row) {
        state_->sounds.push_back(
            {row.whole(0), static_cast<std::uint64_t>(row.whole(1)), static_cast<std::uint64_t>(row.whole(2))});
    });
    // One that was ended in the middle does not say how long it is. What its copies and emitters are called may be missing.
    if (!state_->chunks.empty()) {
        info_.seconds = std::max(info_.seconds, state_->chunks.back().to_s);
    }
    constexpr std::uint32_t mostEmitters = 1'000'000;
    for (TakeCopy& copy : copies_) {
        copy.emitter = std::min(copy.emitter, mostEmitters);
        emitters_.resize(std::max<std::size_t>(emitters_.size(), copy.emitter + 1));
    }
}

std::string Take::documentText(std::size_t document) const
{
    const std::lock_guard lock(state_->mutex);
    Statement row(state_->db, "SELECT json FROM documents WHERE number = ?");
    row.bind(1, static_cast<std::int64_t>(document));
    if (!row.step()) {
        throw FileError(path_.string() + ": the document is missing");
    }
    return unpacked(row.bytes(0), mostDocument);
}

std::vector<TakeBin> Take::overview() const
{
    const std::lock_guard lock(state_->mutex);
    std::vector<TakeBin> bins;
    try {
        Statement rows(state_->db, "SELECT from_s, data FROM overview ORDER BY number");
        while (rows.step()) {
            const double from_s = rows.real(0);
            const std::string data = unpacked(rows.bytes(1), mostChunk);
            ByteReader in(data);
            const auto level = [&in] { return static_cast<float>(in.whole()) / 100.0F; };
            for (std::uint64_t left = in.count(); left > 0 && !in.failed(); --left) {
                TakeBin bin;
                bin.t_s = from_s + static_cast<double>(in.whole()) / 1e4;
                bin.momentary_lufs = level();
                bin.voices = static_cast<std::uint32_t>(in.count());
                bin.gaveWay = static_cast<std::uint32_t>(in.count());
                for (std::uint64_t more = in.count(); more > 0 && !in.failed(); --more) {
                    TakeBin::Of of;
                    of.emitter = static_cast<std::uint32_t>(in.count());
                    of.mean_db = level();
                    of.most_db = level();
                    if (of.emitter < emitters_.size()) {
                        bin.emitters.push_back(of);
                    }
                }
                if (!in.failed()) {
                    bins.push_back(std::move(bin));
                }
            }
        }
    } catch (const FileError&) {
        // As far as it goes: damage() has said so where it is known.
    }
    return bins;
}

/// Valid until the next one.
const std::vector<TakenMoment>& Take::chunkAt(std::size_t chunk) const
{
    if (state_->cachedChunk == chunk) {
        return state_->cached;
    }
    std::vector<TakenMoment> moments;
    try {
        Statement row(state_->db, "SELECT data FROM moments WHERE number = ?");
        row.bind(1, state_->chunks[chunk].number);
        if (row.step()) {
            moments = decodeMoments(unpacked(row.bytes(0), mostChunk));
        }
    } catch (const FileError&) {
        moments.clear();
    }
    // What refers to nothing is left out.
    for (TakenMoment& moment : moments) {
        std::erase_if(moment.copies, [this](const TakenCopy& copy) { return copy.copy >= copies_.size(); });
        std::erase_if(moment.rooms, [this](const TakenRoom& room) { return room.room >= rooms_.size(); });
        for (TakenCopy& copy : moment.copies) {
            if (copy.gaveWay && copy.gaveWay->to >= emitters_.size()) {
                copy.gaveWay->to = copies_[copy.copy].emitter;
            }
        }
    }
    state_->cachedChunk = chunk;
    state_->cached = std::move(moments);
    return state_->cached;
}

std::vector<TakenMoment> Take::moments(double from_s, double to_s) const
{
    const std::lock_guard lock(state_->mutex);
    std::vector<TakenMoment> all;
    for (std::size_t i = 0; i < state_->chunks.size(); ++i) {
        if (state_->chunks[i].to_s < from_s || state_->chunks[i].from_s > to_s) {
            continue;
        }
        for (const TakenMoment& moment : chunkAt(i)) {
            if (moment.t_s >= from_s && moment.t_s <= to_s) {
                all.push_back(moment);
            }
        }
    }
    return all;
}

void Take::eachMoment(const std::function<bool(const TakenMoment&)>& each) const
{
    for (std::size_t i = 0; i < state_->chunks.size(); ++i) {
        std::vector<TakenMoment> moments;
        {
            const std::lock_guard lock(state_->mutex);
            moments = chunkAt(i);
        }
        for (const TakenMoment& moment : moments) {
            if (!each(moment)) {
                return;
            }
        }
    }
}

std::optional<TakenMoment> Take::momentAt(double t_s) const
{
    const std::lock_guard lock(state_->mutex);
    const auto& chunks = state_->chunks;
    auto after = std::upper_bound(chunks.begin(), chunks.end(), t_s,
                                  [](double time, const State::Chunk& chunk) { return time < chunk.from_s; });
    while (after != chunks.begin()) {
        const std::vector<TakenMoment>& moments = chunkAt(static_cast<std::size_t>(--after - chunks.begin()));
        const auto later = std::upper_bound(moments.begin(), moments.end(), t_s,
                                            [](double time, const TakenMoment& moment) { return time < moment.t_s; });
        if (later != moments.begin()) {
            return *(later - 1);
        }
    }
    return {};
}

std::vector<TakenCost> Take::costs() const
{
    const std::lock_guard lock(state_->mutex);
    std::vector<TakenCost> all;
    try {
        Statement rows(state_->db, "SELECT t_s, data FROM costs ORDER BY number");
        while (rows.step()) {
            ByteReader in(rows.bytes(1));
            TakenCost cost;
            cost.t_s = rows.real(0);
            const auto real = [&in] { return static_cast<double>(in.real()); };
            cost.costs.span_s = real();
            cost.memory_bytes = real();
            for (double& stage : cost.costs.stages_s) {
                stage = real();
            }
            for (double& work : cost.costs.works_s) {
                work = real();
            }
            for (std::uint64_t left = in.count(); left > 0 && !in.failed(); --left) {
                Costs::OfSound of;
                of.sound.text = in.text();
                of.seconds = real();
                of.voices = real();
                cost.costs.sounds.push_back(std::move(of));
            }
            if (!in.failed()) {
                all.push_back(std::move(cost));
            }
        }
    } catch (const FileError&) {
        // As far as it goes.
    }
    return all;
}

std::uint64_t Take::soundFrames() const
{
    return state_->sounds.empty() ? 0 : state_->sounds.back().frame + state_->sounds.back().frames;
}

std::vector<float> Take::sound(std::uint64_t frame, std::uint64_t frames) const
{
    const std::lock_guard lock(state_->mutex);
    const auto channels = static_cast<std::size_t>(std::max(info_.channels, 1));
    std::vector<float> out;
    for (std::size_t i = 0; i < state_->sounds.size() && frames > 0; ++i) {
        const State::Sound& chunk = state_->sounds[i];
        if (chunk.frame + chunk.frames <= frame || chunk.frame >= frame + frames) {
            continue;
        }
        if (state_->cachedSound != i) {
            Statement row(state_->db, "SELECT flac FROM sound WHERE number = ?");
            row.bind(1, chunk.number);
            state_->soundFrames = row.step() ? decodeSoundChunk(row.bytes(0), info_.channels) : std::vector<float>();
            state_->cachedSound = i;
        }
        const std::uint64_t there = state_->soundFrames.size() / channels;
        const std::uint64_t from = std::min(frame > chunk.frame ? frame - chunk.frame : 0, there);
        const std::uint64_t to = std::min(frame + frames - chunk.frame, there);
        out.insert(out.end(), state_->soundFrames.begin() + static_cast<std::ptrdiff_t>(from * channels),
                   state_->soundFrames.begin() + static_cast<std::ptrdiff_t>(to * channels));
    }
    return out;
}

} // namespace stone
