// SPDX-License-Identifier: MIT
// The command line against the machine it runs on: files that are something else, devices, links, pipes, full disks,
// readers that go away, odd names, endless and huge input. Nothing is destroyed, nothing hangs, every failure is said.
#include <QtTest>

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>

#include <sys/stat.h>

#include <sqlite3.h>

namespace {
struct Ran {
    int code = -1;
    bool crashed = false;
    QByteArray out, err;
};
}  // namespace

class OutputsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        QCOMPARE(run({"demo-data", "--jobs", "60", file("yard.db"), "--design", file("yard.jrow")}).code, 0);
        write("words.txt", "not to be lost");
    }

    /// Figures without groups are one line of CSV; beside groups there is none for all, which would be counted twice.
    void figuresOfAllAreALineOfCsv() {
        const QStringList figures{"rows",      file("yard.db"),
                                  "--table",   "jobs",
                                  "--summary", "COUNT(*) AS jobs, SUM(number) AS numbers, MAX(work)",
                                  "--format",  "csv"};
        const Ran all = run(figures);
        QVERIFY2(all.code == 0, all.err.constData());
        sqlite3* db = nullptr;
        sqlite3_open(file("yard.db").toUtf8().constData(), &db);
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(db, "SELECT count(*), count(*), sum(number) FROM jobs", -1, &statement, nullptr);
        sqlite3_step(statement);
        QByteArray wanted = "count,jobs,numbers,MAX(work)\n";
        for (int i = 0; i < 3; ++i)
            wanted += QByteArray(reinterpret_cast<const char*>(sqlite3_column_text(statement, i))) + ",";
        sqlite3_finalize(statement);
        sqlite3_close(db);
        QVERIFY2(all.out.startsWith(wanted) && all.out.count('\n') == 2, all.out.constData());
        const Ran none = run(figures + QStringList{"--where", "number < 0"});
        QCOMPARE(none.out, QByteArray("count,jobs,numbers,MAX(work)\n0,0,,\n"));
        const Ran grouped = run(figures + QStringList{"--group", "status"});
        qint64 jobs = 0;
        for (const QByteArray& line : grouped.out.split('\n').mid(1))
            if (!line.isEmpty()) jobs += line.split(',').at(1).toLongLong();
        QCOMPARE(jobs, 60);
    }

    /// The library that talks to servers is looked up when one is opened: without it all else goes on, and that says
    /// what is missing and where it comes from.
    void aMachineWithoutTheLibraryOfServers() {
        QVERIFY(QDir(folder_.path()).mkpath("none"));
        write("none/libpq.so.5", "no library");
        const QString with = "LD_LIBRARY_PATH='" + file("none") + "' '" PROGRAM "' ";
        const Ran files = shell(with + "rows '" + file("yard.jrow") + "' --limit 2");
        QVERIFY2(files.code == 0, files.err.constData());
        QCOMPARE(files.out.count('\n'), 3);
        for (const char* more : {"rows", "rows --table jobs", "new -o made.jrow --table jobs"}) {
            const Ran server = shell(with + more + " 'postgresql://nobody@localhost/none'");
            QVERIFY(!server.crashed);
            QVERIFY2(server.code == 1 || server.code == 2, server.err.constData());
            QVERIFY2(server.err.contains("libpq5") && server.err.contains("to open a database on a server"),
                     server.err.constData());
        }
    }

    void nothingElseIsOverwritten_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("target");
        const QString yard = file("yard.jrow"), db = file("yard.db"), words = file("words.txt");
        QTest::newRow("picture over its design") << QStringList{"picture", yard, "-o", yard} << "yard.jrow";
        QTest::newRow("picture over the database") << QStringList{"picture", yard, "-o", db} << "yard.db";
        QTest::newRow("picture over words") << QStringList{"picture", yard, "-o", words} << "words.txt";
        QTest::newRow("demo over words") << QStringList{"demo-data", "--jobs", "5", words} << "words.txt";
        QTest::newRow("demo's design over words")
            << QStringList{"demo-data", "--jobs", "5", file("new.db"), "--design", file("link.jrow")} << "words.txt";
        QTest::newRow("design over a link to words")
            << QStringList{"new", db, "--table", "jobs", "-o", file("link.jrow")} << "words.txt";
        QTest::newRow("demo over somebody's database")
            << QStringList{"demo-data", "--jobs", "5", file("other.db")} << "other.db";
    }
    void nothingElseIsOverwritten() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, target);
        QFile::remove(file("link.jrow"));
        QVERIFY(QFile::link(file("words.txt"), file("link.jrow")));
        if (!QFile::exists(file("other.db"))) sql("other.db", "CREATE TABLE theirs (a); INSERT INTO theirs VALUES (1)");
        const QByteArray before = read(target);
        QVERIFY(!before.isEmpty());
        const Ran refused = run(arguments);
        QCOMPARE(refused.code, 1);
        QVERIFY2(refused.err.contains("--force") || refused.err.contains("exists"), refused.err.constData());
        QCOMPARE(read(target), before);
        QVERIFY(!QFile::exists(file("new.db")));
        QVERIFY2(QDir(folder_.path()).entryList({"*.part", "*.??????"}).filter(".part").isEmpty(),
                 "something half was left");
    }

    void forceAndOwnKindsAreWritten() {
        write("old.png", "words");
        QCOMPARE(run({"picture", file("yard.jrow"), "-o", file("old.png"), "--size", "200x100", "--force"}).code, 0);
        QVERIFY(read("old.png").startsWith("\x89PNG"));
        QCOMPARE(run({"picture", file("yard.jrow"), "-o", file("old.png"), "--size", "100x100"}).code, 0);
        QFile::remove(file("link.png"));
        QVERIFY(QFile::link(file("old.png"), file("link.png")));
        QCOMPARE(run({"picture", file("yard.jrow"), "-o", file("link.png"), "--size", "120x100"}).code, 0);
        QVERIFY(QFileInfo(file("link.png")).isSymLink());
        QCOMPARE(read("old.png").mid(16, 4), QByteArray("\0\0\0\x78", 4));  // its width, 120
        QCOMPARE(run({"demo-data", "--jobs", "7", file("yard2.db")}).code, 0);
        QCOMPARE(run({"demo-data", "--jobs", "8", file("yard2.db")}).code, 0);
    }

    void devicesPipesAndFoldersAreRefused_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("said");
        const QString yard = file("yard.jrow"), pipe = file("pipe");
        QTest::newRow("demo over a device") << QStringList{"demo-data", "/dev/null", "--force"} << "device";
        QTest::newRow("picture over a device")
            << QStringList{"picture", yard, "-o", "/dev/null", "--force"} << "device";
        QTest::newRow("demo over a folder") << QStringList{"demo-data", folder_.path(), "--force"} << "folder";
        QTest::newRow("rows of a pipe") << QStringList{"rows", pipe} << "pipe";
        QTest::newRow("rows of a design that is a pipe") << QStringList{"rows", file("pipe.jrow")} << "pipe";
        QTest::newRow("a picture too large")
            << QStringList{"picture", yard, "-o", file("x.png"), "--size", "16384x16384"} << "40 million";
        QTest::newRow("two sources at once")
            << QStringList{"rows", file("yard.db"), "--table", "jobs", "--query", "SELECT 1"} << "--query";
    }
    void devicesPipesAndFoldersAreRefused() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, said);
        for (const char* name : {"pipe", "pipe.jrow"}) ::mkfifo(file(name).toLocal8Bit().constData(), 0600);
        const Ran refused = run(arguments, 5000);
        QVERIFY(!refused.crashed && (refused.code == 1 || refused.code == 2));
        QVERIFY2(refused.err.contains(said.toUtf8()), refused.err.constData());
    }

    void whatCannotBeWrittenIsAFailure() {
        const QString rows = QStringLiteral("'%1' rows '%2' --table jobs --format csv").arg(PROGRAM, file("yard.db"));
        QCOMPARE(shell(rows + " > /dev/full").code, 1);
        QVERIFY(shell(rows + " > /dev/full").err.contains("jollyrow:"));
        const Ran cut =
            shell("bash -o pipefail -c \"" + rows + " --group status --summary 'COUNT(*)' | true; sleep 0.1\"");
        QVERIFY(!cut.crashed);
        QCOMPARE(shell("'" PROGRAM "' check '" + file("yard.jrow") + "' > /dev/full").code, 1);
        QCOMPARE(shell("ulimit -f 1; trap '' XFSZ; '" PROGRAM "' demo-data --jobs 500 '" + file("big.db") + "'").code,
                 1);
        QVERIFY(!QFile::exists(file("big.db")));
        QVERIFY(QDir(folder_.path()).entryList({"*.part"}).isEmpty());
    }

    void readersThatGoAwayAreSaid() {
        // A million lines into a reader that takes one.
        const Ran gone = shell("'" PROGRAM "' rows '" + file("yard.db") +
                               "' --query \"WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < "
                               "300000) SELECT i FROM n\" --format csv | head -1; echo ${PIPESTATUS[0]}");
        QCOMPARE(gone.out, QByteArray("i\n1\n"));
        QVERIFY2(gone.err.contains("jollyrow:"), gone.err.constData());
    }

    void oddNamesWorkOrAreRefused() {
        QVERIFY(QFile::copy(file("yard.db"), file("file:odd name?.db")));
        const Ran odd = run({"rows", "file:odd name?.db", "--table", "owners", "--limit", "1"}, 5000, folder_.path());
        QVERIFY2(odd.code == 0, odd.err.constData());
        const Ran bytes = shell("cd '" + folder_.path() + "'; '" PROGRAM "' rows $'\\xff\\xfe.db'");
        QCOMPARE(bytes.code, 2);
        QVERIFY2(bytes.err.contains("UTF-8"), bytes.err.constData());
    }

    void whatNeverEndsIsReadAsFarAsAsked() {
        const Ran first = run({"rows", file("yard.db"), "--query",
                               "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n",
                               "--limit", "5", "--format", "csv"},
                              10000);
        QCOMPARE(first.out, QByteArray("i\n1\n2\n3\n4\n5\n"));
        const Ran none = run({"rows", file("yard.db"), "--table", "jobs", "--limit", "0", "--format", "csv"});
        QCOMPARE(none.out.trimmed().split('\n').size(), 1);
    }

    void wideAndNamelessTables() {
        QString columns, values;
        for (int i = 0; i < 2000; ++i) columns += QStringLiteral("%1c%2 TEXT").arg(i ? ", " : "").arg(i);
        for (int i = 0; i < 2000; ++i) values += i ? ", 'x'" : "'x'";
        sql("wide.db",
            ("CREATE TABLE wide (" + columns + "); INSERT INTO wide VALUES (" + values + "), (" + values + ")")
                .toUtf8());
        const Ran wide = run({"rows", file("wide.db"), "--format", "jsonl", "--timings"}, 8000);
        QVERIFY2(wide.code == 0, wide.err.constData());
        QCOMPARE(wide.out.trimmed().split('\n').size(), 2);
        sql("nameless.db", "CREATE TABLE t (\"\" TEXT, b INT); INSERT INTO t VALUES ('x', 1)");
        const Ran nameless = run({"rows", file("nameless.db")});
        QCOMPARE(nameless.code, 1);
        QVERIFY2(nameless.err.contains("no name"), nameless.err.constData());
        const Ran named = run({"rows", file("nameless.db"), "--query", "SELECT \"\", b FROM t", "--format", "csv"});
        QCOMPARE(named.out, QByteArray("column_1,b\nx,1\n"));
    }

    void clockGroupsAndMisfitsAreTold() {
        sql("odd.db",
            "CREATE TABLE t (d DATE, h DECIMAL(6,2)); INSERT INTO t VALUES ('soon', 1), ('2026-11-29', 2), (NULL, "
            "'x')");
        const Ran odd = run({"rows", file("odd.db"), "--format", "csv"});
        QCOMPARE(odd.out, QByteArray("d,h\nsoon,1.00\n2026-11-29,2.00\n,x\n"));
        QVERIFY2(odd.err.contains("d: 1 of 3") && odd.err.contains("soon") && odd.err.contains("record 1"),
                 odd.err.constData());
        const Ran timed = run({"rows", file("yard.db"), "--table", "jobs", "--group", "status", "--summary",
                               "SUM(hours)", "--timings", "--limit", "0"});
        const QByteArray json = timed.err.mid(timed.err.indexOf('{'));
        const auto timings = QJsonDocument::fromJson(json.left(json.indexOf('}') + 1)).object();
        QVERIFY(timings["group_ms"].toDouble() > 0 && timings["summarise_ms"].toDouble() > 0);
        const Ran now = run({"rule", "LOCALTIMESTAMP", "--source", file("yard.db"), "--table", "jobs"});
        const QString clock = QDateTime::currentDateTime().toString("yyyy-MM-dd");
        QVERIFY2(now.out.contains(clock.toUtf8()), now.out.constData());
        if (QTime::currentTime().msecsSinceStartOfDay() > 60'000)
            QVERIFY2(!now.out.contains(" 00:00:00"), now.out.constData());
    }

    /// Columns made from columns that are not asked for: the same answer as the whole rule gives.
    void whatColumnsAreMadeFromNeedNotBeAskedFor_data() {
        QTest::addColumn<QStringList>("named");
        QTest::addColumn<QStringList>("written");
        const auto row = [](const char* tag, const QStringList& arguments) {
            QStringList written = arguments;
            QTest::newRow(tag) << arguments << written.replaceInStrings("four", "(hours * 2 * 2)");
        };
        row("a condition", {"--columns", "number,hours", "--where", "four > 10"});
        row("an order", {"--columns", "hours,number", "--sort", "four DESC, number"});
        row("groups", {"--columns", "number", "--group", "four > 10, status", "--limit", "0"});
        row("figures", {"--columns", "number", "--group", "status", "--summary", "SUM(four) AS sum", "--limit", "0"});
    }
    void whatColumnsAreMadeFromNeedNotBeAskedFor() {
        QFETCH(QStringList, named);
        QFETCH(QStringList, written);
        QFile plain(file("yard.jrow"));
        QVERIFY(plain.open(QIODevice::ReadOnly));
        QJsonObject design = QJsonDocument::fromJson(plain.readAll()).object();
        QJsonArray columns = design["columns"].toArray();
        columns.append(QJsonObject{{"field", "twice"}, {"type", "decimal"}, {"rule", "hours * 2"}});
        columns.append(QJsonObject{{"field", "four"}, {"type", "decimal"}, {"rule", "twice * 2"}});
        design["columns"] = columns;
        write("made.jrow", QJsonDocument(design).toJson());
        const Ran asked = run(QStringList{"rows", file("made.jrow"), "--format", "csv"} + named);
        const Ran whole = run(QStringList{"rows", file("made.jrow"), "--format", "csv"} + written);
        QVERIFY2(asked.code == 0 && whole.code == 0, asked.err + whole.err);
        QVERIFY2(asked.out.count('\n') > 3, asked.out.constData());
        QCOMPARE(asked.out.mid(asked.out.indexOf('\n')), whole.out.mid(whole.out.indexOf('\n')));
        const Ran shown =
            run({"rows", file("made.jrow"), "--format", "csv", "--columns", "hours,four", "--limit", "5"});
        QList<QByteArray> lines = shown.out.trimmed().split('\n');
        QCOMPARE(lines.takeFirst().trimmed(), QByteArray("hours,four"));
        for (const QByteArray& line : lines)
            QCOMPARE(line.trimmed().split(',').last().toDouble(), line.split(',').first().toDouble() * 4);
    }

    void longRulesAreQuotedAroundTheMistake() {
        const QString rule =
            QString("hours > 1 AND ").repeated(40) + "houers > 2" + QString(" AND hours > 1").repeated(40);
        const Ran wrong = run({"rows", file("yard.db"), "--table", "jobs", "--where", rule});
        QCOMPARE(wrong.code, 2);
        QVERIFY2(wrong.err.contains("Did you mean hours?"), wrong.err.constData());
        const QList<QByteArray> lines = wrong.err.split('\n');
        QVERIFY(lines.size() >= 3 && lines[1].size() < 200);
        QCOMPARE(QString::fromUtf8(lines[1]).indexOf("houers"), QString::fromUtf8(lines[2]).indexOf('^'));
        const Ran twice =
            run({"rows", file("yard.db"), "--table", "jobs", "--summary", "SUM(hours) AS a, COUNT(*) AS a"});
        QCOMPARE(twice.code, 2);
        QVERIFY2(twice.err.contains("two figures"), twice.err.constData());
    }

    void withoutADisplayItSaysSo() {
        const Ran none =
            shell("env -u DISPLAY -u WAYLAND_DISPLAY -u QT_QPA_PLATFORM '" PROGRAM "' '" + file("yard.db") + "'");
        QCOMPARE(none.code, 1);
        QVERIFY2(none.err.contains("no display") && none.err.count('\n') == 1, none.err.constData());
    }

    void hugeRulesAreStoppedNotTheMachine() {
#ifdef JOLLYROW_CHECKED
        QSKIP("A sanitizer wants more address space than this allows the program.");
#endif
        // 60 records of 16 million letters each would be a gigabyte a batch.
        const Ran rule =
            shell("ulimit -v 3000000; '" PROGRAM "' rows '" + file("yard.db") +
                  "' --table jobs --where \"CHAR_LENGTH(REPEAT(work, 400000) || REPEAT(work, 400000)) > 5\" --limit 1");
        QVERIFY2(!rule.crashed, rule.err.constData());
        QVERIFY(rule.code == 0 || rule.code == 1);
        const Ran memory =
            shell("ulimit -v 400000; '" PROGRAM "' rows '" + file("yard.db") +
                  "' --query \"WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i, "
                  "'a long text that is another one each time ' || i AS t FROM n\" --sort i");
        QCOMPARE(memory.code, 1);
        QVERIFY2(memory.err.contains("memory"), memory.err.constData());
    }

  private:
    QString file(const QString& name) const { return folder_.filePath(name); }
    void write(const char* name, const QByteArray& bytes) {
        QFile out(file(name));
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(bytes);
    }
    QByteArray read(const QString& name) {
        QFile in(file(name));
        return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
    }
    void sql(const char* name, const QByteArray& text) {
        sqlite3* db = nullptr;
        sqlite3_open(file(name).toUtf8().constData(), &db);
        char* message = nullptr;
        if (sqlite3_exec(db, text.constData(), nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(db);
    }
    static Ran finished(QProcess& process, int timeout) {
        Ran ran;
        if (!process.waitForFinished(timeout)) {
            process.kill();
            process.waitForFinished();
            ran.crashed = true;
            ran.err = "it did not end";
            return ran;
        }
        ran.crashed = process.exitStatus() != QProcess::NormalExit;
        ran.code = process.exitCode();
        ran.out = process.readAllStandardOutput().replace("\r\n", "\n");  // RFC 4180 ends lines so
        ran.err = process.readAllStandardError();
        return ran;
    }
    Ran run(const QStringList& arguments, int timeout = 60000, const QString& in = {}) {
        QProcess process;
        if (!in.isEmpty()) process.setWorkingDirectory(in);
        process.start(PROGRAM, arguments);
        return finished(process, timeout);
    }
    Ran shell(const QString& command) {
        QProcess process;
        process.start("bash", {"-c", command});
        return finished(process, 60000);
    }
    QTemporaryDir folder_;
};

QTEST_GUILESS_MAIN(OutputsTest)
#include "tst_outputs.moc"
