// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp and conformance_test.cpp. Bench: bench/server_bench.cpp.
#include "core/sources/postgres/pg_load.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/out_of_memory.h"
#include "core/sources/postgres/pg_copy.h"
#include "core/sources/postgres/pg_plan.h"
#include "core/sources/postgres/pg_ranges.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/table_builder.h"

namespace jollyrow::postgres {
namespace {

constexpr std::size_t kBatch = 8192;       // records that are given on together
constexpr std::int64_t kFirstShown = 200;  // more lines than a tall screen has

/// Takes rows into a table, some thousand at a time.
class Rows {
  public:
    Rows(const TableSchema& schema, const LoadPlan& plan, const LoadRequest& request)
        : schema_(schema), plan_(plan), request_(request), builder_(schema, plan.wanted, false, plan.keyFields) {
        builder_.prepare(set_);
    }
    void cell(std::size_t at, std::optional<std::string_view> bytes) { addCell(set_, schema_, plan_, at, bytes); }
    void endRow() {
        ++set_.rows;
        if (set_.rows == kBatch || (builder_.rows() == 0 && set_.rows == kFirstShown)) giveOn();
    }
    std::size_t count() const { return builder_.rows() + set_.rows; }
    void setAbout(std::optional<std::int64_t> about) { builder_.setAbout(about); }
    std::shared_ptr<const Table> finish() {
        giveOn();
        builder_.settle();
        return builder_.finish();
    }
    std::shared_ptr<const Table> soFar() {
        giveOn();
        return builder_.share(false);
    }

  private:
    void giveOn() {
        if (set_.rows == 0) return;
        builder_.append(set_);
        builder_.prepare(set_);
        builder_.show(request_, std::nullopt);
    }
    const TableSchema& schema_;
    const LoadPlan& plan_;
    const LoadRequest& request_;
    TableBuilder builder_;
    ChunkSet set_;
};

void take(const Answer& answer, Rows& rows) {
    for (int row = 0; row < answer.rows(); ++row) {
        for (int column = 0; column < answer.columns(); ++column)
            rows.cell(static_cast<std::size_t>(column),
                      answer.isNull(row, column) ? std::nullopt : std::optional(answer.bytes(row, column)));
        rows.endRow();
    }
}

Result<void> fetchAll(Connection& connection, const LoadPlan& plan, std::optional<std::int64_t> most, Rows& rows,
                      const Cancel& cancel) {
    auto begun = connection.run("DECLARE jollyrow_rows NO SCROLL CURSOR FOR " + plan.select, plan.parameters, cancel);
    if (!begun) return begun.error();
    for (std::int64_t turn = kFirstShown;; turn = static_cast<std::int64_t>(kBatch)) {
        const std::int64_t left = most ? *most - static_cast<std::int64_t>(rows.count()) : turn;
        if (left <= 0) return {};
        const std::int64_t asked = std::min(turn, left);
        auto some = connection.run(fmt::format("FETCH {} FROM jollyrow_rows", asked), {}, cancel);
        if (!some) return some.error();
        take(*some, rows);
        if (some->rows() < asked) return {};
    }
}

Result<void> showFirst(Connection& connection, const TableSchema& schema, const LoadPlan& plan,
                       const LoadRequest& request, const Cancel& cancel) {
    auto first = connection.run(fmt::format("{} LIMIT {}", plan.select, kFirstShown), {}, cancel);
    if (!first) return first.error();
    if (first->rows() == 0) return {};
    LoadRequest quiet = request;
    quiet.onPart = {};
    Rows rows(schema, plan, quiet);
    take(*first, rows);
    auto part = rows.soFar();
    request.onPart(part, {static_cast<std::int64_t>(part->rows), std::nullopt, 0});
    return {};
}

/// What the last ANALYZE has counted; nullopt when there was none, or the table is no plain one.
std::optional<std::int64_t> counted(Connection& connection, const TableSchema& schema, const Cancel& cancel) {
    const auto table = tableSql(connection, schema.name, cancel);
    if (!table) return std::nullopt;
    const auto size = connection.run("SELECT reltuples::int8 FROM pg_class WHERE oid = $1::regclass AND reltuples > 0",
                                     {*table}, cancel);
    return size && size->rows() == 1 ? std::optional(size->integer(0, 0)) : std::nullopt;
}

Result<std::shared_ptr<const Table>> loadInside(Connection& connection, const LoadRequest& request,
                                                const Cancel& cancel) {
    auto schema = readSchema(connection, request.binding, cancel);
    if (!schema) return schema.error();
    if (request.binding.query.empty()) {
        auto own = tableSql(connection, schema->name, cancel);
        if (!own) return own.error();
        if (auto fitted = fitScales(connection, *schema, *own, std::nullopt, cancel); !fitted) return fitted.error();
    }
    auto plan = planOf(connection, *schema, request, cancel);
    if (!plan) return plan.error();
    Rows rows(*schema, *plan, request);
    Result<void> done;
    if (plan->isQuery) {
        done = fetchAll(connection, *plan, request.most, rows, cancel);
    } else {
        // Without a key there is no order, and the first ones need not be those that all begin with.
        if (request.onPart && !request.most && !keyOf(*schema).empty())
            done = showFirst(connection, *schema, *plan, request, cancel);
        if (!done) return done.error();
        const auto ranges = request.most ? Result<std::optional<KeyRanges>>(std::nullopt)
                                         : rangesOf(connection, *schema, *plan, cancel);
        if (!ranges) return ranges.error();
        if (*ranges) return loadRanges(connection, *schema, *plan, request, **ranges, cancel);
        if (request.onPart && !request.most) rows.setAbout(counted(connection, *schema, cancel));
        const std::string limit = request.most ? fmt::format(" LIMIT {}", *request.most) : std::string();
        if (done) done = copyRows(connection, plan->select + limit, rows, cancel);
    }
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    if (!done) return done.error();
    return rows.finish();
}

}  // namespace

Result<std::shared_ptr<const Table>> loadTable(Connection& connection, const LoadRequest& request,
                                               const Cancel& cancel) {
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    auto begun = connection.run("BEGIN ISOLATION LEVEL REPEATABLE READ, READ ONLY", {}, cancel);
    if (!begun) return begun.error();
    return withinMemory("Loading", [&] { return loadInside(connection, request, cancel); });
}

}  // namespace jollyrow::postgres
