// SPDX-License-Identifier: MIT
#include "core/sources/sqlite/sqlite_connection.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstdint>
#include <cstdio>
#include <cstring>

namespace jollyrow::sqlite {
namespace {

/// Looks at the file before SQLite does, since its own messages do not say what is wrong.
Result<void> looksLikeDatabase(const std::string& path) {
    struct stat info {};
    if (stat(path.c_str(), &info) != 0) return Error{ErrorCode::NotFound, fmt::format("There is no file {}.", path)};
    if (S_ISDIR(info.st_mode))
        return Error{ErrorCode::NotADatabase, fmt::format("{} is a folder. Choose a database file.", path)};
    if (!S_ISREG(info.st_mode))
        return Error{ErrorCode::NotADatabase, fmt::format("{} is a pipe or device. Choose a database file.", path)};
    std::FILE* file = std::fopen(path.c_str(), "rb");
    if (!file) return Error{ErrorCode::Io, fmt::format("{} cannot be read: {}.", path, std::strerror(errno))};
    std::array<char, 16> head{};
    const std::size_t got = std::fread(head.data(), 1, head.size(), file);
    std::fclose(file);
    if (got == 0) return {};  // an empty file is an empty database
    if (got < head.size() || std::string_view(head.data(), 15) != "SQLite format 3")
        return Error{ErrorCode::NotADatabase,
                     fmt::format("{} is not an SQLite database. Choose a file that an SQLite program made.", path)};
    return {};
}

/// Looks again every other millisecond: SQLite's own handler comes to sleep a tenth of a second at a time, and misses
/// the gaps between the commits of a busy writer.
constexpr int kStepMs = 2;
int waitFor(int waitMs, int tries) {
    if (tries * kStepMs >= waitMs) return 0;
    sqlite3_sleep(kStepMs);
    return 1;
}
int waitForLock(void* waitMs, int tries) {
    return waitFor(static_cast<int>(reinterpret_cast<std::intptr_t>(waitMs)), tries);
}

int isCancelled(void* cancel) { return static_cast<const Cancel*>(cancel)->requested() ? 1 : 0; }
int waitUnlessCancelled(void* cancel, int tries) { return isCancelled(cancel) ? 0 : waitFor(kPatientMs, tries); }

}  // namespace

std::string fileOf(sqlite3* connection) {
    const char* file = sqlite3_db_filename(connection, "main");
    return file && *file ? file : "the database";
}

Error errorOf(sqlite3* connection, std::string_view doing) {
    const std::string file = fileOf(connection);
    switch (sqlite3_errcode(connection) & 0xff) {
        case SQLITE_BUSY:
        case SQLITE_LOCKED:
            return {ErrorCode::Locked,
                    fmt::format("{}: {} is locked by another program. Try again when it has finished.", doing, file)};
        case SQLITE_READONLY:
            return {ErrorCode::ReadOnly,
                    fmt::format("{}: {} cannot be written. Check the rights of the file and its folder.", doing, file)};
        case SQLITE_FULL:
            return {
                ErrorCode::DiskFull,
                fmt::format("{}: the disk that holds {} is full. Nothing was changed; free some space and try again.",
                            doing, file)};
        case SQLITE_NOTADB:
            return {ErrorCode::NotADatabase,
                    fmt::format("{}: {} is not an SQLite database, or is encrypted.", doing, file)};
        case SQLITE_CORRUPT:
            return {ErrorCode::NotADatabase, fmt::format("{}: {} is damaged ({}). Restore it from a copy.", doing, file,
                                                         sqlite3_errmsg(connection))};
        case SQLITE_INTERRUPT: return {ErrorCode::Cancelled, fmt::format("{} was cancelled.", doing)};
        case SQLITE_CONSTRAINT: return {ErrorCode::Refused, fmt::format("{}: {}", doing, sqlite3_errmsg(connection))};
        case SQLITE_IOERR:
            if (errno == ENOSPC || errno == EDQUOT || errno == EFBIG)
                return {ErrorCode::DiskFull,
                        fmt::format(
                            "{}: the disk that holds {} is full. Nothing was changed; free some space and try again.",
                            doing, file)};
            return {ErrorCode::Io,
                    fmt::format("{}: reading or writing {} failed ({}).", doing, file, sqlite3_errmsg(connection))};
        case SQLITE_NOMEM:
            return {ErrorCode::Io, fmt::format("{}: there is not enough memory for what {} holds.", doing, file)};
        default:
            if (const std::string said = sqlite3_errmsg(connection); said.find("unsafe use of") != std::string::npos)
                return {
                    ErrorCode::Unsupported,
                    fmt::format("{}: the view reads a virtual table (full text, for one), which a database file may "
                                "not do by itself. Bind to that table, or write the view's SELECT here.",
                                doing)};
            return {ErrorCode::InvalidInput, fmt::format("{}: {} says: {}.", doing, file, sqlite3_errmsg(connection))};
    }
}

void watch(sqlite3* connection, const Cancel& cancel) {
    constexpr int kPollOperations = 20000;  // SQLite instructions between looks: about a millisecond
    sqlite3_progress_handler(connection, kPollOperations, isCancelled, const_cast<Cancel*>(&cancel));
}

void watchLocks(sqlite3* connection, const Cancel& cancel) {
    sqlite3_busy_handler(connection, waitUnlessCancelled, const_cast<Cancel*>(&cancel));
}

void setWait(sqlite3* connection, int waitMs) {
    // NOLINTNEXTLINE(performance-no-int-to-ptr): a number that SQLite hands back, never a place.
    sqlite3_busy_handler(connection, waitForLock, reinterpret_cast<void*>(static_cast<std::intptr_t>(waitMs)));
}

Result<Connection> open(const std::string& path, OpenMode mode, int waitMs) {
    if (mode != OpenMode::Create)
        if (auto sound = looksLikeDatabase(path); !sound) return sound.error();
    int flags = SQLITE_OPEN_NOMUTEX;
    flags |= mode == OpenMode::ReadOnly ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE;
    flags |= mode == OpenMode::Create ? SQLITE_OPEN_CREATE : 0;
    sqlite3* handle = nullptr;
    // SQLite may take a name that begins so for an address.
    const std::string name = path.starts_with("file:") ? "./" + path : path;
    const int code = sqlite3_open_v2(name.c_str(), &handle, flags, nullptr);
    Connection connection(handle);
    if (!handle) return Error{ErrorCode::Io, "There is not enough memory to open the database."};
    if (code != SQLITE_OK) return errorOf(handle, fmt::format("Opening {}", path));
    sqlite3_extended_result_codes(handle, 1);
    setWait(handle, waitMs);
    // Untrusted schema: no function of it may have side effects.
    sqlite3_db_config(handle, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(handle, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    return connection;
}

Result<Statement> prepare(sqlite3* connection, const std::string& sql) {
    sqlite3_stmt* handle = nullptr;
    const char* tail = nullptr;
    if (sqlite3_prepare_v2(connection, sql.data(), static_cast<int>(sql.size()), &handle, &tail) != SQLITE_OK)
        return errorOf(connection, "Reading");
    return Statement(handle);
}

Result<void> execute(sqlite3* connection, const char* sql) {
    if (sqlite3_exec(connection, sql, nullptr, nullptr, nullptr) != SQLITE_OK) return errorOf(connection, "Writing");
    return {};
}

std::string quotedName(std::string_view name) {
    std::string out = "\"";
    for (const char c : name) {
        if (c == '"') out += '"';
        out += c;
    }
    return out += '"';
}

std::string_view columnText(sqlite3_stmt* statement, int column) {
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, column));
    return text ? std::string_view(text, static_cast<std::size_t>(sqlite3_column_bytes(statement, column)))
                : std::string_view{};
}

}  // namespace jollyrow::sqlite
