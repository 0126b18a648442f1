// SPDX-License-Identifier: MIT
// What others save is shown while a session is open: against the database, with a second connection that writes, edits
// made here meanwhile, drafts on the same cells; on a file and on a server.
#include <QtTest>

#include <QTemporaryDir>

#include <fmt/format.h>

#include <random>

#include "core/design/make_design.h"
#include "core/formats/text_format.h"
#include "core/session/session.h"
#include "core/sources/postgres/pg_source.h"
#include "tests/rules/postgres_server.h"
#include "tests/session/inbox.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

/// A session that is pumped, and what it was told.
struct Following {
    Inbox inbox;
    int told = 0, reloads = 0;
    std::function<void(std::size_t)> onElsewhere = [](std::size_t) {};
    std::vector<std::string> failures;
    std::unique_ptr<Session> session;

    explicit Following(const std::string& address, const std::string& table, Saving saving = Saving::EachCell) {
        SessionListener listener;
        listener.onElsewhere = [this](const std::vector<SourceRow>&, std::size_t records) {
            told += static_cast<int>(records);
            onElsewhere(records);
        };
        listener.onRowsMoved = [this](const RowMoves&) { ++reloads; };
        listener.onFailure = [this](const Error& error) { failures.push_back(error.message); };
        session = std::make_unique<Session>([this](std::function<void()> call) { inbox.post(std::move(call)); },
                                            std::move(listener));
        auto source = openSource(address);
        Design design = designFor(*(*source)->schema({table, ""}), {"", address, table, ""});
        design.grid.saving = saving;
        if (!session->open(design, address).ok()) qFatal("not opened");
        if (!comes([&] { return !session->isLoading(); })) qFatal("not loaded");
        settle();
    }
    template <class Wanted>
    bool comes(const Wanted& wanted) {
        return QTest::qWaitFor([&] { return inbox.pump(), session->elsewhere().look(), wanted(); }, 20'000);
    }
    /// Begun to look, and compared once.
    void settle() {
        for (int i = 0; i < 12; ++i) {
            session->elsewhere().look();
            QTest::qWait(15);
            inbox.pump();
        }
    }
    FieldIndex field(const char* name) const { return *session->schema().find(name); }
    std::int64_t count() const { return session->snapshot()->recordCount(); }
    /// All records as they are shown, by their first field.
    std::map<std::string, std::string> shown() const {
        std::map<std::string, std::string> all;
        const Snapshot& snapshot = *session->snapshot();
        for (std::int64_t i = 0; i < snapshot.recordCount(); ++i) {
            const SourceRow row = snapshot.record(i);
            const RecordFate* fate = snapshot.edits->fate(row);
            if (fate && fate->change == RecordChange::Delete) continue;
            std::string key, rest;
            appendPlain(key, snapshot.value(row, FieldIndex{0}));
            for (std::size_t f = 1; f < session->schema().storedFields(); ++f) {
                appendPlain(rest, snapshot.value(row, static_cast<FieldIndex>(f)));
                rest += "|";
            }
            all[key] = rest;
        }
        return all;
    }
};

std::map<std::string, std::string> stored(const std::string& address, const std::string& table) {
    auto source = openSource(address);
    LoadRequest request;
    request.binding = {table, ""};
    const auto loaded = (*source)->load(request, Cancel());
    std::map<std::string, std::string> all;
    for (std::size_t i = 0; loaded && i < (*loaded)->rows; ++i) {
        std::string key, rest;
        appendPlain(key, (*loaded)->columns[0]->value(static_cast<SourceRow>(i)));
        for (std::size_t f = 1; f < (*loaded)->columns.size(); ++f) {
            appendPlain(rest, (*loaded)->columns[f]->value(static_cast<SourceRow>(i)));
            rest += "|";
        }
        all[key] = rest;
    }
    return all;
}

}  // namespace

class FollowTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_;
    test::PostgresServer server_;

    void outside(const std::string& sql) { run(path_, sql); }
    void does(const std::string& sql) {
        if (const std::string wrong = server_.execute(sql); !wrong.empty()) qFatal("%s", wrong.c_str());
    }

  private Q_SLOTS:
    void initTestCase() { QCOMPARE(server_.start(), std::string()); }
    void init() {
        path_ = folder_.filePath("jobs.db");
        QFile::remove(path_);
        outside("CREATE TABLE jobs (number INTEGER PRIMARY KEY, what TEXT, hours DECIMAL(6,2))");
        for (int i = 1; i <= 50; ++i) outside(fmt::format("INSERT INTO jobs VALUES ({0}, 'job {0}', {0}.25)", i));
    }

    void whatIsSavedElsewhereIsShown() {
        Following f(path_.toStdString(), "jobs");
        QCOMPARE(f.told, 0);
        outside("UPDATE jobs SET what = 'sanded' WHERE number = 7");
        QVERIFY(f.comes([&] { return f.told == 1; }));
        QCOMPARE(f.shown().at("7"), std::string("sanded|7.25|"));
        outside("DELETE FROM jobs WHERE number = 8; INSERT INTO jobs VALUES (900, 'new', 1)");
        QVERIFY(f.comes([&] { return f.told == 3 && f.shown() == stored(path_.toStdString(), "jobs"); }));
        // Back to what was loaded; what was added goes, and what went comes again.
        outside(
            "UPDATE jobs SET what = 'job 7' WHERE number = 7; DELETE FROM jobs WHERE number = 900; "
            "INSERT INTO jobs VALUES (8, 'job 8', 8.25)");
        QVERIFY(f.comes([&] { return f.shown() == stored(path_.toStdString(), "jobs"); }));
        QCOMPARE(f.reloads, 0);  // in place
    }

    void whatIsSavedHereIsNoNews() {
        Following f(path_.toStdString(), "jobs");
        for (int i = 0; i < 10; ++i) {
            f.session->records().edit(SourceRow{static_cast<std::uint32_t>(i)}, f.field("what"),
                                      Value(std::string("own")));
            QVERIFY(f.comes([&] { return f.session->records().unsaved() == 0; }));
            f.settle();
        }
        QCOMPARE(f.told, 0);
        // And what others do at the same time is.
        f.session->records().edit(SourceRow{0}, f.field("what"), Value(std::string("own again")));
        outside("UPDATE jobs SET what = 'theirs' WHERE number = 2");
        QVERIFY(f.comes([&] { return f.told == 1 && f.session->records().unsaved() == 0; }));
        QVERIFY(f.comes([&] { return f.shown() == stored(path_.toStdString(), "jobs"); }));
    }

    void aDraftIsInConflictBeforeItIsSaved() {
        Following f(path_.toStdString(), "jobs", Saving::Together);
        f.session->records().edit(SourceRow{2}, f.field("what"), Value(std::string("mine")));
        outside("UPDATE jobs SET what = 'theirs', hours = 99 WHERE number = 3");
        QVERIFY(f.comes([&] {
            const CellEdit* edit = f.session->snapshot()->edits->find(SourceRow{2}, f.field("what"));
            return edit && edit->state == EditState::Conflict;
        }));
        QVERIFY(f.session->snapshot()->value(SourceRow{2}, f.field("what")) == Value(std::string("mine")));
        QVERIFY(f.session->snapshot()->value(SourceRow{2}, f.field("hours")) == Value(Decimal{9900, 2}));
    }

    void whatIsToldTwiceIsOneRecord() {
        Following f(path_.toStdString(), "jobs");
        const RecordKey key = {Value(std::int64_t{700})};
        const ElsewhereChange is{
            key, false, {{f.field("number"), Value(std::int64_t{700})}, {f.field("what"), Value(std::string("told"))}}};
        outside("INSERT INTO jobs VALUES (700, 'told', NULL)");  // else a slow look would take it out again
        QVERIFY(f.session->elsewhere().take(std::vector{is, is}));
        QVERIFY(f.comes([&] { return f.count() == 51; }));
        // Gone and made again, here and elsewhere.
        QVERIFY(f.session->elsewhere().take(std::vector{ElsewhereChange{key, true}}));
        QVERIFY(f.session->elsewhere().take(std::vector{is}));
        QVERIFY(f.session->elsewhere().take(std::vector{is, is}));
        QVERIFY(f.comes([&] { return f.shown().contains("700") && f.count() == 51; }));
    }

    void manyChangesAreReadAnew() {
        outside(
            "WITH RECURSIVE c(x) AS (SELECT 1000 UNION ALL SELECT x + 1 FROM c WHERE x < 13000) INSERT INTO jobs "
            "SELECT x, 'many', 1 FROM c");
        Following f(path_.toStdString(), "jobs");
        outside("UPDATE jobs SET what = 'all of them' WHERE number >= 1000");
        QVERIFY(f.comes([&] { return f.reloads > 0 && !f.session->isLoading(); }));
        QVERIFY(f.shown() == stored(path_.toStdString(), "jobs"));
    }

    /// Whatever a look or a comparison meets (a load under way, a locked file), what was told is seen in the end.
    void whatIsToldWhileReadingIsSeen() {
        Following f(path_.toStdString(), "jobs");
        for (int round = 0; round < 40; ++round) {
            outside(fmt::format("UPDATE jobs SET what = 'round {}' WHERE number = 5", round));
            f.session->elsewhere().look();
            if (round % 2 == 0) f.session->reload();
            if (round % 8 == 0) f.session->cancelLoad();
            QTest::qWait(round % 5);
            f.inbox.pump();
        }
        QVERIFY(f.comes([&] { return !f.session->isLoading() && f.shown() == stored(path_.toStdString(), "jobs"); }));
        QVERIFY(f.failures.empty());
    }

    void whereNothingIsToldItIsSaidOnce() {
        outside("CREATE VIEW short AS SELECT * FROM jobs WHERE hours < 10");
        Following view(path_.toStdString(), "short");
        view.settle();
        QVERIFY(view.failures.empty());
        does("CREATE TABLE untold (id integer PRIMARY KEY, word text)");
        Following f(server_.address(), "untold");
        f.settle();
        QCOMPARE(f.failures.size(), std::size_t(1));
        QVERIFY2(f.failures.front().find("trigger") != std::string::npos, f.failures.front().c_str());
    }

    /// Two writers on one file: whatever both do, what is shown ends as what is stored.
    void twoWritersEndEqual() {
        std::mt19937 random(11);
        Following f(path_.toStdString(), "jobs");
        int next = 100;
        for (int round = 0; round < 60; ++round) {
            const int key = static_cast<int>(random() % 50) + 1;
            switch (random() % 6) {
                case 0: outside(fmt::format("DELETE FROM jobs WHERE number = {}", key)); break;
                case 1: outside(fmt::format("INSERT INTO jobs VALUES ({}, 'in', 1)", next++)); break;
                case 2: outside(fmt::format("UPDATE jobs SET hours = {} WHERE number = {}", random() % 90, key)); break;
                case 3:
                    outside(fmt::format("UPDATE jobs SET what = 'w{}' WHERE number % 7 = {}", round, key % 7));
                    break;
                case 4:
                    (void)f.session->records().insert({{f.field("what"), Value(fmt::format("here {}", round))}});
                    break;
                default: {
                    const auto& snapshot = f.session->snapshot();
                    if (snapshot->recordCount() == 0) break;
                    const SourceRow row =
                        snapshot->record(static_cast<std::int64_t>(random()) % snapshot->recordCount());
                    f.session->records().edit(row, f.field("what"), Value(fmt::format("edited {}", round)));
                }
            }
            if (random() % 8 == 0) f.session->reload();
            f.session->elsewhere().look();
            QTest::qWait(static_cast<int>(random() % 12));
            f.inbox.pump();
        }
        // Edits that lost against somebody's are put back: theirs is what is stored.
        const auto isEqual = [&] {
            f.session->records().revertAll();
            return !f.session->isLoading() && f.session->records().unsaved() == 0 &&
                   f.shown() == stored(path_.toStdString(), "jobs");
        };
        QVERIFY(f.comes(isEqual));
    }

    void aServerTellsByATrigger() {
        does(
            "CREATE SCHEMA yard; CREATE TABLE yard.crews (id integer PRIMARY KEY, name text); INSERT INTO yard.crews "
            "VALUES (1, 'Ines'), (2, 'Tomas'); CREATE TABLE yard.shifts (day date, \"slot's\" text, crew integer "
            "REFERENCES yard.crews, hours numeric(5,2), PRIMARY KEY (day, \"slot's\")); INSERT INTO yard.shifts SELECT "
            "date '2026-01-01' + i, 'early', i % 2 + 1, i FROM generate_series(1, 40) AS i");
        does(postgres::triggerSql("yard.shifts", {"day", "slot's"}));
        Following f(server_.address(), "yard.shifts");
        QVERIFY(f.failures.empty());
        QCOMPARE(f.told, 0);
        const auto cell = [&](SourceRow row, const char* name) {
            std::string out;
            appendPlain(out, f.session->snapshot()->value(row, f.field(name)));
            return out;
        };
        does("UPDATE yard.shifts SET hours = 7.5, crew = 2 WHERE day = '2026-01-05'");
        QVERIFY(f.comes([&] { return f.told == 1; }));
        const auto row = f.session->rowOf({Value(Date{20458}), Value(std::string("early"))});
        QVERIFY(row);
        QCOMPARE(cell(*row, "hours"), std::string("7.50"));
        QCOMPARE(cell(*row, "crew.name"), std::string("Tomas"));
        // A key that moves is one that goes and one that comes; own saves are no news.
        does("UPDATE yard.shifts SET \"slot's\" = 'late ''x''' WHERE day = '2026-01-06'");
        QVERIFY(f.comes([&] { return f.told == 3; }));
        QVERIFY(f.session->rowOf({Value(Date{20459}), Value(std::string("late 'x'"))}));
        f.session->records().edit(*row, f.field("hours"), Value(Decimal{800, 2}));
        QVERIFY(f.comes([&] { return f.session->records().unsaved() == 0; }));
        f.settle();
        QCOMPARE(f.told, 3);
        // Thousands in one go are compared as a whole.
        does(
            "UPDATE yard.shifts SET hours = 1; INSERT INTO yard.shifts SELECT date '2027-01-01' + i, 'early', 1, 2 "
            "FROM "
            "generate_series(1, 8000) AS i");
        QVERIFY(f.comes([&] { return f.count() == 8040; }));
        QVERIFY(f.comes([&] { return cell(*row, "hours") == "1.00"; }));
        // All at once, without a word of any record.
        does("CREATE TABLE yard.kept AS SELECT * FROM yard.shifts WHERE day < '2026-03-01'; TRUNCATE yard.shifts");
        QVERIFY(f.comes([&] { return f.count() == 0; }));
        does("INSERT INTO yard.shifts SELECT * FROM yard.kept");
        QVERIFY(f.comes([&] { return f.count() == 40; }));
        QVERIFY(f.comes([&] {
            return f.session->rowOf({Value(Date{20458}), Value(std::string("early"))}).has_value();
        }));
        const auto found = [&](const char* name) {
            const auto at = f.session->rowOf({Value(Date{20458}), Value(std::string("early"))});
            return at ? cell(*at, name) : std::string();
        };
        // The connection breaks: it is listened on again, and what was missed is seen.
        does("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'Jolly Row'");
        does("UPDATE yard.shifts SET hours = 3 WHERE day = '2026-01-05'");
        QVERIFY(f.comes([&] { return found("hours") == "3.00"; }));
        // What nobody of ours has said is no reason to trust it.
        does("SELECT pg_notify('jolly_row', '{broken'); SELECT pg_notify('jolly_row', '{\"table\":\"shifts\"}')");
        does("UPDATE yard.shifts SET hours = 4 WHERE day = '2026-01-05'");
        QVERIFY2(f.comes([&] { return found("hours") == "4.00"; }),
                 f.failures.empty() ? "" : f.failures.back().c_str());
    }

    /// A crew is called otherwise: shifts show it, by a trigger on the crews. What others tell of tables that have
    /// nothing to do with it is nothing to read anything for.
    void whatStandsInRelatedTablesIsFollowed() {
        does(
            "CREATE SCHEMA quay; CREATE TABLE quay.crews (id integer PRIMARY KEY, name text); INSERT INTO quay.crews "
            "VALUES (1, 'Ines'), (2, 'Tomas'); CREATE TABLE quay.shifts (id integer PRIMARY KEY, crew integer "
            "REFERENCES quay.crews, stood_in integer REFERENCES quay.shifts, hours integer); INSERT INTO quay.shifts "
            "SELECT i, i % 2 + 1, NULLIF(i - 1, 0), i FROM generate_series(1, 40) AS i; CREATE TABLE quay.other (id "
            "integer PRIMARY KEY)");
        does(postgres::triggerSql("quay.shifts", {"id"}, {"quay.crews"}));
        does(postgres::triggerSql("quay.other", {"id"}));
        Following f(server_.address(), "quay.shifts");
        QVERIFY(f.failures.empty());
        const auto crew = [&](std::int64_t id) {
            const auto row = f.session->rowOf({Value(id)});
            std::string out;
            if (row) appendPlain(out, f.session->snapshot()->value(*row, f.field("crew.name")));
            return out;
        };
        QCOMPARE(crew(2), std::string("Ines"));
        const int before = f.told;
        does("UPDATE quay.crews SET name = 'Ines Duarte' WHERE id = 1");
        QVERIFY(f.comes([&] { return crew(2) == "Ines Duarte"; }));
        QCOMPARE(crew(1), std::string("Tomas"));
        QCOMPARE(f.told - before, 20);
        QCOMPARE(f.reloads, 0);
        // A draft on another field stays a draft, and none is a conflict for a label.
        const auto row = f.session->rowOf({Value(std::int64_t{4})});
        f.session->records().edit(*row, f.field("hours"), Value(std::int64_t{99}));
        QVERIFY(f.comes([&] { return f.session->records().unsaved() == 0; }));
        does("UPDATE quay.crews SET name = NULL");
        QVERIFY(f.comes([&] { return crew(1).empty() && crew(4).empty(); }));
        QCOMPARE(f.session->records().unsaved(), std::size_t{0});
        const int told = f.told;
        does("INSERT INTO quay.other VALUES (1); UPDATE quay.other SET id = 2");
        f.settle();
        QCOMPARE(f.told, told);
        QVERIFY2(f.failures.empty(), f.failures.empty() ? "" : f.failures.back().c_str());
    }

    /// Keys of all types, with all that a text can have in it: hundreds of changes at a time, seen as they are stored.
    void whateverTheKeysAre_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<QString>("key");
        const auto row = [](const char* type, const char* key) { QTest::newRow(type) << type << key; };
        row("text", "(ARRAY['{', '}', '\"', '''', E'\\\\', ',', 'NULL', '(', '$1', ' ', E'\\t'])[i % 11 + 1] || i");
        row("varchar(12)", "'\"k' || i || '\"'");
        row("char(6)", "'c' || i");
        row("numeric(12,3)", "i / 8.0");
        row("bigint", "i::bigint * 10000000000");
        row("timestamp", "timestamp '2026-01-01' + i * interval '7 minutes 0.25 seconds'");
        row("timestamptz", "timestamptz '2026-03-28 22:00Z' + i * interval '17 minutes'");
        row("date", "date '2026-01-01' + i::int");
        row("uuid", "md5(i::text)::uuid");
        row("boolean", "i % 2 = 0");
    }
    void whateverTheKeysAre() {
        QFETCH(QString, type);
        QFETCH(QString, key);
        does(fmt::format(
            "DROP TABLE IF EXISTS odd; CREATE TABLE odd (k {} PRIMARY KEY, n integer, w text); INSERT INTO odd SELECT "
            "{}, i, 'at first' FROM generate_series(1, 300) AS i ON CONFLICT DO NOTHING",
            type.toStdString(), key.toStdString()));
        does(postgres::triggerSql("odd", {"k"}));
        Following f(server_.address(), "odd");
        QVERIFY2(f.failures.empty(), f.failures.empty() ? "" : f.failures.front().c_str());
        for (int turn = 0; turn < 3; ++turn) {
            does(fmt::format(
                "UPDATE odd SET w = 'turn {0}' WHERE n % 3 = {0} % 3; DELETE FROM odd WHERE n % 11 = {0}; INSERT INTO "
                "odd "
                "SELECT {1}, i, 'new {0}' FROM generate_series(301 + {0} * 20, 320 + {0} * 20) AS i ON CONFLICT DO "
                "NOTHING",
                turn, key.toStdString()));
            QVERIFY2(f.comes([&] { return f.shown() == stored(server_.address(), "odd"); }),
                     qPrintable(QString::number(turn)));
        }
        QVERIFY(f.failures.empty());
        QCOMPARE(f.reloads, 0);
    }

    /// Thousands that come at once are shown a few at a time, so that the window answers; also when the records are
    /// read again in the middle of it, and others go on writing.
    void manyAtOnceComeInPortions() {
        does(
            "DROP TABLE IF EXISTS odd; CREATE TABLE odd (k integer PRIMARY KEY, n integer, w text); INSERT INTO odd "
            "SELECT i, i, 'at "
            "first' FROM generate_series(1, 9000) AS i");
        does(postgres::triggerSql("odd", {"k"}));
        Following f(server_.address(), "odd");
        std::size_t most = 0, portions = 0;
        f.onElsewhere = [&](std::size_t records) { most = std::max(most, records), ++portions; };
        does("UPDATE odd SET w = 'then' WHERE k <= 4000");
        QVERIFY(f.comes([&] { return f.told == 4000; }));
        QVERIFY(portions >= 8 && most <= 500);
        QVERIFY(f.shown() == stored(server_.address(), "odd"));
        // Read again after the first portion, and changed again before the last.
        portions = 0;
        f.onElsewhere = [&](std::size_t) {
            if (++portions == 1) f.session->reload();
        };
        does("UPDATE odd SET w = 'later', n = n + 1 WHERE k BETWEEN 3000 AND 7500");
        QVERIFY(f.comes([&] { return portions >= 1; }));
        does(
            "UPDATE odd SET w = 'last' WHERE k % 7 = 0; DELETE FROM odd WHERE k % 11 = 0; INSERT INTO odd VALUES "
            "(20000, 1, 'new')");
        QVERIFY(f.comes([&] { return f.shown() == stored(server_.address(), "odd"); }));
        QVERIFY2(f.failures.empty(), f.failures.empty() ? "" : f.failures.front().c_str());
    }

    /// What is saved here while portions are still to come is newer than they are.
    void ownSavesBetweenPortions() {
        does(
            "DROP TABLE IF EXISTS odd; CREATE TABLE odd (k integer PRIMARY KEY, n integer, w text); INSERT INTO odd "
            "SELECT i, i, 'at first' FROM generate_series(1, 4500) AS i");
        does(postgres::triggerSql("odd", {"k"}));
        Following f(server_.address(), "odd");
        does("UPDATE odd SET w = 'told' WHERE k = 1");  // by its key, with all its values
        QVERIFY(f.comes([&] { return f.told > 0; }));
        f.settle();
        std::size_t portions = 0;
        f.onElsewhere = [&](std::size_t) {
            QTest::qSleep(15);  // the answer comes between two portions
            if (++portions > 1) return;
            for (const std::int64_t key : {4100, 4300, 4499})
                f.session->records().edit(*f.session->rowOf({Value(key)}), f.field("n"), Value(key * 10));
        };
        does("UPDATE odd SET w = 'then'");
        QVERIFY(f.comes([&] { return portions > 0 && f.session->records().unsaved() == 0; }));
        QVERIFY(f.comes([&] { return f.shown() == stored(server_.address(), "odd"); }));
        QCOMPARE(f.shown().at("4499"), std::string("44990|then|"));
        f.settle();
        QVERIFY(f.shown() == stored(server_.address(), "odd"));
    }
};

QTEST_GUILESS_MAIN(FollowTest)
#include "follow_test.moc"
