// SPDX-License-Identifier: MIT
// Covered by tests/sources/record_changes_test.cpp.
#include "core/sources/sqlite/sqlite_links.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

Dependents::Then thenOf(std::string_view action) {
    if (action == "CASCADE") return Dependents::Then::Delete;
    if (action == "SET NULL") return Dependents::Then::Unlink;
    if (action == "SET DEFAULT") return Dependents::Then::Default;
    return Dependents::Then::Refuse;
}

Result<std::vector<std::string>> primaryKeyOf(sqlite3* connection, const std::string& table) {
    auto statement = prepare(connection, "SELECT name FROM pragma_table_info(?1) WHERE pk > 0 ORDER BY pk");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, Value(table));
    std::vector<std::string> names;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) names.emplace_back(columnText(statement->get(), 0));
    return names;
}

}  // namespace

bool Link::isWhole() const {
    return std::none_of(targets.begin(), targets.end(), [](const auto& name) { return name.empty(); });
}

std::string Link::condition() const {
    std::string on;
    for (std::size_t i = 0; i < fields.size(); ++i)
        on += fmt::format("{}p.{} = c.{}", i == 0 ? "" : " AND ", quotedName(targets[i]), quotedName(fields[i]));
    return on;
}

Result<std::vector<Link>> linksTo(sqlite3* connection, const std::string& table) {
    const auto primaryKey = primaryKeyOf(connection, table);
    if (!primaryKey) return primaryKey.error();
    auto statement = prepare(connection,
                             "SELECT m.name, f.id, f.\"from\", f.\"to\", f.on_delete FROM sqlite_schema AS m, "
                             "pragma_foreign_key_list(m.name) AS f WHERE m.type = 'table' AND f.\"table\" = ?1 "
                             "COLLATE NOCASE ORDER BY m.name, f.id, f.seq");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, Value(table));
    std::vector<Link> links;
    int id = -1;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        const std::string from(columnText(statement->get(), 0));
        const int now = sqlite3_column_int(statement->get(), 1);
        if (links.empty() || links.back().table != from || now != id)
            links.push_back({from, {}, {}, thenOf(columnText(statement->get(), 4))});
        id = now;
        Link& link = links.back();
        link.fields.emplace_back(columnText(statement->get(), 2));
        const bool isNamed = sqlite3_column_type(statement->get(), 3) != SQLITE_NULL;
        const std::size_t place = link.targets.size();
        link.targets.push_back(isNamed                      ? std::string(columnText(statement->get(), 3))
                               : place < primaryKey->size() ? (*primaryKey)[place]
                                                            : std::string());
    }
    return links;
}

}  // namespace jollyrow::sqlite
