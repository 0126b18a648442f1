// SPDX-License-Identifier: MIT
// The SQLite source and store on real files: schema, loading against plain stepping, odd tables, files that are no
// database, locks, full disks, conflicts and constraints.
#include <QtTest>

#include <sys/resource.h>
#include <csignal>

#include <fstream>

#include "core/columns/civil.h"
#include "core/formats/text_format.h"
#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

constexpr const char* kYard = R"(
CREATE TABLE owners (id INTEGER PRIMARY KEY, name VARCHAR(8) NOT NULL);
CREATE TABLE jobs (number INTEGER PRIMARY KEY, owner INTEGER REFERENCES owners(id), work TEXT NOT NULL, code VARCHAR(5) UNIQUE,
  status TEXT NOT NULL DEFAULT 'Booked' CHECK (status IN ('Quoted', 'It''s "done"', 'Booked')), due DATE, hours DECIMAL(6,2) CHECK (hours BETWEEN 0.25 AND 400),
  cost DECIMAL(12,2), rate REAL, paid BOOLEAN, at TIMESTAMP, picture BLOB, total DECIMAL(12,2) GENERATED ALWAYS AS (cost * 2) VIRTUAL);
CREATE VIEW booked AS SELECT number, work, number * 2 AS twice FROM jobs;
INSERT INTO owners VALUES (1, 'Ines'), (2, 'Åse');
INSERT INTO jobs (number, owner, work, code, status, due, hours, cost, rate, paid, at, picture) VALUES
  (1, 1, 'Rewire mast', 'A1', 'Booked', '2026-11-25', 18.5, 1184.10, 0.1, 1, '2026-11-23 10:00', x'89504e47'),
  (2, 2, 'Åse''s loom', 'A2', 'Quoted', NULL, 0.25, '99999999.99', NULL, 0, NULL, NULL),
  (3, NULL, 'Antifoul', NULL, 'Booked', 'soon', NULL, 'much', 'fast', 'maybe', '25:00', NULL);
)";

RecordWrite change(const TableSchema& schema, std::int64_t number, const char* field, Value before, Value after) {
    RecordWrite request;
    request.schema = schema;
    request.key = {number};
    request.keyFields = {*schema.find("number")};
    request.changes = {{*schema.find(field), std::move(before), std::move(after)}};
    return request;
}

}  // namespace

class SqliteTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        path_ = folder_->filePath("yard.db");
        run(path_, kYard);
    }

    void schemaTellsKeysTypesAndConstraints() {
        const auto source = openSource(path_.toStdString());
        const auto tables = (*source)->tables();
        QCOMPARE(tables->size(), std::size_t{3});
        const auto schema = (*source)->schema({"jobs", ""});
        QVERIFY(schema.ok());
        QCOMPARE(schema->fields.size(), std::size_t{13});
        const auto field = [&](const char* name) { return schema->field(*schema->find(name)); };
        QCOMPARE(field("number").primaryKeyRank, 1);
        QVERIFY(field("number").unique && field("code").unique && !field("work").unique);
        QVERIFY(field("work").required && !field("due").required);
        QCOMPARE(field("status").permitted, (std::vector<std::string>{"Quoted", "It's \"done\"", "Booked"}));
        QCOMPARE(*field("status").defaultSql, std::string("'Booked'"));
        QCOMPARE(field("hours").type, Type::Decimal);
        QCOMPARE(field("hours").scale, 2);
        QCOMPARE(field("code").maxLength, 5);
        QCOMPARE(field("picture").use, Use::Picture);
        QCOMPARE(field("owner").use, Use::LookUp);
        QVERIFY(field("total").generated);
        QCOMPARE(schema->foreignKeys.size(), std::size_t{1});
        QCOMPARE(schema->foreignKeys[0].targetFields, (std::vector<std::string>{"id"}));
        QCOMPARE(schema->foreignKeys[0].label, std::string("name"));
        QCOMPARE(schema->checks.size(), std::size_t{2});
    }

    void valuesComeTypedAndMisfitsAreKept() {
        const auto table = loadAll(path_, {"jobs", ""});
        QVERIFY(table.ok());
        const Table& t = **table;
        QCOMPARE(t.rows, std::size_t{3});
        QCOMPARE(plain(t, 0, "cost"), std::string("1184.10"));
        QCOMPARE(plain(t, 1, "cost"), std::string("99999999.99"));
        QCOMPARE(plain(t, 0, "due"), std::string("2026-11-25"));
        QCOMPARE(plain(t, 0, "at"), std::string("2026-11-23T10:00:00"));
        QCOMPARE(plain(t, 0, "total"), std::string("2368.20"));
        QCOMPARE(plain(t, 1, "work"), std::string("Åse's loom"));
        QCOMPARE(plain(t, 1, "paid"), std::string("false"));
        for (const char* field : {"due", "cost", "rate", "paid", "at"}) {
            const Column* column = t.column(*t.schema.find(field));
            QVERIFY2(column->isEmpty(SourceRow{2}) && column->misfit(SourceRow{2}), field);
        }
        QCOMPARE(*t.column(*t.schema.find("due"))->misfit(SourceRow{2}), std::string_view("soon"));
        QCOMPARE(t.misfitCount(), std::size_t{5});
    }

    void moneyIsExactForEveryCent() {
        run(path_,
            "CREATE TABLE money (id INTEGER PRIMARY KEY, v DECIMAL(14,2)); "
            "WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 40000) "
            "INSERT INTO money SELECT i, printf('%d.%02d', i * 7919 / 100 * 13, i * 7919 % 100) FROM n");
        const auto table = loadAll(path_, {"money", ""});
        for (std::uint32_t i = 0; i <= 40000; ++i) {
            const Decimal expected{
                static_cast<std::int64_t>(i) * 7919 / 100 * 13 * 100 + static_cast<std::int64_t>(i) * 7919 % 100, 2};
            QCOMPARE((*table)->columns[1]->value(SourceRow{i}), Value(expected));
        }
    }

    void bothThreadsTogetherReadWhatSteppingReads_data() {
        QTest::addColumn<QString>("table");
        QTest::newRow("dense row ids")
            << "CREATE TABLE t (a TEXT, b INT); INSERT INTO t SELECT 'x' || (i % 9), i FROM n";
        QTest::newRow("gaps and negative ids")
            << "CREATE TABLE t (a TEXT, b INT); INSERT INTO t (rowid, a, b) SELECT i * 3 - 40000, 'v' || i, i FROM n";
        QTest::newRow("ids far apart")
            << "CREATE TABLE t (a TEXT, b INT); INSERT INTO t (rowid, a, b) SELECT i * 9000000000, 'v' || i, i FROM n";
        QTest::newRow("without row ids") << "CREATE TABLE t (a TEXT, b INT, PRIMARY KEY (b, a)) WITHOUT ROWID; INSERT "
                                            "INTO t SELECT 'v' || i, i FROM n";
        QTest::newRow("text key")
            << "CREATE TABLE t (a TEXT PRIMARY KEY, b INT); INSERT INTO t SELECT 'v' || i, i FROM n";
        QTest::newRow("empty") << "CREATE TABLE t (a TEXT, b INT)";
        QTest::newRow("all values empty") << "CREATE TABLE t (a TEXT, b INT); INSERT INTO t SELECT NULL, NULL FROM n";
    }
    void bothThreadsTogetherReadWhatSteppingReads() {
        QFETCH(QString, table);
        run(path_,
            "CREATE TABLE n (i INT); WITH RECURSIVE c(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM c WHERE i < 50000) "
            "INSERT INTO n SELECT i FROM c; " +
                table.toStdString());
        const auto loaded = loadAll(path_, {"t", ""});
        QVERIFY2(loaded.ok(), loaded.ok() ? "" : loaded.error().message.c_str());
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(db, "SELECT a, b FROM t", -1, &statement, nullptr);
        std::uint32_t row = 0;
        for (; sqlite3_step(statement) == SQLITE_ROW; ++row) {
            const Column &a = *(*loaded)->columns[0], &b = *(*loaded)->columns[1];
            QVERIFY(row < a.size());
            const char* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, 0));
            if (text ? a.text(SourceRow{row}) != text : !a.isEmpty(SourceRow{row}))
                QFAIL(qPrintable(QString("a at %1").arg(row)));
            if (text && b.integer(SourceRow{row}) != sqlite3_column_int64(statement, 1))
                QFAIL(qPrintable(QString("b at %1").arg(row)));
        }
        sqlite3_finalize(statement);
        sqlite3_close(db);
        QCOMPARE((*loaded)->rows, static_cast<std::size_t>(row));
        QVERIFY((*loaded)->hasKeys());
    }

    void partsGrowAndTheLoadCanBeCancelled() {
        run(path_,
            "CREATE TABLE t (a TEXT, b INT); WITH RECURSIVE c(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM c WHERE i < "
            "400000) INSERT INTO t SELECT 'value ' || i, i FROM c");
        const auto source = openSource(path_.toStdString());
        Cancel cancel;
        LoadRequest request;
        request.binding = {"t", ""};
        std::size_t first = 0, last = 0;
        QElapsedTimer since;
        request.onPart = [&](std::shared_ptr<const Table> part, const LoadProgress& progress) {
            if (first == 0) first = part->rows;
            if (part->rows < last || static_cast<std::int64_t>(part->rows) != progress.rows || part->complete)
                qFatal("a part that does not grow");
            last = part->rows;
            since.start();
            cancel.request();
        };
        const auto loaded = (*source)->load(request, cancel);
        QVERIFY(!loaded.ok());
        QCOMPARE(loaded.error().code, ErrorCode::Cancelled);
        QVERIFY(since.elapsed() < 5000);
        QCOMPARE(first, std::size_t{512});
    }

    void viewsAndQueriesAreReadOnly() {
        const auto view = loadAll(path_, {"booked", ""});
        QCOMPARE((*view)->rows, std::size_t{3});
        QCOMPARE((*view)->schema.field(FieldIndex{2}).type, Type::Integer);
        QVERIFY(!(*view)->schema.writable);
        const auto query = loadAll(path_, {"",
                                           "SELECT o.name, count(*) AS n, sum(j.cost), sum(j.cost) FROM jobs j JOIN "
                                           "owners o ON o.id = j.owner GROUP BY o.name"});
        QCOMPARE((*query)->rows, std::size_t{2});
        QCOMPARE((*query)->schema.fields[3].name, std::string("sum(j.cost)_2"));
    }

    void statementsThatAreNoSelect_data() {
        QTest::addColumn<QString>("query");
        QTest::newRow("delete") << "DELETE FROM jobs";
        QTest::newRow("two statements") << "SELECT 1; DROP TABLE jobs";
        QTest::newRow("returning") << "DELETE FROM jobs RETURNING work";
        QTest::newRow("pragma that writes") << "PRAGMA user_version = 7";
        QTest::newRow("nonsense") << "SELEC 1";
        QTest::newRow("parameter") << "SELECT * FROM jobs WHERE number = ?";
        QTest::newRow("nothing") << " ";
    }
    void statementsThatAreNoSelect() {
        QFETCH(QString, query);
        const auto loaded = loadAll(path_, {"", query.toStdString()});
        QVERIFY(!loaded.ok());
        QVERIFY(!loaded.error().message.empty());
        QCOMPARE((*loadAll(path_, {"jobs", ""}))->rows, std::size_t{3});
    }

    void filesThatCannotBeUsed() {
        QCOMPARE(openSource(folder_->filePath("none.db").toStdString()).error().code, ErrorCode::NotFound);
        QCOMPARE(openSource(folder_->path().toStdString()).error().code, ErrorCode::NotADatabase);
        const QString text = folder_->filePath("text.db");
        std::ofstream(text.toStdString()) << "Dear yard, please find enclosed";
        QCOMPARE(openSource(text.toStdString()).error().code, ErrorCode::NotADatabase);
        // The first bytes are as they should be: it is refused, by name, when its schema is read.
        for (const auto& [at, length] : {std::pair{16, 4000}, std::pair{100, 12}, std::pair{30, 3000}}) {
            const QString damaged = folder_->filePath(QStringLiteral("damaged%1.db").arg(at));
            QFile::copy(path_, damaged);
            QFile file(damaged);
            QVERIFY(file.open(QIODevice::ReadWrite));
            file.seek(at);
            file.write(QByteArray(length, 'x'));
            file.close();
            const auto source = openSource(damaged.toStdString());
            const Error why = !source ? source.error() : (*source)->schema({"jobs", ""}).error();
            if (at != 30) QCOMPARE(why.code, ErrorCode::NotADatabase);  // the number of a format that is none
            QVERIFY2(QString::fromStdString(why.message).contains(damaged), why.message.c_str());
            QVERIFY(!source || !(*source)->tables().ok());
        }
        QVERIFY(
            openSource(path_.toStdString()).value()->schema({"jobz", ""}).error().message.find("Did you mean jobs?") !=
            std::string::npos);
    }

    void lockedDatabaseSaysSo() {
        sqlite3* other = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &other);
        sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr);
        const auto source = openSource(path_.toStdString());
        QVERIFY(source.ok());
        // Cancelled, it waits no longer for the lock.
        const Cancel cancel;
        cancel.request();
        QElapsedTimer timer;
        timer.start();
        const auto schema = (*source)->schema({"jobs", ""}, cancel);
        QVERIFY(!schema.ok());
        QCOMPARE(schema.error().code, ErrorCode::Locked);
        QCOMPARE((*source)->tables(cancel).error().code, ErrorCode::Locked);
        QVERIFY(timer.elapsed() < sqlite::kPatientMs);
        sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_close(other);
        QVERIFY((*source)->schema({"jobs", ""}).ok());
    }

    void savingChecksOldValuesAndConstraints_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<QString>("before");
        QTest::addColumn<QString>("after");
        QTest::addColumn<QString>("outcome");  // the stored text, or "!code message part"
        QTest::newRow("money") << "cost"
                               << "1184.10"
                               << "1200.55"
                               << "1200.55";
        QTest::newRow("date") << "due"
                              << "2026-11-25"
                              << "2027-02-28"
                              << "2027-02-28";
        QTest::newRow("text with quotes is bound, not pasted") << "work"
                                                               << "Rewire mast"
                                                               << "x'; DROP TABLE jobs; --"
                                                               << "x'; DROP TABLE jobs; --";
        QTest::newRow("emptied") << "due"
                                 << "2026-11-25"
                                 << ""
                                 << "";
        QTest::newRow("somebody else changed it") << "cost"
                                                  << "7.00"
                                                  << "8.00"
                                                  << "!Conflict Somebody changed cost";
        QTest::newRow("check") << "hours"
                               << "18.50"
                               << "401"
                               << "!Refused does not allow";
        QTest::newRow("not null") << "work"
                                  << "Rewire mast"
                                  << ""
                                  << "!Refused work must not be empty";
        QTest::newRow("unique") << "code"
                                << "A1"
                                << "A2"
                                << "!Refused Another record has this code";
        QTest::newRow("foreign key") << "owner"
                                     << "1"
                                     << "99"
                                     << "!Refused No record in the linked table";
    }
    void savingChecksOldValuesAndConstraints() {
        QFETCH(QString, field);
        QFETCH(QString, before);
        QFETCH(QString, after);
        QFETCH(QString, outcome);
        const auto schema = openSource(path_.toStdString()).value()->schema({"jobs", ""});
        FieldSchema loose = schema->field(*schema->find(field.toStdString()));
        loose.required = false;
        loose.permitted.clear();
        auto store = openStore(path_.toStdString());
        const auto answer =
            writeOne(**store, change(*schema, 1, field.toUtf8().constData(), *parseTyped(before.toStdString(), loose),
                                     *parseTyped(after.toStdString(), loose)));
        if (outcome.startsWith('!')) {
            QVERIFY(!answer.ok());
            QCOMPARE(answer.error().code, outcome.startsWith("!Conflict") ? ErrorCode::Conflict : ErrorCode::Refused);
            QVERIFY2(QString::fromStdString(answer.error().message).contains(outcome.section(' ', 1)),
                     answer.error().message.c_str());
            QCOMPARE(QString::fromStdString(plain(**loadAll(path_, {"jobs", ""}), 0, field.toUtf8().constData())),
                     before == "7.00" ? QString("1184.10") : before);
        } else {
            QVERIFY2(answer.ok(), answer.ok() ? "" : answer.error().message.c_str());
            QCOMPARE(QString::fromStdString(plain(**loadAll(path_, {"jobs", ""}), 0, field.toUtf8().constData())),
                     outcome);
        }
        QCOMPARE((*loadAll(path_, {"jobs", ""}))->rows, std::size_t{3});
    }

    void recordsThatAreGoneAndStoresThatCannotWrite() {
        const auto schema = openSource(path_.toStdString()).value()->schema({"jobs", ""});
        auto store = openStore(path_.toStdString());
        QCOMPARE(writeOne(**store, change(*schema, 77, "work", std::string("a"), std::string("b"))).error().code,
                 ErrorCode::Conflict);
        sqlite3* other = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &other);
        sqlite3_exec(other, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr);
        QCOMPARE(
            writeOne(**store, change(*schema, 1, "work", std::string("Rewire mast"), std::string("b"))).error().code,
            ErrorCode::Locked);
        sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_close(other);
        QVERIFY(writeOne(**store, change(*schema, 1, "work", std::string("Rewire mast"), std::string("b"))).ok());
        TableSchema view = *schema;
        view.writable = false;
        view.whyNotWritable = "a view";
        QCOMPARE(writeOne(**store, change(view, 1, "work", std::string("b"), std::string("c"))).error().code,
                 ErrorCode::ReadOnly);
    }

    void aFullDiskLosesNothing() {
        run(path_, "CREATE TABLE filler (x BLOB); INSERT INTO filler VALUES (zeroblob(300000))");
        const auto schema = openSource(path_.toStdString()).value()->schema({"jobs", ""});
        auto store = openStore(path_.toStdString());
        std::signal(SIGXFSZ, SIG_IGN);
        rlimit before{};
        getrlimit(RLIMIT_FSIZE, &before);
        rlimit small = before;
        small.rlim_cur = 4096;
        setrlimit(RLIMIT_FSIZE, &small);
        const auto answer =
            writeOne(**store, change(*schema, 1, "work", std::string("Rewire mast"), std::string(100000, 'x')));
        setrlimit(RLIMIT_FSIZE, &before);
        QVERIFY(!answer.ok());
        QCOMPARE(answer.error().code, ErrorCode::DiskFull);
        QCOMPARE(plain(**loadAll(path_, {"jobs", ""}), 0, "work"), std::string("Rewire mast"));
        QVERIFY(
            writeOne(**store, change(*schema, 1, "work", std::string("Rewire mast"), std::string("now it fits"))).ok());
    }

    void copiesAreWholeAndCanBeCancelled() {
        const QString copy = folder_->filePath("copy.db");
        QVERIFY(copyDatabase(path_.toStdString(), copy.toStdString(), Cancel()).ok());
        QCOMPARE((*loadAll(copy, {"jobs", ""}))->rows, std::size_t{3});
        Cancel cancel;
        cancel.request();
        QCOMPARE(copyDatabase(path_.toStdString(), folder_->filePath("c2.db").toStdString(), cancel).error().code,
                 ErrorCode::Cancelled);
    }

  private:
    std::unique_ptr<QTemporaryDir> folder_;
    QString path_;
};

QTEST_GUILESS_MAIN(SqliteTest)
#include "sqlite_test.moc"
