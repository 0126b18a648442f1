// SPDX-License-Identifier: MIT
#pragma once
// A rule as SQL for a database to compute, with every value bound and none pasted in. What a dialect would compute
// otherwise than we do is refused, with the reason, and stays here (docs/formats/rules.md lists it).

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/rules/program.h"

namespace jollyrow {

enum class SqlDialect { PostgreSql, Sqlite };
std::string_view name(SqlDialect dialect);

struct SqlRule {
    std::string text;               ///< with $1 … (PostgreSQL) or ?1 … (SQLite)
    std::vector<RuleValue> values;  ///< bound to them, in order
};

struct SqlOptions {
    /// How a field is written; by default its name in double quotes, "vessel"."name" when dotted.
    std::function<std::string(FieldIndex)> field;
    std::map<std::string, RuleValue> parameters;  ///< by name
    std::int32_t today = 0;
    std::int64_t now = 0;
};

/// On PostgreSQL the connection's TimeZone must be the program's zone. Unsupported, with a message that says what and
/// why, when the dialect's answer would differ. On SQLite the text names functions and a collation that registerRules()
/// puts on the connection (core/sources/sqlite/sqlite_rules.h).
Result<SqlRule> sqlOf(const Program& program, const TableSchema& schema, SqlDialect dialect, const SqlOptions& options);

}  // namespace jollyrow
