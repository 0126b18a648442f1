// SPDX-License-Identifier: MIT
// Covered by tests/design/summary_table_test.cpp.
#include "core/sources/objects/table_source.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <limits>

#include "core/columns/room.h"
#include "core/formats/text_format.h"
#include "core/sources/sqlite/sqlite_connection.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kNoEnd = std::numeric_limits<std::int64_t>::max();

class TableSource final : public Source {
  public:
    explicit TableSource(std::shared_ptr<const Table> table) : table_(std::move(table)) {}
    Result<std::vector<TableSummary>> tables(const Cancel&) const override {
        TableSummary summary;
        summary.name = table_->schema.name;
        summary.aboutRows = static_cast<std::int64_t>(table_->rows);
        return std::vector<TableSummary>{summary};
    }
    Result<TableSchema> schema(const Binding&, const Cancel&) const override { return table_->schema; }
    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
        const auto most = static_cast<std::size_t>(std::max<std::int64_t>(0, request.most.value_or(kNoEnd)));
        const auto isLeftOut = [&](std::size_t at) { return at < request.wanted.size() && !request.wanted[at]; };
        bool isWhole = table_->rows <= most;
        for (std::size_t i = 0; i < table_->columns.size(); ++i) isWhole = isWhole && !isLeftOut(i);
        if (isWhole) return table_;
        auto part = std::make_shared<Table>(*table_);
        part->rows = std::min(part->rows, most);
        for (std::size_t i = 0; i < part->columns.size(); ++i) {
            auto& column = part->columns[i];
            if (isLeftOut(i))
                column = nullptr;
            else if (column && part->rows < table_->rows)
                column = copied(*column, part->rows);
        }
        if (part->rowIds && part->rows < table_->rows) part->rowIds = copied(*part->rowIds, part->rows);
        return std::shared_ptr<const Table>(std::move(part));
    }
    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest&, const Cancel&) const override {
        return Error{ErrorCode::Unsupported, "A computed table points to no other."};
    }
    Result<std::vector<Value>> valuesOf(const RecordRequest&) const override {
        return Error{ErrorCode::NotFound, "A computed table is not read again."};
    }

  private:
    std::shared_ptr<const Table> table_;
};

std::string declared(const FieldSchema& field) {
    switch (field.type) {
        case Type::Integer: return "INTEGER";
        case Type::Decimal: return fmt::format("DECIMAL(18,{})", field.scale);
        case Type::Real: return "DOUBLE PRECISION";
        case Type::Boolean: return "BOOLEAN";
        case Type::Date: return "DATE";
        case Type::Time: return "TIME";
        case Type::Timestamp: return "TIMESTAMP";
        case Type::Instant: return "TIMESTAMP WITH TIME ZONE";
        case Type::Interval: return "INTERVAL";
        default: return "TEXT";
    }
}

void bindValue(sqlite3_stmt* statement, int at, const Value& value) {
    if (isEmpty(value)) {
        sqlite3_bind_null(statement, at);
    } else if (const auto* whole = std::get_if<std::int64_t>(&value)) {
        sqlite3_bind_int64(statement, at, *whole);
    } else if (const auto* real = std::get_if<double>(&value)) {
        sqlite3_bind_double(statement, at, *real);
    } else if (const auto* yes = std::get_if<bool>(&value)) {
        sqlite3_bind_int(statement, at, *yes ? 1 : 0);
    } else {
        std::string text;
        appendPlain(text, value);
        sqlite3_bind_text64(statement, at, text.data(), text.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
    }
}

Result<void> fill(sqlite3* handle, const Table& table) {
    std::string columns, marks;
    for (const FieldSchema& field : table.schema.fields) {
        columns += (columns.empty() ? "" : ", ") + sqlite::quotedName(field.name) + " " + declared(field);
        marks += marks.empty() ? "?" : ", ?";
    }
    const std::string name = sqlite::quotedName(table.schema.name);
    if (auto made = sqlite::execute(handle, fmt::format("CREATE TABLE {} ({})", name, columns).c_str()); !made)
        return made;
    auto insert = sqlite::prepare(handle, fmt::format("INSERT INTO {} VALUES ({})", name, marks));
    if (!insert) return insert.error();
    for (std::size_t row = 0; row < table.rows; ++row) {
        for (std::size_t i = 0; i < table.columns.size(); ++i)
            bindValue(insert->get(), static_cast<int>(i) + 1, table.columns[i]->value(static_cast<SourceRow>(row)));
        if (sqlite3_step(insert->get()) != SQLITE_DONE) return sqlite::errorOf(handle, "Writing the table");
        sqlite3_reset(insert->get());
    }
    return {};
}

}  // namespace

std::shared_ptr<const Source> tableSource(std::shared_ptr<const Table> table) {
    return std::make_shared<TableSource>(std::move(table));
}

Result<void> writeTable(const Table& table, const std::string& path) {
    const std::string beside = path + ".part";
    std::error_code ignored;
    std::filesystem::remove(beside, ignored);
    Result<void> done;
    {
        auto handle = sqlite::open(beside, sqlite::OpenMode::Create);
        if (!handle) return handle.error();
        done = sqlite::execute(handle->get(), "BEGIN");
        if (done) done = fill(handle->get(), table);
        if (done) done = sqlite::execute(handle->get(), "COMMIT");
    }
    std::error_code failure;
    if (done) std::filesystem::rename(beside, path, failure);
    if (failure) done = Error{ErrorCode::Io, fmt::format("Writing {} failed: {}.", path, failure.message())};
    if (!done) std::filesystem::remove(beside, ignored);
    return done;
}

}  // namespace jollyrow
