// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/file_error.h"

#include <sqlite3.h>

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace stone
{

/// A database file. Throws FileError with the file's name and what SQLite says.
class Database
{
public:
    Database(const std::filesystem::path& file, int flags);
    ~Database();
    Database(const Database&) = delete;
    Database& operator=(const Database&) = delete;

    void run(const char* sql);
    [[noreturn]] void fail(const std::string& doing) const;
    sqlite3* get() const { return db_; }

private:
    std::string name_;
    sqlite3* db_ = nullptr;
};

/// A statement that is made once and run again and again.
class Statement
{
public:
    Statement(Database& db, const char* sql);
    ~Statement();
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    Statement& bind(int index, std::int64_t value);
    Statement& bind(int index, double value);
    Statement& bind(int index, std::string_view text);
    Statement& bindBytes(int index, std::string_view bytes);
    Statement& bindNull(int index);

    /// The next row; false at the end.
    bool step();
    /// Carries out what has no rows, and makes it ready for the next time.
    void run();
    void reset();

    std::int64_t whole(int column) const { return sqlite3_column_int64(statement_, column); }
    double real(int column) const { return sqlite3_column_double(statement_, column); }
    bool isNull(int column) const { return sqlite3_column_type(statement_, column) == SQLITE_NULL; }
    /// Valid until the next step.
    std::string_view text(int column) const;
    std::string_view bytes(int column) const;

private:
    Database& db_;
    sqlite3_stmt* statement_ = nullptr;
};

/// Bytes made smaller, and as they were. unpacked() throws FileError where they are damaged, and gives no more than
/// `most` bytes.
std::string packed(std::string_view bytes);
std::string unpacked(std::string_view bytes, std::size_t most);

} // namespace stone
