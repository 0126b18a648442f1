// SPDX-License-Identifier: MIT
#pragma once
// What a database file itself holds, read by a connection of the test's own.

#include <QString>

#include <sqlite3.h>

namespace jollyrow::test {

/// The first value of the first row, as text. `db` stays open.
inline QString storedText(sqlite3* db, const char* sql) {
    sqlite3_stmt* statement = nullptr;
    sqlite3_prepare_v2(db, sql, -1, &statement, nullptr);
    sqlite3_step(statement);
    const QString text = QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(statement, 0)));
    sqlite3_finalize(statement);
    return text;
}
/// The same of a file, whose locks are waited for.
inline QString storedText(const QString& path, const char* sql) {
    constexpr int kPatienceMs = 30'000;
    sqlite3* db = nullptr;
    sqlite3_open(path.toUtf8().constData(), &db);
    sqlite3_busy_timeout(db, kPatienceMs);
    const QString text = storedText(db, sql);
    sqlite3_close(db);
    return text;
}

}  // namespace jollyrow::test
