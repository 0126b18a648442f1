// SPDX-License-Identifier: MIT
// The SQLite Source: opens a connection for each request, so it can be shared by threads.
#include <fmt/format.h>

#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_load.h"
#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_source.h"

namespace jollyrow {
namespace {

class SqliteSource final : public Source {
  public:
    explicit SqliteSource(std::string path) : path_(std::move(path)) {}

    Result<std::vector<TableSummary>> tables(const Cancel& cancel) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        sqlite::watch(connection->get(), cancel);
        sqlite::watchLocks(connection->get(), cancel);
        return sqlite::readTables(connection->get());
    }

    Result<TableSchema> schema(const Binding& binding, const Cancel& cancel) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        sqlite::watch(connection->get(), cancel);
        sqlite::watchLocks(connection->get(), cancel);
        // In one transaction: a writer between two steps would make a schema of two states.
        if (auto begun = sqlite::execute(connection->get(), "BEGIN"); !begun) return begun.error();
        return sqlite::readSchema(connection->get(), binding);
    }

    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        return sqlite::loadTable(path_, request, cancel);
    }

    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest& request, const Cancel& cancel) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        return sqlite::lookUp(connection->get(), request, cancel);
    }

    Result<std::vector<Value>> valuesOf(const RecordRequest& request) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        return sqlite::valuesOf(connection->get(), request);
    }

    Result<std::vector<Dependents>> dependentsOf(const std::vector<RecordRequest>& records,
                                                 const Cancel& cancel) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        return sqlite::dependentsOf(connection->get(), records, cancel);
    }

    Result<std::vector<bool>> arePresent(const std::vector<PresenceRequest>& requests,
                                         const Cancel& cancel) const override {
        auto connection = sqlite::open(path_, sqlite::OpenMode::ReadOnly);
        if (!connection) return connection.error();
        return sqlite::arePresent(connection->get(), requests, cancel);
    }

  private:
    const std::string path_;
};

}  // namespace

/// The header only, as this is called on the window's thread: a file that is damaged behind it is refused when its
/// schema is read.
Result<std::shared_ptr<const Source>> sqlite::openSource(const std::string& path) {
    auto connection = sqlite::open(path, sqlite::OpenMode::ReadOnly, 0);
    if (!connection) return connection.error();
    return std::shared_ptr<const Source>(std::make_shared<SqliteSource>(path));
}

Result<void> copyDatabase(const std::string& from, const std::string& to, const Cancel& cancel) {
    auto source = sqlite::open(from, sqlite::OpenMode::ReadOnly);
    if (!source) return source.error();
    auto target = sqlite::open(to, sqlite::OpenMode::Create);
    if (!target) return target.error();
    sqlite3_backup* backup = sqlite3_backup_init(target->get(), "main", source->get(), "main");
    if (!backup) return sqlite::errorOf(target->get(), "Copying the database");
    constexpr int kPagesAtOnce = 2048;
    int code = SQLITE_OK;
    while (code == SQLITE_OK && !cancel.requested()) code = sqlite3_backup_step(backup, kPagesAtOnce);
    sqlite3_backup_finish(backup);
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Copying was cancelled."};
    if (code != SQLITE_DONE) return sqlite::errorOf(target->get(), "Copying the database");
    return {};
}

}  // namespace jollyrow
