// SPDX-License-Identifier: MIT
// Covered by tests/sources/server_load_test.cpp. Bench: bench/server_bench.cpp.
#include "core/sources/postgres/pg_ranges.h"

#include <fmt/format.h>

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <system_error>
#include <thread>

#include "core/base/out_of_memory.h"
#include "core/sources/postgres/pg_copy.h"
#include "core/sources/postgres/pg_schema.h"

namespace jollyrow::postgres {
namespace {

constexpr std::int64_t kWorthTwo = 50'000;  // records
constexpr int kAhead = 4;                   // ranges that may wait for one before them

struct RangeSink {
    void cell(std::size_t at, std::optional<std::string_view> bytes) { addCell(set, schema, plan, at, bytes); }
    void endRow() { ++set.rows; }
    ChunkSet& set;
    const TableSchema& schema;
    const LoadPlan& plan;
};

class RangeLoad {
  public:
    RangeLoad(const TableSchema& schema, const LoadPlan& plan, const LoadRequest& request, const KeyRanges& ranges,
              const Cancel& cancel)
        : schema_(schema),
          plan_(plan),
          request_(request),
          ranges_(ranges),
          cancel_(cancel),
          builder_(schema, plan.wanted, false, plan.keyFields) {
        builder_.setAbout(ranges.aboutRows);
    }

    /// Range by range, until there are no more. On a thread of its own for each connection.
    void work(Connection& connection) {
        auto done = withinMemory("Loading", [&]() -> Result<void> {
            ChunkSet set;
            while (const auto range = take(set)) {
                RangeSink sink{set, schema_, plan_};
                auto copied = copyRows(connection, selectOf(*range), sink, cancel_);
                if (cancel_.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
                if (!copied) return copied;
                give(*range, set);
            }
            return {};
        });
        if (done) return;
        const std::lock_guard lock(mutex_);
        if (!failure_) failure_ = done.error();
        room_.notify_all();
    }
    /// Once nobody works any more.
    Result<std::shared_ptr<const Table>> finish() {
        if (failure_) return *failure_;
        builder_.settle();
        return builder_.finish();
    }

  private:
    std::string selectOf(int range) const {
        // Unsigned: the span may be larger than a key can be.
        const auto low = static_cast<std::uint64_t>(ranges_.low);
        const std::uint64_t width =
            (static_cast<std::uint64_t>(ranges_.high) - low) / static_cast<std::uint64_t>(ranges_.count) + 1;
        const auto startOf = [&](int at) {
            return static_cast<std::int64_t>(low + width * static_cast<std::uint64_t>(at));
        };
        const bool isLast = range + 1 == ranges_.count;
        return fmt::format("SELECT {} FROM {} WHERE {} BETWEEN '{}'::int8 AND '{}'::int8{}", plan_.columns, plan_.from,
                           ranges_.key, startOf(range), isLast ? ranges_.high : startOf(range + 1) - 1, plan_.order);
    }

    std::optional<int> take(ChunkSet& set) {
        std::unique_lock lock(mutex_);
        room_.wait(lock, [&] { return failure_ || next_ - appended_ < kAhead; });
        if (failure_ || next_ == ranges_.count) return std::nullopt;
        if (!spare_.empty()) {
            set = std::move(spare_.back());
            spare_.pop_back();
        }
        builder_.prepare(set);
        return next_++;
    }

    void give(int range, ChunkSet& set) {
        constexpr std::size_t kFirstInSight = 200;  // as many as were shown before all are read
        const std::lock_guard lock(mutex_);
        waiting_.emplace(range, std::move(set));
        set = {};
        for (auto next = waiting_.begin(); next != waiting_.end() && next->first == appended_;
             next = waiting_.begin()) {
            if (next->second.rows != 0) builder_.append(next->second);
            if (spare_.size() < 2) spare_.push_back(std::move(next->second));
            waiting_.erase(next);
            ++appended_;
        }
        if (builder_.rows() >= kFirstInSight) builder_.show(request_, std::nullopt);
        room_.notify_all();
    }

    const TableSchema& schema_;
    const LoadPlan& plan_;
    const LoadRequest& request_;
    const KeyRanges& ranges_;
    const Cancel& cancel_;

    std::mutex mutex_;  // of all below
    std::condition_variable room_;
    TableBuilder builder_;
    std::map<int, ChunkSet> waiting_;  ///< read before one that comes before it
    std::vector<ChunkSet> spare_;
    int next_ = 0, appended_ = 0;
    std::optional<Error> failure_;
};

/// Another connection that sees what this one sees.
Result<Connection> companionOf(const std::string& address, const std::string& snapshot, const Cancel& cancel) {
    auto other = Connection::open(address, cancel);
    if (!other) return other;
    for (const std::string& sql : {std::string("BEGIN ISOLATION LEVEL REPEATABLE READ, READ ONLY"),
                                   fmt::format("SET TRANSACTION SNAPSHOT '{}'", snapshot)})
        if (auto done = other->run(sql, {}, cancel); !done) return done.error();
    return other;
}

}  // namespace

Result<std::optional<KeyRanges>> rangesOf(Connection& connection, const TableSchema& schema, const LoadPlan& plan,
                                          const Cancel& cancel) {
    const std::optional<KeyRanges> none;
    const std::vector<FieldIndex> key = keyOf(schema);
    if (plan.isQuery || key.size() != 1 || schema.field(key.front()).join != 0) return none;
    const FieldSchema& field = schema.field(key.front());
    if (field.declaredType != "integer" && field.declaredType != "bigint" && field.declaredType != "smallint")
        return none;
    auto table = tableSql(connection, schema.name, cancel);
    if (!table) return table.error();
    // What the last ANALYZE has counted, or as many as its pages may hold: enough to choose by.
    auto size = connection.run(
        "SELECT greatest(c.reltuples::int8, pg_relation_size(c.oid) / 200) FROM pg_class AS c WHERE c.oid = "
        "$1::regclass "
        "AND c.relkind = 'r'",
        {*table}, cancel);
    if (!size) return size.error();
    if (size->rows() == 0 || size->integer(0, 0) < kWorthTwo) return none;
    KeyRanges ranges{columnSql(field), 0, 0, 0, size->integer(0, 0)};
    auto ends = connection.run(
        fmt::format("SELECT min({0})::int8, max({0})::int8 FROM {1} AS t0", quotedName(field.name), *table), {},
        cancel);
    if (!ends) return ends.error();
    if (ends->isNull(0, 0)) return none;
    ranges.low = ends->integer(0, 0);
    ranges.high = ends->integer(0, 1);
    // Each range joins the other tables anew.
    const std::int64_t each = schema.joins.empty() ? 25'000 : 125'000;
    const std::uint64_t span = static_cast<std::uint64_t>(ranges.high) - static_cast<std::uint64_t>(ranges.low);
    // Keys in a range: far more than there are ranges, so that none begins behind the last key.
    constexpr std::uint64_t kNarrowest = 4000;
    if (span < kNarrowest) return none;
    const auto wanted = static_cast<std::uint64_t>(std::clamp<std::int64_t>(size->integer(0, 0) / each, 2, 400));
    ranges.count = static_cast<int>(std::min(wanted, span / kNarrowest + 1));
    return std::optional(ranges);
}

Result<std::shared_ptr<const Table>> loadRanges(Connection& connection, const TableSchema& schema, const LoadPlan& plan,
                                                const LoadRequest& request, const KeyRanges& ranges,
                                                const Cancel& cancel) {
    auto snapshot = connection.run("SELECT pg_export_snapshot()", {}, cancel);
    if (!snapshot) return snapshot.error();
    RangeLoad load(schema, plan, request, ranges, cancel);
    std::thread other;
    try {
        other = std::thread([&, name = snapshot->text(0, 0)] {
            if (auto companion = companionOf(connection.address(), name, cancel)) load.work(*companion);
        });
    } catch (const std::system_error&) {  // there are too many threads
    }
    load.work(connection);
    if (other.joinable()) other.join();
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    return load.finish();
}

}  // namespace jollyrow::postgres
