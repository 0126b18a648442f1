// SPDX-License-Identifier: MIT
// Dates and times as tables really hold them: with Z and with offsets, as counts since 1970, as texts of a form of
// their own, at 24:00. Each is read for what it is, shown on the clocks of a zone, computed with, and an edit is stored
// as the table has its values. What does not fit is a misfit, never another value.
#include <QtTest>

#include <random>

#include "core/columns/civil.h"
#include "core/columns/time_zone.h"
#include "core/rows/pick_list.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "core/rules/program.h"
#include "core/rules/sort_list.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

/// The first column of the first row, as SQLite stores it: "integer 5", "text 'x'".
std::string storedIn(const QString& path, const std::string& select) {
    sqlite3* db = nullptr;
    sqlite3_open(path.toUtf8().constData(), &db);
    sqlite3_stmt* statement = nullptr;
    std::string out = "nothing";
    if (sqlite3_prepare_v2(db, select.c_str(), -1, &statement, nullptr) == SQLITE_OK &&
        sqlite3_step(statement) == SQLITE_ROW) {
        const char* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, 0));
        constexpr const char* kKinds[] = {"", "integer ", "real ", "text ", "blob ", "null"};
        const int kind = sqlite3_column_type(statement, 0);
        out = std::string(kKinds[kind]) + (text ? text : "");
    }
    sqlite3_finalize(statement);
    sqlite3_close(db);
    return out;
}

Binding bound(std::map<std::string, ReadAs> readAs = {}, std::string zone = "Europe/Berlin") {
    return {"t", "", {}, std::move(readAs), std::move(zone)};
}

ReadAs formNamed(const char* text) {
    auto how = readAsFromText(text);
    if (!how) qFatal("%s: %s", text, how.error().message.c_str());
    return *how;
}

}  // namespace

class MomentsTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_;

    std::shared_ptr<const Table> loaded(const Binding& binding) {
        const auto table = loadAll(path_, binding);
        if (!table) qFatal("%s", table.error().message.c_str());
        return *table;
    }

    static std::string shown(const Table& table, std::size_t row, const char* field) {
        const auto at = *table.schema.find(field);
        std::string out;
        appendDisplay(out, *table.column(at), static_cast<SourceRow>(row),
                      defaultFormat(table.schema.field(at), false));
        return out;
    }

    static std::string evaluated(const std::shared_ptr<const Table>& table, const std::string& rule, std::size_t row) {
        const auto program = compileRule(rule, table->schema, {});
        if (!program) return program.error().message;
        EvaluationInput input;
        input.table = table;
        const auto cell = evaluateOne(*program, input, static_cast<SourceRow>(row));
        return isError(cell->state) ? std::string(words(cell->state)) : textOf(cell->value);
    }

    /// Writes a value as a form would, and what the write said.
    Result<StoredRecord> write(const Table& table, std::size_t row, const char* field, const Value& value) {
        auto store = openStore(path_.toStdString());
        RecordWrite request;
        request.schema = table.schema;
        request.keyFields = table.keyFields;
        request.keyIsRowId = table.rowIds != nullptr;
        if (request.keyIsRowId)
            request.key = {table.rowIds->value(static_cast<SourceRow>(row))};
        else
            for (const FieldIndex key : table.keyFields)
                request.key.push_back(table.column(key)->value(static_cast<SourceRow>(row)));
        const auto at = *table.schema.find(field);
        request.changes.push_back({at, table.column(at)->value(static_cast<SourceRow>(row)), value});
        return writeOne(**store, request);
    }

    Value typed(const Table& table, const char* field, const char* text) {
        auto value = parseTyped(text, table.schema.field(*table.schema.find(field)));
        if (!value) qFatal("%s", value.error().message.c_str());
        return *value;
    }

  private Q_SLOTS:
    void init() {
        QVERIFY(folder_.isValid());
        path_ = folder_.filePath("moments.db");
        QFile::remove(path_);
    }

    void whatADeclarationMeans_data() {
        QTest::addColumn<QString>("declared");
        QTest::addColumn<QString>("values");  // of three records
        QTest::addColumn<QString>("type");
        QTest::addColumn<QString>("first");  // shown in Berlin
        QTest::addColumn<int>("misfits");
        const auto row = [](const char* name, const char* declared, const char* values, const char* type,
                            const char* first,
                            int misfits) { QTest::newRow(name) << declared << values << type << first << misfits; };
        row("plain", "TIMESTAMP", "('2026-07-01 10:00:00'),('2026-07-02 10:00'),('2026-07-03T10:00:00.5')", "timestamp",
            "1 Jul 2026 10:00", 0);
        row("with Z", "TIMESTAMP", "('2026-07-01T10:00:00Z'),('2026-01-02T10:00:00Z'),(NULL)",
            "timestamp with time zone", "1 Jul 2026 12:00", 0);
        row("with offsets", "DATETIME",
            "('2026-07-01 10:00:00-05:00'),('2026-01-02 10:00:00+0530'),('2026-01-02 10:00:00+01')",
            "timestamp with time zone", "1 Jul 2026 17:00", 0);
        row("mostly with Z", "TIMESTAMP", "('2026-07-01T10:00:00Z'),('2026-01-02T10:00:00Z'),('2026-01-02T10:00:00')",
            "timestamp with time zone", "1 Jul 2026 12:00", 1);
        row("mostly without", "TIMESTAMP", "('2026-07-01T10:00:00'),('2026-01-02T10:00:00'),('2026-01-02T10:00:00Z')",
            "timestamp", "1 Jul 2026 10:00", 1);
        row("declared with zone", "TIMESTAMP WITH TIME ZONE", "('2026-07-01 10:00:00+02'),(NULL),(NULL)",
            "timestamp with time zone", "1 Jul 2026 10:00", 0);
        row("declared short", "timestamptz", "('2026-07-01 10:00:00+02'),('soon'),(NULL)", "timestamp with time zone",
            "1 Jul 2026 10:00", 1);
        row("declared with zone, none there", "TIMESTAMPTZ", "('2026-07-01 10:00:00'),('2026-07-02 10:00:00'),(NULL)",
            "timestamp", "1 Jul 2026 10:00", 0);
        row("without zone, in words", "TIMESTAMP WITHOUT TIME ZONE", "('2026-07-01 10:00:00'),(NULL),(NULL)",
            "timestamp", "1 Jul 2026 10:00", 0);
        row("seconds", "TIMESTAMP", "(1782892800),(1782892801),(1782979200)", "timestamp with time zone",
            "1 Jul 2026 10:00", 0);
        row("milliseconds", "DATETIME", "(1782892800000),(1782892800250),(1782979200000)", "timestamp with time zone",
            "1 Jul 2026 10:00", 0);
        row("seconds in a date", "DATE", "(1782892800),(1782892801),(NULL)", "timestamp with time zone",
            "1 Jul 2026 10:00", 0);
        row("small numbers are no seconds", "TIMESTAMP", "(1),(2),(3)", "integer", "1", 0);
        row("days stay days", "DATE", "('2026-07-01'),('2026-07-02'),('2026-07-03 00:00:00')", "date", "1 Jul 2026", 0);
        row("days with times", "DATE", "('2026-07-01 10:00:00'),('2026-07-02 11:00:00'),('2026-07-03')", "timestamp",
            "1 Jul 2026 10:00", 0);
        row("end of a day", "TIME", "('24:00:00'),('08:00'),(NULL)", "time", "24:00", 0);
        row("past the end of a day", "TIME", "('24:00:01'),('08:00'),(NULL)", "time", "24:00:01", 1);
        row("end of the last day", "TIMESTAMP", "('2026-12-31 24:00:00'),(NULL),(NULL)", "timestamp",
            "1 Jan 2027 00:00", 0);
    }
    void whatADeclarationMeans() {
        QFETCH(QString, declared);
        QFETCH(QString, values);
        QFETCH(QString, type);
        QFETCH(QString, first);
        QFETCH(int, misfits);
        run(path_, "CREATE TABLE t (v " + declared.toStdString() + "); INSERT INTO t VALUES " + values.toStdString());
        const auto table = loaded(bound());
        QCOMPARE(QString::fromUtf8(name(table->schema.fields[0].type)), type);
        QCOMPARE(QString::fromStdString(shown(*table, 0, "v")), first);
        QCOMPARE(static_cast<int>(table->columns[0]->misfitCount()), misfits);
    }

    void instantsAreComparedNotTheirTexts() {
        run(path_,
            "CREATE TABLE t (id INTEGER PRIMARY KEY, v TIMESTAMP); INSERT INTO t VALUES "
            "(1,'2026-07-01T10:00:00+02:00'),"
            "(2,'2026-07-01T09:30:00+01:00'),(3,'2026-07-01T08:00:00Z'),(4,'2026-10-25T02:30:00+02:00'),"
            "(5,'2026-10-25T02:30:00+01:00')");
        const auto table = loaded(bound());
        QCOMPARE(evaluated(table, "v = TIMESTAMPTZ '2026-07-01 08:00:00+00'", 0), std::string("true"));
        QCOMPARE(evaluated(table, "v > TIMESTAMPTZ '2026-07-01 08:00:00+00'", 1), std::string("true"));
        QCOMPARE(evaluated(table, "v = '2026-07-01 10:00:00'", 2), std::string("true"));  // on Berlin's clocks
        QCOMPARE(evaluated(table, "COUNT(*) OVER (PARTITION BY v)", 0), std::string("2"));
        // One time on the clocks, an hour apart.
        QCOMPARE(evaluated(table, "CAST(v AS TIMESTAMP)", 3), evaluated(table, "CAST(v AS TIMESTAMP)", 4));
        QCOMPARE(evaluated(table, "COUNT(*) OVER (PARTITION BY v)", 3), std::string("1"));
        QCOMPARE(shown(*table, 3, "v"), std::string("25 Oct 2026 02:30 +02:00"));
        QCOMPARE(shown(*table, 4, "v"), std::string("25 Oct 2026 02:30"));
        RankCache ranks;
        const FieldIndex field = *table->schema.find("v");
        const auto picks = pickListOf(*table->column(field), field, nullptr, nullptr, {}, ranks, Cancel());
        QVERIFY(picks.ok());
        QCOMPARE((*picks)->entries.size(), std::size_t{4});
    }

    void shownTextsReadBackAsTheSameInstant() {
        std::mt19937_64 random(5);
        std::uniform_int_distribution<std::int64_t> pick(*parseIsoTimestamp("1950-01-01"),
                                                         *parseIsoTimestamp("2080-01-01"));
        for (const char* zone : {"Europe/Berlin", "America/St_Johns", "Asia/Kathmandu", "UTC"}) {
            FieldSchema field;
            field.type = Type::Instant;
            field.zone = zone;
            for (int i = 0; i < 3000; ++i) {
                // Every third falls into the hours in which clocks go back.
                std::int64_t micros = pick(random) / 60'000'000 * 60'000'000;
                if (i % 3 == 0) micros = *parseIsoInstant("2026-10-25T00:00:00Z") + std::int64_t{i % 240} * 60'000'000;
                const Value value = Instant{micros};
                const auto back = parseTyped(editText(value, zone), field);
                QVERIFY(back.ok());
                QVERIFY2(*back == value, editText(value, zone).c_str());
                std::string plainText;
                appendPlain(plainText, value);
                QVERIFY(*parseTyped(plainText, field) == value);
            }
        }
    }

    void editsAreStoredAsTheTableHasThem_data() {
        QTest::addColumn<QString>("declared");
        QTest::addColumn<QString>("value");  // of the records
        QTest::addColumn<QString>("form");
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("stored");  // "" = refused
        const auto row = [](const char* name, const char* declared, const char* value, const char* form,
                            const char* typed, const char* stored) {
            QTest::newRow(name) << declared << value << form << typed << stored;
        };
        row("T and Z", "TIMESTAMP", "'2026-07-01T10:00:00Z'", "", "2026-07-02 12:00", "text 2026-07-02T10:00:00Z");
        row("space and Z", "TIMESTAMP", "'2026-07-01 10:00:00Z'", "", "2026-07-02 12:00", "text 2026-07-02 10:00:00Z");
        row("T and offset", "TIMESTAMP", "'2026-07-01T10:00:00+02:00'", "", "2026-01-02 12:00",
            "text 2026-01-02T12:00:00+01:00");
        row("space", "TIMESTAMP", "'2026-07-01 10:00:00'", "", "2 Jul 2026 12:00", "text 2026-07-02 12:00:00");
        row("T", "TIMESTAMP", "'2026-07-01T10:00:00'", "", "2 Jul 2026 12:00", "text 2026-07-02T12:00:00");
        row("seconds as declared", "TIMESTAMP", "1782892800", "", "2 Jul 2026 10:00", "integer 1782979200");
        row("milliseconds as declared", "DATETIME", "1782892800000", "", "2 Jul 2026 10:00", "integer 1782979200000");
        row("seconds", "INTEGER", "1782892800", "seconds", "2 Jul 2026 10:00", "integer 1782979200");
        row("seconds as text", "TEXT", "'1782892800'", "seconds", "2 Jul 2026 10:00", "text 1782979200");
        row("milliseconds", "BIGINT", "1782892800000", "milliseconds", "2 Jul 2026 10:00:00.25",
            "integer 1782979200250");
        row("date", "TEXT", "'01.07.2026'", "date dd.MM.yyyy", "2 Jul 2026", "text 02.07.2026");
        row("date in short", "VARCHAR(10)", "'1.7.26'", "date d.M.yy", "2026-11-12", "text 12.11.26");
        row("a year it has no place for", "TEXT", "'1.7.26'", "date d.M.yy", "1850-11-12", "");
        row("date and time", "TEXT", "'07/01/2026 10:00 AM'", "date MM/dd/yyyy hh:mm a", "2 Jul 2026 15:30",
            "text 07/02/2026 03:30 PM");
        row("seconds it has no place for", "TEXT", "'07/01/2026 10:00 AM'", "date MM/dd/yyyy hh:mm a",
            "2 Jul 2026 15:30:10", "");
        row("time", "TEXT", "'0800'", "date HHmm", "15:30", "text 1530");
        row("number", "TEXT", "'12.50'", "number", "1184.5", "text 1184.50");
        row("number with comma", "TEXT", "'1.234,50'", "number ,", "1184.5", "text 1184,50");
        row("words", "TEXT", "'J'", "words J N", "no", "text N");
        row("words that are numbers", "INTEGER", "1", "words 1 2", "no", "integer 2");
    }
    void editsAreStoredAsTheTableHasThem() {
        QFETCH(QString, declared);
        QFETCH(QString, value);
        QFETCH(QString, form);
        QFETCH(QString, typed);
        QFETCH(QString, stored);
        run(path_, "CREATE TABLE t (v " + declared.toStdString() + "); INSERT INTO t VALUES (" + value.toStdString() +
                       "),(" + value.toStdString() + "),(" + value.toStdString() + ")");
        const std::string before = storedIn(path_, "SELECT v FROM t");
        std::map<std::string, ReadAs> readAs;
        if (!form.isEmpty()) readAs.emplace("v", formNamed(form.toLatin1()));
        const auto table = loaded(bound(readAs));
        QCOMPARE(table->columns[0]->misfitCount(), std::size_t{0});
        const Value wanted = this->typed(*table, "v", typed.toLatin1());
        const auto answer = write(*table, 0, "v", wanted);
        if (stored.isEmpty()) {
            QVERIFY(!answer.ok());
            QCOMPARE(answer.error().code, ErrorCode::Refused);
            QVERIFY2(answer.error().message.find("no room") != std::string::npos, answer.error().message.c_str());
            QCOMPARE(storedIn(path_, "SELECT v FROM t"), before);
            return;
        }
        QVERIFY2(answer.ok(), answer.ok() ? "" : answer.error().message.c_str());
        QVERIFY(answer->values[0] == wanted);
        QCOMPARE(QString::fromStdString(storedIn(path_, "SELECT v FROM t WHERE rowid = 1")), stored);
        // What was not edited stays byte for byte.
        QCOMPARE(storedIn(path_, "SELECT v FROM t WHERE rowid = 2"), before);
        // And the same value written back is the same text as before.
        const auto again = write(*loaded(bound(readAs)), 0, "v", table->columns[0]->value(SourceRow{1}));
        QVERIFY2(again.ok(), again.ok() ? "" : again.error().message.c_str());
        if (form != "number ,") QCOMPARE(storedIn(path_, "SELECT v FROM t WHERE rowid = 1"), before);
    }

    void anEditMadeMeanwhileIsAConflict() {
        run(path_, "CREATE TABLE t (v TEXT); INSERT INTO t VALUES ('01.07.2026')");
        const auto table = loaded(bound({{"v", formNamed("date dd.MM.yyyy")}}));
        run(path_, "UPDATE t SET v = '05.07.2026'");
        const auto answer = write(*table, 0, "v", typed(*table, "v", "2 Jul 2026"));
        QVERIFY(!answer.ok());
        QCOMPARE(answer.error().code, ErrorCode::Conflict);
        QCOMPARE(storedIn(path_, "SELECT v FROM t"), std::string("text 05.07.2026"));
    }

    void whatDoesNotFitTheFormIsAMisfit() {
        run(path_,
            "CREATE TABLE t (d TEXT, s INTEGER, n TEXT, w TEXT); INSERT INTO t VALUES "
            "('01.07.2026',1782892800,'1,5','J'),"
            "('1.7.2026',9223372036854775807,'1;5','j'),('',-1,'','N'),(NULL,NULL,NULL,NULL),(x'00',1.5,x'00',x'00')");
        const auto table = loaded(bound({{"d", formNamed("date dd.MM.yyyy")},
                                         {"s", formNamed("seconds")},
                                         {"n", formNamed("number ,")},
                                         {"w", formNamed("words J N")}}));
        const auto cells = [&](const char* field) {
            std::string out;
            for (std::size_t row = 0; row < table->rows; ++row) {
                const Column& column = *table->column(*table->schema.find(field));
                const auto odd = column.misfit(static_cast<SourceRow>(row));
                out += odd ? "! " : column.isEmpty(static_cast<SourceRow>(row)) ? "- " : "+ ";
            }
            return out;
        };
        QCOMPARE(cells("d"), std::string("+ ! ! - ! "));
        QCOMPARE(cells("s"), std::string("+ ! + - + "));
        QCOMPARE(cells("n"), std::string("+ ! ! - ! "));
        QCOMPARE(cells("w"), std::string("+ ! + - ! "));
        QCOMPARE(plain(*table, 1, "d"), std::string("1.7.2026"));  // exported as stored
        QCOMPARE(plain(*table, 4, "s"), std::string("1970-01-01T00:00:01.5Z"));
        QCOMPARE(plain(*table, 0, "n"), std::string("1.5"));
        QCOMPARE(evaluated(table, "d IS NULL", 1), std::string("false"));
        QCOMPARE(evaluated(table, "EXTRACT(MONTH FROM d)", 0), std::string("7"));
    }

    void numbersAsTextsKeepAllTheirDigits() {
        run(path_, "CREATE TABLE t (n TEXT)");
        std::string insert = "INSERT INTO t VALUES ";
        for (int i = 0; i < 400; ++i) insert += (i ? ",('" : "('") + std::to_string(i) + ".5')";
        run(path_, insert + ",('0.123456789012345678'),('12345678901234567890.5')");
        const auto table = loaded(bound({{"n", formNamed("number")}}));
        QCOMPARE(table->columns[0]->misfitCount(), std::size_t{0});
        QCOMPARE(plain(*table, 400, "n"), std::string("0.123456789012345678"));
        QCOMPARE(plain(*table, 401, "n"), std::string("12345678901234567890.5"));
        QCOMPARE(plain(*table, 3, "n"), std::string("3.5"));
    }

    void keysInAnotherFormFindTheirRecord() {
        run(path_,
            "CREATE TABLE t (at INTEGER NOT NULL, who TEXT NOT NULL, note TEXT, PRIMARY KEY (at, who)) WITHOUT ROWID; "
            "INSERT "
            "INTO t VALUES (1782892800,'a','x'),(1782892801,'a','y')");
        const auto table = loaded(bound({{"at", formNamed("seconds")}}));
        const auto answer = write(*table, 1, "note", std::string("z"));
        QVERIFY2(answer.ok(), answer.ok() ? "" : answer.error().message.c_str());
        QCOMPARE(storedIn(path_, "SELECT note FROM t WHERE at = 1782892801"), std::string("text z"));
    }

    void relatedFieldsAndSelectsAreReadSoToo() {
        run(path_,
            "CREATE TABLE v (id INTEGER PRIMARY KEY, built TEXT); INSERT INTO v VALUES (1,'01.07.1987');"
            "CREATE TABLE t (id INTEGER PRIMARY KEY, v INTEGER REFERENCES v); INSERT INTO t VALUES (5,1),(6,NULL)");
        Binding binding = bound({{"v.built", formNamed("date dd.MM.yyyy")}});
        binding.related = {"v.built"};
        QCOMPARE(plain(*loaded(binding), 0, "v.built"), std::string("1987-07-01"));
        Binding select = bound({{"day", formNamed("date dd.MM.yyyy")}});
        select.table.clear();
        select.query = "SELECT built || '' AS day FROM v";
        QCOMPARE(plain(*loaded(select), 0, "day"), std::string("1987-07-01"));
    }

    void spansHaveALength() {
        run(path_,
            "CREATE TABLE t (id INTEGER PRIMARY KEY, took INTERVAL); INSERT INTO t VALUES (1,'9:30'),(2,'10 "
            "hours'),(3,'1 day'),"
            "(4,'24:00:00'),(5,'P1DT2H'),(6,'long'),(7,NULL),(8,'90 minutes')");
        const auto table = loaded(bound());
        QVERIFY(table->schema.fields[1].type == Type::Interval);
        QCOMPARE(table->columns[1]->misfitCount(), std::size_t{1});
        QCOMPARE(shown(*table, 4, "took"), std::string("P1DT2H"));  // as it is stored
        QCOMPARE(evaluated(table, "took > INTERVAL '9 hours'", 1), std::string("true"));
        QCOMPARE(evaluated(table, "took > '1 day'", 4), std::string("true"));
        QCOMPARE(evaluated(table, "took = '1 day'", 3), std::string("true"));
        QCOMPARE(evaluated(table, "RANK() OVER (ORDER BY took)", 7), std::string("1"));
        QCOMPARE(evaluated(table, "took IS NULL", 5), std::string("false"));
        QCOMPARE(evaluated(table, "TIMESTAMP '2026-01-01 10:00:00' + took", 0), std::string("2026-01-01 19:30:00"));
        const auto sort = parseSortList("took DESC", table->schema, {});
        QVERIFY(sort.ok());
        QVERIFY(sort->front().program);  // by its length, not by its text
        const auto answer = write(*table, 0, "took", typed(*table, "took", "2 days 04:30"));
        QVERIFY(answer.ok());
        QCOMPARE(storedIn(path_, "SELECT took FROM t WHERE id = 1"), std::string("text 2 days 04:30"));
        QVERIFY(!parseTyped("soon", table->schema.fields[1]).ok());
    }

    void formsThatCannotBe() {
        run(path_, "CREATE TABLE t (b BLOB, d TEXT); INSERT INTO t VALUES (x'00','x')");
        const auto failure = [&](const char* field, ReadAs how) {
            const auto table = loadAll(path_, bound({{field, std::move(how)}}));
            return table.ok() ? std::string() : table.error().message;
        };
        QVERIFY(failure("b", formNamed("seconds")).find("binary data") != std::string::npos);
        QVERIFY(failure("d", {StoredForm::Pattern, "dd.MM", {}, {}}).find("A date has y, M and d") !=
                std::string::npos);
        QVERIFY(failure("d", {StoredForm::Words, {}, "J", "J"}).find("two words") != std::string::npos);
        QCOMPARE(failure("nowhere", formNamed("seconds")), std::string());  // a plan says so
    }
};

QTEST_GUILESS_MAIN(MomentsTest)
#include "moments_test.moc"
