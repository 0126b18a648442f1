// SPDX-License-Identifier: MIT
// The SQLite Store. One record: BEGIN IMMEDIATE (or SAVEPOINT, of several that stand or fall together); read its
// present values; compare with what the writer believed; UPDATE, INSERT or DELETE; read back what was stored; COMMIT.
// Anything else rolls back. Covered by tests/sources/sqlite_test.cpp and conformance_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <list>
#include <map>
#include <optional>

#include "core/formats/text_format.h"
#include "core/sources/batch.h"
#include "core/sources/source.h"
#include "core/sources/sqlite/file_gate.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_source.h"
#include "core/sources/sqlite/sqlite_taken.h"
#include "core/sources/sqlite/sqlite_values.h"
#include "core/sources/stored_forms.h"

namespace jollyrow {
namespace {

std::string shown(const Value& value) {
    std::string text;
    appendDisplay(text, value, {});
    return text.empty() ? "empty" : text;
}

/// The fields that SQLite names, as "table.field, table.field", in the order of the table.
std::vector<FieldIndex> fieldsIn(const TableSchema& schema, const std::string& detail) {
    std::vector<FieldIndex> fields;
    const std::string list = ", " + detail + ", ";
    for (std::size_t i = 0; i < schema.storedFields(); ++i)
        if (schema.fields[i].join == 0 &&
            list.find(", " + schema.name + "." + schema.fields[i].name + ", ") != list.npos)
            fields.push_back(static_cast<FieldIndex>(i));
    return fields;
}

/// An exact number that came back as another one. (Other values may change for a reason, by a trigger.)
bool losesDigits(const Value& given, const Value& stored) {
    const bool exact = std::holds_alternative<Decimal>(given) || std::holds_alternative<WideDecimal>(given);
    if (!exact || given == stored) return false;
    constexpr int kDigitsOfDouble = 15;
    std::string digits = shown(given);
    std::erase_if(digits, [](char c) { return c < '0' || c > '9'; });
    return digits.size() > kDigitsOfDouble;
}

std::optional<double> numberOf(const std::string& text) {
    char* end = nullptr;
    const double number = std::strtod(text.c_str(), &end);
    const bool spells =
        end != text.c_str() &&
        text.find_first_not_of(" \t\n\v\f\r", static_cast<std::size_t>(end - text.c_str())) == std::string::npos;
    return !spells ? std::nullopt : std::optional(number);
}

/// A text that came back as the number it spells, written otherwise: 007 as 7, 1e3 as 1000.0. SQLite does so in columns
/// of numeric affinity, which every declared type has whose name it does not know ("STRING").
bool losesSpelling(const Value& given, const Value& stored) {
    const auto* typed = std::get_if<std::string>(&given);
    const auto* kept = std::get_if<std::string>(&stored);
    if (!typed || !kept || *typed == *kept) return false;
    const auto one = numberOf(*typed), other = numberOf(*kept);
    constexpr double kOfDigitsKept = 1e-14;
    return one && other && (*one == *other || std::abs(*one - *other) <= std::abs(*one) * kOfDigitsKept);
}

/// Why what was stored is not what was given; "" when it is, or when it may have been changed for a reason.
std::string_view lossOf(const Value& given, const Value& stored) {
    if (losesDigits(given, stored)) return "as a double, of some 15 digits. Declared as TEXT it keeps them all.";
    if (losesSpelling(given, stored)) return "as numbers. Declared as TEXT it keeps what is typed.";
    return {};
}

class SqliteStore final : public Store {
  public:
    /// `gate`: null where readers keep no writer waiting.
    SqliteStore(sqlite::Connection connection, std::shared_ptr<sqlite::FileGate> gate)
        : connection_(std::move(connection)), gate_(std::move(gate)) {}

    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override {
        switch (atomicity) {
            case Atomicity::EachRecord: return writeEach(records, cancel);
            case Atomicity::AllOrNothing: return writeAll(records, cancel);
            case Atomicity::InOrder: return writeInOrder(records, cancel);
        }
        return writeEach(records, cancel);
    }

    void setPrepared(const Prepared& prepared) override { prepared_ = prepared; }

    /// data_version is another one when others have committed, not when this connection has
    /// (sqlite.org/pragma.html#pragma_data_version); it does not say what.
    Result<SeenElsewhere> seenElsewhere(const TableSchema& /*schema*/,
                                        const std::vector<FieldIndex>& /*keyFields*/) override {
        auto statement = statementFor("PRAGMA data_version");
        if (!statement) return statement.error();
        const int code = sqlite3_step(*statement);
        const std::int64_t version = code == SQLITE_ROW ? sqlite3_column_int64(*statement, 0) : 0;
        sqlite3_reset(*statement);
        // One that is being written just now is looked at next time.
        if (code == SQLITE_BUSY) return SeenElsewhere{};
        if (code != SQLITE_ROW) return sqlite::errorOf(connection_.get(), "Looking for changes");
        const bool isOther = !seenVersion_ || *seenVersion_ != version;
        seenVersion_ = version;
        return SeenElsewhere{isOther, {}};
    }

  private:
    void tellPrepared(const RecordWrite& record, std::size_t at, const Outcome& outcome) const {
        const auto* stored = std::get_if<StoredRecord>(&outcome);
        if (prepared_ && stored && record.change == RecordChange::Insert) prepared_(at, stored->key);
    }
    /// A whole transaction: committed when `work` says so, else rolled back.
    template <class Work>
    Result<void> transaction(const Work& work) {
        const sqlite::FileGate::Writing writing(gate_);
        if (auto begun = sqlite::execute(connection_.get(), "BEGIN IMMEDIATE"); !begun) return begun;
        Result<bool> stands = work();
        Result<void> done = stands ? Result<void>() : Result<void>(stands.error());
        if (stands && *stands) {
            done = sqlite::execute(connection_.get(), "COMMIT");
            linksFailed_ = !done && sqlite3_extended_errcode(connection_.get()) == SQLITE_CONSTRAINT_FOREIGNKEY;
        }
        if (sqlite3_get_autocommit(connection_.get()) == 0)
            sqlite3_exec(connection_.get(), "ROLLBACK", nullptr, nullptr, nullptr);
        return done;
    }

    Result<std::vector<Outcome>> writeEach(std::span<const RecordWrite> records, const Cancel& cancel) {
        std::vector<Outcome> outcomes;
        for (const RecordWrite& record : records) {
            if (cancel.requested()) {
                outcomes.emplace_back(Problem{ErrorCode::Cancelled, {}, "Saving was cancelled."});
                continue;
            }
            std::optional<Outcome> outcome = whyNotTried(record);
            Result<void> done;
            if (!outcome)
                done = transaction([&]() -> Result<bool> {
                    auto written = writeInside(record);
                    if (!written) return written.error();
                    outcome = std::move(*written);
                    tellPrepared(record, outcomes.size(), *outcome);
                    return std::holds_alternative<StoredRecord>(*outcome);
                });
            // What stops the first record but is none of its own stops all.
            if (!done && outcomes.empty() && done.error().code != ErrorCode::Refused) return done.error();
            if (!done) outcome = Problem{done.error().code, {}, done.error().message};
            outcomes.push_back(std::move(*outcome));
        }
        return outcomes;
    }

    /// New records first and deleted ones last, so that links find what they point to; links are looked at when all is
    /// written, and only where that fails one by one, to tell which record it was. Where that is refused, the other way
    /// about: a new record may have the key or the unique value of one that goes.
    Result<std::vector<Outcome>> writeAll(std::span<const RecordWrite> records, const Cancel& cancel) {
        const WriteOrder order = inTurns(records, {RecordChange::Insert, RecordChange::Update, RecordChange::Delete});
        auto outcomes = writeTogether(records, order, true, cancel);
        if (!outcomes && linksFailed_) outcomes = writeTogether(records, order, false, cancel);
        if (!outcomes || records.size() == 1 || areStored(*outcomes)) return outcomes;
        if (std::none_of(records.begin(), records.end(),
                         [](const auto& write) { return write.change == RecordChange::Delete; }))
            return outcomes;
        auto others =
            writeTogether(records, inTurns(records, {RecordChange::Delete, RecordChange::Update, RecordChange::Insert}),
                          true, cancel);
        return others && areStored(*others) ? std::move(others) : std::move(outcomes);
    }

    Result<std::vector<Outcome>> writeInOrder(std::span<const RecordWrite> records, const Cancel& cancel) {
        const WriteOrder order = inOrder(records);
        auto outcomes = writeTogether(records, order, true, cancel);
        return !outcomes && linksFailed_ ? writeTogether(records, order, false, cancel) : std::move(outcomes);
    }

    Result<std::vector<Outcome>> writeTogether(std::span<const RecordWrite> records, const WriteOrder& order,
                                               bool linksLast, const Cancel& cancel, int tries = kMostOrders) {
        linksFailed_ = false;
        std::vector<Outcome> outcomes(records.size());
        bool all = true;
        const auto done = transaction([&]() -> Result<bool> {
            if (linksLast)
                if (auto set = sqlite::execute(connection_.get(), "PRAGMA defer_foreign_keys = ON"); !set)
                    return set.error();
            for (const std::size_t i : order) {
                if (cancel.requested()) return Error{ErrorCode::Cancelled, "Saving was cancelled."};
                if (auto why = whyNotTried(records[i])) {
                    outcomes[i] = std::move(*why);
                    all = false;
                } else {
                    auto written = needsEarlier(records[i]) ? writeInside(withEarlier(records[i], outcomes))
                                                            : writeInside(records[i]);
                    if (!written) return written.error();
                    outcomes[i] = std::move(*written);
                    all = all && isStored(outcomes[i]);
                }
            }
            for (std::size_t i = 0; all && prepared_ && i < records.size(); ++i)
                tellPrepared(records[i], i, outcomes[i]);
            return all;
        });
        if (!done) return done.error();
        const auto other = all || tries <= 1 ? std::nullopt : withGoneEarlier(records, order, outcomes);
        if (other) return writeTogether(records, *other, linksLast, cancel, tries - 1);
        if (!all) takeBack(outcomes);
        return outcomes;
    }

    /// What is seen to be wrong before the database is asked.
    static std::optional<Outcome> whyNotTried(const RecordWrite& record) {
        if (!record.schema->writable) return Problem{ErrorCode::ReadOnly, {}, record.schema->whyNotWritable};
        if (record.change == RecordChange::Delete) return std::nullopt;
        for (const FieldChange& change : record.changes) {
            const FieldSchema& field = record.schema->field(change.field);
            if (const auto* odd = std::get_if<Unfit>(&change.after); odd && odd->stored == Stored::Blob)
                return Problem{
                    ErrorCode::Unsupported,
                    {change.field},
                    fmt::format("The binary data that stood in {} before cannot be written back.", field.name)};
            if (std::holds_alternative<Unread>(change.after))
                return Problem{
                    ErrorCode::Unsupported,
                    {change.field},
                    fmt::format("What stood in {} before was never read and cannot be written back.", field.name)};
            if (const auto why = whyNotStored(change.after, field); !why.empty())
                return Problem{ErrorCode::Refused, {change.field}, fmt::format("{}: {}.", shown(change.after), why)};
        }
        return std::nullopt;
    }

    static std::string whereOf(const RecordWrite& request, int firstParameter) {
        if (request.keyIsRowId)
            return fmt::format(" WHERE {} = ?{}", sqlite::rowIdName(request.schema).value_or("rowid"), firstParameter);
        std::string where = " WHERE ";
        for (std::size_t i = 0; i < request.keyFields.size(); ++i)
            where += fmt::format("{}{} = ?{}", i == 0 ? "" : " AND ", nameOf(request, request.keyFields[i]),
                                 firstParameter + static_cast<int>(i));
        return where;
    }
    static std::string nameOf(const RecordWrite& request, FieldIndex field) {
        return sqlite::quotedName(request.schema->field(field).name);
    }

    static void bindKey(sqlite3_stmt* statement, const RecordWrite& request, int firstParameter) {
        for (std::size_t i = 0; i < request.key.size(); ++i)
            sqlite::bindValue(statement, firstParameter + static_cast<int>(i), request.key[i],
                              request.keyIsRowId ? nullptr : &request.schema->field(request.keyFields[i]),
                              sqlite::Texts::Stay);
    }
    static void bindAfter(sqlite3_stmt* statement, const RecordWrite& request) {
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            sqlite::bindValue(statement, static_cast<int>(i) + 1, request.changes[i].after,
                              &request.schema->field(request.changes[i].field), sqlite::Texts::Stay);
    }

    /// One made ready before, where there is one: a batch writes many records alike.
    Result<sqlite3_stmt*> statementFor(const std::string& sql) {
        constexpr std::size_t kMostKept = 64;
        if (statements_.size() >= kMostKept && !statements_.contains(sql)) statements_.clear();
        sqlite::Statement& statement = statements_[sql];
        if (!statement) {
            auto made = sqlite::prepare(connection_.get(), sql);
            if (!made) return made.error();
            statement = std::move(*made);
        }
        sqlite3_reset(statement.get());
        sqlite3_clear_bindings(statement.get());
        return statement.get();
    }

    /// The statements of records that are written alike: of many in a batch nothing is put together again.
    struct Alike {
        SharedSchema schema;
        std::vector<FieldIndex> changes, readBack, keyFields;
        bool keyIsRowId = false;
        sqlite::Statement believed = {}, whole = {}, update = {}, guarded = {};
        bool covers(const RecordWrite& request) const {
            return schema.operator->() == request.schema.operator->() && keyIsRowId == request.keyIsRowId &&
                   keyFields == request.keyFields && readBack == request.readBack &&
                   std::equal(changes.begin(), changes.end(), request.changes.begin(), request.changes.end(),
                              [](FieldIndex field, const FieldChange& change) { return field == change.field; });
        }
    };
    Alike& alikeTo(const RecordWrite& request) {
        constexpr std::size_t kMostKinds = 16;
        for (Alike& alike : alike_)
            if (alike.covers(request)) return alike;
        if (alike_.size() >= kMostKinds) alike_.pop_back();
        Alike& alike = alike_.emplace_front();
        alike.schema = request.schema;
        for (const FieldChange& change : request.changes) alike.changes.push_back(change.field);
        alike.readBack = request.readBack;
        alike.keyFields = request.keyFields;
        alike.keyIsRowId = request.keyIsRowId;
        return alike;
    }
    /// Prepared when it is asked for first, by the text that `sql` returns.
    template <class Sql>
    Result<sqlite3_stmt*> ready(sqlite::Statement& statement, const Sql& sql) {
        if (!statement) {
            auto made = sqlite::prepare(connection_.get(), sql());
            if (!made) return made.error();
            statement = std::move(*made);
        }
        sqlite3_reset(statement.get());
        sqlite3_clear_bindings(statement.get());
        return statement.get();
    }

    static std::string columnsOf(const RecordWrite& request) {
        std::string columns;
        for (const FieldChange& change : request.changes)
            columns += (columns.empty() ? "" : ", ") + nameOf(request, change.field);
        for (const FieldIndex field : request.readBack)
            columns += (columns.empty() ? "" : ", ") + nameOf(request, field);
        return columns;
    }

    struct Present {
        std::vector<Value> values;    ///< in the order of the changes
        std::vector<Value> readBack;  ///< in the order of RecordWrite::readBack; empty when only the changes were asked
    };
    enum class Reads { Changes, All };
    /// Nothing when the record is gone.
    Result<std::optional<Present>> present(const RecordWrite& request, Reads reads) {
        Alike& alike = alikeTo(request);
        auto statement = ready(reads == Reads::All ? alike.whole : alike.believed, [&] {
            RecordWrite only = request;
            if (reads == Reads::Changes) only.readBack.clear();
            const std::string columns = columnsOf(only);
            return fmt::format("SELECT {} FROM {}{}", columns.empty() ? "1" : columns,
                               sqlite::quotedName(request.schema->name), whereOf(request, 1));
        });
        if (!statement) return statement.error();
        bindKey(*statement, request, 1);
        const int code = sqlite3_step(*statement);
        if (code == SQLITE_DONE) return std::optional<Present>();
        if (code != SQLITE_ROW) return sqlite::errorOf(connection_.get(), "Saving");
        Present now = presentIn(*statement, request, reads);
        sqlite3_reset(*statement);
        return std::optional(std::move(now));
    }
    static Present presentIn(sqlite3_stmt* row, const RecordWrite& request, Reads reads) {
        Present now;
        now.values.reserve(request.changes.size());
        int at = 0;
        for (const FieldChange& change : request.changes)
            now.values.push_back(sqlite::decode(sqlite3_column_value(row, at++), request.schema->field(change.field)));
        if (reads == Reads::All) now.readBack.reserve(request.readBack.size());
        for (std::size_t i = 0; reads == Reads::All && i < request.readBack.size(); ++i)
            now.readBack.push_back(
                sqlite::decode(sqlite3_column_value(row, at++), request.schema->field(request.readBack[i])));
        return now;
    }

    /// With the version of the record among the changes: compared, and written, as they are.
    Result<Outcome> writeVersioned(const RecordWrite& request) {
        RecordWrite whole = request;
        whole.version.reset();
        const bool isEdited =
            std::any_of(request.changes.begin(), request.changes.end(),
                        [&](const FieldChange& change) { return change.field == request.version->field; });
        if (isEdited) return writeInside(whole);
        whole.changes.push_back(*request.version);
        auto outcome = writeInside(whole);
        if (auto* stored = outcome ? std::get_if<StoredRecord>(&*outcome) : nullptr; stored && !stored->values.empty())
            stored->values.pop_back();
        return outcome;
    }

    Result<Outcome> writeInside(const RecordWrite& request) {
        if (request.change == RecordChange::Insert) return insertInside(request);
        if (request.version) return writeVersioned(request);
        if (request.change == RecordChange::Update && isCompared(request)) {
            auto done = updateAsBelieved(request);
            if (!done) return done.error();
            if (*done) return std::move(**done);
        }
        auto before = present(request, Reads::Changes);
        if (!before) return before.error();
        if (!*before) return Outcome(Conflict{});
        Conflict conflict;
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            if (!isAsBelieved((**before).values[i], request.changes[i].before))
                conflict.fields.push_back({request.changes[i].field, request.changes[i].before, (**before).values[i]});
        if (!conflict.isGone()) {
            auto whole = present(request, Reads::All);  // the transaction holds it as it was
            if (!whole) return whole.error();
            if (*whole) conflict.readBack = std::move((**whole).readBack);
            return Outcome(std::move(conflict));
        }
        return request.change == RecordChange::Delete ? deleteInside(request) : updateInside(request);
    }

    static std::string updateSql(const RecordWrite& request) {
        std::string sets;
        int parameter = 0;
        for (const FieldChange& change : request.changes)
            sets += fmt::format("{}{} = ?{}", sets.empty() ? "" : ", ", nameOf(request, change.field), ++parameter);
        return "UPDATE " + sqlite::quotedName(request.schema->name) + " SET " + sets +
               whereOf(request, static_cast<int>(request.changes.size()) + 1);
    }

    /// The database can compare what is believed to be stored: as it is bound it is equal to nothing else.
    static bool isCompared(const RecordWrite& request) {
        return !request.changes.empty() &&
               std::none_of(request.changes.begin(), request.changes.end(), [&](const FieldChange& change) {
                   return std::holds_alternative<Unfit>(change.before) ||
                          std::holds_alternative<Unread>(change.before) ||
                          request.schema->field(change.field).type == Type::Binary;
               });
    }

    static bool movesKey(const RecordWrite& request) {
        return std::any_of(request.changes.begin(), request.changes.end(), [&](const FieldChange& change) {
            return request.schema->field(change.field).primaryKeyRank != 0 ||
                   std::find(request.keyFields.begin(), request.keyFields.end(), change.field) !=
                       request.keyFields.end();
        });
    }

    /// In one statement, where the record still holds what is believed to the byte; nothing when that is to be looked
    /// at closer. Reading it before takes a fifth more; letting the statement return what is stored (RETURNING) takes
    /// longer than reading it afterwards, and does not see what triggers do.
    Result<std::optional<Outcome>> updateAsBelieved(const RecordWrite& request) {
        const int key = static_cast<int>(request.changes.size()) + 1;
        const int before = key + static_cast<int>(request.key.size());
        auto update = ready(alikeTo(request).guarded, [&] {
            std::string sql = updateSql(request);
            int parameter = before;
            for (const FieldChange& change : request.changes)
                sql += fmt::format(" AND {} COLLATE BINARY IS ?{}", nameOf(request, change.field), parameter++);
            return sql;
        });
        if (!update) return update.error();
        bindAfter(*update, request);
        bindKey(*update, request, key);
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            sqlite::bindValue(*update, before + static_cast<int>(i), request.changes[i].before,
                              &request.schema->field(request.changes[i].field), sqlite::Texts::Stay);
        const bool done = sqlite3_step(*update) == SQLITE_DONE;
        auto outcome = done ? Result<Outcome>(Outcome()) : refusalOf(request, *update);
        if (!outcome) return outcome.error();
        if (!done) return std::optional(std::move(*outcome));
        sqlite3_reset(*update);
        if (sqlite3_changes(connection_.get()) == 0) return std::optional<Outcome>();
        outcome = updated(request);
        if (!outcome) return outcome.error();
        return std::optional(std::move(*outcome));
    }

    Result<Outcome> updateInside(const RecordWrite& request) {
        if (request.changes.empty()) return stored(request);
        auto update = ready(alikeTo(request).update, [&] { return updateSql(request); });
        if (!update) return update.error();
        bindAfter(*update, request);
        bindKey(*update, request, static_cast<int>(request.changes.size()) + 1);
        const bool done = sqlite3_step(*update) == SQLITE_DONE;
        if (!done) return refusalOf(request, *update);
        sqlite3_reset(*update);
        return updated(request);
    }

    Result<Outcome> updated(const RecordWrite& request) {
        // When the key itself was changed, the record now answers to the new one.
        if (!movesKey(request)) return stored(request);
        RecordWrite moved = request;
        for (std::size_t k = 0; k < moved.keyFields.size() && !moved.keyIsRowId; ++k)
            for (const FieldChange& change : request.changes)
                if (change.field == moved.keyFields[k]) moved.key[k] = change.after;
        return stored(moved);
    }

    Result<Outcome> insertInside(const RecordWrite& request) {
        std::string columns, places, returned;
        for (const FieldChange& change : request.changes) {
            columns += (columns.empty() ? "" : ", ") + nameOf(request, change.field);
            places += fmt::format("{}?{}", places.empty() ? "" : ", ", &change - request.changes.data() + 1);
        }
        if (request.keyIsRowId) returned = sqlite::rowIdName(request.schema).value_or("rowid");
        for (const FieldIndex field : request.keyFields)
            if (!request.keyIsRowId) returned += (returned.empty() ? "" : ", ") + nameOf(request, field);
        if (returned.empty())
            return Outcome(Problem{ErrorCode::Unsupported, {}, "These records have no key, so none can be added."});
        auto insert = statementFor(fmt::format(
            "INSERT INTO {} {} RETURNING {}", sqlite::quotedName(request.schema->name),
            columns.empty() ? "DEFAULT VALUES" : fmt::format("({}) VALUES ({})", columns, places), returned));
        if (!insert) return insert.error();
        // What comes back with it may be what it points to.
        if (request.bringsBack)
            if (auto set = sqlite::execute(connection_.get(), "PRAGMA defer_foreign_keys = ON"); !set)
                return set.error();
        bindAfter(*insert, request);
        if (sqlite3_step(*insert) != SQLITE_ROW) return refusalOf(request, *insert);
        RecordWrite made = request;
        made.key.clear();
        if (made.keyIsRowId)
            made.key.emplace_back(std::int64_t{sqlite3_column_int64(*insert, 0)});
        else
            for (std::size_t k = 0; k < made.keyFields.size(); ++k)
                made.key.push_back(sqlite::decode(sqlite3_column_value(*insert, static_cast<int>(k)),
                                                  request.schema->field(made.keyFields[k])));
        // Constraints that are looked at behind the row, too.
        if (sqlite3_step(*insert) != SQLITE_DONE) return refusalOf(request, *insert);
        sqlite3_reset(*insert);
        if (const auto* along = dynamic_cast<const sqlite::TakenRows*>(request.bringsBack.get())) {
            if (!along->isWhole()) return Outcome(tooMuchWithIt());
            const auto refusal = sqlite::bringBack(connection_.get(), *along);
            if (!refusal) return refusal.error();
            if (*refusal) return Outcome(Problem{ErrorCode::Refused, {}, **refusal});
        }
        return stored(made);
    }

    Result<Outcome> deleteInside(const RecordWrite& request) {
        const std::string where = whereOf(request, 1);
        auto looked =
            taken_.begin(request.schema->name, where, [&](sqlite3_stmt* statement) { bindKey(statement, request, 1); });
        if (!looked) return looked.error();
        auto removal = statementFor("DELETE FROM " + sqlite::quotedName(request.schema->name) + where);
        if (!removal) return removal.error();
        bindKey(*removal, request, 1);
        if (sqlite3_step(*removal) != SQLITE_DONE) return refusalOf(request, *removal);
        sqlite3_reset(*removal);
        if (sqlite3_changes(connection_.get()) != 1)
            return Outcome(Problem{ErrorCode::Refused, {}, "The database did not delete this record."});
        auto taken = taken_.finish();
        if (!taken) return taken.error();
        return Outcome(StoredRecord{request.key, {}, {}, std::move(*taken)});
    }

    /// What became of a record that was written: a value that came back as another one is refused.
    Result<Outcome> stored(const RecordWrite& request) {
        auto after = present(request, Reads::All);
        if (!after) return after.error();
        if (!*after) return Outcome(Problem{ErrorCode::Refused, {}, "The database moved this record elsewhere."});
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            if (const auto loss = lossOf(request.changes[i].after, (**after).values[i]); !loss.empty())
                return Outcome(Problem{
                    ErrorCode::Refused,
                    {request.changes[i].field},
                    fmt::format("The database would keep {} instead of {} in {}: SQLite stores such a column {}",
                                shown((**after).values[i]), shown(request.changes[i].after),
                                request.schema->field(request.changes[i].field).name, loss)});
        return Outcome(StoredRecord{request.key, std::move((**after).values), std::move((**after).readBack)});
    }

    /// SQLite's own message names the constraint in its terms; this says it in the form's.
    Result<Outcome> refusalOf(const RecordWrite& request, sqlite3_stmt* statement) {
        const std::string said = sqlite3_errmsg(connection_.get());
        const int code = sqlite3_extended_errcode(connection_.get());
        sqlite3_reset(statement);
        const std::string detail = said.substr(said.find(": ") == std::string::npos ? 0 : said.find(": ") + 2);
        const std::vector<FieldIndex> fields = fieldsIn(request.schema, detail);
        std::string names;
        for (const FieldIndex field : fields) names += (names.empty() ? "" : ", ") + request.schema->field(field).name;
        const auto refused = [&](std::string message) {
            return Outcome(Problem{ErrorCode::Refused, fields, std::move(message)});
        };
        switch (code) {
            case SQLITE_CONSTRAINT_NOTNULL:
                return refused(fmt::format("{} must not be empty.", names.empty() ? detail : names));
            case SQLITE_CONSTRAINT_UNIQUE:
            case SQLITE_CONSTRAINT_PRIMARYKEY:
            case SQLITE_CONSTRAINT_ROWID:
                return refused(fmt::format("Another record has this {} already.", names.empty() ? "value" : names));
            case SQLITE_CONSTRAINT_CHECK:
                return refused(fmt::format("The database does not allow this value: {}.", detail));
            case SQLITE_CONSTRAINT_FOREIGNKEY:
                return refused(request.change == RecordChange::Delete
                                   ? "Other records point to this one, so the database keeps it."
                                   : "No record in the linked table has this value.");
            case SQLITE_CONSTRAINT_TRIGGER: return refused(fmt::format("The database refuses this: {}.", said));
            default: return sqlite::errorOf(connection_.get(), fmt::format("Saving {}", request.schema->name));
        }
    }

    sqlite::Connection connection_;
    std::shared_ptr<sqlite::FileGate> gate_;
    std::map<std::string, sqlite::Statement> statements_;  ///< by their text; gone before the connection
    std::list<Alike> alike_;                               ///< the latest first
    sqlite::TakenReader taken_{connection_.get()};
    Prepared prepared_;
    bool linksFailed_ = false;  ///< the last commit: some link points nowhere
    std::optional<std::int64_t> seenVersion_;
};

/// Kept as a write-ahead log, whose readers and writers do not wait for each other (sqlite.org/wal.html).
bool isLogged(sqlite3* connection) {
    auto mode = sqlite::prepare(connection, "PRAGMA journal_mode");
    return mode && sqlite3_step(mode->get()) == SQLITE_ROW && sqlite::columnText(mode->get(), 0) == "wal";
}

}  // namespace

Result<std::unique_ptr<Store>> sqlite::openStore(const std::string& path) {
    auto connection = sqlite::open(path, sqlite::OpenMode::ReadWrite, 0);
    if (!connection) return connection.error();
    if (auto set = sqlite::execute(connection->get(), "PRAGMA foreign_keys = ON"); !set) return set.error();
    auto gate = isLogged(connection->get()) ? nullptr : sqlite::FileGate::of(sqlite::fileOf(connection->get()));
    sqlite::setWait(connection->get(), sqlite::kPatientMs);
    return std::unique_ptr<Store>(std::make_unique<SqliteStore>(std::move(*connection), std::move(gate)));
}

}  // namespace jollyrow
