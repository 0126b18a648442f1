// SPDX-License-Identifier: MIT
// Idea: SQLite gives one row at a time and one connection serves one thread, so the row ids are cut into ranges
// ("morsels") that two threads with a connection each read into chunks; whoever completes the next range in order
// appends it. Both connections read the same state: nothing was committed between their first reads, or they try again.
// Views, SELECTs and tables without row ids stream through one connection. Related tables are read by the one
// thread while the other begins with the records; both join in memory. Types that no declaration tells are guessed from
// the first records and checked on all: when one was guessed too narrow, the records are read once more. Covered by
// tests/sources/sqlite_test.cpp and join_test.cpp.
#include "core/sources/sqlite/sqlite_load.h"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <set>
#include <thread>

#include "core/base/out_of_memory.h"
#include "core/rules/query_parameters.h"
#include "core/sources/sqlite/file_gate.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_joined.h"
#include "core/sources/sqlite/sqlite_related.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"
#include "core/sources/table_builder.h"

namespace jollyrow::sqlite {
namespace {

constexpr std::int64_t kFirstMorsel = 512;  // small: it is what the window shows first
constexpr std::int64_t kFirstShown = 100;   // more lines than a tall screen has; each costs a look into related tables
constexpr std::int64_t kMorsel = 16384;     // row ids a range, and rows a chunk
constexpr std::int64_t kAhead = 8;          // finished ranges that may wait for an earlier one
constexpr std::size_t kSpare = 4;           // sets of chunks kept to be filled again

struct Plan {
    std::vector<FieldIndex> loaded;   ///< read from the statement, in the order of its columns
    std::vector<FieldIndex> related;  ///< gathered from the joined tables
    struct Link {
        std::vector<int> columns;         ///< of the statement that hold the key
        std::optional<FieldIndex> field;  ///< the loaded field of whole numbers that is the key
    };
    std::vector<Link> links;  ///< by root of `joined`
    std::vector<int> linkOf;  ///< by place in `loaded`: the link whose key the field is, or -1
    std::vector<bool> wanted;
    bool withRowIds = false;
    int rowIdColumn = 0;  ///< of the statement, when withRowIds
    std::vector<FieldIndex> keyFields;
    std::string select;  ///< without WHERE
    std::string rowId;   ///< SQL of the row id; empty when the records have none
    JoinedTables joined;
};

/// One batch on its way: the chunks and, for each join, the keys of the records' partners, then the partners.
struct Batch {
    ChunkSet set;
    JoinedTables::Keys keys;
    JoinedTables::Partners partners;
    std::vector<SeenValues> seen;  ///< by field; only of those whose type is open
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

/// What is not declared may have been guessed too narrow.
bool isOpen(const FieldSchema& field) { return field.join == 0 && isTypeOpen(field); }

std::int64_t spanOf(sqlite3* connection, const std::string& table, const std::string& rowId) {
    auto span = prepare(connection, fmt::format("SELECT (SELECT max({0}) FROM {1}) - (SELECT min({0}) FROM {1})", rowId,
                                                quotedName(table)));
    return span && sqlite3_step(span->get()) == SQLITE_ROW ? sqlite3_column_int64(span->get(), 0) : 0;
}

/// A large table is not read for the sake of a few records; theirs are looked up one by one then.
bool joinsInDatabase(sqlite3* connection, const TableSchema& schema, const Plan& plan) {
    constexpr std::int64_t kSmall = 200'000, kTimes = 8;
    if (plan.rowId.empty()) return false;
    const std::int64_t own = spanOf(connection, schema.name, plan.rowId);
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        if (!plan.wanted[i]) continue;
        for (int at = schema.fields[i].join; at != 0; at = schema.joins[static_cast<std::size_t>(at) - 1].parent) {
            const std::int64_t other =
                spanOf(connection, schema.joins[static_cast<std::size_t>(at) - 1].table, "rowid");
            if (other > kSmall && other / kTimes > own) return true;
        }
    }
    return false;
}

void planKeys(sqlite3* connection, const TableSchema& schema, const LoadRequest& request, Plan& plan) {
    std::vector<std::pair<int, FieldIndex>> keys;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (schema.fields[i].primaryKeyRank > 0)
            keys.emplace_back(schema.fields[i].primaryKeyRank, static_cast<FieldIndex>(i));
    std::sort(keys.begin(), keys.end());
    const bool byRowId = request.binding.query.empty() && hasRowId(connection, schema);
    if (byRowId) plan.rowId = "t0." + *rowIdName(schema);
    const bool keyIsRowId =
        keys.size() == 1 && sqlite3_stricmp(schema.field(keys[0].second).declaredType.c_str(), "INTEGER") == 0;
    plan.withRowIds = byRowId && !keyIsRowId;
    if (!schema.isView && !plan.withRowIds)
        for (const auto& [rank, field] : keys) plan.keyFields.push_back(field);
    for (const FieldIndex field : plan.keyFields) plan.wanted[raw(field)] = true;
}

/// Where the fields of other tables come from: as the sizes suggest, or by the database's own join.
enum class Joining { BySize, InDatabase };

/// By which columns of the statement the records find those of the joined tables; `columnOf` selects one.
template <class ColumnOf>
void planLinks(const TableSchema& schema, const ColumnOf& columnOf, Plan& plan) {
    plan.linkOf.assign(plan.loaded.size(), -1);
    for (std::size_t n = 0; n < plan.joined.roots().size(); ++n) {
        Plan::Link& link = plan.links.emplace_back();
        for (const std::string& name : schema.joins[plan.joined.roots()[n]].fields)
            link.columns.push_back(columnOf(name));
        const auto key = static_cast<std::size_t>(link.columns.front());
        if (link.columns.size() != 1 || key >= plan.loaded.size() || !plan.joined.index(n).isOneNumber()) continue;
        const FieldSchema& field = schema.field(plan.loaded[key]);
        // A guessed type may be another one in the second reading.
        if (field.type != Type::Integer || field.stored.form != StoredForm::Own || isOpen(field) ||
            plan.linkOf[key] >= 0)
            continue;
        link.field = plan.loaded[key];
        plan.linkOf[key] = static_cast<int>(n);
    }
}

Result<Plan> planOf(sqlite3* connection, const TableSchema& schema, const LoadRequest& request, Joining joining) {
    Plan plan;
    plan.wanted = request.wanted;
    if (plan.wanted.size() != schema.fields.size()) {
        plan.wanted.assign(schema.fields.size(), true);
        for (std::size_t i = 0; i < schema.fields.size(); ++i) plan.wanted[i] = schema.fields[i].type != Type::Binary;
    }
    planKeys(connection, schema, request, plan);
    const bool inDatabase = joining == Joining::InDatabase || joinsInDatabase(connection, schema, plan);
    if (!inDatabase) {
        auto joined = JoinedTables::of(connection, schema, plan.wanted);
        if (!joined) return joined.error();
        plan.joined = std::move(*joined);
    }
    std::string columns;
    int count = 0;
    const auto select = [&](const std::string& sql) {
        columns += (columns.empty() ? "" : ", ") + sql;
        return count++;
    };
    std::vector<int> joins;
    std::map<std::string, int> places;  // of the table's own columns in the statement
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        if (!plan.wanted[i]) continue;
        const bool isRelated = schema.fields[i].join != 0;
        if (isRelated && !inDatabase) {
            plan.related.push_back(static_cast<FieldIndex>(i));
            continue;
        }
        plan.loaded.push_back(static_cast<FieldIndex>(i));
        const int at = select(loadedSql(schema.fields[i], columnSql(schema.fields[i])));
        if (isRelated) joins.push_back(schema.fields[i].join);
        if (!isRelated) places.emplace(schema.fields[i].name, at);
    }
    planLinks(
        schema,
        [&](const std::string& name) {
            const auto known = places.find(name);
            return known != places.end() ? known->second : select("t0." + quotedName(name));
        },
        plan);
    // SQLite gives so many columns at most; the row id is not worth one of the table's own.
    if (plan.withRowIds && count >= sqlite3_limit(connection, SQLITE_LIMIT_COLUMN, -1)) {
        plan.withRowIds = false;
        for (std::size_t i = 0; i < schema.fields.size(); ++i)
            if (schema.fields[i].primaryKeyRank > 0 && plan.wanted[i])
                plan.keyFields.push_back(static_cast<FieldIndex>(i));
    }
    if (plan.withRowIds) plan.rowIdColumn = select(plan.rowId);
    if (columns.empty()) columns = "NULL";
    plan.select = !request.binding.query.empty() ? withoutEmpties(request)
                                                 : "SELECT " + columns + " FROM " + fromSql(schema, joins);
    return plan;
}

TableBuilder builderFor(const TableSchema& schema, const Plan& plan) {
    return {schema, plan.wanted, plan.withRowIds, plan.keyFields};
}

/// The texts of related fields are known before the first record. Requires: plan.joined.isFilled().
void giveTexts(const Plan& plan, TableBuilder& builder) {
    for (const FieldIndex field : plan.related)
        if (const TextArena* texts = plan.joined.textsOf(field)) builder.giveTexts(field, *texts);
}

/// The chunks stand in field order, those of wanted fields only.
std::vector<ColumnChunk*> chunksByField(const TableSchema& schema, const Plan& plan, ChunkSet& set) {
    std::vector<ColumnChunk*> chunks(schema.fields.size(), nullptr);
    std::size_t next = 0;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (plan.wanted[i]) chunks[i] = &set.chunks[next++];
    return chunks;
}

/// Reads rows of `statement` into `batch` until `most` rows or the end. True when there may be more.
Result<bool> readRows(sqlite3_stmt* statement, const TableSchema& schema, const Plan& plan, bool allColumns,
                      Batch& batch, std::int64_t most) {
    ChunkSet& set = batch.set;
    batch.seen.resize(schema.fields.size());
    plan.joined.clear(batch.keys);
    const std::vector<ColumnChunk*> chunks = chunksByField(schema, plan, set);
    bool more = true;
    for (std::int64_t n = 0; n < most && more; ++n) {
        const int code = sqlite3_step(statement);
        more = code != SQLITE_DONE;
        if (!more) break;
        if (code != SQLITE_ROW) return errorOf(sqlite3_db_handle(statement), "Loading");
        for (std::size_t i = 0; i < plan.loaded.size(); ++i) {
            const std::size_t at = raw(plan.loaded[i]);
            sqlite3_value* value = sqlite3_column_value(statement, static_cast<int>(allColumns ? at : i));
            const FieldSchema& field = schema.fields[at];
            const bool fits = decodeInto(*chunks[at], value, field);
            if (isOpen(field)) {
                if (!fits) see(batch.seen[at], value, field);
                batch.seen[at].kinds |= 1U << sqlite3_value_type(value);
            }
            if (const int link = fits ? -1 : plan.linkOf[i]; link >= 0)
                plan.joined.index(static_cast<std::size_t>(link))
                    .noteOdd(statement, plan.links[static_cast<std::size_t>(link)].columns,
                             static_cast<std::uint32_t>(n), batch.keys[static_cast<std::size_t>(link)]);
        }
        for (std::size_t root = 0; root < plan.links.size(); ++root)
            if (!plan.links[root].field)
                plan.joined.index(root).note(statement, plan.links[root].columns, batch.keys[root]);
        if (plan.withRowIds) set.chunks.back().addInteger(sqlite3_column_int64(statement, plan.rowIdColumn));
        ++set.rows;
    }
    return more;
}

/// The values of related fields for the records of a batch. Requires: plan.joined.isFilled().
void joinRows(const TableSchema& schema, const Plan& plan, Batch& batch) {
    if (plan.related.empty()) return;
    const std::vector<ColumnChunk*> chunks = chunksByField(schema, plan, batch.set);
    std::vector<const ColumnChunk*> numbers;
    for (const Plan::Link& link : plan.links) numbers.push_back(link.field ? chunks[raw(*link.field)] : nullptr);
    plan.joined.findPartners(numbers, batch.keys, batch.partners);
    for (const FieldIndex field : plan.related) plan.joined.gather(field, batch.partners, *chunks[raw(field)]);
}

void merge(std::vector<SeenValues>& into, const std::vector<SeenValues>& from) {
    into.resize(std::max(into.size(), from.size()));
    for (std::size_t i = 0; i < from.size(); ++i) {
        into[i].kinds |= from[i].kinds;
        into[i].scale = std::max(into[i].scale, from[i].scale);
    }
}

/// The schema with room for all values seen; nullopt when it has it already.
std::optional<TableSchema> widened(const TableSchema& schema, const Plan& plan, const std::vector<SeenValues>& seen) {
    TableSchema wider = schema;
    for (std::size_t i = 0; i < seen.size(); ++i) {
        FieldSchema& field = wider.fields[i];
        if (!plan.wanted[i] || !isOpen(field)) continue;
        SeenValues all = seen[i];
        all.scale = std::max(all.scale, field.scale);
        fitTo(field, all);
    }
    if (wider.fields == schema.fields) return std::nullopt;
    return wider;
}

struct Loaded {
    std::shared_ptr<const Table> table;
    std::vector<SeenValues> seen;
};

Result<Loaded> loadSerially(sqlite3* connection, const TableSchema& schema, Plan& plan, const LoadRequest& request,
                            const Cancel& cancel) {
    watch(connection, cancel);
    if (auto filled = plan.joined.fill(connection, schema, plan.wanted, cancel); !filled) return filled.error();
    auto statement = prepare(connection, plan.select);
    if (!statement) return statement.error();
    bindParameters(statement->get(), request);
    TableBuilder builder = builderFor(schema, plan);
    giveTexts(plan, builder);
    Batch batch;
    for (std::int64_t most = kFirstMorsel;; most = kMorsel) {
        const std::int64_t left = request.most ? *request.most - static_cast<std::int64_t>(builder.rows())
                                               : std::numeric_limits<std::int64_t>::max();
        most = std::min(most, left);
        builder.prepare(batch.set);
        auto more = readRows(statement->get(), schema, plan, !request.binding.query.empty(), batch, most);
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
        if (!more) return more.error();
        joinRows(schema, plan, batch);
        builder.append(batch.set);
        if (!*more || most == left) {
            builder.settle();
            return Loaded{builder.finish(), std::move(batch.seen)};
        }
        builder.show(request, std::nullopt);
    }
}

/// What the two loading threads share. Related tables are read by the one while the other reads the first records,
/// which wait for their partners.
class MorselLoad {
  public:
    MorselLoad(const TableSchema& schema, Plan& plan, const LoadRequest& request, const Cancel& cancel,
               std::int64_t low, std::int64_t high)
        : schema_(schema),
          plan_(plan),
          request_(request),
          cancel_(cancel),
          low_(low),
          high_(high),
          ahead_(aheadOf(plan)),
          builder_(builderFor(schema, plan)) {}

    void fillJoined(sqlite3* connection) {
        watch(connection, cancel_);
        auto filled = plan_.joined.fill(connection, schema_, plan_.wanted, cancel_);
        if (!filled) return fail(filled.error());
        const std::lock_guard lock(mutex_);
        giveTexts(plan_, builder_);
        joined_ = true;
        room_.notify_all();
    }

    /// `rows`: no less than there are.
    void expect(std::size_t rows) {
        builder_.reserve(rows);
        builder_.setAbout(static_cast<std::int64_t>(rows));
    }

    void work(sqlite3* connection) {
        watch(connection, cancel_);
        auto statement = prepare(
            connection, fmt::format("{0} WHERE {1} >= ?1 AND {1} <= ?2 ORDER BY {1}", plan_.select, plan_.rowId));
        if (!statement) return fail(statement.error());
        Batch batch;
        std::vector<Early> early;
        const auto giveEarly = [&] {
            for (Early& one : early) {
                batch.set = std::move(one.set);
                batch.keys = std::move(one.keys);
                joinRows(schema_, plan_, batch);
                give(one.morsel, std::move(batch.set));
            }
            early.clear();
        };
        while (const auto morsel = take(batch.set)) {
            sqlite3_reset(statement->get());
            sqlite3_bind_int64(statement->get(), 1, startOf(*morsel));
            sqlite3_bind_int64(statement->get(), 2, std::min(high_, startOf(*morsel + 1) - 1));
            auto read = readRows(statement->get(), schema_, plan_, false, batch, kMorsel + 1);
            if (cancel_.requested()) return fail({ErrorCode::Cancelled, "Loading was cancelled."});
            if (!read) return fail(read.error());
            early.push_back({*morsel, std::exchange(batch.set, {}), std::exchange(batch.keys, {})});
            if (mayGive()) giveEarly();
        }
        // The other may have taken the last range after there was more to read for this one.
        if (!early.empty() && mayGive()) giveEarly();
        const std::lock_guard lock(mutex_);
        merge(seen_, batch.seen);
    }

    void fail(Error error) {
        const std::lock_guard lock(mutex_);
        if (!failure_) failure_ = std::move(error);
        room_.notify_all();
    }

    Result<Loaded> finish() {
        if (failure_) return *failure_;
        if (startOf(appended_) <= high_)
            return Error{ErrorCode::Io, "Loading ended before all records were read. Please load again."};
        builder_.settle();
        return Loaded{builder_.finish(), std::move(seen_)};
    }

  private:
    /// Read before the related tables were.
    struct Early {
        std::int64_t morsel;
        ChunkSet set;
        JoinedTables::Keys keys;
    };

    /// Ranges that wait for related tables cost memory; some megabytes of them are as many as their reading takes.
    static std::int64_t aheadOf(const Plan& plan) {
        constexpr std::int64_t kMostWaiting = 6 << 20, kValueBytes = 8;
        if (plan.related.empty()) return kAhead;
        const auto columns = static_cast<std::int64_t>(plan.loaded.size() + plan.related.size());
        return std::clamp<std::int64_t>(kMostWaiting / (columns * kMorsel * kValueBytes), 4, 12);
    }

    /// True when the related tables are there; waits for them when there is no room for more, or nothing more to read.
    bool mayGive() {
        std::unique_lock lock(mutex_);
        room_.wait(lock,
                   [&] { return failure_ || joined_ || (next_ - appended_ < ahead_ && startOf(next_) <= high_); });
        return joined_ && !failure_;
    }

    std::int64_t startOf(std::int64_t morsel) const {
        return morsel == 0 ? low_ : low_ + kFirstMorsel + (morsel - 1) * kMorsel;
    }

    std::optional<std::int64_t> take(ChunkSet& set) {
        std::unique_lock lock(mutex_);
        room_.wait(lock, [&] { return failure_ || next_ - appended_ < ahead_; });
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
            if (spare_.size() < kSpare) spare_.push_back(std::move(waiting_.begin()->second));
            waiting_.erase(waiting_.begin());
            ++appended_;
        }
        builder_.show(request_, std::nullopt);
        room_.notify_all();
    }

    const TableSchema& schema_;
    Plan& plan_;
    const LoadRequest& request_;
    const Cancel& cancel_;
    const std::int64_t low_, high_, ahead_;

    std::mutex mutex_;
    std::condition_variable room_;
    TableBuilder builder_;  // all below guarded by mutex_
    std::map<std::int64_t, ChunkSet> waiting_;
    std::vector<ChunkSet> spare_;
    std::vector<SeenValues> seen_;
    std::int64_t next_ = 0, appended_ = 0;
    bool joined_ = false;  ///< the related tables are read
    std::optional<Error> failure_;
};

std::int64_t dataVersion(sqlite3* connection) {
    auto statement = prepare(connection, "PRAGMA data_version");
    return statement && sqlite3_step(statement->get()) == SQLITE_ROW ? sqlite3_column_int64(statement->get(), 0) : -1;
}

/// One state of the database, held by a transaction on each of one or two connections.
struct State {
    Connection first, second;  ///< second: null where others keep writing, or nothing may wait for it
};

Result<void> beginReading(sqlite3* connection) {
    return execute(connection, "BEGIN; SELECT 1 FROM sqlite_schema LIMIT 1");
}

/// Waits for a writer as long as open() says. Nothing committed between the first reads of both: they see one state.
/// Once the first reads nobody is waited for: a writer that keeps out the second waits for the first.
Result<State> openState(Connection first, const std::string& path) {
    auto probe = open(path, OpenMode::ReadOnly, 0), second = open(path, OpenMode::ReadOnly, 0);
    for (int attempt = 0; probe && second && attempt < 3; ++attempt) {
        const std::int64_t before = dataVersion(probe->get());
        if (auto begun = beginReading(first.get()); !begun) return begun.error();
        if (before >= 0 && beginReading(second->get()).ok() && dataVersion(probe->get()) == before)
            return State{std::move(first), std::move(*second)};
        sqlite3_exec(first.get(), "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_exec(second->get(), "ROLLBACK", nullptr, nullptr, nullptr);
    }
    if (auto begun = beginReading(first.get()); !begun) return begun.error();
    return State{std::move(first), nullptr};
}

Result<Loaded> loadOnce(const std::string& path, const State& state, const TableSchema& schema, Plan& plan,
                        const LoadRequest& request, const Cancel& cancel) {
    if (plan.rowId.empty() || request.most) return loadSerially(state.first.get(), schema, plan, request, cancel);
    auto range = prepare(state.first.get(),
                         fmt::format("SELECT (SELECT min({0}) FROM {1} AS t0), (SELECT max({0}) FROM {1} AS t0)",
                                     plan.rowId, quotedName(schema.name)));
    if (!range) return range.error();
    if (sqlite3_step(range->get()) != SQLITE_ROW) return errorOf(state.first.get(), "Loading");
    const std::int64_t low = sqlite3_column_int64(range->get(), 0), high = sqlite3_column_int64(range->get(), 1);
    range->reset();
    struct stat info {};
    const std::uint64_t fileSize = stat(path.c_str(), &info) == 0 ? static_cast<std::uint64_t>(info.st_size) : 0;
    const std::uint64_t span = static_cast<std::uint64_t>(high) - static_cast<std::uint64_t>(low) + 1;
    const std::uint64_t plausibleRows = fileSize / (schema.fields.size() + 3) + 1;
    if (!state.second || span > plausibleRows * 16 + static_cast<std::uint64_t>(kMorsel) ||
        high > std::numeric_limits<std::int64_t>::max() - 2 * kMorsel)
        return loadSerially(state.first.get(), schema, plan, request, cancel);

    MorselLoad load(schema, plan, request, cancel, low, high);
    load.expect(std::min(span, plausibleRows));
    {
        const auto guarded = [&load](const auto& work) {
            auto done = withinMemory("Loading", [&]() -> Result<void> { return work(), Result<void>(); });
            if (!done) load.fail(done.error());
        };
        const std::jthread helper([&] { guarded([&] { load.work(state.second.get()); }); });
        guarded([&] { load.fillJoined(state.first.get()); });
        guarded([&] { load.work(state.first.get()); });
    }
    return load.finish();
}

}  // namespace

/// Reading related tables may take a while; the first records, whose partners the database finds one by one in no time,
/// are shown before. What fails here fails again, and is said, in the load itself.
static void showFirst(sqlite3* connection, const TableSchema& schema, const LoadRequest& request,
                      const Cancel& cancel) {
    if (!request.onPart || schema.joins.empty() || !hasRowId(connection, schema)) return;
    LoadRequest few = request;
    few.onPart = {};
    few.most = kFirstShown;
    auto plan = planOf(connection, schema, few, Joining::InDatabase);
    if (!plan) return;
    const auto loaded = loadSerially(connection, schema, *plan, few, cancel);
    if (!loaded || loaded->table->rows == 0) return;
    auto part = std::make_shared<Table>(*loaded->table);
    part->complete = false;
    request.onPart(std::move(part), {static_cast<std::int64_t>(loaded->table->rows), std::nullopt, 0});
}

static Result<std::shared_ptr<const Table>> loadState(const std::string& path, const LoadRequest& request,
                                                      const Cancel& cancel) {
    auto first = open(path, OpenMode::ReadOnly);
    if (!first) return first.error();
    const FileGate::Reading reading(FileGate::of(fileOf(first->get())), cancel);
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    auto state = openState(std::move(*first), path);
    if (!state) return state.error();
    // Within the transaction: the schema is that of the records.
    auto schema = readSchema(state->first.get(), request.binding);
    if (!schema) return schema.error();
    watch(state->first.get(), cancel);
    showFirst(state->first.get(), *schema, request, cancel);
    auto plan = planOf(state->first.get(), *schema, request, Joining::BySize);
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Loading was cancelled."};
    if (!plan) return plan.error();
    auto loaded = loadOnce(path, *state, *schema, *plan, request, cancel);
    if (!loaded) return loaded.error();
    // A second time, at most, when a guessed type has turned out too narrow.
    if (auto wider = widened(*schema, *plan, loaded->seen)) {
        loaded = loadOnce(path, *state, *wider, *plan, request, cancel);
        if (!loaded) return loaded.error();
    }
    return loaded->table;
}

Result<std::shared_ptr<const Table>> loadTable(const std::string& path, const LoadRequest& request,
                                               const Cancel& cancel) {
    return withinMemory("Loading", [&] { return loadState(path, request, cancel); });
}

}  // namespace jollyrow::sqlite
