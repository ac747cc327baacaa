// SPDX-License-Identifier: MPL-2.0
#include "takes/take_schema.h"

#include <array>
#include <charconv>
#include <cstring>
#include <fstream>

namespace stone
{

namespace
{

constexpr const char* tables = R"(
CREATE TABLE info (key TEXT PRIMARY KEY, text TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE emitters (number INTEGER PRIMARY KEY, id TEXT, name TEXT, kind INTEGER, family TEXT, family_name TEXT);
CREATE TABLE copies (number INTEGER PRIMARY KEY, emitter INTEGER, part INTEGER, start INTEGER, sound TEXT, sound_name TEXT, began_s REAL);
CREATE TABLE rooms (number INTEGER PRIMARY KEY, id TEXT, name TEXT);
CREATE TABLE game_values (number INTEGER PRIMARY KEY, id TEXT, name TEXT);
CREATE TABLE documents (number INTEGER PRIMARY KEY, t_s REAL, words TEXT, json BLOB);
CREATE TABLE events (number INTEGER PRIMARY KEY, t_s REAL, kind INTEGER, name TEXT, value REAL, document INTEGER);
CREATE TABLE costs (number INTEGER PRIMARY KEY, t_s REAL, data BLOB);
CREATE TABLE moments (number INTEGER PRIMARY KEY, from_s REAL, to_s REAL, data BLOB);
CREATE TABLE overview (number INTEGER PRIMARY KEY, from_s REAL, data BLOB);
CREATE TABLE masked (number INTEGER PRIMARY KEY, from_s REAL, to_s REAL, copy INTEGER, by_copy INTEGER, under_db REAL);
CREATE TABLE sound (number INTEGER PRIMARY KEY, frame INTEGER, frames INTEGER, flac BLOB);
)";

std::string shortest(double value)
{
    std::array<char, 32> text{};
    const auto [end, error] = std::to_chars(text.data(), text.data() + text.size(), value);
    return {text.data(), end};
}

template <class Number> void parse(const std::string& text, Number& value)
{
    std::from_chars(text.data(), text.data() + text.size(), value);
}

} // namespace

bool makeTables(Database& db)
{
    db.run(("PRAGMA application_id = " + std::to_string(takeFileId)).c_str());
    db.run(("PRAGMA user_version = " + std::to_string(takeVersion)).c_str());
    // A journal that is emptied instead of removed, and no wait for the disk at each commit: a take is worth no stutter.
    db.run("PRAGMA journal_mode = TRUNCATE");
    db.run("PRAGMA synchronous = OFF");
    db.run(tables);
    return true;
}

bool isTake(const std::filesystem::path& file)
{
    // https://www.sqlite.org/fileformat.html: the application's number lies at byte 68, highest byte first.
    constexpr std::size_t idAt = 68;
    std::array<char, 100> head{};
    std::ifstream in(file, std::ios::binary);
    if (!in.read(head.data(), head.size()) || std::memcmp(head.data(), "SQLite format 3", 16) != 0) {
        return false;
    }
    std::uint32_t id = 0;
    for (std::size_t i = 0; i < 4; ++i) {
        id = id << 8U | static_cast<std::uint8_t>(head[idAt + i]);
    }
    return id == static_cast<std::uint32_t>(takeFileId);
}

std::vector<std::pair<const char*, std::string>> inWords(const TakeInfo& info)
{
    return {{"project", info.project},
            {"level", info.level},
            {"level_id", info.levelId},
            {"walk", info.walk},
            {"walk_id", info.walkId},
            {"layout", info.layout},
            {"seed", std::to_string(info.seed)},
            {"rate", std::to_string(info.rate)},
            {"channels", std::to_string(info.channels)},
            {"note", info.note},
            {"recorded", info.recorded},
            {"machine", info.machine},
            {"seconds", shortest(info.seconds)},
            {"integrated_lufs", shortest(info.integrated_lufs)},
            {"true_peak_db", shortest(info.truePeak_db)}};
}

void takeWord(TakeInfo& info, std::string_view key, const std::string& text)
{
    const std::pair<std::string_view, std::string TakeInfo::*> texts[] = {
        {"project", &TakeInfo::project}, {"level", &TakeInfo::level},       {"level_id", &TakeInfo::levelId},
        {"walk", &TakeInfo::walk},       {"walk_id", &TakeInfo::walkId},    {"layout", &TakeInfo::layout},
        {"note", &TakeInfo::note},       {"recorded", &TakeInfo::recorded}, {"machine", &TakeInfo::machine}};
    for (const auto& [name, member] : texts) {
        if (key == name) {
            info.*member = text;
        }
    }
    if (key == "seed") {
        parse(text, info.seed);
    } else if (key == "rate") {
        parse(text, info.rate);
    } else if (key == "channels") {
        parse(text, info.channels);
    } else if (key == "seconds") {
        parse(text, info.seconds);
    } else if (key == "integrated_lufs") {
        parse(text, info.integrated_lufs);
    } else if (key == "true_peak_db") {
        parse(text, info.truePeak_db);
    }
}

} // namespace stone
