// SPDX-License-Identifier: MIT
// A process killed in the middle of saving: what the store confirmed is in the database, the database is sound, and a
// design file is always a whole one.
#include <QtTest>

#include <sys/wait.h>
#include <unistd.h>
#include <csignal>

#include <sqlite3.h>

#include "core/design/design_file.h"
#include "core/sources/source.h"
#include "tests/stored_text.h"

using namespace jollyrow;

namespace {

void run(const QString& path, const char* sql) {
    sqlite3* db = nullptr;
    sqlite3_open(path.toUtf8().constData(), &db);
    if (sqlite3_exec(db, sql, nullptr, nullptr, nullptr) != SQLITE_OK) qFatal("%s", sqlite3_errmsg(db));
    sqlite3_close(db);
}

QString one(const QString& path, const char* sql) { return test::storedText(path, sql); }

/// Forks `work`, which reports each thing it is sure of by writing its number; kills it after a while; the last number.
template <class Work>
std::int64_t killedAfter(int microseconds, const Work& work) {
    int channel[2];
    if (pipe(channel) != 0) return -1;
    const pid_t child = fork();
    if (child == 0) {
        close(channel[0]);
        work([&](std::int64_t number) { return write(channel[1], &number, sizeof number) == sizeof number; });
        _exit(0);
    }
    close(channel[1]);
    std::int64_t last = 0, number = 0;
    if (read(channel[0], &number, sizeof number) == sizeof number) last = number;  // it has begun
    usleep(static_cast<useconds_t>(microseconds));
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
    while (read(channel[0], &number, sizeof number) == sizeof number) last = number;
    close(channel[0]);
    return last;
}

}  // namespace

class KillTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void confirmedSavesOutliveAKill() {
        QTemporaryDir folder;
        const QString path = folder.filePath("yard.db");
        run(path,
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, hours INTEGER, note TEXT); INSERT INTO jobs VALUES (1, 0, "
            "'')");
        const auto schema = openSource(path.toStdString()).value()->schema({"jobs", ""});
        std::int64_t before = 0;
        for (int round = 0; round < 12; ++round) {
            const std::int64_t confirmed = killedAfter(500 + round * 1700, [&](auto report) {
                auto store = openStore(path.toStdString());
                for (std::int64_t n = before + 1;; ++n) {
                    RecordWrite request;
                    request.schema = *schema;
                    request.key = {std::int64_t{1}};
                    request.keyFields = {FieldIndex{0}};
                    const std::string note(static_cast<std::size_t>(n % 9000), 'x');
                    request.changes = {
                        {FieldIndex{1}, n - 1, n},
                        {FieldIndex{2}, std::string(static_cast<std::size_t>((n - 1) % 9000), 'x'), note}};
                    if (!writeOne(**store, request).ok() || !report(n)) return;
                }
            });
            QCOMPARE(one(path, "PRAGMA integrity_check"), QString("ok"));
            const std::int64_t stored = one(path, "SELECT hours FROM jobs").toLongLong();
            QVERIFY2(stored == confirmed || stored == confirmed + 1,
                     qPrintable(QString("confirmed %1, stored %2").arg(confirmed).arg(stored)));
            QCOMPARE(one(path, "SELECT length(note) FROM jobs").toLongLong(), stored % 9000);  // both fields or neither
            before = stored;
        }
        QVERIFY(before > 5);
    }

    void aDesignFileIsAlwaysWhole() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("d.jrow").toStdString();
        for (int round = 0; round < 12; ++round) {
            killedAfter(300 + round * 900, [&](auto report) {
                for (std::int64_t n = 1;; ++n) {
                    Design design;
                    design.title = std::to_string(n);
                    design.columns.resize(static_cast<std::size_t>(n % 300));
                    for (std::size_t i = 0; i < design.columns.size(); ++i)
                        design.columns[i].field = "f" + std::to_string(i);
                    if (!writeDesignFile(path, design).ok() || !report(n)) return;
                }
            });
            const auto read = readDesignFile(path);
            QVERIFY2(read.ok(), read.ok() ? "" : read.error().message.c_str());
            QCOMPARE(read->design.columns.size(), static_cast<std::size_t>(std::stoll(read->design.title) % 300));
        }
    }
};

QTEST_APPLESS_MAIN(KillTest)
#include "kill_test.moc"
