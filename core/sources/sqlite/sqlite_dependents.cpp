// SPDX-License-Identifier: MIT
// Which records point to some others. Covered by tests/sources/record_changes_test.cpp.
#include <fmt/format.h>

#include <algorithm>

#include "core/sources/sqlite/sqlite_links.h"
#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

/// How many records of a link's table point to one record.
Result<std::int64_t> pointingTo(sqlite3* connection, const Link& link, const TableSchema& schema,
                                const RecordRequest& record) {
    std::string where;
    if (record.keyIsRowId)
        where = fmt::format("p.{} = ?1", rowIdName(schema).value_or("rowid"));
    else
        for (std::size_t i = 0; i < record.keyFields.size(); ++i)
            where += fmt::format("{}p.{} = ?{}", i == 0 ? "" : " AND ",
                                 quotedName(schema.field(record.keyFields[i]).name), i + 1);
    auto statement =
        prepare(connection, fmt::format("SELECT count(*) FROM {} AS p JOIN {} AS c ON {} WHERE {}",
                                        quotedName(schema.name), quotedName(link.table), link.condition(), where));
    if (!statement) return statement.error();
    for (std::size_t i = 0; i < record.key.size(); ++i)
        bindValue(statement->get(), static_cast<int>(i) + 1, record.key[i],
                  record.keyIsRowId ? nullptr : &schema.field(record.keyFields[i]));
    if (sqlite3_step(statement->get()) != SQLITE_ROW) return errorOf(connection, "Looking at what depends on it");
    return sqlite3_column_int64(statement->get(), 0);
}

}  // namespace

Result<std::vector<Dependents>> dependentsOf(sqlite3* connection, const std::vector<RecordRequest>& records,
                                             const Cancel& cancel) {
    std::vector<Dependents> all;
    if (records.empty()) return all;
    auto links = linksTo(connection, records.front().schema.name);
    if (!links) return links.error();
    for (const Link& link : *links) {
        if (!link.isWhole()) continue;
        std::int64_t count = 0;
        for (const RecordRequest& record : records) {
            if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
            const auto pointing = pointingTo(connection, link, records.front().schema, record);
            if (!pointing) return pointing.error();
            count += *pointing;
        }
        const auto known = std::find_if(
            all.begin(), all.end(), [&](const Dependents& d) { return d.table == link.table && d.then == link.then; });
        if (count == 0) continue;
        known == all.end() ? all.push_back({link.table, count, link.then}) : void(known->records += count);
    }
    return all;
}

}  // namespace jollyrow::sqlite
