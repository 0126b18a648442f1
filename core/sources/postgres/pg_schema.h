// SPDX-License-Identifier: MIT
#pragma once
// What a PostgreSQL database says of its tables, from its catalogues (PostgreSQL's documentation, 53).

#include <string>
#include <vector>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

/// Tables and views that the role may read; those outside the search path as "schema.table".
Result<std::vector<TableSummary>> readTables(Connection& connection, const Cancel& cancel);

/// The quoted, qualified name of a table called as readTables() does. NotFound names it.
Result<std::string> tableSql(Connection& connection, const std::string& table, const Cancel& cancel = {});

/// Of a binding, related fields included. Best within one transaction.
Result<TableSchema> readSchema(Connection& connection, const Binding& binding, const Cancel& cancel);
Result<TableSchema> readTableSchema(Connection& connection, const std::string& table, const Cancel& cancel);

/// How many decimals the values of fields without a stated size need; looks at all records, or at the first `most`.
Result<void> fitScales(Connection& connection, TableSchema& schema, const std::string& from, std::optional<int> most,
                       const Cancel& cancel);

/// "t2.\"name\"": the table itself is t0.
std::string columnSql(const FieldSchema& field);
/// FROM and the joins that some fields need. `joins`: indices from 1.
Result<std::string> fromSql(Connection& connection, const TableSchema& schema, const std::vector<int>& joins,
                            const Cancel& cancel);
/// By which the table's records are told apart: its primary key, else a key whose fields are never empty.
std::vector<FieldIndex> keyOf(const TableSchema& schema);

}  // namespace jollyrow::postgres
