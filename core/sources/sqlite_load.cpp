// SPDX-License-Identifier: MIT
// Idea: SQLite gives one row at a time and one connection serves one thread, so the row ids are cut into ranges
// ("morsels") that two threads with a connection each read into chunks; whoever completes the next range in order
// appends it. Both connections read the same state: nothing was committed between their first reads, or they try again.
// Views, SELECTs and tables without row ids stream through one connection. Covered by tests/sources/sqlite_test.cpp.
#include "core/sources/sqlite_load.h"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <set>
#include <thread>

#include "core/rules/query_parameters.h"
#include "core/sources/sqlite_connection.h"
#include "core/sources/sqlite_related.h"
#include "core/sources/sqlite_schema.h"
#include "core/sources/sqlite_values.h"
#include "core/sources/table_builder.h"

namespace jollyrow::sqlite {
namespace {

constexpr std::int64_t kFirstMorsel = 512;  // small: it is what the window shows first
constexpr std::int64_t kMorsel = 16384;     // row ids a range, and rows a chunk
constexpr std::int64_t kAhead = 8;          // finished ranges that may wait for an earlier one
constexpr int kPollOperations = 20000;      // SQLite instructions between looks at `cancel`: about a millisecond

int cancelled(void* cancel) { return static_cast<const Cancel*>(cancel)->requested() ? 1 : 0; }

void watch(sqlite3* connection, const Cancel& cancel) {
    sqlite3_progress_handler(connection, kPollOperations, cancelled, const_cast<Cancel*>(&cancel));
}

struct Plan {
    std::vector<FieldIndex> loaded;
    std::vector<bool> wanted;
    bool withRowIds = false;
    std::vector<FieldIndex> keyFields;
    std::string select;  ///< without WHERE
    bool byRowId = false;
};

std::string withoutEmpties(const LoadRequest& request) {
    std::set<std::string> empty;
    for (const std::string& name : parametersIn(request.binding.query))
        if (const auto given = request.parameters.find(name);
            given == request.parameters.end() || isEmpty(given->second))
            empty.insert(name);
    return withoutConditionsOn(request.binding.query, empty);
}

/// What is not given stays NULL.
void bindParameters(sqlite3_stmt* statement, const LoadRequest& request) {
    for (const auto& [name, value] : request.parameters)
        if (const int index = sqlite3_bind_parameter_index(statement, (":" + name).c_str()); index > 0)
            bindValue(statement, index, value);
}

Plan planOf(sqlite3* connection, const TableSchema& schema, const LoadRequest& request) {
    Plan plan;
    plan.wanted = request.wanted;
    if (plan.wanted.size() != schema.fields.size()) {
        plan.wanted.assign(schema.fields.size(), true);
        for (std::size_t i = 0; i < schema.fields.size(); ++i) plan.wanted[i] = schema.fields[i].type != Type::Binary;
    }
    const bool isQuery = !request.binding.query.empty();
    std::vector<std::pair<int, FieldIndex>> keys;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (schema.fields[i].primaryKeyRank > 0)
            keys.emplace_back(schema.fields[i].primaryKeyRank, static_cast<FieldIndex>(i));
    std::sort(keys.begin(), keys.end());
    plan.byRowId = !isQuery && hasRowId(connection, schema);
    const bool keyIsRowId =
        keys.size() == 1 && sqlite3_stricmp(schema.field(keys[0].second).declaredType.c_str(), "INTEGER") == 0;
    plan.withRowIds = plan.byRowId && !keyIsRowId;
    if (!schema.isView && !plan.withRowIds)
        for (const auto& [rank, field] : keys) plan.keyFields.push_back(field);
    for (const FieldIndex field : plan.keyFields) plan.wanted[raw(field)] = true;

    std::string columns;
    std::vector<int> joined;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        if (!plan.wanted[i]) continue;
        plan.loaded.push_back(static_cast<FieldIndex>(i));
        columns += (columns.empty() ? "" : ", ") + columnSql(schema.fields[i]);
        if (schema.fields[i].join != 0) joined.push_back(schema.fields[i].join);
    }
    if (plan.withRowIds) columns += (columns.empty() ? "" : ", ") + std::string("t0.rowid");
    if (columns.empty()) columns = "NULL";
    plan.select = isQuery ? withoutEmpties(request) : "SELECT " + columns + " FROM " + fromSql(schema, joined);
    return plan;
}

/// Reads rows of `statement` into `set` until `most` rows or the end. True when there may be more.
Result<bool> readRows(sqlite3_stmt* statement, const TableSchema& schema, const Plan& plan, bool allColumns,
                      ChunkSet& set, std::int64_t most) {
    for (std::int64_t n = 0; n < most; ++n) {
        const int code = sqlite3_step(statement);
        if (code == SQLITE_DONE) return false;
        if (code != SQLITE_ROW) return errorOf(sqlite3_db_handle(statement), "Loading");
        for (std::size_t i = 0; i < plan.loaded.size(); ++i) {
            const int at = allColumns ? static_cast<int>(raw(plan.loaded[i])) : static_cast<int>(i);
            decodeInto(set[i], sqlite3_column_value(statement, at), schema.field(plan.loaded[i]));
        }
        if (plan.withRowIds)
            set.back().addInteger(sqlite3_column_int64(statement, static_cast<int>(plan.loaded.size())));
    }
    return true;
}

Result<std::shared_ptr<const Table>> loadSerially(sqlite3* connection, const TableSchema& schema, const Plan& plan,
                                                  const LoadRequest& request, const Cancel& cancel) {
    watch(connection, cancel);
    auto statement = prepare(connection, plan.select);
    if (!statement) return statement.error();
    bindParameters(statement->get(), request);
    TableBuilder builder(schema, plan.wanted, plan.withRowIds, plan.keyFields);
    ChunkSet set;
    for (std::int64_t most = kFirstMorsel;; most = kMorsel) {
        builder.prepare(set);
        auto more = readRows(statement->get(), schema, plan, !request.binding.query.empty(), set, most);
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
        if (!more) return more.error();
        builder.append(set);
        if (!*more) {
            builder.settle();
            return builder.share(true);
        }
        builder.show(request, std::nullopt);
    }
}

/// What the two loading threads share.
class MorselLoad {
  public:
    MorselLoad(const TableSchema& schema, const Plan& plan, const LoadRequest& request, const Cancel& cancel,
               std::int64_t low, std::int64_t high)
        : schema_(schema),
          plan_(plan),
          request_(request),
          cancel_(cancel),
          low_(low),
          high_(high),
          builder_(schema, plan.wanted, plan.withRowIds, plan.keyFields) {}

    void reserve(std::size_t rows) { builder_.reserve(rows); }

    void work(sqlite3* connection) {
        watch(connection, cancel_);
        auto statement =
            prepare(connection, plan_.select + " WHERE t0.rowid >= ?1 AND t0.rowid <= ?2 ORDER BY t0.rowid");
        if (!statement) return fail(statement.error());
        ChunkSet set;
        while (const auto morsel = take(set)) {
            sqlite3_reset(statement->get());
            sqlite3_bind_int64(statement->get(), 1, startOf(*morsel));
            sqlite3_bind_int64(statement->get(), 2, std::min(high_, startOf(*morsel + 1) - 1));
            auto read = readRows(statement->get(), schema_, plan_, false, set, kMorsel + 1);
            if (cancel_.requested()) return fail({ErrorCode::Cancelled, "Loading was cancelled."});
            if (!read) return fail(read.error());
            give(*morsel, std::move(set));
        }
    }

    Result<std::shared_ptr<const Table>> finish() {
        if (failure_) return *failure_;
        builder_.settle();
        return builder_.share(true);
    }

  private:
    std::int64_t startOf(std::int64_t morsel) const {
        return morsel == 0 ? low_ : low_ + kFirstMorsel + (morsel - 1) * kMorsel;
    }

    std::optional<std::int64_t> take(ChunkSet& set) {
        std::unique_lock lock(mutex_);
        room_.wait(lock, [&] { return failure_ || next_ - appended_ < kAhead; });
        if (failure_ || startOf(next_) > high_) return std::nullopt;
        if (!spare_.empty()) {
            set = std::move(spare_.back());
            spare_.pop_back();
        }
        builder_.prepare(set);
        return next_++;
    }

    void give(std::int64_t morsel, ChunkSet set) {
        const std::lock_guard lock(mutex_);
        waiting_.emplace(morsel, std::move(set));
        while (!waiting_.empty() && waiting_.begin()->first == appended_) {
            builder_.append(waiting_.begin()->second);
            spare_.push_back(std::move(waiting_.begin()->second));
            waiting_.erase(waiting_.begin());
            ++appended_;
        }
        builder_.show(request_, std::nullopt);
        room_.notify_all();
    }

    void fail(Error error) {
        const std::lock_guard lock(mutex_);
        if (!failure_) failure_ = std::move(error);
        room_.notify_all();
    }

    const TableSchema& schema_;
    const Plan& plan_;
    const LoadRequest& request_;
    const Cancel& cancel_;
    const std::int64_t low_, high_;

    std::mutex mutex_;
    std::condition_variable room_;
    TableBuilder builder_;  // all below guarded by mutex_
    std::map<std::int64_t, ChunkSet> waiting_;
    std::vector<ChunkSet> spare_;
    std::int64_t next_ = 0, appended_ = 0;
    std::optional<Error> failure_;
};

std::int64_t dataVersion(sqlite3* connection) {
    auto statement = prepare(connection, "PRAGMA data_version");
    return statement && sqlite3_step(statement->get()) == SQLITE_ROW ? sqlite3_column_int64(statement->get(), 0) : -1;
}

/// Opens a second connection that reads the same state as the first; null when others keep writing.
Connection sameState(const std::string& path, sqlite3* first) {
    auto probe = open(path, OpenMode::ReadOnly);
    auto second = open(path, OpenMode::ReadOnly);
    if (!probe || !second) return nullptr;
    for (int attempt = 0; attempt < 3; ++attempt) {
        const std::int64_t before = dataVersion(probe->get());
        const bool begun = execute(first, "BEGIN; SELECT 1 FROM sqlite_schema LIMIT 1").ok() &&
                           execute(second->get(), "BEGIN; SELECT 1 FROM sqlite_schema LIMIT 1").ok();
        if (begun && before >= 0 && dataVersion(probe->get()) == before) return std::move(*second);
        sqlite3_exec(first, "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_exec(second->get(), "ROLLBACK", nullptr, nullptr, nullptr);
    }
    return nullptr;
}

}  // namespace

Result<std::shared_ptr<const Table>> loadTable(const std::string& path, const TableSchema& schema,
                                               const LoadRequest& request, const Cancel& cancel) {
    auto first = open(path, OpenMode::ReadOnly);
    if (!first) return first.error();
    const Plan plan = planOf(first->get(), schema, request);
    if (!plan.byRowId) return loadSerially(first->get(), schema, plan, request, cancel);

    Connection second = sameState(path, first->get());
    auto range = prepare(first->get(), "SELECT (SELECT min(rowid) FROM " + quoted(schema.name) +
                                           "), (SELECT max(rowid) FROM " + quoted(schema.name) + ")");
    if (!range) return range.error();
    if (sqlite3_step(range->get()) != SQLITE_ROW) return errorOf(first->get(), "Loading");
    const std::int64_t low = sqlite3_column_int64(range->get(), 0), high = sqlite3_column_int64(range->get(), 1);
    range->reset();
    struct stat info {};
    const std::uint64_t fileSize = stat(path.c_str(), &info) == 0 ? static_cast<std::uint64_t>(info.st_size) : 0;
    const std::uint64_t span = static_cast<std::uint64_t>(high) - static_cast<std::uint64_t>(low) + 1;
    const std::uint64_t plausibleRows = fileSize / (schema.fields.size() + 3) + 1;
    if (!second || span > plausibleRows * 16 + static_cast<std::uint64_t>(kMorsel) ||
        high > std::numeric_limits<std::int64_t>::max() - 2 * kMorsel)
        return loadSerially(first->get(), schema, plan, request, cancel);

    MorselLoad load(schema, plan, request, cancel, low, high);
    load.reserve(std::min(span, plausibleRows));
    {
        const std::jthread helper([&load, connection = second.get()] { load.work(connection); });
        load.work(first->get());
    }
    return load.finish();
}

}  // namespace jollyrow::sqlite
