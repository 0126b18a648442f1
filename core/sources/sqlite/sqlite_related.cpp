// SPDX-License-Identifier: MIT
#include "core/sources/sqlite/sqlite_related.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/formats/plain_label.h"
#include "core/formats/text_format.h"
#include "core/sources/batch.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {

std::string columnSql(const FieldSchema& field) {
    return fmt::format("t{}.{}", field.join, quotedName(field.join == 0 ? field.name : field.column));
}

std::string loadedSql(const FieldSchema& field, const std::string& column) {
    if (!field.unread) return column;
    return fmt::format(
        "CASE typeof({0}) WHEN 'null' THEN NULL WHEN 'blob' THEN CAST(length({0}) AS BLOB) "
        "ELSE CAST(length(CAST({0} AS BLOB)) AS BLOB) END",
        column);
}

std::string fromSql(const TableSchema& schema, const std::vector<int>& joins) {
    std::vector<bool> wanted(schema.joins.size() + 1, false);
    for (const int join : joins)
        for (int at = join; at != 0; at = schema.joins[static_cast<std::size_t>(at) - 1].parent)
            wanted[static_cast<std::size_t>(at)] = true;
    std::string sql = quotedName(schema.name) + " AS t0";
    for (std::size_t n = 1; n < wanted.size(); ++n) {
        if (!wanted[n]) continue;
        const Join& join = schema.joins[n - 1];
        sql += fmt::format(" LEFT JOIN {} AS t{} ON ", quotedName(join.table), n);
        for (std::size_t i = 0; i < join.fields.size(); ++i)
            // The plus takes the value's own affinity away: it is compared as the foreign key compares it
            // (ParentIndex).
            sql += fmt::format("{}t{}.{} = +t{}.{}", i == 0 ? "" : " AND ", n, quotedName(join.targetFields[i]),
                               join.parent, quotedName(join.fields[i]));
    }
    return sql;
}

Result<std::vector<LookUpEntry>> lookUp(sqlite3* connection, const LookUpRequest& request, const Cancel& cancel) {
    auto schema = readTableSchema(connection, request.table);
    if (!schema) return schema.error();
    const std::string& label = request.labelField.empty() ? request.keyField : request.labelField;
    const auto keyField = schema->find(request.keyField), labelField = schema->find(label);
    if (!keyField || !labelField)
        return Error{ErrorCode::NotFound, fmt::format("{} has no column {} to look up.", request.table,
                                                      keyField ? label : request.keyField)};
    const std::string key = quotedName(request.keyField), shown = quotedName(label);
    std::string sql = fmt::format("SELECT {}, {} FROM {}", key, shown, quotedName(request.table));
    if (request.key)
        sql += fmt::format(" WHERE {} = ?1", key);
    else if (!request.contains.empty())
        sql += fmt::format(" WHERE {} LIKE ?1 ESCAPE '\\'", shown);
    if (!request.called) sql += fmt::format(" ORDER BY {} COLLATE NOCASE, {} LIMIT {}", shown, key, request.most);
    auto statement = prepare(connection, sql);
    if (!statement) return statement.error();
    if (request.key)
        bindValue(statement->get(), 1, *request.key);
    else if (!request.contains.empty())
        bindValue(statement->get(), 1, likeContaining(request.contains));
    watch(connection, cancel);
    const auto called = request.called ? std::set<std::string>(request.called->begin(), request.called->end())
                                       : std::set<std::string>();
    std::vector<LookUpEntry> entries;
    int code = SQLITE_ROW;
    std::string plainKey;
    while ((code = sqlite3_step(statement->get())) == SQLITE_ROW) {
        LookUpEntry entry{decode(sqlite3_column_value(statement->get(), 0), schema->field(*keyField)), {}};
        appendDisplay(entry.label, decode(sqlite3_column_value(statement->get(), 1), schema->field(*labelField)), {});
        if (request.called && !called.contains(entry.label) && !called.contains(plainLabel(entry.label))) {
            plainKey.clear();
            appendPlain(plainKey, entry.key);
            if (!called.contains(plainKey)) continue;
        }
        entries.push_back(std::move(entry));
    }
    if (request.called)
        std::stable_sort(entries.begin(), entries.end(),
                         [](const LookUpEntry& a, const LookUpEntry& b) { return a.label < b.label; });
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "The search was cancelled."};
    if (code != SQLITE_DONE) return errorOf(connection, "Looking up");
    return entries;
}

Result<std::vector<Value>> valuesOf(sqlite3* connection, const RecordRequest& request) {
    std::string columns, where;
    std::vector<int> joins;
    for (const FieldIndex field : request.fields) {
        columns += (columns.empty() ? "" : ", ") + columnSql(request.schema.field(field));
        if (request.schema.field(field).join != 0) joins.push_back(request.schema.field(field).join);
    }
    if (request.keyIsRowId)
        where = fmt::format("t0.{} = ?1", rowIdName(request.schema).value_or("rowid"));
    else
        for (std::size_t i = 0; i < request.keyFields.size(); ++i)
            where += fmt::format("{}{} = ?{}", i == 0 ? "" : " AND ",
                                 columnSql(request.schema.field(request.keyFields[i])), i + 1);
    auto statement =
        prepare(connection, fmt::format("SELECT {} FROM {} WHERE {}", columns, fromSql(request.schema, joins), where));
    if (!statement) return statement.error();
    for (std::size_t i = 0; i < request.key.size(); ++i)
        bindValue(statement->get(), static_cast<int>(i) + 1, request.key[i],
                  request.keyIsRowId ? nullptr : &request.schema.field(request.keyFields[i]));
    const int code = sqlite3_step(statement->get());
    if (code == SQLITE_DONE) return Error{ErrorCode::NotFound, "This record is no longer there."};
    if (code != SQLITE_ROW) return errorOf(connection, "Reading the record");
    std::vector<Value> values;
    for (std::size_t i = 0; i < request.fields.size(); ++i)
        values.push_back(decode(sqlite3_column_value(statement->get(), static_cast<int>(i)),
                                request.schema.field(request.fields[i])));
    return values;
}

}  // namespace jollyrow::sqlite
