// SPDX-License-Identifier: MIT
#pragma once
// Related fields in SQLite: the SQL that joins them, look-ups into the other table, and one record read again.

#include <string>
#include <vector>

#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_connection.h"

namespace jollyrow::sqlite {

/// The field with its table's alias: t0."due_on", t2."name".
std::string columnSql(const FieldSchema& field);
/// The same as records are loaded: of a field that stays in the database (FieldSchema::unread) how long its value is,
/// in decimal digits. SQLite knows the length of a blob without reading it.
std::string loadedSql(const FieldSchema& field, const std::string& column);
/// The table and the joins that are wanted, with those they hang on. All joins are LEFT JOINs to one record at most.
std::string fromSql(const TableSchema& schema, const std::vector<int>& joins);

Result<std::vector<LookUpEntry>> lookUp(sqlite3* connection, const LookUpRequest& request, const Cancel& cancel);
Result<std::vector<Value>> valuesOf(sqlite3* connection, const RecordRequest& request);
/// What points to these records of one table, of tables that have some.
Result<std::vector<bool>> arePresent(sqlite3* connection, const std::vector<PresenceRequest>& requests,
                                     const Cancel& cancel);
Result<std::vector<Dependents>> dependentsOf(sqlite3* connection, const std::vector<RecordRequest>& records,
                                             const Cancel& cancel);

}  // namespace jollyrow::sqlite
