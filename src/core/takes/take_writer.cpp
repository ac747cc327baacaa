// SPDX-License-Identifier: MPL-2.0
#include "takes/take_writer.h"

#include "takes/sqlite.h"
#include "takes/take_bytes.h"
#include "takes/take_schema.h"

#include <algorithm>
#include <cmath>
#include <system_error>

namespace stone
{

namespace
{

/// Only a take gives way to a take.
void makeRoom(const std::filesystem::path& file)
{
    std::error_code error;
    const auto status = std::filesystem::symlink_status(file, error);
    if (status.type() == std::filesystem::file_type::not_found) {
        return;
    }
    if (status.type() != std::filesystem::file_type::regular) {
        throw FileError(file.string() + ": is no file; give the take another name");
    }
    if (std::filesystem::file_size(file, error) > 0 && !isTake(file)) {
        throw FileError(file.string() + ": is another kind of file, and is left as it is; give the take another name");
    }
    std::filesystem::remove(file, error);
    std::filesystem::remove(file.string() + "-journal", error);
}

} // namespace

struct TakeWriter::State {
    State(const std::filesystem::path& file)
        : db(file, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE), made(makeTables(db)),
          info(db, "INSERT OR REPLACE INTO info VALUES (?, ?)"), emitter(db, "INSERT INTO emitters VALUES (?, ?, ?, ?, ?, ?)"),
          copy(db, "INSERT INTO copies VALUES (?, ?, ?, ?, ?, ?, ?)"), room(db, "INSERT INTO rooms VALUES (?, ?, ?)"),
          value(db, "INSERT INTO game_values VALUES (?, ?, ?)"), document(db, "INSERT INTO documents VALUES (?, ?, ?, ?)"),
          event(db, "INSERT INTO events VALUES (NULL, ?, ?, ?, ?, ?)"), cost(db, "INSERT INTO costs VALUES (NULL, ?, ?)"),
          masked(db, "INSERT INTO masked VALUES (NULL, ?, ?, ?, ?, ?)"),
          moments(db, "INSERT INTO moments VALUES (NULL, ?, ?, ?)"), bins(db, "INSERT INTO overview VALUES (NULL, ?, ?)"),
          sound(db, "INSERT INTO sound VALUES (NULL, ?, ?, ?)")
    {
    }

    Database db;
    bool made;
    Statement info;
    Statement emitter;
    Statement copy;
    Statement room;
    Statement value;
    Statement document;
    Statement event;
    Statement cost;
    Statement masked;
    Statement moments;
    Statement bins;
    Statement sound;
    std::int64_t emitters = 0;
    std::int64_t copies = 0;
    std::int64_t rooms = 0;
    std::int64_t values = 0;
    std::int64_t documents = 0;
};

TakeWriter::TakeWriter(const std::filesystem::path& file, const TakeInfo& info)
{
    makeRoom(file);
    state_ = std::make_unique<State>(file);
    state_->db.run("BEGIN");
    for (const auto& [key, text] : inWords(info)) {
        state_->info.bind(1, std::string_view(key)).bind(2, std::string_view(text)).run();
    }
    commit();
}

TakeWriter::~TakeWriter()
{
    // What was not committed was not promised; a failure here has been said before.
    sqlite3_exec(state_->db.get(), "COMMIT", nullptr, nullptr, nullptr);
}

void TakeWriter::addEmitter(const TakeEmitter& emitter)
{
    state_->emitter.bind(1, state_->emitters++)
        .bind(2, std::string_view(emitter.id.text))
        .bind(3, std::string_view(emitter.name))
        .bind(4, static_cast<std::int64_t>(emitter.kind))
        .bind(5, std::string_view(emitter.family.text))
        .bind(6, std::string_view(emitter.familyName))
        .run();
}

void TakeWriter::addCopy(const TakeCopy& copy)
{
    state_->copy.bind(1, state_->copies++)
        .bind(2, static_cast<std::int64_t>(copy.emitter))
        .bind(3, static_cast<std::int64_t>(copy.part))
        .bind(4, static_cast<std::int64_t>(copy.number))
        .bind(5, std::string_view(copy.sound.text))
        .bind(6, std::string_view(copy.soundName))
        .bind(7, copy.began_s)
        .run();
}

void TakeWriter::addRoom(const std::string& id, const std::string& name)
{
    state_->room.bind(1, state_->rooms++).bind(2, std::string_view(id)).bind(3, std::string_view(name)).run();
}

void TakeWriter::addValue(const std::string& id, const std::string& name)
{
    state_->value.bind(1, state_->values++).bind(2, std::string_view(id)).bind(3, std::string_view(name)).run();
}

void TakeWriter::addDocument(double t_s, const std::string& words, std::string_view text)
{
    state_->document.bind(1, state_->documents++)
        .bind(2, t_s)
        .bind(3, std::string_view(words))
        .bindBytes(4, packed(text))
        .run();
}

void TakeWriter::add(const TakeEvent& event)
{
    state_->event.bind(1, event.t_s)
        .bind(2, static_cast<std::int64_t>(event.kind))
        .bind(3, std::string_view(event.name))
        .bind(4, event.number);
    if (event.document) {
        state_->event.bind(5, static_cast<std::int64_t>(*event.document));
    } else {
        state_->event.bindNull(5);
    }
    state_->event.run();
}

void TakeWriter::add(const TakenCost& cost)
{
    ByteWriter out;
    out.real(static_cast<float>(cost.costs.span_s));
    out.real(static_cast<float>(cost.memory_bytes));
    for (const double stage : cost.costs.stages_s) {
        out.real(static_cast<float>(stage));
    }
    for (const double work : cost.costs.works_s) {
        out.real(static_cast<float>(work));
    }
    out.count(cost.costs.sounds.size());
    for (const Costs::OfSound& of : cost.costs.sounds) {
        out.text(of.sound.text);
        out.real(static_cast<float>(of.seconds));
        out.real(static_cast<float>(of.voices));
    }
    state_->cost.bind(1, cost.t_s).bindBytes(2, out.bytes()).run();
}

void TakeWriter::add(const TakenMasking& masking)
{
    state_->masked.bind(1, masking.from_s)
        .bind(2, masking.to_s)
        .bind(3, static_cast<std::int64_t>(masking.copy))
        .bind(4, static_cast<std::int64_t>(masking.by))
        .bind(5, masking.under_db)
        .run();
}

void TakeWriter::addMoments(double from_s, double to_s, std::string_view chunk)
{
    state_->moments.bind(1, from_s).bind(2, to_s).bindBytes(3, packed(chunk)).run();
}

void TakeWriter::addBins(double from_s, std::span<const TakeBin> bins)
{
    ByteWriter out;
    out.count(bins.size());
    for (const TakeBin& bin : bins) {
        out.whole(std::llround((bin.t_s - from_s) * 1e4));
        out.whole(std::llround(std::max(bin.momentary_lufs, -200.0F) * 100.0F));
        out.count(bin.voices);
        out.count(bin.gaveWay);
        out.count(bin.emitters.size());
        for (const TakeBin::Of& of : bin.emitters) {
            out.count(of.emitter);
            out.whole(std::llround(std::max(of.mean_db, -200.0F) * 100.0F));
            out.whole(std::llround(std::max(of.most_db, -200.0F) * 100.0F));
        }
    }
    state_->bins.bind(1, from_s).bindBytes(2, packed(out.bytes())).run();
}

void TakeWriter::addSound(std::uint64_t frame, std::uint64_t frames, std::string_view flac)
{
    state_->sound.bind(1, static_cast<std::int64_t>(frame)).bind(2, static_cast<std::int64_t>(frames)).bindBytes(3, flac).run();
}

void TakeWriter::commit()
{
    state_->db.run("COMMIT");
    state_->db.run("BEGIN");
}

void TakeWriter::finish(double seconds, double integrated_lufs, double truePeak_db)
{
    TakeInfo last;
    last.seconds = seconds;
    last.integrated_lufs = integrated_lufs;
    last.truePeak_db = truePeak_db;
    for (const auto& [key, text] : inWords(last)) {
        const std::string_view name = key;
        if (name == "seconds" || name == "integrated_lufs" || name == "true_peak_db") {
            state_->info.bind(1, name).bind(2, std::string_view(text)).run();
        }
    }
    commit();
}

} // namespace stone
