// SPDX-License-Identifier: MIT
#pragma once
// What every source and every store must keep to, whatever stands behind it. A source's own test makes the records of
// kConformanceSql (or their like), says how to open them, and calls these. Each check fails the test it is called in.

#include <QtTest>

#include <functional>
#include <memory>
#include <set>
#include <thread>

#include "core/sources/source.h"

namespace jollyrow::test {

/// Vessels to look up, and jobs in bound order 1 … 2 000: enough for several parts of a load.
inline constexpr const char* kConformanceSql = R"SQL(
CREATE TABLE vessels (id INTEGER PRIMARY KEY, name TEXT NOT NULL);
INSERT INTO vessels VALUES (3, 'Curlew'), (1, 'Bittern'), (2, 'Avocet');
CREATE TABLE jobs (number INTEGER PRIMARY KEY, vessel INTEGER REFERENCES vessels(id), work TEXT NOT NULL UNIQUE,
  hours DECIMAL(6,2) CHECK (hours >= 0), due DATE, paid BOOLEAN,
  UNIQUE (vessel, due));
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 2000)
INSERT INTO jobs SELECT i, CASE WHEN i % 4 THEN i % 4 END, 'work ' || i, i % 97 + 0.25, date('2026-01-01', i || ' days'),
  i % 2 FROM c;
)SQL";

struct UnderTest {
    std::shared_ptr<const Source> source;
    std::function<Result<std::unique_ptr<Store>>()> store;  ///< empty where nothing can be written
    std::string table = "jobs";
};

inline LoadRequest everything(const UnderTest& it) {
    LoadRequest request;
    request.binding.table = it.table;
    return request;
}

inline std::shared_ptr<const Table> loaded(const UnderTest& it) {
    auto table = it.source->load(everything(it), Cancel());
    if (!table) qFatal("%s", table.error().message.c_str());
    return *table;
}

inline bool areEqual(const Table& a, const Table& b, std::size_t rows) {
    for (std::size_t column = 0; column < a.columns.size(); ++column)
        for (std::size_t row = 0; row < rows; ++row)
            if (!(a.columns[column]->value(static_cast<SourceRow>(row)) ==
                  b.columns[column]->value(static_cast<SourceRow>(row))))
                return false;
    return true;
}

/// Two readings are equal, in bound order, and a field that is not wanted is left out.
inline void readsTheSameTwice(const UnderTest& it) {
    const auto first = loaded(it), second = loaded(it);
    QVERIFY(first->complete && first->rows > 0);
    QCOMPARE(first->rows, second->rows);
    QVERIFY(first->schema.fields == second->schema.fields);
    QVERIFY(areEqual(*first, *second, first->rows));
    const auto schema = it.source->schema({it.table, {}});
    QVERIFY(schema.ok());
    QCOMPARE(schema->fields.size(), first->schema.fields.size());
    LoadRequest some = everything(it);
    some.wanted.assign(schema->fields.size(), false);
    some.wanted[2] = true;
    const auto part = it.source->load(some, Cancel());
    QVERIFY(part.ok());
    QCOMPARE((*part)->rows, first->rows);
    QVERIFY((*part)->columns[2]);
    QVERIFY(!(*part)->columns[4]);
}

/// Parts come in order, each the beginning of the whole; the last one is all of it.
inline void partsAreBeginnings(const UnderTest& it) {
    std::mutex mutex;
    std::vector<std::shared_ptr<const Table>> parts;
    LoadRequest request = everything(it);
    request.onPart = [&](std::shared_ptr<const Table> part, const LoadProgress& progress) {
        const std::lock_guard lock(mutex);
        QCOMPARE(progress.rows, static_cast<std::int64_t>(part->rows));
        parts.push_back(std::move(part));
    };
    const auto whole = it.source->load(request, Cancel());
    QVERIFY(whole.ok());
    std::size_t rows = 0;
    for (const auto& part : parts) {
        QVERIFY(part->rows >= rows && part->rows <= (*whole)->rows);
        rows = part->rows;
        QVERIFY(areEqual(*part, **whole, part->rows));
    }
}

inline void theFirstFewAreTheFirstFew(const UnderTest& it) {
    const auto whole = loaded(it);
    for (const std::int64_t most : {0, 1, 7, 100'000}) {
        LoadRequest request = everything(it);
        request.most = most;
        const auto few = it.source->load(request, Cancel());
        QVERIFY(few.ok());
        QCOMPARE((*few)->rows, std::min<std::size_t>(whole->rows, static_cast<std::size_t>(most)));
        QVERIFY(areEqual(**few, *whole, (*few)->rows));
    }
}

/// A cancelled reading is said to be one, at whatever moment it was cancelled; the source is as good as before.
inline void readingCanBeCancelled(const UnderTest& it) {
    const Cancel before;
    before.request();
    const auto none = it.source->load(everything(it), before);
    QVERIFY(!none.ok());
    QCOMPARE(none.error().code, ErrorCode::Cancelled);
    const Cancel during;
    LoadRequest request = everything(it);
    request.onPart = [&](const std::shared_ptr<const Table>&, const LoadProgress&) { during.request(); };
    const auto cut = it.source->load(request, during);
    QVERIFY(cut.ok() || cut.error().code == ErrorCode::Cancelled);
    QVERIFY(loaded(it)->complete);
}

/// Asked from several threads at once it answers each as if it were alone.
inline void threadsDoNotDisturbEachOther(const UnderTest& it) {
    const auto whole = loaded(it);
    std::vector<std::thread> threads;
    std::atomic<int> wrong = 0;
    for (int n = 0; n < 4; ++n)
        threads.emplace_back([&] {
            for (int turn = 0; turn < 3; ++turn) {
                const auto table = it.source->load(everything(it), Cancel());
                if (!table || (*table)->rows != whole->rows || !areEqual(**table, *whole, whole->rows)) ++wrong;
                if (!it.source->schema({it.table, {}}).ok()) ++wrong;
            }
        });
    for (std::thread& thread : threads) thread.join();
    QCOMPARE(wrong.load(), 0);
}

/// What is not there is said to be so, by its name.
inline void whatIsMissingIsNamed(const UnderTest& it) {
    const auto schema = it.source->schema({"no_such_table", {}});
    QVERIFY(!schema.ok());
    QVERIFY(schema.error().message.find("no_such_table") != std::string::npos);
    LoadRequest request;
    request.binding.table = "no_such_table";
    QVERIFY(!it.source->load(request, Cancel()).ok());
}

inline RecordRequest recordOf(const Table& table, std::size_t row) {
    RecordRequest request;
    request.schema = table.schema;
    request.key = table.key(static_cast<SourceRow>(row));
    request.keyIsRowId = table.rowIds != nullptr;
    request.keyFields = table.keyFields;
    return request;
}

/// One record read alone is the record of the load; one that is gone is NotFound.
inline void oneRecordIsTheRecord(const UnderTest& it) {
    const auto table = loaded(it);
    for (const std::size_t row : {std::size_t{0}, table->rows / 2, table->rows - 1}) {
        RecordRequest request = recordOf(*table, row);
        request.fields = {FieldIndex{2}, FieldIndex{0}, FieldIndex{4}};
        const auto values = it.source->valuesOf(request);
        QVERIFY(values.ok());
        for (std::size_t i = 0; i < request.fields.size(); ++i)
            QVERIFY((*values)[i] == table->column(request.fields[i])->value(static_cast<SourceRow>(row)));
    }
    RecordRequest gone = recordOf(*table, 0);
    gone.key = {Value(std::int64_t{-5})};
    gone.fields = {FieldIndex{2}};
    QCOMPARE(it.source->valuesOf(gone).error().code, ErrorCode::NotFound);
}

inline void lookUpsAreByLabel(const UnderTest& it) {
    const auto all = it.source->lookUp({"vessels", "id", "name", "", std::nullopt}, Cancel());
    QVERIFY(all.ok());
    std::vector<std::string> labels;
    for (const LookUpEntry& entry : *all) labels.push_back(entry.label);
    QCOMPARE(labels, (std::vector<std::string>{"Avocet", "Bittern", "Curlew"}));
    const auto some = it.source->lookUp({"vessels", "id", "name", "CUR", std::nullopt}, Cancel());
    QVERIFY(some.ok() && some->size() == 1 && some->front().key == Value(std::int64_t{3}));
    const auto none = it.source->lookUp({"vessels", "id", "name", "%", std::nullopt}, Cancel());
    QVERIFY(none.ok() && none->empty());  // no pattern: what is typed is what is meant
    LookUpRequest called{"vessels", "id", "name", "", std::nullopt, 1};
    called.called = {"Curlew", "Avocet", "1", "Bitter", "nobody"};
    const auto three = it.source->lookUp(called, Cancel());  // by label, by key; all of them
    QVERIFY(three.ok());
    labels.clear();
    for (const LookUpEntry& entry : *three) labels.push_back(entry.label);
    QCOMPARE(labels, (std::vector<std::string>{"Avocet", "Bittern", "Curlew"}));
    called.called->clear();
    QVERIFY(it.source->lookUp(called, Cancel())->empty());
}

inline RecordWrite writeOf(const Table& table, std::size_t row, FieldIndex field, Value after) {
    RecordWrite write;
    write.schema = table.schema;
    write.key = table.key(static_cast<SourceRow>(row));
    write.keyIsRowId = table.rowIds != nullptr;
    write.keyFields = table.keyFields;
    write.changes = {{field, table.column(field)->value(static_cast<SourceRow>(row)), std::move(after)}};
    return write;
}

/// What was stored is what is read from then on, by this store's answer and by everybody.
inline void whatIsStoredIsRead(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    const auto table = loaded(it);
    const auto answer = (*store)->write({{writeOf(*table, 4, FieldIndex{2}, std::string("rewire the mast")),
                                          writeOf(*table, 5, FieldIndex{4}, Value(Empty{}))}},
                                        Atomicity::EachRecord, Cancel());
    QVERIFY(answer.ok());
    QCOMPARE(answer->size(), std::size_t{2});
    QVERIFY(std::get<StoredRecord>((*answer)[0]).values.front() == Value(std::string("rewire the mast")));
    const auto after = loaded(it);
    QVERIFY(after->column(FieldIndex{2})->value(SourceRow{4}) == Value(std::string("rewire the mast")));
    QVERIFY(after->column(FieldIndex{4})->isEmpty(SourceRow{5}));
    QVERIFY(after->column(FieldIndex{2})->value(SourceRow{5}) == table->column(FieldIndex{2})->value(SourceRow{5}));
}

/// A value that is not there any more is a conflict that tells both; nothing is changed. A record that is gone, too.
inline void whatChangedMeanwhileIsAConflict(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    const auto table = loaded(it);
    RecordWrite write = writeOf(*table, 7, FieldIndex{2}, std::string("mine"));
    write.changes.front().before = std::string("what I saw");
    const auto answer = (*store)->write({&write, 1}, Atomicity::EachRecord, Cancel());
    QVERIFY(answer.ok());
    const auto& conflict = std::get<Conflict>(answer->front());
    QCOMPARE(conflict.fields.size(), std::size_t{1});
    QVERIFY(conflict.fields[0].field == FieldIndex{2});
    QVERIFY(conflict.fields[0].believed == Value(std::string("what I saw")));
    QVERIFY(conflict.fields[0].stored == table->column(FieldIndex{2})->value(SourceRow{7}));
    QVERIFY(areEqual(*loaded(it), *table, table->rows));
    write.key = {Value(std::int64_t{-5})};
    const auto gone = (*store)->write({&write, 1}, Atomicity::EachRecord, Cancel());
    QVERIFY(gone.ok() && std::get<Conflict>(gone->front()).isGone());
}

/// What a constraint forbids is a problem that says which field; other records are stored, or none, as was asked.
inline void troubleIsTheRecordsOwnOrEverybodys(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    for (const Atomicity atomicity : {Atomicity::AllOrNothing, Atomicity::EachRecord}) {
        const auto table = loaded(it);
        const std::vector<RecordWrite> writes = {
            writeOf(*table, 20, FieldIndex{2}, std::string("first")),
            writeOf(*table, 21, FieldIndex{2}, std::string("work 1")),  // another record has it
            writeOf(*table, 22, FieldIndex{2}, Value(Empty{})),
            writeOf(*table, 23, FieldIndex{2}, std::string("last"))};
        const auto answer = (*store)->write(writes, atomicity, Cancel());
        QVERIFY(answer.ok());
        QCOMPARE(answer->size(), writes.size());
        for (const std::size_t at : {1U, 2U}) {
            const auto& problem = std::get<Problem>((*answer)[at]);
            QVERIFY(problem.code == ErrorCode::Refused && !problem.message.empty());
            QCOMPARE(problem.fields, (std::vector<FieldIndex>{FieldIndex{2}}));
        }
        const bool each = atomicity == Atomicity::EachRecord;
        for (const std::size_t at : {0U, 3U}) {
            QCOMPARE(std::holds_alternative<StoredRecord>((*answer)[at]), each);
            if (!each) QVERIFY(std::get<Problem>((*answer)[at]).code == ErrorCode::Cancelled);
        }
        const auto after = loaded(it);
        if (each)
            QVERIFY(after->column(FieldIndex{2})->value(SourceRow{23}) == Value(std::string("last")));
        else
            QVERIFY(areEqual(*after, *table, table->rows));
    }
}

/// What several fields are unique by together is said of all of them.
inline void whatIsUniqueTogetherIsNamedTogether(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    const auto table = loaded(it);
    const RecordWrite write = writeOf(*table, 25, FieldIndex{4}, table->column(FieldIndex{4})->value(SourceRow{21}));
    const auto answer = (*store)->write({&write, 1}, Atomicity::EachRecord, Cancel());
    QVERIFY(answer.ok());
    const auto& problem = std::get<Problem>(answer->front());
    QCOMPARE(problem.fields, (std::vector<FieldIndex>{FieldIndex{1}, FieldIndex{4}}));
    QVERIFY2(problem.message.find("vessel, due") != std::string::npos, problem.message.c_str());
}

/// A record whose key was written answers to the new one.
inline void aKeyThatIsWrittenNamesItsRecord(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    const auto table = loaded(it);
    RecordWrite write = writeOf(*table, 30, FieldIndex{0}, Value(std::int64_t{90'000}));
    const auto moved = writeOne(**store, write);
    QVERIFY(moved.ok());
    QVERIFY(moved->key == RecordKey{Value(std::int64_t{90'000})});
    RecordWrite next = writeOf(*table, 30, FieldIndex{2}, std::string("after the move"));
    next.key = moved->key;
    QVERIFY(writeOne(**store, next).ok());
    next.key = write.key;
    QCOMPARE(writeOne(**store, next).error().code, ErrorCode::Conflict);
}

inline void writingCanBeCancelled(const UnderTest& it) {
    auto store = it.store();
    QVERIFY(store.ok());
    const auto table = loaded(it);
    const std::vector<RecordWrite> writes = {writeOf(*table, 40, FieldIndex{2}, std::string("never")),
                                             writeOf(*table, 41, FieldIndex{2}, std::string("neither"))};
    const Cancel cancel;
    cancel.request();
    for (const Atomicity atomicity : {Atomicity::AllOrNothing, Atomicity::EachRecord}) {
        const auto answer = (*store)->write(writes, atomicity, cancel);
        if (answer.ok())
            for (const Outcome& outcome : *answer) QCOMPARE(std::get<Problem>(outcome).code, ErrorCode::Cancelled);
        else
            QCOMPARE(answer.error().code, ErrorCode::Cancelled);
    }
    QVERIFY(areEqual(*loaded(it), *table, table->rows));
}

/// All that can be asked of a source that is only read.
inline void checkSource(const UnderTest& it) {
    readsTheSameTwice(it);
    partsAreBeginnings(it);
    theFirstFewAreTheFirstFew(it);
    readingCanBeCancelled(it);
    threadsDoNotDisturbEachOther(it);
}

/// All that can be asked of a database that keeps related tables and can be written.
inline void checkDatabase(const UnderTest& it) {
    checkSource(it);
    whatIsMissingIsNamed(it);
    oneRecordIsTheRecord(it);
    lookUpsAreByLabel(it);
    whatIsStoredIsRead(it);
    whatChangedMeanwhileIsAConflict(it);
    troubleIsTheRecordsOwnOrEverybodys(it);
    whatIsUniqueTogetherIsNamedTogether(it);
    aKeyThatIsWrittenNamesItsRecord(it);
    writingCanBeCancelled(it);
}

}  // namespace jollyrow::test
