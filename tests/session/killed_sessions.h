// SPDX-License-Identifier: MIT
#pragma once
// A process that types, inserts, deletes and saves at random until it is killed, and the judgement of what is left:
// what it had been told is saved is in the database, what it had been told is kept is there or offered again, and
// taking that up doubles nothing.

#include <QtTest>

#include <poll.h>
#include <sys/wait.h>
#include <unistd.h>
#include <csignal>

#include "tests/session/session_fixture.h"

namespace jollyrow {

/// What the process says as it becomes sure of it.
struct Told {
    char what = ' ';  ///< t: typed, k: all typed until here is kept, s: a record is saved, d: a record is deleted
    std::int64_t key = 0;
    std::int64_t serial = 0;
};

inline constexpr int kRecords = 12;

inline std::string schemaSql() {
    std::string sql =
        "CREATE TABLE jobs (number INTEGER PRIMARY KEY, uid TEXT, a TEXT, b INTEGER);"
        "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 12) "
        "INSERT INTO jobs SELECT i, 'u' || i, 'first', 0 FROM c;";
    return sql;
}

/// Types, inserts and saves at random until it is killed.
[[noreturn]] inline void work(SessionFixture& f, int channel, unsigned seed) {
    std::mt19937 dice(seed);
    const auto tell = [channel](const Told& told) {
        if (write(channel, &told, sizeof told) != sizeof told) _exit(1);
    };
    const bool together = seed % 3 == 0;
    if (!f.open(together ? Saving::Together : Saving::EachCell)) _exit(2);
    Session& session = *f.session;
    if (!session.drafts().left().empty()) session.drafts().takeUp();
    std::int64_t serial = static_cast<std::int64_t>(seed) * 100'000;
    std::map<std::int64_t, std::int64_t> latest;  // by key, the serial typed last
    tell({'t', 0, 0});
    for (;;) {
        ++serial;
        const auto key = static_cast<std::int64_t>(dice() % kRecords) + 1;
        switch (dice() % 6) {
            case 0: {
                const auto row =
                    session.records().insert({{f.field("uid"), "n" + std::to_string(serial)}, {f.field("b"), Value(serial)}});
                if (row.ok() && !together) session.records().leave(*row);
                tell({'i', serial, serial});
                break;
            }
            case 1:
                if (together) session.records().saveAll();
                break;
            default:
                // Both or neither.
                session.records().edit({{f.row(key), f.field("a"), "s" + std::to_string(serial), {}},
                              {f.row(key), f.field("b"), Value(serial), {}}});
                latest[key] = serial;
                tell({'t', key, serial});
        }
        f.inbox.pump(dice() % 4);
        if (dice() % 3 == 0 && f.until([&] { return session.drafts().isKept(); }, 2000)) tell({'k', 0, serial});
        if (dice() % 8 == 0 && f.settled() && !together)
            for (const auto& [one, typed] : latest) tell({'s', one, typed});
    }
}

inline QString filesIn(const QString& folder) {
    QString all;
    for (const QFileInfo& info : QDir(folder).entryInfoList(QDir::Files)) {
        QFile file(info.filePath());
        if (file.open(QFile::ReadOnly)) all += info.fileName() + u'\n' + QString::fromUtf8(file.readAll());
    }
    return all;
}
/// What it had told until it was killed: some time after it had begun, or, half of the times, after it had told so
/// much, as a slow machine comes to it, too.
inline std::vector<Told> killed(SessionFixture& f, unsigned seed, int microseconds,
                                const std::function<void(const QTemporaryDir&)>& begun,
                                const std::function<void(const QTemporaryDir&)>& ended) {
    std::vector<Told> all;
    int channel[2];
    if (pipe(channel) != 0) return all;
    const pid_t child = fork();
    if (child == 0) {
        close(channel[0]);
        begun(f.folder);
        work(f, channel[1], seed);
    }
    close(channel[1]);
    Told told;
    constexpr unsigned kMostWaitedFor = 24;
    constexpr int kMostMs = 5000;
    pollfd waited{channel[0], POLLIN, 0};
    for (unsigned left = seed % 2 == 0 ? 1 : seed % kMostWaitedFor + 1; left > 0 && poll(&waited, 1, kMostMs) == 1; --left)
        if (read(channel[0], &told, sizeof told) == sizeof told) all.push_back(told);
    usleep(static_cast<useconds_t>(microseconds));
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
    ended(f.folder);
    while (read(channel[0], &told, sizeof told) == sizeof told) all.push_back(told);
    close(channel[0]);
    return all;
}

/// Kills so many sessions and judges what is left of each. `begun` is called in the process that will be killed,
/// `ended` in this one when it is dead, with the folder of its files.
inline void killAndJudge(int rounds, std::mt19937& dice, const std::function<void(const QTemporaryDir&)>& begun,
                         const std::function<void(const QTemporaryDir&)>& ended) {
    int kept = 0, saved = 0, offered = 0, inserted = 0;
    for (int round = 0; round < rounds; ++round) {
        SessionFixture f(schemaSql().c_str());
        f.drafts = f.folder.filePath("state").toStdString();
        const unsigned seed = static_cast<unsigned>(round + 1) * 7919U + dice() % 1000;
        std::map<std::int64_t, std::int64_t> mustBe;  // by key, the serial that is sure
        std::set<std::int64_t> inserts, sureInserts;
        std::map<std::int64_t, std::int64_t> typed;
        for (const Told& told : killed(f, seed, static_cast<int>(dice() % 60'000), begun, ended)) {
            if (told.what == 't' && told.key != 0) typed[told.key] = told.serial;
            if (told.what == 'i') inserts.insert(told.serial);
            if (told.what == 'k') {
                for (const auto& [key, serial] : typed) mustBe[key] = serial;
                sureInserts = inserts;
                ++kept;
            }
            if (told.what == 's') {
                mustBe[told.key] = std::max(mustBe[told.key], told.serial);
                ++saved;
            }
        }
        QCOMPARE(f.stored("PRAGMA integrity_check"), QString("ok"));
        QCOMPARE(f.stored("SELECT count(*) FROM jobs WHERE a <> 'first' AND a <> 's' || b"), QString("0"));
        const QString files = filesIn(f.folder.filePath("state"));
        QVERIFY(f.open(Saving::Together));
        QVERIFY(f.settled());
        offered += static_cast<int>(f.session->drafts().left().size());
        f.session->drafts().takeUp();
        f.session->records().saveAll();
        QVERIFY(f.settled());
        QCOMPARE(f.session->records().unsaved(), std::size_t{0});
        QCOMPARE(f.stored("SELECT count(*) FROM jobs WHERE a <> 'first' AND a <> 's' || b"), QString("0"));
        for (const auto& [key, serial] : mustBe) {
            const qlonglong is =
                f.stored(qPrintable(QString("SELECT b FROM jobs WHERE number = %1").arg(key))).toLongLong();
            QVERIFY2(is >= serial, qPrintable(QString("seed %1: record %2 holds %3, and %4 was sure; kept were\n%5")
                                                  .arg(seed)
                                                  .arg(key)
                                                  .arg(is)
                                                  .arg(serial)
                                                  .arg(files)));
        }
        QCOMPARE(f.stored("SELECT count(*) - count(DISTINCT uid) FROM jobs"), QString("0"));
        for (const std::int64_t serial : sureInserts)
            QVERIFY2(f.stored(qPrintable(QString("SELECT count(*) FROM jobs WHERE uid = 'n%1'").arg(serial))) == "1",
                     qPrintable(QString("seed %1: the new record %2 is lost").arg(seed).arg(serial)));
        inserted += static_cast<int>(sureInserts.size());
    }
    qInfo("%d kills: %d times kept, %d saves confirmed, %d drafts offered again, %d new records sure", rounds, kept,
          saved, offered, inserted);
    QVERIFY(kept > rounds / 4 && offered > rounds / 10 && inserted > rounds / 10);
}

}  // namespace jollyrow
