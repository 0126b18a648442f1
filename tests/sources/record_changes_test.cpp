// SPDX-License-Identifier: MIT
// Inserting and deleting in a store, against SQL of one's own on the same tables: keys of every kind, defaults,
// triggers, links in any order, names that need quoting, batches that fail in the middle.
#include <QtTest>

#include <random>

#include <sqlite3.h>

#include "core/sources/source.h"
#include "tests/stored_text.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
}  // namespace

class RecordChangesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { folder_ = std::make_unique<QTemporaryDir>(); }

    void keysOfEveryKindComeBack() {
        struct Case {
            const char* sql;
            std::vector<std::pair<const char*, Value>> given;
            RecordKey key;
        };
        const Case cases[] = {
            {"CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT)", {{"w", text("a")}}, {std::int64_t{1}}},
            {"CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT)", {{"id", std::int64_t{-7}}}, {std::int64_t{-7}}},
            {"CREATE TABLE t (w TEXT)", {{"w", text("a")}}, {std::int64_t{1}}},  // by its row id
            {"CREATE TABLE t (w TEXT)", {}, {std::int64_t{1}}},                  // defaults alone
            {"CREATE TABLE t (a TEXT, b INTEGER, w TEXT, PRIMARY KEY (b, a)) WITHOUT ROWID",
             {{"a", text("x")}, {"b", std::int64_t{2}}},
             {std::int64_t{2}, text("x")}},
            {"CREATE TABLE t (a TEXT DEFAULT 'given', b INTEGER DEFAULT 9, PRIMARY KEY (a, b)) WITHOUT ROWID",
             {},
             {text("given"), std::int64_t{9}}},
            {"CREATE TABLE t (id INTEGER PRIMARY KEY, rowid TEXT)", {{"rowid", text("odd")}}, {std::int64_t{1}}},
            {"CREATE TABLE t (\"a \"\" b\" INTEGER PRIMARY KEY, \"select\" TEXT)",
             {{"select", text("x")}},
             {std::int64_t{1}}},
        };
        int n = 0;
        for (const Case& one : cases) {
            path_ = folder_->filePath(QString("%1.db").arg(n++)).toStdString();
            run(one.sql);
            const auto table = load();
            RecordWrite write = writeTo(*table);
            write.change = RecordChange::Insert;
            for (const auto& [name, value] : one.given)
                write.changes.push_back({*table->schema.find(name), Empty{}, value});
            for (std::size_t i = 0; i < table->schema.fields.size(); ++i)
                write.readBack.push_back(static_cast<FieldIndex>(i));
            const auto answer = writeOne(*store(), write);
            QVERIFY2(answer.ok(), answer.ok() ? "" : answer.error().message.c_str());
            QCOMPARE(answer->key, one.key);
            const auto now = load();
            QCOMPARE(now->rows, std::size_t{1});
            QCOMPARE(now->key(SourceRow{0}), one.key);
            for (std::size_t i = 0; i < now->columns.size(); ++i)
                QCOMPARE(answer->readBack[i], now->columns[i]->value(SourceRow{0}));
            // And it goes again by that key.
            RecordWrite removal = writeTo(*now);
            removal.change = RecordChange::Delete;
            removal.key = answer->key;
            QVERIFY(writeOne(*store(), removal).ok());
            QCOMPARE(load()->rows, std::size_t{0});
            QCOMPARE(writeOne(*store(), removal).error().code, ErrorCode::Conflict);
        }
    }

    /// Whatever stands in a column, and whatever somebody makes of it meanwhile: the update goes through just where
    /// what was read before is what would be read now, and else changes nothing. Values that contradict their type,
    /// that collations call equal, that are one number written in several ways.
    void anUpdateIsAConflictWhereAnotherValueIsReadNow() {
        path_ = folder_->filePath("c.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, plain TEXT, folded TEXT COLLATE NOCASE, trimmed TEXT COLLATE "
            "RTRIM,"
            "whole INTEGER, exact DECIMAL(10,2), real DOUBLE, day DATE, flag BOOLEAN, any_ , bytes BLOB);"
            "INSERT INTO t (id) VALUES (1)");
        const std::vector<std::string> columns = {"plain", "folded", "trimmed", "whole", "exact",
                                                  "real",  "day",    "flag",    "any_",  "bytes"};
        const std::vector<std::string> stored = {"'a'",   "'A'",     "'a '", "'7'",    "'007'",        "7",
                                                 "7.0",   "0.1+0.2", "0.3",  "NULL",   "''",           "x'61'",
                                                 "x'37'", "1",       "0",    "'true'", "'2026-01-05'", "20260105",
                                                 "-0.0",  "'7.00'",  "1e15"};
        const std::map<Type, Value> after = {{Type::Text, text("z")},          {Type::Integer, std::int64_t{3}},
                                             {Type::Decimal, Decimal{125, 2}}, {Type::Real, 2.5},
                                             {Type::Date, Date{20'000}},       {Type::Boolean, true}};
        std::mt19937 dice(11);
        int conflicts = 0, updates = 0;
        for (int turn = 0; turn < 500; ++turn) {
            const std::string& column = columns[dice() % columns.size()];
            const auto setTo = [&](const std::string& value) {
                run(("UPDATE t SET " + column + " = " + value).c_str());
            };
            setTo(stored[dice() % stored.size()]);
            const auto table = load();
            const FieldIndex field = *table->schema.find(column);
            const auto next = after.find(table->schema.field(field).type);
            if (next == after.end() || !table->column(field)) continue;
            const Value believed = table->column(field)->value(SourceRow{0});
            if (dice() % 2) setTo(stored[dice() % stored.size()]);
            const auto now = load();
            // A column without a type is what its values are: another guess is another schema.
            if (now->schema.field(field).type != table->schema.field(field).type) continue;
            if (now->schema.field(field).scale != table->schema.field(field).scale) continue;
            const bool isSame = now->column(field)->value(SourceRow{0}) == believed;
            RecordWrite write = writeTo(*table);
            write.key = {std::int64_t{1}};
            write.changes = {{field, believed, next->second}};
            const std::string kept = "SELECT typeof(" + column + ") || quote(" + column + ") FROM t";
            const QString before = value(kept.c_str());
            auto outcomes = store()->write({&write, 1}, Atomicity::EachRecord, Cancel());
            QVERIFY(outcomes.ok());
            const bool isStored = std::holds_alternative<StoredRecord>(outcomes->front());
            const QByteArray which = (QString::fromStdString(column) + ": " + before).toUtf8();
            QVERIFY2(isStored == isSame, which.constData());
            if (!isStored)
                QCOMPARE(value(kept.c_str()), before);
            else
                QVERIFY2(load()->column(field)->value(SourceRow{0}) == next->second, which.constData());
            isStored ? ++updates : ++conflicts;
        }
        QVERIFY2(updates > 100 && conflicts > 50, qPrintable(QString("%1 %2").arg(updates).arg(conflicts)));
    }

    void aDeletedRecordMustStandAsBelieved() {
        path_ = folder_->filePath("b.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT, n INTEGER); INSERT INTO t VALUES (1, 'a', NULL)");
        const auto table = load();
        RecordWrite write = writeTo(*table);
        write.change = RecordChange::Delete;
        write.key = {std::int64_t{1}};
        write.changes = {{FieldIndex{1}, text("a"), {}}, {FieldIndex{2}, Empty{}, {}}};
        run("UPDATE t SET n = 5");
        const auto answer = store()->write({&write, 1}, Atomicity::EachRecord, Cancel());
        const auto& conflict = std::get<Conflict>((*answer)[0]);
        QCOMPARE(conflict.fields.size(), std::size_t{1});
        QVERIFY(conflict.fields[0].stored == Value(std::int64_t{5}));
        QCOMPARE(load()->rows, std::size_t{1});
    }

    /// Records that point to each other, in whatever order they come.
    void linksHoldWhateverTheOrder() {
        path_ = folder_->filePath("l.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, up INTEGER REFERENCES t(id))");
        const auto table = load();
        std::mt19937 dice(4);
        for (int turn = 0; turn < 40; ++turn) {
            run("DELETE FROM t; INSERT INTO t VALUES (1, NULL), (2, 1), (3, 2)");
            std::vector<RecordWrite> writes;
            for (std::int64_t id = 10; id < 16; ++id) {
                RecordWrite made = writeTo(*table);
                made.change = RecordChange::Insert;
                made.changes = {{FieldIndex{0}, {}, id}, {FieldIndex{1}, {}, id == 10 ? Value{} : Value(id - 1)}};
                writes.push_back(std::move(made));
            }
            for (std::int64_t id = 1; id <= 3; ++id) {
                RecordWrite gone = writeTo(*table);
                gone.change = RecordChange::Delete;
                gone.key = {id};
                writes.push_back(std::move(gone));
            }
            std::shuffle(writes.begin(), writes.end(), dice);
            const bool breaks = turn % 2 == 1;
            if (breaks) {  // one more that points nowhere
                RecordWrite odd = writeTo(*table);
                odd.change = RecordChange::Insert;
                odd.changes = {{FieldIndex{0}, {}, std::int64_t{99}}, {FieldIndex{1}, {}, std::int64_t{999}}};
                writes.insert(writes.begin() + static_cast<std::ptrdiff_t>(dice() % writes.size()), std::move(odd));
            }
            std::size_t told = 0;
            auto open = store();
            open->setPrepared([&](std::size_t at, const RecordKey& key) {
                ++told;
                if (writes[at].change != RecordChange::Insert || key.empty()) told = 1000;
            });
            const auto answer = open->write(writes, Atomicity::AllOrNothing, Cancel());
            QVERIFY2(answer.ok(), answer.ok() ? "" : answer.error().message.c_str());
            if (!breaks) {
                QCOMPARE(
                    value("SELECT group_concat(id || ':' || coalesce(up, '-')) FROM (SELECT * FROM t ORDER BY id)"),
                    QString("10:-,11:10,12:11,13:12,14:13,15:14"));
                QCOMPARE(told, std::size_t{6});
                continue;
            }
            QCOMPARE(value("SELECT group_concat(id) FROM t"), QString("1,2,3"));
            int refused = 0;
            for (const Outcome& one : *answer)
                refused += std::get<Problem>(one).message.find("linked table") != std::string::npos ? 1 : 0;
            QVERIFY(refused >= 1);
        }
    }

    void aBatchThatFailsChangesNothing() {
        path_ = folder_->filePath("f.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT UNIQUE NOT NULL);"
            "INSERT INTO t VALUES (1, 'a'), (2, 'b');"
            "CREATE TRIGGER no BEFORE DELETE ON t WHEN OLD.w = 'b' BEGIN SELECT RAISE(ABORT, 'b stays'); END");
        const auto table = load();
        RecordWrite made = writeTo(*table), gone = writeTo(*table);
        made.change = RecordChange::Insert;
        made.changes = {{FieldIndex{1}, {}, text("c")}};
        gone.change = RecordChange::Delete;
        gone.key = {std::int64_t{2}};
        const std::vector<RecordWrite> writes = {made, gone};
        const auto answer = store()->write(writes, Atomicity::AllOrNothing, Cancel());
        QCOMPARE(std::get<Problem>((*answer)[0]).code, ErrorCode::Cancelled);
        QVERIFY(std::get<Problem>((*answer)[1]).message.find("b stays") != std::string::npos);
        QCOMPARE(value("SELECT group_concat(w) FROM t"), QString("a,b"));
        const auto each = store()->write(writes, Atomicity::EachRecord, Cancel());
        QVERIFY(std::holds_alternative<StoredRecord>((*each)[0]));
        QCOMPARE(value("SELECT group_concat(w) FROM t"), QString("a,b,c"));
        // A value that is taken, a required one that is missing: the field is named.
        for (const Value& wrong : {Value(text("a")), Value(Empty{})}) {
            made.changes[0].after = wrong;
            const auto refused = store()->write({&made, 1}, Atomicity::EachRecord, Cancel());
            QCOMPARE(std::get<Problem>((*refused)[0]).fields, std::vector<FieldIndex>{FieldIndex{1}});
        }
    }

    void manyOfAKindAreFast() {
        path_ = folder_->filePath("m.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT)");
        const auto table = load();
        std::vector<RecordWrite> writes;
        const SharedSchema schema = table->schema;
        for (int i = 0; i < 5000; ++i) {
            RecordWrite made = writeTo(*table);
            made.schema = schema;
            made.change = RecordChange::Insert;
            made.changes = {{FieldIndex{1}, {}, std::string("w") + std::to_string(i)}};
            writes.push_back(std::move(made));
        }
        const auto answer = store()->write(writes, Atomicity::AllOrNothing, Cancel());
        QVERIFY(answer.ok());
        QCOMPARE(value("SELECT count(DISTINCT w) FROM t"), QString("5000"));
        for (std::size_t i = 0; i < writes.size(); i += 617)
            QCOMPARE(std::get<StoredRecord>((*answer)[i]).key, RecordKey{Value(static_cast<std::int64_t>(i) + 1)});
    }

    void whatDependsOnRecordsIsCounted() {
        path_ = folder_->filePath("d.db").toStdString();
        run("CREATE TABLE p (id INTEGER PRIMARY KEY, code TEXT UNIQUE);"
            "INSERT INTO p VALUES (1, 'a'), (2, 'b'), (3, NULL);"
            "CREATE TABLE c1 (p INTEGER REFERENCES p ON DELETE CASCADE); INSERT INTO c1 VALUES (1), (1), (2), (NULL);"
            "CREATE TABLE c2 (code TEXT REFERENCES P(code) ON DELETE SET NULL); INSERT INTO c2 VALUES ('a'), ('b');"
            "CREATE TABLE \"c 3\" (a INTEGER REFERENCES p(id), b INTEGER REFERENCES p(id));"
            "INSERT INTO \"c 3\" VALUES (2, 2)");
        auto source = openSource(path_);
        const auto schema = (*source)->schema({"p", ""});
        const auto of = [&](std::vector<std::int64_t> keys) {
            std::vector<RecordRequest> records;
            for (const std::int64_t key : keys) records.push_back({*schema, {key}, false, {FieldIndex{0}}, {}});
            return *(*source)->dependentsOf(records, Cancel());
        };
        using Then = Dependents::Then;
        QCOMPARE(of({1}), (std::vector<Dependents>{{"c1", 2, Then::Delete}, {"c2", 1, Then::Unlink}}));
        QCOMPARE(of({1, 2}),
                 (std::vector<Dependents>{{"c 3", 2, Then::Refuse}, {"c1", 3, Then::Delete}, {"c2", 2, Then::Unlink}}));
        QVERIFY(of({3}).empty());
        QVERIFY(of({}).empty());
    }

    /// A new record may take what one that goes in the same save has had.
    void newOnesTakeTheUniqueValuesOfThoseThatGo() {
        path_ = folder_->filePath("u.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT UNIQUE); INSERT INTO t VALUES (1, 'a'), (2, 'b')");
        const auto table = load();
        RecordWrite made = writeTo(*table), gone = writeTo(*table);
        made.change = RecordChange::Insert;
        made.changes = {{FieldIndex{0}, {}, std::int64_t{2}}, {FieldIndex{1}, {}, text("b")}};
        gone.change = RecordChange::Delete;
        gone.key = {std::int64_t{2}};
        const auto answer = store()->write(std::vector{made, gone}, Atomicity::AllOrNothing, Cancel());
        QVERIFY(answer.ok());
        QVERIFY(std::holds_alternative<StoredRecord>((*answer)[0]) &&
                std::holds_alternative<StoredRecord>((*answer)[1]));
        QCOMPARE(value("SELECT group_concat(id || w) FROM t"), QString("1a,2b"));
        // Where it is not the one that goes that is in the way, it is said as before.
        made.changes = {{FieldIndex{1}, {}, text("a")}};
        const auto refused = store()->write(std::vector{made, gone}, Atomicity::AllOrNothing, Cancel());
        QCOMPARE(std::get<Problem>((*refused)[0]).code, ErrorCode::Refused);
        QCOMPARE(std::get<Problem>((*refused)[1]).code, ErrorCode::Cancelled);
        QCOMPARE(value("SELECT count(*) FROM t"), QString("2"));
    }

    /// Written one after the other, a later write finds the record that an earlier one has made.
    void writesInOrderBuildOnEachOther() {
        path_ = folder_->filePath("o.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT UNIQUE); INSERT INTO t VALUES (7, 'a'), (8, 'b')");
        const auto table = load();
        const auto update = [&](RecordKey key, const char* before, const char* after) {
            RecordWrite write = writeTo(*table);
            write.key = std::move(key);
            write.changes = {{FieldIndex{1}, text(before), text(after)}};
            return write;
        };
        RecordWrite made = writeTo(*table);
        made.change = RecordChange::Insert;
        made.changes = {{FieldIndex{1}, {}, text("n")}};
        RecordWrite renamed = update({std::int64_t{1}}, "n", "m");  // the key it had elsewhere
        renamed.madeBy = 2;
        // a and b change places by way of x.
        const std::vector<RecordWrite> writes = {update({std::int64_t{7}}, "a", "x"),
                                                 update({std::int64_t{8}}, "b", "a"), made, renamed,
                                                 update({std::int64_t{7}}, "x", "b")};
        const auto answer = store()->write(writes, Atomicity::InOrder, Cancel());
        QVERIFY(answer.ok());
        for (const Outcome& outcome : *answer) QVERIFY(std::holds_alternative<StoredRecord>(outcome));
        QCOMPARE(value("SELECT group_concat(id || w) FROM (SELECT * FROM t ORDER BY id)"), QString("7b,8a,9m"));
        auto wrong = writes;
        wrong[0] = update({std::int64_t{7}}, "nothing like it", "x");
        const auto none = store()->write(wrong, Atomicity::InOrder, Cancel());
        QVERIFY(std::holds_alternative<Conflict>((*none)[0]));
        QCOMPARE(value("SELECT group_concat(id || w) FROM (SELECT * FROM t ORDER BY id)"), QString("7b,8a,9m"));
    }

    void presenceIsTold() {
        path_ = folder_->filePath("p.db").toStdString();
        run("CREATE TABLE t (id INTEGER PRIMARY KEY, w TEXT COLLATE NOCASE, d DATE); INSERT INTO t VALUES (1, 'a', "
            "'2026-03-04'), (2, NULL, NULL)");
        const auto source = *openSource(path_);
        const auto table = load();
        const auto has = [&](const char* field, Value given, std::optional<std::int64_t> except = std::nullopt) {
            PresenceRequest request{
                "t", {field}, {std::move(given)}, {table->schema.field(*table->schema.find(field))}, {}};
            if (except) request.except = RecordRequest{table->schema, {Value(*except)}, false, table->keyFields, {}};
            const auto answer = source->arePresent({request}, Cancel());
            return answer.ok() && answer->front();
        };
        QVERIFY(has("w", text("a")) && has("w", text("A")));  // as the column compares
        QVERIFY(!has("w", text("b")));
        QVERIFY(!has("w", text("a"), 1) && has("w", text("a"), 2));
        QVERIFY(has("d", Date{20'516}) && !has("d", Date{20'517}));
        PresenceRequest odd{"no such table", {"w"}, {text("a")}, {}, {}};
        QVERIFY(!source->arePresent({odd}, Cancel()).ok());
        PresenceRequest evil{"t", {"w\" OR 1=1 --"}, {text("b")}, {}, {}};
        const auto answer = source->arePresent({evil}, Cancel());
        QVERIFY(!answer.ok() || !answer->front());  // a name is never a part of the SELECT
    }

  private:
    std::shared_ptr<const Table> load() {
        auto source = openSource(path_);
        LoadRequest request;
        request.binding = {"t", ""};
        auto table = (*source)->load(request, Cancel());
        if (!table) qFatal("%s", table.error().message.c_str());
        return *table;
    }
    std::unique_ptr<Store> store() { return std::move(*openStore(path_)); }
    static RecordWrite writeTo(const Table& table) {
        RecordWrite write;
        write.schema = table.schema;
        write.keyIsRowId = table.rowIds != nullptr;
        if (!table.rowIds) write.keyFields = table.keyFields;
        return write;
    }
    void run(const char* sql) {
        sqlite3* db = nullptr;
        sqlite3_open(path_.c_str(), &db);
        char* message = nullptr;
        if (sqlite3_exec(db, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(db);
    }
    QString value(const char* sql) { return test::storedText(QString::fromStdString(path_), sql); }
    std::unique_ptr<QTemporaryDir> folder_;
    std::string path_;
};

QTEST_APPLESS_MAIN(RecordChangesTest)
#include "record_changes_test.moc"
