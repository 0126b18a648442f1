// SPDX-License-Identifier: MIT
#pragma once
// Source and Store: where records come from and where edits go. One implementation file each behind the factories
// below; nothing outside core/sources knows which database it is.

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/edits.h"
#include "core/columns/look_up.h"
#include "core/columns/table.h"

namespace jollyrow {

struct TableSummary {
    std::string name;
    bool isView = false;
    std::optional<std::int64_t>
        aboutRows;  ///< an upper bound found without counting; absent for views and where there is none
};

/// What to bind to: a table or view by name, or a SELECT of the builder's own.
struct Binding {
    std::string table;
    std::string query;  ///< when not empty, `table` is ignored
    /// Fields of other tables reached by foreign keys, e.g. "vessel.owner.name"; they stand behind the table's own in
    /// the schema, and are loaded with them in one query. One that cannot be had is left out.
    std::vector<std::string> related = {};
    /// By field name: how values stand there that no declaration tells. Of a field that is not there, nothing.
    std::map<std::string, ReadAs> readAs = {};
    /// Whose clocks show points of time (TimeZone::named); "" = the machine's, as is a zone that there is not.
    std::string zone = {};
    /// Pictures are read with their records, as all other binary data is, and not one by one when they are shown.
    bool readsPictures = false;
    bool operator==(const Binding&) const = default;
};

struct LoadProgress {
    std::int64_t rows = 0;
    std::optional<std::int64_t> total;  ///< exact when stated; absent while unknown
    double milliseconds = 0;
    std::optional<std::int64_t> about = std::nullopt;  ///< a guess at the total, where it is not known exactly
    double rowsPerSecond() const { return milliseconds > 0 ? static_cast<double>(rows) * 1000.0 / milliseconds : 0; }
};

struct LoadRequest {
    Binding binding;
    /// Values for the parameters of binding.query; the conditions on one that is missing are lifted
    /// (withoutConditionsOn).
    std::map<std::string, Value> parameters = {};
    /// By field: false leaves its column null. Empty: all but Binary fields.
    std::vector<bool> wanted;
    /// No more records than these, the first in bound order; for what may never end.
    std::optional<std::int64_t> most = std::nullopt;
    /// Called from a loading thread, in order: soon with the first rows, then now and again. May be empty.
    std::function<void(std::shared_ptr<const Table>, const LoadProgress&)> onPart;
};

/// Records of another table that a look-up may point to.
struct LookUpRequest {
    std::string table;
    std::string keyField;
    std::string labelField;    ///< "" = the key stands for itself
    std::string contains;      ///< only labels with this in them; case does not matter for ASCII
    std::optional<Value> key;  ///< only the record with this key
    std::size_t most = 200;
    /// Only records whose label, or whose key (appendPlain), is one of these; then all of them, whatever `most` says:
    /// what one of several of a name were taken for would be the wrong one.
    std::optional<std::vector<std::string>> called = std::nullopt;
};
/// One record, to read some of its fields again.
struct RecordRequest {
    TableSchema schema;
    RecordKey key;
    bool keyIsRowId = false;
    std::vector<FieldIndex> keyFields;
    std::vector<FieldIndex> fields;
};

/// Whether a table has a record with these values; they are never empty. Asked before a record is saved: of values that
/// only one may have, and of what a link points to.
struct PresenceRequest {
    std::string table;
    std::vector<std::string> fields;
    std::vector<Value> values;
    std::vector<FieldSchema> forms = {};                 ///< how the values stand in the database
    std::optional<RecordRequest> except = std::nullopt;  ///< a record of that table which does not count
};

/// Records of other tables that point to some records, and what becomes of them when these are deleted.
struct Dependents {
    enum class Then {
        Refuse,   ///< the database refuses to delete while there are such records
        Delete,   ///< they are deleted, too
        Unlink,   ///< their link becomes empty
        Default,  ///< their link becomes its default
    };
    std::string table;
    std::int64_t records = 0;
    Then then = Then::Refuse;
    bool operator==(const Dependents&) const = default;
};

/// A record as somebody else has left it.
struct ElsewhereChange {
    RecordKey key;
    bool isGone = false;
    std::vector<std::pair<FieldIndex, Value>> values = {};  ///< of those fields that are known
};

/// Thread-safe: each call opens what it needs. Lives as long as the shared_ptr. For workers and programs without a
/// window: every call may block, for some seconds where another program holds a lock, and polls `cancel` meanwhile.
class Source {
  public:
    virtual ~Source() = default;
    virtual Result<std::vector<TableSummary>> tables(const Cancel& cancel = {}) const = 0;
    virtual Result<TableSchema> schema(const Binding& binding, const Cancel& cancel = {}) const = 0;
    /// All records in bound order. Blocks; polls `cancel` at least every 20 ms.
    virtual Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const = 0;
    /// In the order of the labels. Blocks; polls `cancel`.
    virtual Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest& request, const Cancel& cancel) const = 0;
    /// The values of request.fields, in that order. NotFound when the record is gone.
    virtual Result<std::vector<Value>> valuesOf(const RecordRequest& request) const = 0;
    /// What points to these records of one table, of tables that have some. Blocks; polls `cancel`.
    virtual Result<std::vector<Dependents>> dependentsOf(const std::vector<RecordRequest>&, const Cancel&) const {
        return std::vector<Dependents>{};
    }
    /// In their order. Unsupported where a source cannot tell. Blocks; polls `cancel`.
    virtual Result<std::vector<bool>> arePresent(const std::vector<PresenceRequest>&, const Cancel&) const {
        return Error{ErrorCode::Unsupported, "This source cannot be asked."};
    }
};

/// A schema that many writes share; made of one, it keeps a copy.
class SharedSchema final {
  public:
    SharedSchema() : schema_(std::make_shared<const TableSchema>()) {}
    SharedSchema(TableSchema schema) : schema_(std::make_shared<const TableSchema>(std::move(schema))) {}
    SharedSchema(std::shared_ptr<const TableSchema> schema) : schema_(std::move(schema)) {}
    operator const TableSchema&() const { return *schema_; }
    const TableSchema* operator->() const { return schema_.get(); }

  private:
    std::shared_ptr<const TableSchema> schema_;  ///< never null
};

struct FieldChange {
    FieldIndex field{};
    Value before;  ///< what the writer believes is stored
    Value after;
};

/// What a database deletes or unlinks with a record, as the foreign keys of other tables say: kept by the store that
/// deleted the record, for the same store to bring back. Immutable; may be let go of on any thread.
class TakenAlong {
  public:
    TakenAlong() = default;
    TakenAlong(const TakenAlong&) = delete;
    TakenAlong& operator=(const TakenAlong&) = delete;
    virtual ~TakenAlong() = default;
    static constexpr std::size_t kMostRows = 100'000, kMostBytes = 64U << 20;  ///< that are kept
    /// False: it is too much to be kept, or may not be read. It cannot be brought back then.
    virtual bool isWhole() const = 0;
    /// Some of it are records of this table: who shows it has to read it again.
    virtual bool isOf(const std::string& table) const = 0;
};

/// Changes to one record, a new one, or the end of one.
struct RecordWrite {
    SharedSchema schema;
    RecordKey key;  ///< empty for a new one
    bool keyIsRowId = false;
    std::vector<FieldIndex> keyFields;
    /// Of an insert only `after` is meant: fields that are left out get what the database gives them. Of a delete only
    /// `before`: the record is deleted as it is believed to be.
    std::vector<FieldChange> changes;
    RecordChange change = RecordChange::Update;
    /// Of writes in order: the one of them that inserts this record, whose key is what the database gives it then.
    std::optional<std::size_t> madeBy = std::nullopt;
    /// Of a table that counts the versions of its records: what is believed to stand there, and what is written with
    /// the changes. Another one is a conflict, whatever was changed.
    std::optional<FieldChange> version = std::nullopt;
    /// Read again after writing, for values that the database makes (keys, defaults, triggers, generated ones).
    std::vector<FieldIndex> readBack = {};
    /// Of an insert that makes a deleted record again: brought back with it, in the same transaction, but for links
    /// that somebody has changed since. Where that is refused, so is the record.
    std::shared_ptr<const TakenAlong> bringsBack = nullptr;
    /// Instead, of writes in order: what the one of them takes along that deletes the record before.
    std::optional<std::size_t> bringsBackOf = std::nullopt;
};

/// The record was written: its key now, and the values as stored, in the order of the changes.
struct StoredRecord {
    RecordKey key;
    std::vector<Value> values;
    std::vector<Value> readBack = {};  ///< in the order of RecordWrite::readBack; none of a deleted record
    std::shared_ptr<const TakenAlong> takenAlong = nullptr;  ///< with a deleted record; null: nothing
};

/// Somebody else has written meanwhile; nothing was changed.
struct Conflict {
    struct Field {
        FieldIndex field{};
        Value believed, stored;
    };
    std::vector<Field> fields;         ///< empty when the record is gone
    std::vector<Value> readBack = {};  ///< as the record stands now, in the order of RecordWrite::readBack
    bool isGone() const { return fields.empty(); }
};

/// The store does not take the values; nothing was changed.
struct Problem {
    ErrorCode code = ErrorCode::Refused;
    std::vector<FieldIndex> fields;  ///< at fault, as far as is known
    std::string message;             ///< for the form user: what is wrong and what to do
};

using Outcome = std::variant<StoredRecord, Conflict, Problem>;

enum class Atomicity {
    EachRecord,    ///< one record's trouble is its own
    AllOrNothing,  ///< one record that is not stored takes the others back: they are Problems of code Cancelled
    InOrder,       ///< the same, and each is written after the ones before it
};

/// What others have committed of a table's records since it was asked before.
struct SeenElsewhere {
    bool isSomething = false;  ///< but not told what: the records are to be read, and compared
    std::vector<ElsewhereChange> changes = {};
};

/// Confined to one thread.
class Store {
  public:
    virtual ~Store() = default;
    /// An outcome a record, in their order; each record in one transaction, or all of them. An error is of the whole
    /// store (Locked, ReadOnly, DiskFull, Io, Cancelled): nothing was changed then.
    virtual Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                               const Cancel& cancel) = 0;
    /// Told on write()'s thread, right before the transaction that inserts it is committed, which key a record of that
    /// write will have: after a crash in between, whoever noted it can tell whether the record is there.
    using Prepared = std::function<void(std::size_t record, const RecordKey& key)>;
    virtual void setPrepared(const Prepared& /*prepared*/) {}
    /// What others, not this store, have done to records of this table since the last call; the first one begins to
    /// look, and says that there is something: what was read before may be older. Unsupported where that cannot be
    /// told. Does not wait.
    virtual Result<SeenElsewhere> seenElsewhere(const TableSchema& /*schema*/,
                                                const std::vector<FieldIndex>& /*keyFields*/) {
        return Error{ErrorCode::Unsupported, "This source does not tell what others save."};
    }
};

/// One record, its trouble as an error with a message for the form user: Conflict, Refused and those of the store.
Result<StoredRecord> writeOne(Store& store, const RecordWrite& record);
/// What a conflict says to the form user.
std::string words(const Conflict& conflict, const TableSchema& schema);

/// Opens an embedded SQLite database file for reading. Fails when it is missing, unreadable or something else; one that
/// another program holds locked is taken for what its first bytes say. Waits for nobody.
Result<std::shared_ptr<const Source>> openSource(const std::string& path);
/// Opens it for writing.
Result<std::unique_ptr<Store>> openStore(const std::string& path);
/// A consistent copy of the database at `from`, for a trial. Replaces `to`.
Result<void> copyDatabase(const std::string& from, const std::string& to, const Cancel& cancel);

}  // namespace jollyrow
