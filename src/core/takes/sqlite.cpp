// SPDX-License-Identifier: MPL-2.0
#include "takes/sqlite.h"

#include <zlib.h>

#include <algorithm>

namespace stone
{

Database::Database(const std::filesystem::path& file, int flags) : name_(file.string())
{
    if (sqlite3_open_v2(file.c_str(), &db_, flags | SQLITE_OPEN_NOFOLLOW, nullptr) != SQLITE_OK) {
        const std::string why = db_ != nullptr ? sqlite3_errmsg(db_) : "there is no memory";
        sqlite3_close(db_);
        db_ = nullptr;
        throw FileError(name_ + ": cannot be opened: " + why);
    }
    sqlite3_busy_timeout(db_, 2'000);
}

Database::~Database()
{
    sqlite3_close(db_);
}

void Database::fail(const std::string& doing) const
{
    throw FileError(name_ + ": " + doing + ": " + sqlite3_errmsg(db_));
}

void Database::run(const char* sql)
{
    if (sqlite3_exec(db_, sql, nullptr, nullptr, nullptr) != SQLITE_OK) {
        fail("cannot be written");
    }
}

Statement::Statement(Database& db, const char* sql) : db_(db)
{
    if (sqlite3_prepare_v2(db.get(), sql, -1, &statement_, nullptr) != SQLITE_OK) {
        db.fail("cannot be read");
    }
}

Statement::~Statement()
{
    sqlite3_finalize(statement_);
}

Statement& Statement::bind(int index, std::int64_t value)
{
    sqlite3_bind_int64(statement_, index, value);
    return *this;
}

Statement& Statement::bind(int index, double value)
{
    sqlite3_bind_double(statement_, index, value);
    return *this;
}

Statement& Statement::bind(int index, std::string_view text)
{
    sqlite3_bind_text64(statement_, index, text.data(), text.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
    return *this;
}

Statement& Statement::bindBytes(int index, std::string_view bytes)
{
    sqlite3_bind_blob64(statement_, index, bytes.data(), bytes.size(), SQLITE_TRANSIENT);
    return *this;
}

Statement& Statement::bindNull(int index)
{
    sqlite3_bind_null(statement_, index);
    return *this;
}

bool Statement::step()
{
    const int result = sqlite3_step(statement_);
    if (result != SQLITE_ROW && result != SQLITE_DONE) {
        db_.fail("cannot be read on");
    }
    return result == SQLITE_ROW;
}

void Statement::run()
{
    const int result = sqlite3_step(statement_);
    if (result != SQLITE_ROW && result != SQLITE_DONE) {
        db_.fail("cannot be written");
    }
    reset();
}

void Statement::reset()
{
    sqlite3_reset(statement_);
    sqlite3_clear_bindings(statement_);
}

std::string_view Statement::text(int column) const
{
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement_, column));
    return text != nullptr ? std::string_view(text, static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)))
                           : std::string_view();
}

std::string_view Statement::bytes(int column) const
{
    const auto* bytes = static_cast<const char*>(sqlite3_column_blob(statement_, column));
    return bytes != nullptr ? std::string_view(bytes, static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)))
                            : std::string_view();
}

std::string packed(std::string_view bytes)
{
    uLongf size = compressBound(bytes.size());
    std::string out(size, '\0');
    constexpr int quick = 4;
    compress2(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(bytes.data()), bytes.size(), quick);
    out.resize(size);
    return out;
}

std::string unpacked(std::string_view bytes, std::size_t most)
{
    std::string out(std::min<std::size_t>(most, std::max<std::size_t>(4 * bytes.size(), 1'024)), '\0');
    for (;;) {
        uLongf size = out.size();
        const int result =
            uncompress(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(bytes.data()), bytes.size());
        if (result == Z_OK) {
            out.resize(size);
            return out;
        }
        if (result != Z_BUF_ERROR || out.size() >= most) {
            throw FileError("a part of the take is damaged");
        }
        out.resize(std::min(most, 4 * out.size()));
    }
}

} // namespace stone
