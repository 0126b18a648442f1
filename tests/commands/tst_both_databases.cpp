// SPDX-License-Identifier: MIT
// The boatyard on a file and on a server: every design of it shows the same picture, and whatever is asked of it the
// same records.
#include <QtTest>

#include <QProcess>

#include "tests/rules/postgres_server.h"

class BothDatabasesTest : public QObject {
    Q_OBJECT
    jollyrow::test::PostgresServer server_;
    QTemporaryDir folder_;
    struct Ran {
        int code = -1;
        QByteArray out, err;
    };

    QString address() const { return QString::fromStdString(server_.address()); }
    QString file(const QString& name) const { return folder_.filePath(name); }
    static Ran run(const QStringList& arguments) {
        QProcess process;
        process.start(PROGRAM, arguments);
        if (!process.waitForFinished(120'000)) return {};
        return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
    }
    QStringList makes(const QString& database, const QString& folder) const {
        QStringList all = {"demo-data", "--jobs", "900", "--seed", "8", database, "--force"};
        for (const char* design : {"design", "grouped-design", "board-design", "lines-design"})
            all << QString("--%1").arg(design) << file(folder + "/" + design + ".jrow");
        return all;
    }

  private Q_SLOTS:
    void initTestCase() {
        QCOMPARE(server_.start(), std::string());
        for (const char* name : {"file", "server"}) QVERIFY(QDir(folder_.path()).mkdir(name));
        const Ran ours = run(makes(file("yard.db"), "file"));
        QVERIFY2(ours.code == 0, ours.err);
        const Ran theirs = run(makes(file("copied.db"), "server") << "--server" << address());
        QVERIFY2(theirs.code == 0, theirs.err);
    }

    /// Tables that are there already are nobody's to be written over.
    void nothingIsWrittenOver() {
        const Ran again = run({"demo-data", "--jobs", "10", file("third.db"), "--server", address()});
        QVERIFY(again.code != 0);
        QVERIFY2(again.err.contains("owners") && again.err.contains("already exists"), again.err);
        QCOMPARE(server_.query("SELECT count(*) FROM jobs").cells.front(), std::optional<std::string>("900"));
        QCOMPARE(run({"demo-data", file("fourth.db"), "--server", "/tmp/yard.db"}).code, 2);
        QVERIFY(!QFileInfo::exists(file("fourth.db")));
    }

    void theSamePicture_data() {
        QTest::addColumn<QString>("design");
        QTest::addColumn<QStringList>("more");
        for (const char* design : {"design", "grouped-design", "board-design", "lines-design"})
            for (const QStringList& more : {QStringList(), QStringList{"--dark", "--size", "2200x1500"}})
                QTest::addRow("%s %s", design, qPrintable(more.join(' '))) << QString(design) << more;
    }
    void theSamePicture() {
        QFETCH(QString, design);
        QFETCH(QStringList, more);
        QByteArray pictures[2];
        for (const int i : {0, 1}) {
            const QString place = file(i == 0 ? "file/" : "server/");
            const Ran drawn = run(QStringList{"picture", place + design + ".jrow", "-o", place + "it.png"} + more);
            QVERIFY2(drawn.code == 0 && drawn.err.isEmpty(), drawn.err);
            QFile picture(place + "it.png");
            QVERIFY(picture.open(QIODevice::ReadOnly));
            pictures[i] = picture.readAll();
        }
        QVERIFY(pictures[0].size() > 10'000 && pictures[0] == pictures[1]);
    }

    void theSameRecords_data() {
        QTest::addColumn<QString>("table");
        QTest::addColumn<QStringList>("asks");
        const auto asks = [](const char* table, const QStringList& words) {
            QTest::addRow("%s %s", table, qPrintable(words.join(' '))) << QString(table) << words;
        };
        for (const char* table : {"owners", "vessels", "berths", "meter_readings", "jobs", "job_lines"})
            asks(table, {});
        asks("jobs", {"--sort", "due_on DESC NULLS LAST, work, number"});
        asks("jobs", {"--sort", "LOWER(notes) NULLS FIRST, hours DESC"});
        asks("jobs", {"--where", "paid AND due_on BETWEEN '2026-06-01' AND '2026-12-31' AND notes IS NOT NULL"});
        asks("jobs", {"--where", "work LIKE '%bolts%' OR hours * 2 > 40.5 OR status IN ('Quoted', 'Done')"});
        asks("jobs", {"--where", "due_on - booked_on > 60 OR EXTRACT(ISODOW FROM booked_on) = 1 OR NOT paid"});
        asks("jobs", {"--group", "status, EXTRACT(YEAR FROM due_on)", "--summary",
                      "COUNT(*), SUM(hours) AS h, AVG(labour) AS a, MIN(due_on) AS d, MAX(work) AS w", "--limit", "0"});
        asks("vessels", {"--sort", "name DESC, length", "--where", "insured_until < '2027-01-01' OR hull_no IS NULL"});
        asks("meter_readings", {"--where", "taken_at >= '2026-11-01 06:00' AND kwh > 1.5", "--sort", "taken_at DESC"});
    }
    void theSameRecords() {
        QFETCH(QString, table);
        QFETCH(QStringList, asks);
        for (const char* format : {"csv", "jsonl"}) {
            const QStringList all = QStringList{"--table", table, "--format", format} + asks;
            Ran ours = run(QStringList{"rows", file("yard.db")} + all);
            // Lists of numbers are texts in SQLite, as they were written.
            if (table == "berths") ours.out.replace(", ", ",");
            const Ran theirs = run(QStringList{"rows", address()} + all);
            QVERIFY2(ours.code == 0, ours.err);
            QVERIFY2(theirs.code == 0, theirs.err);
            QVERIFY(ours.out.count('\n') > 3);
            QCOMPARE(theirs.out, ours.out);
        }
    }

    /// New records of the copy get keys behind those that came over.
    void keysGoOn() {
        QCOMPARE(server_.execute("INSERT INTO owners (name, since) VALUES ('Ines Calder', '2026-01-01')"),
                 std::string());
        const auto answer = server_.query("SELECT (max(id) = count(*))::text FROM owners");
        QCOMPARE(answer.cells.front(), std::optional<std::string>("true"));
    }
};

QTEST_GUILESS_MAIN(BothDatabasesTest)
#include "tst_both_databases.moc"
