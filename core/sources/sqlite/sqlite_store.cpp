// SPDX-License-Identifier: MIT
// The SQLite Store. One record: BEGIN IMMEDIATE (or SAVEPOINT, of several that stand or fall together); read its
// present values; compare with what the writer believed; UPDATE; read back what was stored; COMMIT. Anything else rolls
// back. Covered by tests/sources/sqlite_test.cpp and conformance_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <optional>

#include "core/formats/text_format.h"
#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_source.h"
#include "core/sources/sqlite/sqlite_values.h"
#include "core/sources/stored_forms.h"

namespace jollyrow {
namespace {

std::string shown(const Value& value) {
    std::string text;
    appendDisplay(text, value, {});
    return text.empty() ? "empty" : text;
}

/// An exact number that came back as another one. (Other values may change for a reason, by a trigger.)
bool losesDigits(const Value& given, const Value& stored) {
    const bool exact = std::holds_alternative<Decimal>(given) || std::holds_alternative<WideDecimal>(given);
    constexpr int kDigitsOfDouble = 15;
    std::string digits = shown(given);
    std::erase_if(digits, [](char c) { return c < '0' || c > '9'; });
    return exact && digits.size() > kDigitsOfDouble && given != stored;
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
    explicit SqliteStore(sqlite::Connection connection) : connection_(std::move(connection)) {}

    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override {
        return atomicity == Atomicity::AllOrNothing ? writeAll(records, cancel) : writeEach(records, cancel);
    }

  private:
    /// A whole transaction: committed when `work` says so, else rolled back.
    template <class Work>
    Result<void> transaction(const Work& work) {
        if (auto begun = sqlite::execute(connection_.get(), "BEGIN IMMEDIATE"); !begun) return begun;
        Result<bool> stands = work();
        Result<void> done = stands ? Result<void>() : Result<void>(stands.error());
        if (stands && *stands) done = sqlite::execute(connection_.get(), "COMMIT");
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
                    return std::holds_alternative<StoredRecord>(*outcome);
                });
            // What stops the first record but is none of its own stops all.
            if (!done && outcomes.empty() && done.error().code != ErrorCode::Refused) return done.error();
            if (!done) outcome = Problem{done.error().code, {}, done.error().message};
            outcomes.push_back(std::move(*outcome));
        }
        return outcomes;
    }

    Result<std::vector<Outcome>> writeAll(std::span<const RecordWrite> records, const Cancel& cancel) {
        std::vector<Outcome> outcomes;
        const auto isStored = [](const Outcome& outcome) { return std::holds_alternative<StoredRecord>(outcome); };
        const auto done = transaction([&]() -> Result<bool> {
            for (const RecordWrite& record : records) {
                if (cancel.requested()) return Error{ErrorCode::Cancelled, "Saving was cancelled."};
                if (auto why = whyNotTried(record)) {
                    outcomes.push_back(std::move(*why));
                } else {
                    auto written = writeInside(record);
                    if (!written) return written.error();
                    outcomes.push_back(std::move(*written));
                }
            }
            return std::all_of(outcomes.begin(), outcomes.end(), isStored);
        });
        if (!done) return done.error();
        if (std::all_of(outcomes.begin(), outcomes.end(), isStored)) return outcomes;
        for (Outcome& outcome : outcomes)
            if (isStored(outcome))
                outcome = Problem{ErrorCode::Cancelled, {}, "Not saved, because another record could not be."};
        return outcomes;
    }

    /// What is seen to be wrong before the database is asked.
    static std::optional<Outcome> whyNotTried(const RecordWrite& record) {
        if (!record.schema.writable) return Problem{ErrorCode::ReadOnly, {}, record.schema.whyNotWritable};
        for (const FieldChange& change : record.changes) {
            const FieldSchema& field = record.schema.field(change.field);
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
            where += fmt::format("{}{} = ?{}", i == 0 ? "" : " AND ",
                                 sqlite::quotedName(request.schema.field(request.keyFields[i]).name),
                                 firstParameter + static_cast<int>(i));
        return where;
    }

    static void bindKey(sqlite3_stmt* statement, const RecordWrite& request, int firstParameter) {
        for (std::size_t i = 0; i < request.key.size(); ++i)
            sqlite::bindValue(statement, firstParameter + static_cast<int>(i), request.key[i],
                              request.keyIsRowId ? nullptr : &request.schema.field(request.keyFields[i]));
    }

    /// In the order of the changes; nothing when the record is gone.
    Result<std::optional<std::vector<Value>>> present(const RecordWrite& request) {
        std::string columns;
        for (const FieldChange& change : request.changes)
            columns += (columns.empty() ? "" : ", ") + sqlite::quotedName(request.schema.field(change.field).name);
        auto statement =
            sqlite::prepare(connection_.get(), "SELECT " + columns + " FROM " +
                                                   sqlite::quotedName(request.schema.name) + whereOf(request, 1));
        if (!statement) return statement.error();
        bindKey(statement->get(), request, 1);
        const int code = sqlite3_step(statement->get());
        if (code == SQLITE_DONE) return std::optional<std::vector<Value>>();
        if (code != SQLITE_ROW) return sqlite::errorOf(connection_.get(), "Saving");
        std::vector<Value> values;
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            values.push_back(sqlite::decode(sqlite3_column_value(statement->get(), static_cast<int>(i)),
                                            request.schema.field(request.changes[i].field)));
        return std::optional(std::move(values));
    }

    Result<Outcome> writeInside(const RecordWrite& request) {
        auto before = present(request);
        if (!before) return before.error();
        if (!*before) return Outcome(Conflict{});
        Conflict conflict;
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            if (!isAsBelieved((**before)[i], request.changes[i].before))
                conflict.fields.push_back({request.changes[i].field, request.changes[i].before, (**before)[i]});
        if (!conflict.isGone()) return Outcome(std::move(conflict));
        std::string sets;
        int parameter = 0;
        for (const FieldChange& change : request.changes)
            sets += fmt::format("{}{} = ?{}", sets.empty() ? "" : ", ",
                                sqlite::quotedName(request.schema.field(change.field).name), ++parameter);
        auto update = sqlite::prepare(connection_.get(), "UPDATE " + sqlite::quotedName(request.schema.name) + " SET " +
                                                             sets + whereOf(request, parameter + 1));
        if (!update) return update.error();
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            sqlite::bindValue(update->get(), static_cast<int>(i) + 1, request.changes[i].after,
                              &request.schema.field(request.changes[i].field));
        bindKey(update->get(), request, parameter + 1);
        if (sqlite3_step(update->get()) != SQLITE_DONE) return refusalOf(request);
        update->reset();
        // When the key itself was changed, the record now answers to the new one.
        RecordWrite moved = request;
        for (std::size_t k = 0; k < moved.keyFields.size() && !moved.keyIsRowId; ++k)
            for (const FieldChange& change : request.changes)
                if (change.field == moved.keyFields[k]) moved.key[k] = change.after;
        auto after = present(moved);
        if (!after) return after.error();
        if (!*after) return Outcome(Problem{ErrorCode::Refused, {}, "The database moved this record elsewhere."});
        for (std::size_t i = 0; i < request.changes.size(); ++i)
            if (const auto loss = lossOf(request.changes[i].after, (**after)[i]); !loss.empty())
                return Outcome(Problem{
                    ErrorCode::Refused,
                    {request.changes[i].field},
                    fmt::format("The database would keep {} instead of {} in {}: SQLite stores such a column {}",
                                shown((**after)[i]), shown(request.changes[i].after),
                                request.schema.field(request.changes[i].field).name, loss)});
        return Outcome(StoredRecord{moved.key, std::move(**after)});
    }

    /// SQLite's own message names the constraint in its terms; this says it in the form's.
    Result<Outcome> refusalOf(const RecordWrite& request) {
        const std::string said = sqlite3_errmsg(connection_.get());
        const std::string detail = said.find(": ") == std::string::npos ? said : said.substr(said.rfind(": ") + 2);
        const std::string field = detail.substr(detail.rfind('.') == std::string::npos ? 0 : detail.rfind('.') + 1);
        const auto refused = [&](std::string message) {
            Problem problem{ErrorCode::Refused, {}, std::move(message)};
            if (const auto known = request.schema.find(field)) problem.fields.push_back(*known);
            return Outcome(std::move(problem));
        };
        switch (sqlite3_extended_errcode(connection_.get())) {
            case SQLITE_CONSTRAINT_NOTNULL: return refused(fmt::format("{} must not be empty.", field));
            case SQLITE_CONSTRAINT_UNIQUE:
            case SQLITE_CONSTRAINT_PRIMARYKEY:
            case SQLITE_CONSTRAINT_ROWID: return refused(fmt::format("Another record has this {} already.", field));
            case SQLITE_CONSTRAINT_CHECK:
                return refused(fmt::format("The database does not allow this value: {}.", detail));
            case SQLITE_CONSTRAINT_FOREIGNKEY: return refused("No record in the linked table has this value.");
            case SQLITE_CONSTRAINT_TRIGGER: return refused(fmt::format("The database refuses this: {}.", said));
            default: return sqlite::errorOf(connection_.get(), fmt::format("Saving {}", request.schema.name));
        }
    }

    sqlite::Connection connection_;
};

}  // namespace

Result<std::unique_ptr<Store>> sqlite::openStore(const std::string& path) {
    auto connection = sqlite::open(path, sqlite::OpenMode::ReadWrite);
    if (!connection) return connection.error();
    if (auto set = sqlite::execute(connection->get(), "PRAGMA foreign_keys = ON"); !set) return set.error();
    return std::unique_ptr<Store>(std::make_unique<SqliteStore>(std::move(*connection)));
}

}  // namespace jollyrow
