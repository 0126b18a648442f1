// SPDX-License-Identifier: MIT
#pragma once
// What tests of the SQLite source share: making databases, loading, reading cells.

#include <QtTest>

#include <sqlite3.h>

#include <string>

#include "core/formats/text_format.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Runs SQL on the file; a mistake in it ends the test.
inline void run(const QString& path, const std::string& sql) {
    sqlite3* db = nullptr;
    sqlite3_open(path.toUtf8().constData(), &db);
    sqlite3_busy_timeout(db, 5000);  // somebody may be reading
    char* message = nullptr;
    if (sqlite3_exec(db, sql.c_str(), nullptr, nullptr, &message) != SQLITE_OK)
        qFatal("%s in %s", message, sql.substr(0, 400).c_str());
    sqlite3_close(db);
}

inline std::string plain(const Table& table, std::size_t row, const char* field) {
    std::string out;
    appendPlain(out, table.column(*table.schema.find(field))->value(static_cast<SourceRow>(row)));
    return out;
}

/// Every field of a binding.
inline Result<std::shared_ptr<const Table>> loadAll(const QString& path, const Binding& binding) {
    auto source = openSource(path.toStdString());
    if (!source) return source.error();
    LoadRequest request;
    request.binding = binding;
    auto schema = (*source)->schema(binding);
    if (!schema) return schema.error();
    request.wanted.assign(schema->fields.size(), true);
    return (*source)->load(request, Cancel());
}

}  // namespace jollyrow
