// SPDX-License-Identifier: MIT
#pragma once
// Reads tables, views, keys, links and constraints out of an SQLite database.

#include <map>
#include <string>
#include <vector>

#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_connection.h"

namespace jollyrow::sqlite {

Result<std::vector<TableSummary>> readTables(sqlite3* connection);
/// A table or view of the main schema.
Result<TableSchema> readTableSchema(sqlite3* connection, const std::string& table,
                                    const std::map<std::string, ReadAs>& readAs = {});
/// The result columns of a SELECT; refuses anything that is not one statement that only reads.
Result<TableSchema> readQuerySchema(sqlite3* connection, const std::string& query,
                                    const std::map<std::string, ReadAs>& readAs = {});
/// What a binding gives: one of the above, with the related fields it asks for.
Result<TableSchema> readSchema(sqlite3* connection, const Binding& binding);
/// What the row id is called in SQL: "rowid" unless the table has columns of that name. None when it cannot be named.
std::optional<std::string> rowIdName(const TableSchema& schema);
/// True when the table has a row id that can name its records; false for views, queries and WITHOUT ROWID tables.
bool hasRowId(sqlite3* connection, const TableSchema& schema);

}  // namespace jollyrow::sqlite
