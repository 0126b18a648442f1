// SPDX-License-Identifier: MIT
#pragma once
// A small database in memory with a Source and a Store that are slow, cut, locked or lie when the test says so. Every
// step of theirs waits at a gate, so that a test decides what happens between a load's reading and its delivery.

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <random>
#include <string>

#include "core/columns/column_builder.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Lets so many through; others wait. Locked inside.
class Gate {
  public:
    void allow(std::int64_t more) {
        const std::lock_guard lock(mutex_);
        allowed_ += more;
        changed_.notify_all();
    }
    void open() { allow(1'000'000'000); }
    void shut() {
        const std::lock_guard lock(mutex_);
        allowed_ = 0;
    }
    /// False when cancelled while waiting.
    bool pass(const Cancel* cancel = nullptr) {
        std::unique_lock lock(mutex_);
        while (allowed_ == 0) {
            changed_.wait_for(lock, std::chrono::milliseconds(2));
            if (cancel && cancel->requested()) return false;
        }
        --allowed_;
        return true;
    }

  private:
    std::mutex mutex_;
    std::condition_variable changed_;
    std::int64_t allowed_ = 0;
};

/// Records (key, uid, a, b). The uid names a record for the test's own eyes; nobody writes it.
class FaultyDatabase {
  public:
    struct Cell {
        std::string text;
        bool bySession = false;  ///< who wrote it last
    };
    struct Row {
        std::string uid;
        Cell a, b;
    };
    enum class Fault { None, Locked, Cut, Lies };

    Gate reads, deliveries, writes;
    std::atomic<Fault> nextLoad = Fault::None, nextWrite = Fault::None;
    std::atomic<int> ownConflicts = 0;  ///< saves refused for a value that the session itself had left there
    std::atomic<int> doubled = 0;       ///< records that were inserted twice
    std::int64_t madeKeys = 0;          ///< guarded by mutex
    std::atomic<int> wrongRecords = 0;  ///< saves that reached another record than they were typed on

    std::mutex mutex;      // guards rows and conflict
    std::string conflict;  ///< the last one with the session's own, in words
    std::mutex traceMutex;
    std::vector<std::string> trace;  ///< what has happened, for a failure's message
    void note(std::string line) {
        const std::lock_guard lock(traceMutex);
        trace.push_back(std::move(line));
    }
    std::map<std::int64_t, Row> rows;

    static TableSchema schema() {
        TableSchema schema;
        schema.name = "faulty";
        for (const char* name : {"key", "uid", "a", "b"}) {
            FieldSchema field;
            field.name = name;
            field.declaredType = field.name == "key" ? "INTEGER" : "TEXT";
            field.type = field.name == "key" ? Type::Integer : Type::Text;
            field.primaryKeyRank = field.name == "key" ? 1 : 0;
            schema.fields.push_back(field);
        }
        return schema;
    }
    std::map<std::int64_t, Row> state() {
        const std::lock_guard lock(mutex);
        return rows;
    }
};

inline std::shared_ptr<const Table> tableOf(const std::map<std::int64_t, FaultyDatabase::Row>& rows, std::size_t most) {
    auto table = std::make_shared<Table>();
    table->schema = FaultyDatabase::schema();
    table->keyFields = {FieldIndex{0}};
    ColumnChunk chunks[4];
    for (int f = 0; f < 4; ++f) chunks[f].reset(table->schema.fields[static_cast<std::size_t>(f)].type, 0, false);
    for (const auto& [key, row] : rows) {
        if (table->rows == most) break;
        chunks[0].addInteger(key);
        chunks[1].addText(row.uid);
        chunks[2].addText(row.a.text);
        chunks[3].addText(row.b.text);
        ++table->rows;
    }
    for (int f = 0; f < 4; ++f) {
        ColumnBuilder builder(table->schema.fields[static_cast<std::size_t>(f)]);
        builder.append(chunks[f]);
        table->columns.push_back(builder.share());
    }
    table->complete = table->rows == rows.size();
    return table;
}

class FaultySource final : public Source {
  public:
    explicit FaultySource(std::shared_ptr<FaultyDatabase> database) : database_(std::move(database)) {}
    Result<std::vector<TableSummary>> tables(const Cancel&) const override {
        return std::vector<TableSummary>{{"faulty", false, {}}};
    }
    Result<TableSchema> schema(const Binding&, const Cancel&) const override { return FaultyDatabase::schema(); }
    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        const Error stopped{ErrorCode::Cancelled, "Loading was cancelled."};
        if (!database_->reads.pass(&cancel)) return stopped;
        const auto rows = database_->state();
        database_->note("load reads");
        const auto fault = database_->nextLoad.exchange(FaultyDatabase::Fault::None);
        if (fault == FaultyDatabase::Fault::Locked) return Error{ErrorCode::Locked, "The database is locked."};
        const auto total = static_cast<std::int64_t>(rows.size()) * (fault == FaultyDatabase::Fault::Lies ? 7 : 1);
        auto part = std::const_pointer_cast<Table>(std::shared_ptr<const Table>(tableOf(rows, rows.size() / 2)));
        part->complete = false;
        if (request.onPart) request.onPart(part, {static_cast<std::int64_t>(part->rows), total, 1});
        if (!database_->deliveries.pass(&cancel)) return stopped;
        if (fault == FaultyDatabase::Fault::Cut) return Error{ErrorCode::Io, "The line was cut."};
        return tableOf(rows, rows.size());
    }
    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest&, const Cancel&) const override {
        return std::vector<LookUpEntry>{};
    }
    Result<std::vector<Value>> valuesOf(const RecordRequest&) const override {
        return Error{ErrorCode::NotFound, "This record is no longer there."};
    }

  private:
    std::shared_ptr<FaultyDatabase> database_;
};

class FaultyStore final : public Store {
  public:
    explicit FaultyStore(std::shared_ptr<FaultyDatabase> database) : database_(std::move(database)) {}
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity, const Cancel&) override {
        std::vector<Outcome> outcomes;
        for (const RecordWrite& record : records) {
            database_->writes.pass();
            if (database_->nextWrite.exchange(FaultyDatabase::Fault::None) == FaultyDatabase::Fault::Locked)
                return Error{ErrorCode::Locked, "The database is locked."};
            const std::lock_guard lock(database_->mutex);
            outcomes.push_back(record.change == RecordChange::Insert ? inserted(record) : changed(record));
        }
        return outcomes;
    }

  private:
    using Rows = std::map<std::int64_t, FaultyDatabase::Row>;
    static std::string textOf(const Value& value) {
        if (const auto* number = std::get_if<std::int64_t>(&value)) return std::to_string(*number);
        const auto* text = std::get_if<std::string>(&value);
        return text ? *text : std::string();
    }
    std::vector<Value> readBack(const RecordWrite& request, std::int64_t key) const {
        const FaultyDatabase::Row& row = database_->rows.at(key);
        const Value all[] = {Value(key), Value(row.uid), Value(row.a.text), Value(row.b.text)};
        std::vector<Value> values;
        for (const FieldIndex field : request.readBack) values.push_back(all[raw(field)]);
        return values;
    }
    /// Nobody empties a key, or makes a text of it.
    static bool hasGoodKeys(const RecordWrite& request) {
        return std::all_of(request.changes.begin(), request.changes.end(), [&](const FieldChange& change) {
            return request.change == RecordChange::Delete || change.field != FieldIndex{0} ||
                   std::holds_alternative<std::int64_t>(change.after);
        });
    }
    Outcome refusedKey(const RecordWrite& request) {
        std::string what = "store is given a key that is none: ";
        for (const Value& part : request.key) what += textOf(part) + " ";
        for (const FieldChange& change : request.changes)
            what += "| " + textOf(change.before) + " > " + textOf(change.after) + " ";
        database_->note(what);
        ++database_->wrongRecords;
        return Conflict{};
    }
    Outcome inserted(const RecordWrite& request) {
        if (!hasGoodKeys(request)) return refusedKey(request);
        std::int64_t key = 5'000'000 + database_->madeKeys++;
        FaultyDatabase::Row row;
        for (const FieldChange& change : request.changes) {
            if (change.field == FieldIndex{0}) key = std::get<std::int64_t>(change.after);
            if (change.field == FieldIndex{1}) row.uid = textOf(change.after);
            if (change.field == FieldIndex{2}) row.a = {textOf(change.after), true};
            if (change.field == FieldIndex{3}) row.b = {textOf(change.after), true};
        }
        database_->note("store inserts " + row.uid);
        for (const auto& [other, known] : database_->rows)
            if (known.uid == row.uid) ++database_->doubled;
        if (database_->rows.contains(key))
            return Problem{ErrorCode::Refused, {FieldIndex{0}}, "Another record has this key already."};
        database_->rows[key] = row;
        StoredRecord stored{{key}, {}, readBack(request, key)};
        for (const FieldChange& change : request.changes) stored.values.push_back(change.after);
        return stored;
    }
    Outcome changed(const RecordWrite& request) {
        Rows& rows = database_->rows;
        if (request.key.size() != 1 || !std::holds_alternative<std::int64_t>(request.key[0]) || !hasGoodKeys(request))
            return refusedKey(request);
        const auto key = std::get<std::int64_t>(request.key[0]);
        std::string what = std::to_string(key);
        for (const FieldChange& change : request.changes)
            what += " | " + textOf(change.before) + " > " + textOf(change.after);
        const bool isDelete = request.change == RecordChange::Delete;
        database_->note((isDelete ? "store deletes " : "store writes ") + what);
        const auto found = rows.find(key);
        if (found == rows.end()) return Conflict{};
        Conflict conflict;
        for (const FieldChange& change : request.changes) check(found, change, isDelete, conflict);
        if (!conflict.isGone()) return conflict;
        if (isDelete) {
            rows.erase(found);
            return StoredRecord{request.key, {}, {}};
        }
        std::int64_t to = key;
        StoredRecord stored;
        for (const FieldChange& change : request.changes) {
            if (change.field == FieldIndex{0}) to = std::get<std::int64_t>(change.after);
            if (change.field == FieldIndex{2}) found->second.a = {textOf(change.after), true};
            if (change.field == FieldIndex{3}) found->second.b = {textOf(change.after), true};
            stored.values.push_back(change.after);
        }
        if (to != key && rows.contains(to))
            return Problem{ErrorCode::Refused, {FieldIndex{0}}, "Another record has this key already."};
        auto node = rows.extract(found);
        node.key() = to;
        rows.insert(std::move(node));
        stored.key = {to};
        stored.readBack = readBack(request, to);
        return stored;
    }
    void check(Rows::iterator found, const FieldChange& change, bool isDelete, Conflict& conflict) {
        if (change.field == FieldIndex{0}) return;
        if (change.field == FieldIndex{1}) {
            if (textOf(change.before) != found->second.uid) ++database_->wrongRecords;
            return;
        }
        const FaultyDatabase::Cell& cell = change.field == FieldIndex{2} ? found->second.a : found->second.b;
        const std::string typed = textOf(change.after);
        // What is typed begins with the uid of the record it is meant for.
        if (!isDelete && !typed.empty() && typed.substr(0, typed.find(' ')) != found->second.uid)
            ++database_->wrongRecords;
        if (cell.text == textOf(change.before)) return;
        if (cell.bySession) {
            ++database_->ownConflicts;
            database_->conflict =
                "\"" + typed + "\" for \"" + textOf(change.before) + "\", which is \"" + cell.text + "\"";
        }
        conflict.fields.push_back({change.field, change.before, Value(cell.text)});
    }
    std::shared_ptr<FaultyDatabase> database_;
};

}  // namespace jollyrow
