// SPDX-License-Identifier: MIT
// Which records point to some others. Covered by tests/sources/record_changes_test.cpp.
#include <fmt/format.h>

#include <algorithm>

#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

struct Link {
    std::string table;
    std::vector<std::string> fields;
    std::vector<std::string> targets;  ///< fields of the table that is pointed to
    Dependents::Then then = Dependents::Then::Refuse;
};

Dependents::Then thenOf(std::string_view action) {
    if (action == "CASCADE") return Dependents::Then::Delete;
    if (action == "SET NULL") return Dependents::Then::Unlink;
    if (action == "SET DEFAULT") return Dependents::Then::Default;
    return Dependents::Then::Refuse;
}

/// The foreign keys of all tables that point to this one. A target that is not named is its primary key.
Result<std::vector<Link>> linksTo(sqlite3* connection, const TableSchema& schema) {
    auto statement = prepare(connection,
                             "SELECT m.name, f.id, f.\"from\", f.\"to\", f.on_delete FROM sqlite_schema AS m, "
                             "pragma_foreign_key_list(m.name) AS f WHERE m.type = 'table' AND f.\"table\" = ?1 "
                             "COLLATE NOCASE ORDER BY m.name, f.id, f.seq");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, Value(schema.name));
    std::vector<std::string> primaryKey;
    for (int rank = 1; rank <= static_cast<int>(schema.fields.size()); ++rank)
        for (const FieldSchema& field : schema.fields)
            if (field.primaryKeyRank == rank && field.join == 0) primaryKey.push_back(field.name);
    std::vector<Link> links;
    int id = -1;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        const std::string table(columnText(statement->get(), 0));
        const int now = sqlite3_column_int(statement->get(), 1);
        if (links.empty() || links.back().table != table || now != id)
            links.push_back({table, {}, {}, thenOf(columnText(statement->get(), 4))});
        id = now;
        Link& link = links.back();
        link.fields.emplace_back(columnText(statement->get(), 2));
        const bool isNamed = sqlite3_column_type(statement->get(), 3) != SQLITE_NULL;
        const std::size_t place = link.targets.size();
        link.targets.push_back(isNamed                     ? std::string(columnText(statement->get(), 3))
                               : place < primaryKey.size() ? primaryKey[place]
                                                           : std::string());
    }
    return links;
}

/// How many records of a link's table point to one record.
Result<std::int64_t> pointingTo(sqlite3* connection, const Link& link, const TableSchema& schema,
                                const RecordRequest& record) {
    std::string on, where;
    for (std::size_t i = 0; i < link.fields.size(); ++i)
        on += fmt::format("{}p.{} = c.{}", i == 0 ? "" : " AND ", quotedName(link.targets[i]),
                          quotedName(link.fields[i]));
    if (record.keyIsRowId)
        where = fmt::format("p.{} = ?1", rowIdName(schema).value_or("rowid"));
    else
        for (std::size_t i = 0; i < record.keyFields.size(); ++i)
            where += fmt::format("{}p.{} = ?{}", i == 0 ? "" : " AND ",
                                 quotedName(schema.field(record.keyFields[i]).name), i + 1);
    auto statement = prepare(connection, fmt::format("SELECT count(*) FROM {} AS p JOIN {} AS c ON {} WHERE {}",
                                                     quotedName(schema.name), quotedName(link.table), on, where));
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
    auto links = linksTo(connection, records.front().schema);
    if (!links) return links.error();
    for (const Link& link : *links) {
        if (std::any_of(link.targets.begin(), link.targets.end(), [](const auto& name) { return name.empty(); }))
            continue;
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
