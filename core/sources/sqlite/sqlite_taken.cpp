// SPDX-License-Identifier: MIT
// Rows are found level by level: what points to the record, what points to that, and so on. Covered by
// tests/sources/taken_along_test.cpp.
#include "core/sources/sqlite/sqlite_taken.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "core/base/near_name.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

/// Those of a statement's row, from column `first` on.
std::vector<KeptValue> valuesOf(sqlite3_stmt* row, std::size_t first, std::size_t count) {
    std::vector<KeptValue> all;
    for (std::size_t i = 0; i < count; ++i)
        all.emplace_back(sqlite3_value_dup(sqlite3_column_value(row, static_cast<int>(first + i))));
    return all;
}

void bindAll(sqlite3_stmt* statement, int first, const std::vector<KeptValue>& values) {
    for (std::size_t i = 0; i < values.size(); ++i)
        sqlite3_bind_value(statement, first + static_cast<int>(i), values[i].get());
}

std::size_t bytesIn(const std::vector<KeptValue>& values) {
    std::size_t bytes = 0;
    for (const KeptValue& value : values) bytes += 64 + static_cast<std::size_t>(sqlite3_value_bytes(value.get()));
    return bytes;
}

/// "p.a = ?1 AND p.b = ?2"; of an alias, or none.
std::string named(const std::vector<std::string>& columns, std::string_view alias, std::string_view is, int parameter) {
    std::string sql;
    for (const std::string& column : columns)
        sql += fmt::format("{}{}{} {} ?{}", sql.empty() ? "" : " AND ", alias, column, is, parameter++);
    return sql;
}

std::string listed(const std::vector<std::string>& columns, std::string_view alias) {
    std::string sql;
    for (const std::string& column : columns) sql += fmt::format("{}{}{}", sql.empty() ? "" : ", ", alias, column);
    return sql;
}

std::string nameOfRow(const KeptTable& table, const std::vector<KeptValue>& key) {
    std::string name = table.name;
    for (const KeptValue& value : key)
        name += fmt::format("{}{}:", '\0', sqlite3_value_type(value.get())).append(bytesOf(value.get()));
    return name;
}

/// Its columns but for generated ones, and what names its rows.
Result<void> readColumns(sqlite3* connection, KeptTable& table) {
    auto columns = prepare(connection, "SELECT name, pk, hidden FROM pragma_table_xinfo(?1) ORDER BY pk, cid");
    if (!columns) return columns.error();
    bindValue(columns->get(), 1, Value(table.name));
    std::vector<std::string> names, primaryKey;
    while (sqlite3_step(columns->get()) == SQLITE_ROW) {
        names.emplace_back(columnText(columns->get(), 0));
        if (sqlite3_column_int(columns->get(), 1) > 0) primaryKey.push_back(quotedName(names.back()));
        if (sqlite3_column_int(columns->get(), 2) == 0) table.columns.push_back(quotedName(names.back()));
    }
    auto list = prepare(connection, "SELECT wr FROM pragma_table_list(?1) WHERE schema = 'main'");
    if (!list) return list.error();
    bindValue(list->get(), 1, Value(table.name));
    const bool hasRowId = sqlite3_step(list->get()) == SQLITE_ROW && sqlite3_column_int(list->get(), 0) == 0;
    for (const char* id : {"rowid", "_rowid_", "oid"}) {
        const bool isHidden =
            std::any_of(names.begin(), names.end(), [id](const std::string& name) { return sameName(name, id); });
        if (hasRowId && !isHidden && table.key.empty()) table.key = {id};
    }
    if (table.key.empty()) table.key = std::move(primaryKey);
    return {};
}

}  // namespace

bool TakenRows::isOf(const std::string& table) const {
    return std::any_of(rows.begin(), rows.end(), [&](const Row& row) { return sameName(row.table->name, table); });
}

Result<std::shared_ptr<const KeptTable>> TakenReader::tableOf(const std::string& name) {
    if (const auto known = tables_.find(name); known != tables_.end()) return known->second;
    auto table = std::make_shared<KeptTable>();
    table->name = name;
    if (auto read = readColumns(connection_, *table); !read) return read.error();
    auto links = linksTo(connection_, name);
    if (!links) return links.error();
    std::erase_if(*links, [](const Link& link) { return !link.isWhole() || link.then == Dependents::Then::Refuse; });
    table->links = std::move(*links);
    return tables_[name] = std::move(table);
}

Result<void> TakenReader::begin(const std::string& table, const std::string& where,
                                const std::function<void(sqlite3_stmt*)>& bind) {
    taken_ = std::make_shared<TakenRows>();
    deleted_.clear();
    bytes_ = 0;
    auto version = prepare(connection_, "PRAGMA schema_version");
    if (!version) return version.error();
    if (sqlite3_step(version->get()) != SQLITE_ROW) return errorOf(connection_, "Deleting");
    if (const std::int64_t now = sqlite3_column_int64(version->get(), 0); now != schemaVersion_) {
        tables_.clear();
        schemaVersion_ = now;
    }
    auto known = tableOf(table);
    if (!known) return known.error();
    if ((**known).links.empty()) return {};
    if ((**known).key.empty()) {
        taken_->whole = false;
        return {};
    }
    auto record =
        prepare(connection_, fmt::format("SELECT {} FROM {}{}", listed((**known).key, ""), quotedName(table), where));
    if (!record) return record.error();
    bind(record->get());
    if (sqlite3_step(record->get()) != SQLITE_ROW) return {};
    const std::vector<KeptValue> key = valuesOf(record->get(), 0, (**known).key.size());
    deleted_.insert(nameOfRow(**known, key));
    if (auto done = takeFrom(**known, key); !done) return done;
    for (std::size_t i = 0; i < taken_->rows.size() && taken_->whole; ++i) {
        if (!taken_->rows[i].isDeleted()) continue;
        const auto from = taken_->rows[i].table;  // what is found moves the rows
        std::vector<KeptValue> next;
        for (const KeptValue& part : taken_->rows[i].key) next.emplace_back(sqlite3_value_dup(part.get()));
        if (auto done = takeFrom(*from, next); !done) return done;
    }
    return {};
}

Result<void> TakenReader::takeFrom(const KeptTable& table, const std::vector<KeptValue>& key) {
    for (const Link& link : table.links)
        if (auto done = takeBy(link, table, key); !done) return done;
    return {};
}

Result<void> TakenReader::takeBy(const Link& link, const KeptTable& parent, const std::vector<KeptValue>& key) {
    auto table = tableOf(link.table);
    if (!table) return table.error();
    const bool deletes = link.then == Dependents::Then::Delete;
    std::vector<std::string> fields;
    if (!deletes)
        for (const std::string& field : link.fields) fields.push_back(quotedName(field));
    const std::vector<std::string>& wanted = deletes ? (**table).columns : fields;
    if ((**table).key.empty()) taken_->whole = false;
    if (!taken_->whole) return {};
    auto rows =
        prepare(connection_, fmt::format("SELECT {}, {} FROM {} AS p JOIN {} AS c ON {} WHERE {}",
                                         listed((**table).key, "c."), listed(wanted, "c."), quotedName(parent.name),
                                         quotedName(link.table), link.condition(), named(parent.key, "p.", "=", 1)));
    if (!rows) return rows.error();
    bindAll(rows->get(), 1, key);
    int code = SQLITE_ROW;
    while ((code = sqlite3_step(rows->get())) == SQLITE_ROW) {
        TakenRows::Row row{*table, fields, valuesOf(rows->get(), 0, (**table).key.size()), {}, {}};
        row.values = valuesOf(rows->get(), row.key.size(), wanted.size());
        if (deletes && !deleted_.insert(nameOfRow(**table, row.key)).second) continue;
        const auto isMissing = [](const KeptValue& value) { return !value; };
        if (std::any_of(row.key.begin(), row.key.end(), isMissing) ||
            std::any_of(row.values.begin(), row.values.end(), isMissing))
            return Error{ErrorCode::Io, "There is no memory left to keep what is deleted with this record."};
        bytes_ += bytesIn(row.key) + bytesIn(row.values);
        taken_->rows.push_back(std::move(row));
        if (taken_->rows.size() > TakenAlong::kMostRows || bytes_ > TakenAlong::kMostBytes) {
            taken_->rows.clear();
            taken_->whole = false;
            return {};
        }
    }
    return code == SQLITE_DONE ? Result<void>() : errorOf(connection_, "Deleting");
}

/// What the deletion has made of a link. A row that is gone for another reason is not put back by its link.
Result<void> TakenReader::readAfter(TakenRows::Row& row) {
    auto now = prepare(connection_, fmt::format("SELECT {} FROM {} WHERE {}", listed(row.fields, ""),
                                                quotedName(row.table->name), named(row.table->key, "", "=", 1)));
    if (!now) return now.error();
    bindAll(now->get(), 1, row.key);
    if (sqlite3_step(now->get()) == SQLITE_ROW) row.after = valuesOf(now->get(), 0, row.fields.size());
    return {};
}

Result<std::shared_ptr<const TakenAlong>> TakenReader::finish() {
    auto taken = std::move(taken_);
    if (!taken) return std::shared_ptr<const TakenAlong>();
    for (TakenRows::Row& row : taken->rows)
        if (!row.isDeleted())
            if (auto read = readAfter(row); !read) return read.error();
    std::erase_if(taken->rows, [&](const TakenRows::Row& row) {
        return !row.isDeleted() && (row.after.empty() || deleted_.contains(nameOfRow(*row.table, row.key)));
    });
    if (taken->whole && taken->rows.empty()) return std::shared_ptr<const TakenAlong>();
    return std::shared_ptr<const TakenAlong>(std::move(taken));
}

namespace {

std::string insertSql(const TakenRows::Row& row) {
    std::string places;
    for (std::size_t i = 0; i < row.values.size(); ++i) places += fmt::format("{}?{}", i == 0 ? "" : ", ", i + 1);
    return fmt::format("INSERT INTO {} ({}) VALUES ({})", quotedName(row.table->name), listed(row.table->columns, ""),
                       places);
}

/// Only where the link is still as the deletion has left it.
std::string relinkSql(const TakenRows::Row& row) {
    const int key = static_cast<int>(row.fields.size()) + 1;
    std::string sets;
    for (std::size_t i = 0; i < row.fields.size(); ++i)
        sets += fmt::format("{}{} = ?{}", i == 0 ? "" : ", ", row.fields[i], i + 1);
    return fmt::format("UPDATE {} SET {} WHERE {} AND {}", quotedName(row.table->name), sets,
                       named(row.table->key, "", "=", key),
                       named(row.fields, "", "IS", key + static_cast<int>(row.key.size())));
}

int putBack(sqlite3* connection, const TakenRows::Row& row) {
    auto statement = prepare(connection, row.isDeleted() ? insertSql(row) : relinkSql(row));
    if (!statement) return sqlite3_errcode(connection);
    bindAll(statement->get(), 1, row.values);
    if (!row.isDeleted()) {
        bindAll(statement->get(), static_cast<int>(row.fields.size()) + 1, row.key);
        bindAll(statement->get(), static_cast<int>(row.fields.size() + row.key.size()) + 1, row.after);
    }
    return sqlite3_step(statement->get());
}

}  // namespace

Result<std::optional<std::string>> bringBack(sqlite3* connection, const TakenRows& taken) {
    for (const TakenRows::Row& row : taken.rows) {
        const int code = putBack(connection, row);
        if (code == SQLITE_DONE) continue;
        // A table that is another one by now does not take it, either.
        if ((code & 0xff) != SQLITE_CONSTRAINT && (code & 0xff) != SQLITE_ERROR) return errorOf(connection, "Saving");
        return std::optional(fmt::format("What was deleted with it cannot come back to {}: {}.", row.table->name,
                                         sqlite3_errmsg(connection)));
    }
    return std::optional<std::string>();
}

}  // namespace jollyrow::sqlite
