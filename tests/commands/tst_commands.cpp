// SPDX-License-Identifier: MIT
// The command line as a separate process: what it prints, where, and its exit codes; values and order against SQLite.
#include <QtTest>

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>

#include <sqlite3.h>

#include "tests/stored_text.h"

namespace {
struct Ran {
    int code = -1;
    QByteArray out, err;
    QList<QByteArray> lines() const { return out.trimmed().split('\n'); }
};
}  // namespace

class CommandsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        QVERIFY(run({"demo-data", "--jobs", "2000", "--seed", "5", db(), "--design", file("yard.jrow")}).code == 0);
    }

    void theSameSeedGivesTheSameContent() {
        QCOMPARE(run({"demo-data", "--jobs", "2000", "--seed", "5", file("again.db")}).code, 0);
        QCOMPARE(run({"demo-data", "--jobs", "2000", "--seed", "6", file("other.db")}).code, 0);
        const auto content = [](const QString& path) {
            return run({"rows", path, "--table", "jobs", "--format", "jsonl"}).out;
        };
        QCOMPARE(content(file("again.db")), content(db()));
        QVERIFY(content(file("other.db")) != content(db()));
        QFile a(db()), b(file("again.db"));
        QVERIFY(a.open(QIODevice::ReadOnly) && b.open(QIODevice::ReadOnly));
        QCOMPARE(a.readAll(), b.readAll());
    }

    void aRuleMayBeginWithAMinus() {
        const QStringList rules = {"-1 + hours", "-hours", "-(hours)", "- 5", "-9223372036854775808 * -1"};
        for (const QString& rule : rules) {
            const Ran taken = run({"rule", "--source", db(), "--table", "jobs", "--", rule});
            QVERIFY2(taken.code != 2, taken.err);
            const Ran refused = run({"rule", "--source", db(), "--table", "jobs", rule});
            QCOMPARE(refused.code, 2);
            QVERIFY2(refused.err.contains(("\"" + rule + "\"").toUtf8()) && refused.err.contains("--"), refused.err);
        }
        const Ran none = run({"rows", db(), "--tabel", "jobs"});
        QCOMPARE(none.code, 2);
        QVERIFY2(none.err.contains("no option --tabel"), none.err);
    }

    void theBoatyardIsSound() {
        sqlite3* handle = open();
        QCOMPARE(one(handle, "PRAGMA integrity_check"), QString("ok"));
        QCOMPARE(one(handle, "SELECT count(*) FROM pragma_foreign_key_check"), QString("0"));
        QCOMPARE(one(handle, "SELECT count(*) FROM jobs"), QString("2000"));
        QVERIFY(one(handle, "SELECT count(*) FROM vessels WHERE substr(picture, 1, 4) = x'89504e47'").toInt() > 100);
        QCOMPARE(one(handle,
                     "SELECT count(*) FROM jobs j WHERE abs(parts - (SELECT coalesce(sum(quantity * price), 0) FROM "
                     "job_lines l WHERE l.job = j.number AND l.kind = 'part')) > 0.001"),
                 QString("0"));
        QVERIFY(one(handle, "SELECT count(*) FROM owners WHERE name GLOB '*[^ -~]*'").toInt() > 10);
        QVERIFY(one(handle, "SELECT max(length(notes)) FROM jobs").toInt() > 300);
        sqlite3_close(handle);
    }

    void sortedRowsAgreeWithSqlite_data() {
        QTest::addColumn<QString>("sort");
        QTest::addColumn<QString>("oracle");
        QTest::newRow("bound order") << ""
                                     << "number";
        QTest::newRow("date down, empties last") << "due_on DESC NULLS LAST, number"
                                                 << "due_on DESC NULLS LAST, number";
        QTest::newRow("date down, empties first by default") << "due_on DESC"
                                                             << "due_on DESC NULLS FIRST, number";
        QTest::newRow("date up, empties last by default") << "due_on"
                                                          << "due_on ASC NULLS LAST, number";
        QTest::newRow("three keys") << "paid, berth NULLS FIRST, hours DESC NULLS LAST"
                                    << "paid, berth NULLS FIRST, hours DESC NULLS LAST, number";
        QTest::newRow("money") << "labour DESC"
                               << "labour DESC, number";
        QTest::newRow("text and number") << "status, number DESC"
                                         << "status, number DESC";
    }
    void sortedRowsAgreeWithSqlite() {
        QFETCH(QString, sort);
        QFETCH(QString, oracle);
        const Ran ran = run({"rows", db(), "--table", "jobs", "--columns", "number,due_on,labour,paid", "--sort", sort,
                             "--format", "jsonl"});
        QVERIFY2(ran.code == 0, ran.err);
        sqlite3* handle = open();
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(
            handle,
            ("SELECT number, due_on, printf('%.2f', labour), paid FROM jobs ORDER BY " + oracle.toUtf8()).constData(),
            -1, &statement, nullptr);
        qsizetype line = 0;
        const QList<QByteArray> lines = ran.lines();
        for (; sqlite3_step(statement) == SQLITE_ROW; ++line) {
            QVERIFY(line < lines.size());
            const QJsonObject object = QJsonDocument::fromJson(lines[line]).object();
            QCOMPARE(object["kind"].toString(), QString("record"));
            const QJsonObject values = object["values"].toObject();
            QCOMPARE(values["number"].toInteger(), sqlite3_column_int64(statement, 0));
            QCOMPARE(values["due_on"].isNull(), sqlite3_column_type(statement, 1) == SQLITE_NULL);
            QCOMPARE(values["due_on"].toString(),
                     QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(statement, 1))));
            QCOMPARE(values["labour"].toString(),
                     QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(statement, 2))));
            QCOMPARE(values["paid"].toBool(), sqlite3_column_int(statement, 3) == 1);
        }
        QCOMPARE(line, lines.size());
        sqlite3_finalize(statement);
        sqlite3_close(handle);
    }

    void formatsLimitsAndTimings() {
        const Ran csv = run({"rows", file("yard.jrow"), "--format", "csv", "--limit", "3"});
        QVERIFY(csv.out.startsWith("vessel,berth,berth.power,number,work,due_on,"));
        QCOMPARE(csv.out.count("\r\n"), 4);
        const Ran text = run({"rows", db(), "--table", "owners", "--limit", "2", "--timings"});
        QCOMPARE(text.lines().size(), 3);
        const QJsonObject timings = QJsonDocument::fromJson(text.err.trimmed()).object();
        for (const char* key :
             {"rows_in", "rows_out", "load_ms", "filter_ms", "sort_ms", "group_ms", "summarise_ms", "peak_rss_mb"})
            QVERIFY2(timings.contains(key), key);
        const Ran query = run({"rows", db(), "--query", "SELECT status, count(*) AS jobs FROM jobs GROUP BY 1",
                               "--format", "jsonl", "--limit", "1"});
        QCOMPARE(query.lines().size(), 1);
        QVERIFY(QJsonDocument::fromJson(query.out).object()["values"].toObject()["jobs"].toInteger() > 0);
        QCOMPARE(run({"rows", db(), "--table", "jobs", "--limit", "0", "--format", "jsonl"}).out.size(), 0);
    }

    void columnsReadOtherwise() {
        sqlite3* handle = nullptr;
        sqlite3_open(file("log.db").toUtf8().constData(), &handle);
        sqlite3_exec(handle,
                     "CREATE TABLE log (due TEXT, begun INTEGER, paid TEXT, took INTERVAL); INSERT INTO log VALUES "
                     "('01.07.2026', 1782892800, 'J', '10 hours'), ('15.01.2026', 1768471200, 'N', '9:30'), ('soon', "
                     "0, '?', 'long')",
                     nullptr, nullptr, nullptr);
        sqlite3_close(handle);
        const QStringList asked = {"rows",      file("log.db"),  "--table",   "log",
                                   "--zone",    "Europe/Berlin", "--read-as", "due=date dd.MM.yyyy",
                                   "--read-as", "begun=seconds", "--read-as", "paid=words J N"};
        const Ran text = run(asked);
        QVERIFY2(text.out.contains("1 Jul 2026 10:00"), text.out.constData());
        const Ran sorted = run(asked + QStringList{"--format", "csv", "--sort", "due"});
        const QList<QByteArray> lines = sorted.out.split('\n');
        QCOMPARE(lines[1].trimmed(), QByteArray("2026-01-15,2026-01-15T10:00:00Z,false,9:30"));
        QCOMPARE(lines[3].trimmed(), QByteArray("soon,1970-01-01T00:00:00Z,?,long"));
        // 10 hours are more than 9:30, whatever their texts say.
        QCOMPARE(run(asked + QStringList{"--format", "csv", "--sort", "took DESC NULLS LAST", "--columns", "took",
                                         "--limit", "2"})
                     .out,
                 QByteArray("took\r\n10 hours\r\n9:30\r\n"));
        QCOMPARE(run(asked + QStringList{"--format", "csv", "--where", "took > '9:45'", "--columns", "took"}).out,
                 QByteArray("took\r\n10 hours\r\n"));
        QVERIFY(run(asked + QStringList{"--where", "EXTRACT(HOUR FROM begun) = 10"}).out.contains("1 Jul 2026"));
        // A design's forms are of its own table: another one with a column of that name is not read so.
        QFile design(file("log.jrow"));
        QVERIFY(design.open(QIODevice::WriteOnly));
        design.write(
            R"({"jollyrow": 1, "source": {"path": "log.db", "table": "log", "readAs": {"due": {"as": "pattern", )"
            R"("pattern": "dd.MM.yyyy"}}}, "columns": []})");
        design.close();
        QVERIFY(run({"rows", file("log.jrow"), "--format", "csv"}).out.contains("2026-07-01"));
        QVERIFY(run({"rows", file("log.jrow"), "--format", "csv", "--query", "SELECT due, paid FROM log"})
                    .out.contains("01.07.2026"));
        // Figures: for people on the zone's clocks, for machines in UTC.
        const QStringList latest = {"--group", "paid", "--summary", "MAX(begun) AS latest", "--limit", "0"};
        QVERIFY(run(asked + latest).out.contains("latest 2026-07-01 10:00:00"));
        QVERIFY(run(asked + latest + QStringList{"--format", "csv"}).out.contains(",2026-07-01T08:00:00Z"));
        const auto fails = [&](const QStringList& more, const char* part) {
            const Ran ran = run(QStringList{"rows", file("log.db"), "--table", "log"} + more);
            return ran.code == 1 && ran.err.contains(part);
        };
        QVERIFY(fails({"--zone", "Mars/Deimos"}, "no time zone Mars/Deimos"));
        QVERIFY(fails({"--read-as", "due"}, "COLUMN=FORM"));
        QVERIFY(fails({"--read-as", "due=roman"}, "says no form"));
        QVERIFY(fails({"--read-as", "due=date dd.MM"}, "A date has y, M and d"));
        QVERIFY(fails({"--read-as", "dew=seconds"}, "no such column"));
    }

    /// Any condition with any parameter, a computed column, a SELECT with parameters: as many as SQLite counts.
    void conditionsParametersAndComputedColumns() {
        sqlite3* handle = open();
        const auto count = [&](const QStringList& arguments) {
            const Ran ran = run(QStringList{"rows", "--format", "jsonl"} + arguments);
            return ran.code == 0 ? ran.out.count('\n') : -1;
        };
        const auto expected = [&](const char* where) {
            return one(handle, QByteArray("SELECT count(*) FROM jobs WHERE ").append(where).constData()).toInt();
        };
        QCOMPARE(count({file("yard.jrow"), "--where", "hours > 4 AND status IN ('Booked', 'Done')"}),
                 expected("hours > 4 AND status IN ('Booked', 'Done')"));
        QCOMPARE(count({file("yard.jrow"), "--where", "vessel.length > 9.5"}),
                 expected("(SELECT length FROM vessels WHERE id = vessel) > 9.5"));
        QFile in(file("yard.jrow"));
        QVERIFY(in.open(QIODevice::ReadOnly));
        QJsonObject design = QJsonDocument::fromJson(in.readAll()).object();
        QJsonArray columns = design["columns"].toArray();
        columns.append(QJsonObject{{"field", "cost"}, {"heading", "Cost"}, {"rule", "labour + parts"}});
        columns.append(QJsonObject{{"field", "round"}, {"heading", "Round"}, {"rule", "round + 1"}});
        design["columns"] = columns;
        design["parameters"] = QJsonArray{QJsonObject{{"name", "least"}, {"heading", "Least"}, {"type", "decimal"}}};
        design["filter"] = QJsonArray{QJsonObject{{"rule", "cost >= :least"}}};
        QFile out(file("computed.jrow"));
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(QJsonDocument(design).toJson());
        out.close();
        QCOMPARE(count({file("computed.jrow")}), 2000);
        QCOMPARE(count({file("computed.jrow"), "--set", "least=800.50"}), expected("labour + parts >= 800.50"));
        const Ran sorted = run({"rows", file("computed.jrow"), "--columns", "number,cost", "--sort", "cost DESC",
                                "--limit", "1", "--format", "jsonl"});
        QVERIFY2(sorted.out.contains(
                     one(handle, "SELECT number FROM jobs ORDER BY labour + parts DESC, number LIMIT 1").toUtf8()),
                 sorted.out);
        const Ran checked = run({"check", file("computed.jrow")});
        QCOMPARE(checked.code, 1);
        QVERIFY2(checked.out.contains("columns/round/rule") && checked.out.contains("reads the column itself"),
                 checked.out);
        const QString select = "SELECT * FROM jobs WHERE hours >= :least AND status = :status";
        QCOMPARE(count({db(), "--query", select}), 2000);
        QCOMPARE(count({db(), "--query", select, "--set", "status=Booked"}), expected("status = 'Booked'"));
        QCOMPARE(count({db(), "--query", select, "--set", "status=x' OR '1'='1"}), 0);
        sqlite3_close(handle);
    }

    /// Groups as lines: as SQLite counts and sums them, records beneath, totals last.
    void groupsAndSummaries() {
        const Ran ran = run({"rows", file("yard.jrow"), "--group", "status, EXTRACT(YEAR FROM due_on)", "--summary",
                             "COUNT(*), SUM(hours) AS hours, MAX(labour), AVG(vessel.length) AS length", "--format",
                             "jsonl", "--limit", "0"});
        QVERIFY2(ran.code == 0, ran.err);
        sqlite3* handle = open();
        QStringList path;
        int groups = 0;
        for (const QByteArray& text : ran.lines()) {
            const QJsonObject line = QJsonDocument::fromJson(text).object();
            QVERIFY2(!line.isEmpty(), text);
            QString where = "TRUE";
            if (line["kind"] == "group") {
                ++groups;
                const QJsonArray keys = line["keys"].toArray();
                QCOMPARE(keys.size(), line["level"].toInt() + 1);
                where = "status = '" + keys[0].toString() + "'";
                if (keys.size() > 1 && keys[1].isNull()) where += " AND due_on IS NULL";
                if (keys.size() > 1 && !keys[1].isNull())
                    where += " AND due_on LIKE '" + QString::number(keys[1].toInt()) + "-%'";
            }
            const QJsonObject figures = line["summaries"].toObject();
            const auto asked = [&](const char* what) {
                return one(handle, ("SELECT " + QString(what) + " FROM jobs WHERE " + where).toUtf8().constData());
            };
            QCOMPARE(line["count"].toInt(), asked("count(*)").toInt());
            QCOMPARE(figures["COUNT(*)"].toInt(), asked("count(*)").toInt());
            QVERIFY(std::abs(figures["hours"].toString().toDouble() - asked("coalesce(sum(hours), 0)").toDouble()) <
                    1e-6);
            QVERIFY(std::abs(figures["MAX(labour)"].toString().toDouble() - asked("max(labour)").toDouble()) < 1e-9);
            QVERIFY(std::abs(figures["length"].toString().toDouble() -
                             asked("avg((SELECT length FROM vessels WHERE id = vessel))").toDouble()) < 1e-9);
        }
        sqlite3_close(handle);
        QVERIFY(groups > 8);
        QVERIFY(ran.lines().last().startsWith("{\"kind\":\"total\""));
        const Ran whole =
            run({"rows", file("yard.jrow"), "--group", "status", "--format", "jsonl", "--sort", "hours DESC"});
        QCOMPARE(whole.out.count("\"kind\":\"record\""), 2000);
        const Ran csv = run(
            {"rows", db(), "--table", "jobs", "--group", "status", "--summary", "COUNT(*) AS n", "--format", "csv"});
        QVERIFY2(csv.out.startsWith("status,count,n\r\n"), csv.out);
        QVERIFY(!csv.out.contains("total"));
        const Ran wrong = run({"rows", db(), "--table", "jobs", "--summary", "SUM(status)"});
        QCOMPARE(wrong.code, 2);
        QVERIFY2(wrong.err.contains("--summary: SUM takes numbers"), wrong.err);
    }

    void aRuleSaysWhatItIs() {
        const Ran ran = run({"rule", "hours * 2 > 9", "--source", db(), "--table", "jobs", "--limit", "2"});
        QCOMPARE(ran.code, 0);
        QVERIFY2(ran.out.startsWith("type:      boolean\n"), ran.out);
        QCOMPARE(ran.out.count("\nrecord "), 2);
        QVERIFY2(ran.out.contains("PostgreSQL:") && ran.out.contains("$1 = "), ran.out);
        const Ran computed = run({"rule", "cost * 2", "--source", file("computed.jrow"), "--limit", "1"});
        QCOMPARE(computed.code, 0);
        QVERIFY2(computed.out.contains("cost is computed here, from labour + parts"), computed.out);
        const Ran wrong = run({"rule", "hous + 1", "--source", db(), "--table", "jobs"});
        QCOMPARE(wrong.code, 1);
        QVERIFY2(wrong.err.contains("hours") && wrong.err.contains("^^^^"), wrong.err);
        QCOMPARE(run({"rule", "1; DROP TABLE jobs", "--source", db(), "--table", "jobs"}).code, 1);
    }

    void mistakesAreSaidWithTheirExitCode_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<int>("code");
        QTest::addColumn<QByteArray>("message");
        const QString database = db();
        QTest::newRow("no such verb") << QStringList{"rowz"} << 2 << QByteArray("no verb rowz");
        QTest::newRow("nothing to read") << QStringList{"rows"} << 2 << QByteArray("missing");
        QTest::newRow("no such file") << QStringList{"rows", "/none.db", "--table", "t"} << 1
                                      << QByteArray("no file /none.db");
        QTest::newRow("several tables") << QStringList{"rows", database} << 1 << QByteArray("name one with --table");
        QTest::newRow("no such table") << QStringList{"rows", database, "--table", "job"} << 1
                                       << QByteArray("Did you mean jobs?");
        QTest::newRow("no such column") << QStringList{"rows", database, "--table", "jobs", "--columns", "numbr"} << 2
                                        << QByteArray("Did you mean number?");
        QTest::newRow("wrong sort") << QStringList{"rows", database, "--table", "jobs", "--sort", "work, du_on"} << 2
                                    << QByteArray("      ^^^^^");
        QTest::newRow("wrong format") << QStringList{"rows", database, "--table", "jobs", "--format", "xml"} << 2
                                      << QByteArray("text, csv or jsonl");
        QTest::newRow("wrong limit") << QStringList{"rows", database, "--table", "jobs", "--limit", "-1"} << 2
                                     << QByteArray("whole number");
        QTest::newRow("unknown option") << QStringList{"rows", database, "--tabel", "jobs"} << 2 << QByteArray("tabel");
        QTest::newRow("select that deletes")
            << QStringList{"rows", database, "--query", "DELETE FROM jobs"} << 1 << QByteArray("Only a SELECT");
        QTest::newRow("design that exists")
            << QStringList{"new", database, "--table", "jobs", "-o", file("yard.jrow")} << 1 << QByteArray("--force");
        QTest::newRow("wrong picture size")
            << QStringList{"picture", file("yard.jrow"), "-o", file("p.png"), "--size", "wide"} << 2
            << QByteArray("1280x800");
        QTest::newRow("check of no design") << QStringList{"check", database} << 2 << QByteArray("not a design");
        QTest::newRow("demo data nowhere")
            << QStringList{"demo-data", "/none/at/all.db"} << 1 << QByteArray("/none/at/all.db");
    }
    void mistakesAreSaidWithTheirExitCode() {
        QFETCH(QStringList, arguments);
        QFETCH(int, code);
        QFETCH(QByteArray, message);
        const Ran ran = run(arguments);
        QCOMPARE(ran.code, code);
        QVERIFY2(ran.err.contains(message), ran.err);
        QVERIFY2(ran.out.isEmpty(), ran.out);
    }

    void helpGoesToStdout() {
        QVERIFY(run({"--help"}).out.contains("rows WHAT"));
        for (const char* verb : {"rows", "new", "check", "demo-data", "picture"}) {
            const Ran ran = run({verb, "--help"});
            QCOMPARE(ran.code, 0);
            QVERIFY2(ran.out.startsWith(QByteArray("Usage: jollyrow ") + verb), ran.out);
        }
    }

    void newCheckAndPicture() {
        const QString design = file("new.jrow");
        QCOMPARE(run({"new", db(), "--table", "vessels", "-o", design}).code, 0);
        const Ran sound = run({"check", design});
        QCOMPARE(sound.code, 0);
        QVERIFY(sound.out.contains("0 findings"));
        QFile text(design);
        QVERIFY(text.open(QIODevice::ReadWrite));
        QByteArray content = text.readAll();
        QVERIFY(content.contains("\"path\": \"yard.db\""));
        content.replace("insured_until", "insurd_until");
        text.resize(0);
        text.seek(0);
        text.write(content);
        text.close();
        const Ran wrong = run({"check", design});
        QCOMPARE(wrong.code, 1);
        QVERIFY2(wrong.out.contains("It may be called insured_until now"), wrong.out);
        QCOMPARE(run({"rows", design, "--limit", "1"}).code, 0);  // what can be had is had
        const QString picture = file("grid.png");
        QCOMPARE(run({"picture", file("yard.jrow"), "-o", picture, "--size", "640x320", "--dark"}).code, 0);
        const QByteArray bytes = [&] {
            QFile png(picture);
            return png.open(QIODevice::ReadOnly) ? png.readAll() : QByteArray();
        }();
        QVERIFY(bytes.startsWith("\x89PNG") && bytes.size() > 8000);
    }

  private:
    QString file(const QString& name) const { return folder_.filePath(name); }
    QString db() const { return file("yard.db"); }
    static Ran run(const QStringList& arguments) {
        QProcess process;
        process.start(PROGRAM, arguments);
        process.waitForFinished(60000);
        return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1, process.readAllStandardOutput(),
                process.readAllStandardError()};
    }
    sqlite3* open() const {
        sqlite3* handle = nullptr;
        sqlite3_open(db().toUtf8().constData(), &handle);
        return handle;
    }
    static QString one(sqlite3* handle, const char* sql) { return jollyrow::test::storedText(handle, sql); }
    QTemporaryDir folder_;
};

QTEST_GUILESS_MAIN(CommandsTest)
#include "tst_commands.moc"
