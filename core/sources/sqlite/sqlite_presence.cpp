// SPDX-License-Identifier: MIT
// Whether there are records with certain values. Covered by tests/sources/record_changes_test.cpp.
#include <fmt/format.h>

#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

Result<bool> isPresent(sqlite3* connection, const PresenceRequest& request) {
    std::string where;
    int next = 1;
    for (const std::string& field : request.fields)
        where += fmt::format("{}{} = ?{}", next == 1 ? "" : " AND ", quotedName(field), next), ++next;
    const int firstOfKey = next;
    std::string itself;
    if (request.except && request.except->keyIsRowId)
        itself = fmt::format("{} = ?{}", rowIdName(request.except->schema).value_or("rowid"), next);
    else if (request.except)
        for (const FieldIndex field : request.except->keyFields)
            itself += fmt::format("{}{} = ?{}", itself.empty() ? "" : " AND ",
                                  quotedName(request.except->schema.field(field).name), next++);
    if (!itself.empty()) where += fmt::format(" AND NOT ({})", itself);
    auto statement =
        prepare(connection, fmt::format("SELECT 1 FROM {} WHERE {} LIMIT 1", quotedName(request.table), where));
    if (!statement) return statement.error();
    for (std::size_t i = 0; i < request.values.size(); ++i)
        bindValue(statement->get(), static_cast<int>(i) + 1, request.values[i],
                  i < request.forms.size() ? &request.forms[i] : nullptr);
    for (std::size_t i = 0; request.except && i < request.except->key.size(); ++i)
        bindValue(statement->get(), firstOfKey + static_cast<int>(i), request.except->key[i],
                  request.except->keyIsRowId ? nullptr : &request.except->schema.field(request.except->keyFields[i]));
    const int code = sqlite3_step(statement->get());
    if (code != SQLITE_ROW && code != SQLITE_DONE) return errorOf(connection, "Looking for other records");
    return code == SQLITE_ROW;
}

}  // namespace

Result<std::vector<bool>> arePresent(sqlite3* connection, const std::vector<PresenceRequest>& requests,
                                     const Cancel& cancel) {
    std::vector<bool> all;
    for (const PresenceRequest& request : requests) {
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
        const auto one = isPresent(connection, request);
        if (!one) return one.error();
        all.push_back(*one);
    }
    return all;
}

}  // namespace jollyrow::sqlite
