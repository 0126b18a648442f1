// SPDX-License-Identifier: MIT
#pragma once
// A thin owner of SQLite handles, and the translation of its error codes into ours. Only core/sources and the demo
// generator include this.

#include <memory>
#include <string>
#include <string_view>

#include <sqlite3.h>

#include "core/base/cancel.h"
#include "core/base/result.h"

namespace jollyrow::sqlite {

enum class OpenMode { ReadOnly, ReadWrite, Create };

struct CloseConnection {
    void operator()(sqlite3* connection) const { sqlite3_close_v2(connection); }
};
struct FinalizeStatement {
    void operator()(sqlite3_stmt* statement) const { sqlite3_finalize(statement); }
};
using Connection = std::unique_ptr<sqlite3, CloseConnection>;
using Statement = std::unique_ptr<sqlite3_stmt, FinalizeStatement>;

/// Each connection belongs to one thread at a time (SQLITE_OPEN_NOMUTEX).
/// A lock held by another is waited for this long, on workers and in programs without a window.
inline constexpr int kPatientMs = 5000;
Result<Connection> open(const std::string& path, OpenMode mode, int waitMs = kPatientMs);
/// From here on it waits so long.
void setWait(sqlite3* connection, int waitMs);
/// From here on a statement of the connection ends soon after it was asked to, with SQLITE_INTERRUPT. `cancel` must
/// outlive its use.
void watch(sqlite3* connection, const Cancel& cancel);
/// The same while it waits for a lock, for kPatientMs.
void watchLocks(sqlite3* connection, const Cancel& cancel);
/// The full path of the main database's file; words where there is none.
std::string fileOf(sqlite3* connection);
Result<Statement> prepare(sqlite3* connection, const std::string& sql);
Result<void> execute(sqlite3* connection, const char* sql);
/// The connection's last failure, in words that name the file.
Error errorOf(sqlite3* connection, std::string_view doing);
/// A name as SQL: in double quotes, inner ones doubled.
std::string quotedName(std::string_view name);
std::string_view columnText(sqlite3_stmt* statement, int column);

}  // namespace jollyrow::sqlite
