// SPDX-License-Identifier: MIT
// What a trial on a copy comes to, saved in the database itself: against a trial made there, at random; and what has
// changed there meanwhile is not written over.
#include <QtTest>

#include <random>

#include "core/editing/trial_log.h"
#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const std::string& value) { return value; }
constexpr const char* kTrial =
    "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, hours INTEGER, tag TEXT UNIQUE);"
    "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 12) "
    "INSERT INTO jobs SELECT i, 'w' || i, i, 't' || i FROM c;";
constexpr const char* kTwoTables =
    "CREATE TABLE firms (id INTEGER PRIMARY KEY, name TEXT);"
    "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, firm INTEGER REFERENCES firms(id));"
    "INSERT INTO firms VALUES (1, 'Anna'), (2, 'Alva');"
    "INSERT INTO jobs VALUES (1, 'w1', 1), (2, 'w2', 2), (3, 'w3', 1);";
constexpr const char* kAll =
    "SELECT group_concat(coalesce(work, '-') || coalesce(hours, '-') || coalesce(tag, '-'), '|') FROM (SELECT * FROM "
    "jobs "
    "ORDER BY work, hours, tag)";
}  // namespace

class TrialLogTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatIsKeptIsWhatWasTried() {
        std::mt19937 dice(6);
        int inserts = 0, deletes = 0, edits = 0;
        for (int turn = 0; turn < 25; ++turn) {
            SessionFixture real(kTrial);
            begin();
            for (int step = 0; step < 40; ++step) {
                const Snapshot& shown = *session().snapshot();
                const auto count = static_cast<unsigned long>(shown.recordCount());
                const SourceRow row = count == 0 ? kNoRow : shown.record(static_cast<std::int64_t>(dice() % count));
                switch (dice() % 8) {
                    case 0: {
                        const auto made =
                            session().records().insert({{copy_->field("work"), text("n" + std::to_string(step))}});
                        session().records().leave(*made);
                        ++inserts;
                        break;
                    }
                    case 1:
                        if (row != kNoRow) session().records().remove({row});
                        ++deletes;
                        break;
                    case 2: session().steps().undo(); break;
                    case 3:
                        if (row != kNoRow)
                            session().records().edit(
                                row, copy_->field("tag"),
                                dice() % 3 == 0 ? Value(Empty{}) : text("t" + std::to_string(dice() % 30)));
                        break;
                    case 4:
                        if (row != kNoRow)
                            session().records().edit(row, copy_->field("number"), Value(std::int64_t{100} + step));
                        break;
                    default:
                        if (row != kNoRow)
                            session().records().edit(row, copy_->field("hours"),
                                                     Value(static_cast<std::int64_t>(dice() % 50)));
                        ++edits;
                }
                QVERIFY(copy_->settled());
                session().records().revertAll();  // what the copy refused was not tried
                QVERIFY(copy_->settled());
                if (dice() % 10 == 0) QVERIFY(copy_->reload());
            }
            auto store = openStore(real.path());
            const auto kept = log_->keep(**store);
            QVERIFY2(kept.ok(), kept.ok() ? "" : kept.error().message.c_str());
            QCOMPARE(real.stored(kAll), copy_->stored(kAll));
        }
        QVERIFY(inserts > 40 && deletes > 40 && edits > 200);
    }

    void whatComesToNothingIsNothing() {
        begin();
        session().records().edit(copy_->row(1), copy_->field("hours"), Value(std::int64_t{50}));
        QVERIFY(copy_->settled());
        QCOMPARE(log_->records(), std::size_t{1});
        session().records().edit(copy_->row(1), copy_->field("hours"), Value(std::int64_t{1}));
        const auto made = session().records().insert({{copy_->field("work"), text("x")}});
        session().records().leave(*made);
        QVERIFY(copy_->settled());
        QCOMPARE(log_->records(), std::size_t{1});
        session().records().remove({*made});
        QVERIFY(copy_->settled());
        QCOMPARE(log_->records(), std::size_t{0});
    }

    /// Deleted and brought back in the trial: what hangs on it there is what hung on it there, not what the copy had.
    void whatGoesAlongThereComesBackThere() {
        constexpr const char* kLines =
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT);"
            "CREATE TABLE lines (id INTEGER PRIMARY KEY, job INTEGER REFERENCES jobs ON DELETE CASCADE, note TEXT);"
            "INSERT INTO jobs VALUES (1, 'w1'), (2, 'w2'), (3, 'w3');"
            "INSERT INTO lines VALUES (10, 1, 'a'), (11, 1, 'b'), (12, 2, 'c')";
        SessionFixture real(kLines);
        begin(kLines);
        for (const std::int64_t number : {1, 3}) {
            session().records().remove({copy_->row(number)});
            QVERIFY(copy_->settled());
            QVERIFY(session().steps().undo());
            QVERIFY(copy_->settled());
        }
        session().records().remove({copy_->row(2)});
        QVERIFY(copy_->settled());
        real.run(
            "UPDATE lines SET note = 'theirs' WHERE id = 11; INSERT INTO lines VALUES (13, 1, 'new'), (14, 3, 'd')");
        auto store = openStore(real.path());
        const auto kept = log_->keep(**store);
        QVERIFY2(kept.ok(), kept.ok() ? "" : kept.error().message.c_str());
        QCOMPARE(real.stored("SELECT group_concat(number || work) FROM (SELECT * FROM jobs ORDER BY number)"),
                 QString("1w1,3w3"));
        QCOMPARE(real.stored("SELECT group_concat(id || ':' || job || note) FROM (SELECT * FROM lines ORDER BY id)"),
                 QString("10:1a,11:1theirs,13:1new,14:3d"));
    }

    /// Somebody has worked in the database meanwhile.
    void whatChangedMeanwhileIsNotWrittenOver() {
        SessionFixture real(kTrial);
        begin();
        session().records().edit(copy_->row(1), copy_->field("work"), text("tried"));
        session().records().edit(copy_->row(2), copy_->field("work"), text("tried, too"));
        QVERIFY(copy_->settled());
        real.run("UPDATE jobs SET work = 'theirs' WHERE number = 2");
        auto store = openStore(real.path());
        const auto kept = log_->keep(**store);
        QVERIFY(!kept.ok());
        QCOMPARE(kept.error().code, ErrorCode::Conflict);
        QVERIFY2(kept.error().message.find("The record 2") == 0, kept.error().message.c_str());
        QCOMPARE(real.stored("SELECT count(*) FROM jobs WHERE work LIKE 'tried%'"), QString("0"));
        real.run("UPDATE jobs SET work = 'w2' WHERE number = 2");
        QVERIFY(log_->keep(**store).ok());
        QCOMPARE(real.stored("SELECT count(*) FROM jobs WHERE work LIKE 'tried%'"), QString("2"));
    }

    void whatIsRefusedThereIsSaid() {
        SessionFixture real(kTrial);
        begin();
        const auto made =
            session().records().insert({{copy_->field("work"), text("x")}, {copy_->field("tag"), text("new")}});
        session().records().leave(*made);
        QVERIFY(copy_->settled());
        real.run("UPDATE jobs SET tag = 'new' WHERE number = 5");
        auto store = openStore(real.path());
        const auto kept = log_->keep(**store);
        QVERIFY(!kept.ok());
        QVERIFY2(kept.error().message.find("A new record") == 0, kept.error().message.c_str());
        QCOMPARE(real.stored("SELECT count(*) FROM jobs"), QString("12"));
    }

    /// Two tables whose keys run in step, as ids do: the record of one is never taken for that of the other.
    void recordsOfTwoTablesAreKeptApart() {
        SessionFixture real(kTwoTables);
        TrialLog log;
        log.setTable("jobs");
        const auto schemaOf = [](const std::string& path, const char* table) {
            return SharedSchema(*(*openSource(path))->schema({table, ""}));
        };
        const SharedSchema jobs = schemaOf(real.path(), "jobs"), firms = schemaOf(real.path(), "firms");
        const auto insert = [](const SharedSchema& schema, std::vector<FieldChange> changes) {
            return RecordWrite{schema, {}, false, {FieldIndex{}}, std::move(changes), RecordChange::Insert};
        };
        const auto did = [&](const RecordWrite& write, std::int64_t key) {
            const Outcome stored = StoredRecord{{Value(key)}, {}};
            log.note({&write, 1}, {&stored, 1});
        };
        const FieldIndex name = *firms->find("name"), firm = *jobs->find("firm"), work = *jobs->find("work");
        did(insert(firms, {{name, Empty{}, text("Brae")}}), 3);  // 3 is a job, too
        did(RecordWrite{jobs,
                        {Value(std::int64_t{3})},
                        false,
                        {FieldIndex{}},
                        {{firm, Value(std::int64_t{1}), Value(std::int64_t{3})}}},
            3);
        did(insert(jobs, {{work, Empty{}, text("new")}}), 4);
        QCOMPARE(log.records(), std::size_t{3});
        auto store = openStore(real.path());
        // Somebody has added a firm there meanwhile: the job would point to that one.
        real.run("INSERT INTO firms VALUES (3, 'Theirs')");
        QVERIFY(!log.keep(**store).ok());
        QCOMPARE(real.stored("SELECT count(*) FROM jobs WHERE firm = 3 OR work = 'new'"), QString("0"));
        // Once that one is gone, all is kept as it was tried.
        real.run("DELETE FROM firms WHERE id = 3");
        const auto kept = log.keep(**store);
        QVERIFY2(kept.ok(), kept.ok() ? "" : kept.error().message.c_str());
        QCOMPARE(real.stored("SELECT f.name FROM jobs j JOIN firms f ON f.id = j.firm WHERE j.number = 3"),
                 QString("Brae"));
        QCOMPARE(real.stored("SELECT count(*) FROM jobs WHERE work = 'new'"), QString("1"));
    }

  private:
    Session& session() { return *copy_->session; }
    void begin(const char* sql = kTrial) {
        copy_ = std::make_unique<SessionFixture>(sql);
        log_ = std::make_shared<TrialLog>();
        SessionListener listener;
        listener.onLoaded = [this](const Result<void>&) { ++copy_->loads; };
        copy_->session = std::make_unique<Session>(
            [this](std::function<void()> call) { copy_->inbox.post(std::move(call)); }, std::move(listener));
        const auto source = openSource(copy_->path());
        const auto open = TrialLog::noting(log_, [path = copy_->path()] { return openStore(path); });
        QVERIFY(session().open(copy_->design(), *source, open).ok());
        QVERIFY(copy_->until([&] { return copy_->loads > 0; }));
    }
    std::unique_ptr<SessionFixture> copy_;
    std::shared_ptr<TrialLog> log_;
};

QTEST_GUILESS_MAIN(TrialLogTest)
#include "trial_log_test.moc"
