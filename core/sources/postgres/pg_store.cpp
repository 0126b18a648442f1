// SPDX-License-Identifier: MIT
// The PostgreSQL Store. One record: BEGIN (or SAVEPOINT, of several that stand or fall together); SELECT … FOR UPDATE;
// compare with what the writer believed; UPDATE, INSERT or DELETE; read back what was stored; COMMIT. Where the
// connection breaks while a commit is on its way, a new one asks the server what became of it (pg_commit).
// Covered by tests/sources/postgres_test.cpp and conformance_test.cpp.
#include <fmt/format.h>

#include <algorithm>

#include "core/sources/batch.h"
#include "core/sources/postgres/pg_commit.h"
#include "core/sources/postgres/pg_follow.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/postgres/pg_source.h"
#include "core/sources/postgres/pg_taken.h"
#include "core/sources/postgres/pg_values.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {
namespace {

class PostgresStore final : public Store {
  public:
    PostgresStore(std::string address, Connection connection)
        : address_(std::move(address)), connection_(std::move(connection)) {}

    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override;
    void setPrepared(const Prepared& prepared) override { prepared_ = prepared; }
    Result<SeenElsewhere> seenElsewhere(const TableSchema& schema, const std::vector<FieldIndex>& keyFields) override {
        if (auto ready = makeReady(Cancel()); !ready) return ready.error();
        return follower_.look(connection_, schema, keyFields);
    }

  private:
    Result<std::vector<Outcome>> writeEach(std::span<const RecordWrite> records, const Cancel& cancel);
    Result<std::vector<Outcome>> writeAll(std::span<const RecordWrite> records, const Cancel& cancel);
    Result<std::vector<Outcome>> writeTogether(std::span<const RecordWrite> records, const WriteOrder& order,
                                               bool linksLast, const Cancel& cancel, int tries = kMostOrders);
    template <class Work>
    Result<void> transaction(const Work& work);
    Result<void> makeReady(const Cancel& cancel);

    Result<Outcome> writeInside(const RecordWrite& request, const Cancel& cancel);
    Result<Outcome> guarded(const RecordWrite& request, const Cancel& cancel);
    Result<Outcome> update(const RecordWrite& request, const Cancel& cancel);
    Result<Outcome> insert(const RecordWrite& request, const Cancel& cancel);
    Result<Outcome> remove(const RecordWrite& request, const Cancel& cancel);
    Result<Outcome> stored(const RecordWrite& request, const Cancel& cancel);
    struct Present {
        std::vector<Value> values, readBack;
    };
    Result<std::optional<Present>> present(const RecordWrite& request, bool holds, const Cancel& cancel);
    Result<Outcome> refused(const RecordWrite& request, const Refusal& refusal);
    std::vector<FieldIndex> fieldsOf(const RecordWrite& request, const std::string& constraint);
    std::string demandOf(const RecordWrite& request, const Refusal& refusal);
    Result<std::string> tableOf(const RecordWrite& request);
    void noteWritten(const std::string& table, const RecordWrite& request);

    const std::string address_;
    Connection connection_;
    Prepared prepared_;
    Follower follower_;
    TakenReader taken_;
    Commit commit_;
    bool linksFailed_ = false;  ///< the last commit: a constraint that is looked at last did not hold
};

/// What is seen to be wrong before the database is asked.
std::optional<Outcome> whyNotTried(const RecordWrite& record) {
    if (!record.schema->writable) return Problem{ErrorCode::ReadOnly, {}, record.schema->whyNotWritable};
    if (record.change == RecordChange::Delete) return std::nullopt;
    for (const FieldChange& change : record.changes)
        if (std::holds_alternative<Unread>(change.after))
            return Problem{ErrorCode::Unsupported,
                           {change.field},
                           fmt::format("What stood in {} before was never read and cannot be written back.",
                                       record.schema->field(change.field).name)};
    return std::nullopt;
}

std::string nameOf(const RecordWrite& request, FieldIndex field) {
    return quotedName(request.schema->field(field).name);
}

/// " WHERE a = $n AND …", the key's values behind the parameters that are there already.
std::string whereKey(const RecordWrite& request, std::vector<Parameter>& parameters) {
    std::string where;
    for (std::size_t i = 0; i < request.keyFields.size() && i < request.key.size(); ++i) {
        parameters.push_back(encoded(request.key[i], request.schema->field(request.keyFields[i])));
        where += fmt::format("{}{} = ${}", i == 0 ? " WHERE " : " AND ", nameOf(request, request.keyFields[i]),
                             parameters.size());
    }
    return where.empty() ? " WHERE FALSE" : where;
}

Result<std::string> PostgresStore::tableOf(const RecordWrite& request) {
    return tableSql(connection_, request.schema->name);
}

void PostgresStore::noteWritten(const std::string& table, const RecordWrite& request) {
    std::vector<Parameter> parameters;
    const std::string where = whereKey(request, parameters);
    commit_.wrote(table, where, std::move(parameters));
}

/// A connection that was lost is taken up again, before anything is written.
Result<void> PostgresStore::makeReady(const Cancel& cancel) {
    if (!connection_.isBroken()) return {};
    auto again = Connection::open(address_, cancel);
    if (!again) return again.error();
    connection_ = std::move(*again);
    return {};
}

/// Committed when `work` says so, else rolled back. What the server gave up because of others is tried again.
template <class Work>
Result<void> PostgresStore::transaction(const Work& work) {
    constexpr int kTries = 3;
    Result<void> done;
    for (int i = 0; i < kTries; ++i) {
        auto begun = connection_.run("BEGIN");
        if (!begun && connection_.isBroken()) {  // found out only now, with nothing written yet
            if (auto ready = makeReady({}); !ready) return ready.error();
            begun = connection_.run("BEGIN");
        }
        if (!begun) return begun.error();
        commit_.begin();
        Result<bool> stands = work();
        done = stands ? Result<void>() : Result<void>(stands.error());
        Refusal refusal;
        if (stands && *stands) done = commit_.carryOut(connection_, address_, refusal);
        linksFailed_ = refusal.state.starts_with("23");
        if (!connection_.isBroken() && connection_.isInTransaction()) (void)connection_.run("ROLLBACK");
        if (done || !connection_.wasGivenUp()) return done;
    }
    return done;
}

Result<std::vector<Outcome>> PostgresStore::write(std::span<const RecordWrite> records, Atomicity atomicity,
                                                  const Cancel& cancel) {
    if (auto ready = makeReady(cancel); !ready) return ready.error();
    if (atomicity == Atomicity::EachRecord) return writeEach(records, cancel);
    if (atomicity == Atomicity::AllOrNothing) return writeAll(records, cancel);
    const WriteOrder order = inOrder(records);
    auto outcomes = writeTogether(records, order, true, cancel);
    return !outcomes && linksFailed_ ? writeTogether(records, order, false, cancel) : std::move(outcomes);
}

Result<std::vector<Outcome>> PostgresStore::writeEach(std::span<const RecordWrite> records, const Cancel& cancel) {
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
                auto written = writeInside(record, cancel);
                if (!written) return written.error();
                outcome = std::move(*written);
                const auto* made = std::get_if<StoredRecord>(&*outcome);
                if (prepared_ && made && record.change == RecordChange::Insert) prepared_(outcomes.size(), made->key);
                return made != nullptr;
            });
        // What stops the first record but is none of its own stops all.
        if (!done && outcomes.empty() && done.error().code != ErrorCode::Refused) return done.error();
        if (!done) outcome = Problem{done.error().code, {}, done.error().message};
        outcomes.push_back(std::move(*outcome));
    }
    return outcomes;
}

/// New records first and deleted ones last, so that links find what they point to; where that is refused, the other way
/// about: a new record may have the key or the unique value of one that goes.
Result<std::vector<Outcome>> PostgresStore::writeAll(std::span<const RecordWrite> records, const Cancel& cancel) {
    const WriteOrder order = inTurns(records, {RecordChange::Insert, RecordChange::Update, RecordChange::Delete});
    auto outcomes = writeTogether(records, order, true, cancel);
    if (!outcomes && linksFailed_) outcomes = writeTogether(records, order, false, cancel);
    const bool hasGoing = std::any_of(records.begin(), records.end(),
                                      [](const auto& write) { return write.change == RecordChange::Delete; });
    if (!outcomes || areStored(*outcomes) || !hasGoing || records.size() == 1) return outcomes;
    auto others = writeTogether(
        records, inTurns(records, {RecordChange::Delete, RecordChange::Update, RecordChange::Insert}), true, cancel);
    return others && areStored(*others) ? std::move(others) : std::move(outcomes);
}

Result<std::vector<Outcome>> PostgresStore::writeTogether(std::span<const RecordWrite> records, const WriteOrder& order,
                                                          bool linksLast, const Cancel& cancel, int tries) {
    linksFailed_ = false;
    std::vector<Outcome> outcomes(records.size());
    const auto done = transaction([&]() -> Result<bool> {
        if (linksLast)
            if (auto set = connection_.run("SET CONSTRAINTS ALL DEFERRED"); !set) return set.error();
        for (const std::size_t i : order) {
            if (cancel.requested()) return Error{ErrorCode::Cancelled, "Saving was cancelled."};
            if (auto why = whyNotTried(records[i])) {
                outcomes[i] = std::move(*why);
                continue;
            }
            // A refused statement takes the whole transaction with it but for what stands before a savepoint.
            if (auto set = connection_.run("SAVEPOINT record"); !set) return set.error();
            auto written = writeInside(withEarlier(records[i], outcomes), cancel);
            if (!written) return written.error();
            outcomes[i] = std::move(*written);
            const char* after = isStored(outcomes[i]) ? "RELEASE SAVEPOINT record" : "ROLLBACK TO SAVEPOINT record";
            if (auto set = connection_.run(after); !set) return set.error();
        }
        const bool all = areStored(outcomes);
        for (std::size_t i = 0; all && prepared_ && i < records.size(); ++i)
            if (records[i].change == RecordChange::Insert) prepared_(i, std::get<StoredRecord>(outcomes[i]).key);
        return all;
    });
    if (!done) return done.error();
    if (areStored(outcomes)) return outcomes;
    if (const auto other = tries <= 1 ? std::nullopt : withGoneEarlier(records, order, outcomes))
        return writeTogether(records, *other, linksLast, cancel, tries - 1);
    takeBack(outcomes);
    return outcomes;
}

/// The values of the changes and of what is to be read back, as they stand; nothing when the record is gone. `holds`
/// keeps others from changing it until the end of the transaction.
Result<std::optional<PostgresStore::Present>> PostgresStore::present(const RecordWrite& request, bool holds,
                                                                     const Cancel& cancel) {
    auto table = tableOf(request);
    if (!table) return table.error();
    std::string columns;
    const auto add = [&](FieldIndex field) {
        columns += (columns.empty() ? "" : ", ") + selected(request.schema->field(field), nameOf(request, field));
    };
    for (const FieldChange& change : request.changes) add(change.field);
    for (const FieldIndex field : request.readBack) add(field);
    std::vector<Parameter> parameters;
    const std::string where = whereKey(request, parameters);
    auto row = connection_.run(fmt::format("SELECT {} FROM {}{}{}", columns.empty() ? "1" : columns, *table, where,
                                           holds ? " FOR UPDATE" : ""),
                               parameters, cancel);
    if (!row) return row.error();
    if (row->rows() == 0) return std::optional<Present>();
    Present now;
    int at = 0;
    const auto take = [&](std::vector<Value>& into, FieldIndex field) {
        into.push_back(row->isNull(0, at) ? Value(Empty{}) : decode(request.schema->field(field), row->bytes(0, at)));
        ++at;
    };
    for (const FieldChange& change : request.changes) take(now.values, change.field);
    for (const FieldIndex field : request.readBack) take(now.readBack, field);
    return std::optional(std::move(now));
}

Result<Outcome> PostgresStore::writeInside(const RecordWrite& request, const Cancel& cancel) {
    if (request.change == RecordChange::Insert) return insert(request, cancel);
    if (!request.version) return guarded(request, cancel);
    // With the version of the record among the changes: compared, and written, as they are.
    RecordWrite whole = request;
    whole.version.reset();
    const bool isEdited = std::any_of(request.changes.begin(), request.changes.end(), [&](const FieldChange& change) {
        return change.field == request.version->field;
    });
    if (isEdited) return guarded(whole, cancel);
    whole.changes.push_back(*request.version);
    auto outcome = guarded(whole, cancel);
    if (auto* kept = outcome ? std::get_if<StoredRecord>(&*outcome) : nullptr; kept && !kept->values.empty())
        kept->values.pop_back();
    return outcome;
}

Result<Outcome> PostgresStore::guarded(const RecordWrite& request, const Cancel& cancel) {
    auto before = present(request, true, cancel);
    if (!before) return before.error();
    if (!*before) return Outcome(Conflict{});
    Conflict conflict;
    for (std::size_t i = 0; i < request.changes.size(); ++i)
        if (!isAsBelieved((**before).values[i], request.changes[i].before))
            conflict.fields.push_back({request.changes[i].field, request.changes[i].before, (**before).values[i]});
    if (!conflict.isGone()) {
        conflict.readBack = std::move((**before).readBack);
        return Outcome(std::move(conflict));
    }
    return request.change == RecordChange::Delete ? remove(request, cancel) : update(request, cancel);
}

Result<Outcome> PostgresStore::update(const RecordWrite& request, const Cancel& cancel) {
    if (request.changes.empty()) return stored(request, cancel);
    auto table = tableOf(request);
    if (!table) return table.error();
    std::string sets;
    std::vector<Parameter> parameters;
    for (const FieldChange& change : request.changes) {
        parameters.push_back(encoded(change.after, request.schema->field(change.field)));
        sets += fmt::format("{}{} = ${}", sets.empty() ? "" : ", ", nameOf(request, change.field), parameters.size());
    }
    Refusal why;
    const std::string where = whereKey(request, parameters);
    auto done = connection_.run(fmt::format("UPDATE {} SET {}{}", *table, sets, where), parameters, cancel, &why);
    if (!done) return why.error.message.empty() ? Result<Outcome>(done.error()) : refused(request, why);
    if (std::string_view(pq().PQcmdTuples(done->get())) != "1")
        return Outcome(Problem{ErrorCode::Refused, {}, "The database did not change this record."});
    // When the key itself was changed, the record now answers to the new one.
    RecordWrite moved = request;
    for (std::size_t k = 0; k < moved.keyFields.size(); ++k)
        for (const FieldChange& change : request.changes)
            if (change.field == moved.keyFields[k]) moved.key[k] = change.after;
    noteWritten(*table, moved);
    return stored(moved, cancel);
}

Result<Outcome> PostgresStore::insert(const RecordWrite& request, const Cancel& cancel) {
    auto table = tableOf(request);
    if (!table) return table.error();
    std::string columns, places, returned;
    std::vector<Parameter> parameters;
    for (const FieldChange& change : request.changes) {
        parameters.push_back(encoded(change.after, request.schema->field(change.field)));
        columns += (columns.empty() ? "" : ", ") + nameOf(request, change.field);
        places += fmt::format("{}${}", places.empty() ? "" : ", ", parameters.size());
    }
    for (const FieldIndex field : request.keyFields)
        returned += (returned.empty() ? "" : ", ") + selected(request.schema->field(field), nameOf(request, field));
    if (returned.empty())
        return Outcome(Problem{ErrorCode::Unsupported, {}, "These records have no key, so none can be added."});
    Refusal why;
    const auto* along = dynamic_cast<const TakenRows*>(request.bringsBack.get());
    if (along && !along->isWhole()) return Outcome(tooMuchWithIt());
    const std::string with = along ? insertedWith(*along, parameters) : std::string();
    auto made = connection_.run(
        fmt::format("{}INSERT INTO {} {} RETURNING {}", with, *table,
                    columns.empty() ? "DEFAULT VALUES" : fmt::format("({}) VALUES ({})", columns, places), returned),
        parameters, cancel, &why);
    if (!made) return why.error.message.empty() ? Result<Outcome>(made.error()) : refused(request, why);
    if (made->rows() != 1) return Outcome(Problem{ErrorCode::Refused, {}, "The database did not add this record."});
    if (along)
        if (auto linked = linkAgain(connection_, *along, cancel, why); !linked)
            return why.error.message.empty() ? Result<Outcome>(linked.error()) : refused(request, why);
    RecordWrite keyed = request;
    keyed.key.clear();
    for (std::size_t k = 0; k < keyed.keyFields.size(); ++k)
        keyed.key.push_back(decode(request.schema->field(keyed.keyFields[k]), made->bytes(0, static_cast<int>(k))));
    noteWritten(*table, keyed);
    return stored(keyed, cancel);
}

Result<Outcome> PostgresStore::remove(const RecordWrite& request, const Cancel& cancel) {
    auto table = tableOf(request);
    if (!table) return table.error();
    std::vector<Parameter> parameters;
    const std::string where = whereKey(request, parameters);
    if (auto looked = taken_.begin(connection_, *table, where, parameters, cancel); !looked) return looked.error();
    Refusal why;
    auto done = connection_.run("DELETE FROM " + *table + where, parameters, cancel, &why);
    if (!done) return why.error.message.empty() ? Result<Outcome>(done.error()) : refused(request, why);
    if (std::string_view(pq().PQcmdTuples(done->get())) != "1")
        return Outcome(Problem{ErrorCode::Refused, {}, "The database did not delete this record."});
    commit_.deleted(*table, where, parameters);
    auto taken = taken_.finish(connection_, cancel);
    if (!taken) return taken.error();
    return Outcome(StoredRecord{request.key, {}, {}, std::move(*taken)});
}

/// What became of a record that was written.
Result<Outcome> PostgresStore::stored(const RecordWrite& request, const Cancel& cancel) {
    auto after = present(request, false, cancel);
    if (!after) return after.error();
    if (!*after) return Outcome(Problem{ErrorCode::Refused, {}, "The database moved this record elsewhere."});
    return Outcome(StoredRecord{request.key, std::move((**after).values), std::move((**after).readBack)});
}

/// The fields of a constraint or unique index, as far as they are known here.
std::vector<FieldIndex> PostgresStore::fieldsOf(const RecordWrite& request, const std::string& constraint) {
    std::vector<FieldIndex> fields;
    auto table = tableOf(request);
    if (!table || constraint.empty()) return fields;
    auto names = connection_.run(
        "SELECT a.attname::text FROM pg_attribute a WHERE a.attrelid = $1::regclass AND (a.attnum = ANY (SELECT "
        "unnest(k.conkey) FROM pg_constraint k WHERE k.conrelid = $1::regclass AND k.conname = $2) OR a.attnum = ANY "
        "(SELECT unnest(i.indkey::int2[]) FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid WHERE i.indrelid = "
        "$1::regclass AND c.relname = $2)) ORDER BY a.attnum",
        {*table, constraint});
    for (int i = 0; names && i < names->rows(); ++i)
        if (const auto field = request.schema->find(names->text(i, 0))) fields.push_back(*field);
    return fields;
}

/// A check by its name, and what it demands where that can be read.
std::string PostgresStore::demandOf(const RecordWrite& request, const Refusal& refusal) {
    auto table = tableOf(request);
    if (!table) return refusal.constraint;
    auto check = connection_.run(
        "SELECT pg_get_expr(conbin, conrelid, true) FROM pg_constraint WHERE conrelid = $1::regclass AND conname = $2",
        {*table, refusal.constraint});
    if (!check || check->rows() != 1 || check->isNull(0, 0)) return refusal.constraint;
    return fmt::format("{} ({})", check->text(0, 0), refusal.constraint);
}

/// What the server says by a code and the name of a constraint, in the form's words.
Result<Outcome> PostgresStore::refused(const RecordWrite& request, const Refusal& refusal) {
    // A table that is another one by now (class 42) does not take what comes back.
    const bool isOfAlong =
        request.bringsBack &&
        (refusal.state.starts_with("42") || (!refusal.table.empty() && !request.schema->name.ends_with(refusal.table)));
    if (refusal.error.code != ErrorCode::Refused && !isOfAlong) return refusal.error;
    // The transaction is void until it is taken back to where this record began; then the server answers again.
    const bool isAlone = !connection_.run("ROLLBACK TO SAVEPOINT record");
    if (isAlone) (void)connection_.run("ROLLBACK");
    if (isOfAlong)
        return Outcome(Problem{ErrorCode::Refused,
                               {},
                               fmt::format("What was deleted with it cannot come back{}{}: {}.",
                                           refusal.table.empty() ? "" : " to ", refusal.table, refusal.said)});
    Problem problem{ErrorCode::Refused, fieldsOf(request, refusal.constraint), {}};
    if (const auto field = refusal.column.empty() ? std::nullopt : request.schema->find(refusal.column))
        problem.fields = {*field};
    std::string names;
    for (const FieldIndex field : problem.fields)
        names += (names.empty() ? "" : ", ") + request.schema->field(field).name;
    if (refusal.state == "23502")
        problem.message = fmt::format("{} must not be empty.", names.empty() ? "A field" : names);
    else if (refusal.state == "23505")
        problem.message = fmt::format("Another record has this {} already.", names.empty() ? "value" : names);
    else if (refusal.state == "23503")
        problem.message = request.change == RecordChange::Delete
                              ? "Other records point to this one, so the database keeps it."
                              : "No record in the linked table has this value.";
    else if (refusal.state == "23514" && !refusal.constraint.empty())
        problem.message = fmt::format("The database does not allow this value: {}.", demandOf(request, refusal));
    else
        problem.message = fmt::format("The database refuses this: {}.", refusal.said);
    return Outcome(std::move(problem));
}

}  // namespace

Result<std::unique_ptr<Store>> openStore(const std::string& address) {
    auto connection = Connection::open(address);
    if (!connection) return connection.error();
    return std::unique_ptr<Store>(std::make_unique<PostgresStore>(address, std::move(*connection)));
}

}  // namespace jollyrow::postgres
