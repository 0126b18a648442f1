// SPDX-License-Identifier: MIT
// Session with its real threads and a hand-pumped owner's thread: load, sort, edit, save, refuse, conflict, reload,
// stop in the middle. Also run under ThreadSanitizer.
#include <QtTest>

#include <sqlite3.h>

#include <map>
#include <random>

#include "core/design/make_design.h"
#include "core/session/session.h"
#include "tests/hasty.h"
#include "tests/session/inbox.h"
#include "tests/stored_text.h"

using namespace jollyrow;

class SessionTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        path_ = folder_->filePath("yard.db");
        run("CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT NOT NULL, hours DECIMAL(6,2) CHECK (hours < "
            "400 OR typeof(hours) = 'blob'), rank INT);"  // no rule of ours: the database alone knows
            "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 3000) INSERT INTO jobs SELECT i, "
            "'job ' || i, i % 90 + 0.25, (i * 7919) % 3001 FROM c");
        inbox_ = std::make_unique<Inbox>();
        loads_ = answers_ = snapshots_ = 0;
        lastError_.clear();
        failures_.clear();
    }

    /// What cells held before, for trends: against a plain map by key, under edits, refusals, another writer, records
    /// that go and renumber.
    void earlierValuesGoWithTheirRecords() {
        Design design = designOf();
        design.faces = {{"trend", face::trend()}};
        design.column("hours")->face = "trend";
        run("DELETE FROM jobs WHERE number > 200");
        auto session = made();
        QVERIFY(session->open(design, path_.toStdString()).ok());
        QVERIFY(until([&] { return loads_ == 1; }));
        QVERIFY(session->plan().findings.empty());
        const FieldIndex hours = *session->schema().find("hours");
        QCOMPARE(session->plan().recorded, std::vector<FieldIndex>{hours});
        std::map<std::int64_t, double> now;
        std::map<std::int64_t, std::vector<double>> before;
        const auto read = [&] {
            std::map<std::int64_t, double> out;
            for (std::uint32_t row = 0; row < session->snapshot()->table->rows; ++row)
                out[std::get<std::int64_t>(
                    session->snapshot()->value(SourceRow{row}, *session->schema().find("number")))] =
                    numberIn(*session->snapshot()->table, session->snapshot()->edits.get(), SourceRow{row}, hours);
            return out;
        };
        now = read();
        std::mt19937 random(44);
        for (int turn = 0; turn < 60; ++turn) {
            const auto at = std::next(now.begin(), static_cast<std::ptrdiff_t>(random() % now.size()));
            const SourceRow row = *session->rowOf({at->first});
            const std::int64_t number = static_cast<std::int64_t>(random() % 300) * 100 + 25;
            const int loads = loads_;
            switch (random() % 4) {
                case 0:
                case 1:
                    session->records().edit(row, hours, Decimal{number, 2});
                    QVERIFY(until([&] { return session->records().unsaved() == 0; }));
                    break;
                case 2: {  // refused by the database, and put back: no change
                    const int answers = answers_;
                    session->records().edit(row, hours, Decimal{45000, 2});
                    QVERIFY(until([&] { return answers_ > answers; }));
                    session->records().putBack(row, hours);
                    break;
                }
                case 3:
                    run(QString(
                            "UPDATE jobs SET hours = %1 WHERE number % 7 = %2; DELETE FROM jobs WHERE number % 97 = %3")
                            .arg(static_cast<double>(number) / 100)
                            .arg(random() % 7)
                            .arg(random() % 97)
                            .toUtf8()
                            .constData());
                    session->reload();
                    QVERIFY(until([&] { return loads_ > loads && !session->isLoading(); }));
                    break;
            }
            const auto then = read();
            std::map<std::int64_t, std::vector<double>> kept;
            for (const auto& [key, value] : then) {
                kept[key] = before[key];
                if (now.at(key) != value) kept[key].push_back(now.at(key));
            }
            before = std::move(kept);
            now = then;
            for (const auto& [key, values] : before)
                QCOMPARE(session->snapshot()->recorded->before(*session->rowOf({key}), hours), values);
        }
        QVERIFY(std::any_of(before.begin(), before.end(), [](const auto& cell) { return cell.second.size() > 3; }));
        // The face shows them, and what is there now behind them.
        const auto longest = std::max_element(before.begin(), before.end(), [](const auto& a, const auto& b) {
            return a.second.size() < b.second.size();
        });
        for (const PlannedColumn& column : session->plan().columns)
            if (column.face) {
                FaceReader reader(*session->snapshot(), column.face);
                FaceContent content;
                reader.read(*session->rowOf({longest->first}), content);
                std::vector<double> expected = longest->second;
                expected.push_back(now.at(longest->first));
                QCOMPARE(content.parts.front().numbers, expected);
            }
    }

    void opensLoadsAndSorts() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1 && session->snapshot()->table->complete; }));
        QCOMPARE(session->snapshot()->lineCount(), std::int64_t{3000});
        sortBy(*session, "rank");
        QVERIFY(until([&] { return session->snapshot()->order != nullptr; }));
        std::int64_t before = -1;
        for (std::int64_t line = 0; line < 3000; ++line) {
            const auto rank = std::get<std::int64_t>(session->snapshot()->value(
                session->snapshot()->line(ViewLine{line}).row, *session->schema().find("rank")));
            QVERIFY(rank >= before);
            before = rank;
        }
        QVERIFY(session->snapshot()->sort.milliseconds > 0);
    }

    /// Another program holds the database while a form opens: nothing waits here, and all comes when it lets go.
    void aLockedDatabaseIsOpenedBehind() {
        Design design = designOf();
        sqlite3* other = lock();
        const Hasty hasty;
        auto session = made();
        // If this waited it would wait for ever: the lock is held by this very thread.
        QVERIFY(session->open(design, path_.toStdString()).ok());
        QVERIFY(session->isLoading());
        QVERIFY(session->schema().fields.empty());
        QVERIFY(session->plan().columns.empty() && session->plan().findings.empty());
        QCOMPARE(session->snapshot()->lineCount(), std::int64_t{0});
        // The design changes meanwhile; that is what is opened.
        design.sort.push_back({});
        design.sort.back().field = "rank";
        session->setDesign(design);
        QVERIFY(session->plan().findings.empty());
        unlock(other);
        QVERIFY(until([&] { return loads_ == 1; }));
        QVERIFY2(lastError_.empty(), lastError_.c_str());
        QVERIFY(until([&] { return session->snapshot()->order != nullptr; }));
        QCOMPARE(session->snapshot()->lineCount(), std::int64_t{3000});
        QCOMPARE(session->plan().columns.size(), design.columns.size());
    }

    void aDatabaseLockedForGoodIsSaidAndTriedAgain() {
        const Design design = designOf();
        sqlite3* other = lock();
        const Hasty hasty;
        auto session = made();
        QVERIFY(session->open(design, path_.toStdString()).ok());
        QVERIFY(until([&] { return loads_ == 1; }, 30000));
        QVERIFY2(lastError_.find("locked by another program") != std::string::npos, lastError_.c_str());
        QVERIFY(!session->isLoading());
        unlock(other);
        lastError_.clear();
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QVERIFY2(lastError_.empty(), lastError_.c_str());
        QCOMPARE(session->snapshot()->lineCount(), std::int64_t{3000});
    }

    /// Related fields are asked for while the database is locked: they come when it is free.
    void relatedFieldsOfALockedDatabaseComeLater() {
        run("CREATE TABLE ranks (id INTEGER PRIMARY KEY, title TEXT); INSERT INTO ranks SELECT value, 'rank ' || value "
            "FROM "
            "(WITH RECURSIVE c(value) AS (SELECT 0 UNION ALL SELECT value + 1 FROM c WHERE value < 3001) SELECT value "
            "FROM c);"
            "CREATE TABLE posts (number INTEGER PRIMARY KEY, rank INTEGER REFERENCES ranks(id));"
            "INSERT INTO posts SELECT number, rank FROM jobs");
        auto source = openSource(path_.toStdString());
        Design design = designFor(*(*source)->schema({"posts", ""}), {"sqlite", path_.toStdString(), "posts", ""});
        for (ColumnDesign& column : design.columns) column.label = "id";
        auto session = made();
        QVERIFY(session->open(design, path_.toStdString()).ok());
        QVERIFY(until([&] { return loads_ == 1; }));
        sqlite3* other = lock();
        const Hasty hasty;
        ColumnDesign title;
        title.field = "rank.title";
        title.heading = "Title";
        design.columns.push_back(title);
        session->setDesign(design);
        QVERIFY(!session->schema().find("rank.title"));
        unlock(other);
        QVERIFY(until([&] { return session->schema().find("rank.title").has_value(); }));
        QVERIFY(until([&] { return loads_ == 2 && !session->isLoading(); }));
        const auto field = *session->schema().find("rank.title");
        const auto rank = *session->schema().find("rank");
        for (std::uint32_t row : {0U, 999U, 2999U})
            QCOMPARE(
                std::get<std::string>(session->snapshot()->value(SourceRow{row}, field)),
                "rank " + std::to_string(std::get<std::int64_t>(session->snapshot()->value(SourceRow{row}, rank))));
    }

    void anEditIsShownAtOnceSavedAndOutlivesReloadAndSort() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        const FieldIndex hours = *session->schema().find("hours");
        session->records().edit(SourceRow{4}, hours, Decimal{1275, 2});
        QCOMPARE(session->snapshot()->value(SourceRow{4}, hours), Value(Decimal{1275, 2}));
        QCOMPARE(session->records().unsaved(), std::size_t{1});
        QVERIFY(until([&] { return answers_ == 1; }));
        QCOMPARE(session->records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT hours FROM jobs WHERE number = 5"), QString("12.75"));
        session->records().edit(SourceRow{4}, hours, Decimal{1300, 2});  // a second one builds on what the first left
        QVERIFY(until([&] { return answers_ == 2; }));
        QCOMPARE(stored("SELECT hours FROM jobs WHERE number = 5"), QString("13"));
        sortBy(*session, "hours");
        QVERIFY(until([&] { return session->snapshot()->order != nullptr; }));
        QCOMPARE(session->snapshot()->value(SourceRow{4}, hours), Value(Decimal{1300, 2}));
        QVERIFY(!session->view().orderIsStale());
        session->records().edit(SourceRow{4}, hours, Decimal{25, 2});
        QVERIFY(session->view().orderIsStale());
        QVERIFY(until([&] { return answers_ == 3; }));
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QCOMPARE(session->snapshot()->value(SourceRow{4}, hours), Value(Decimal{25, 2}));
    }

    void aRefusedEditIsKeptAndCanBePutBackOrRetried() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        const FieldIndex hours = *session->schema().find("hours");
        const Value original = session->snapshot()->value(SourceRow{9}, hours);
        session->records().edit(SourceRow{9}, hours, Decimal{50000, 2});
        QVERIFY(until([&] { return answers_ == 1; }));
        const CellEdit* edit = session->snapshot()->edits->find(SourceRow{9}, hours);
        QVERIFY(edit && edit->state == EditState::Refused && !edit->message.empty());
        QCOMPARE(session->snapshot()->value(SourceRow{9}, hours), Value(Decimal{50000, 2}));
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QCOMPARE(session->records().unsaved(), std::size_t{1});  // a reload does not lose it
        run("CREATE TABLE t2 AS SELECT * FROM jobs; DROP TABLE jobs; CREATE TABLE jobs (number INTEGER PRIMARY KEY, "
            "work TEXT NOT NULL, hours DECIMAL(6,2), rank INT); INSERT INTO jobs SELECT * FROM t2");
        session->records().retry(SourceRow{9}, hours);
        QVERIFY(until([&] { return answers_ == 2; }));
        QCOMPARE(stored("SELECT hours FROM jobs WHERE number = 10"), QString("500"));
        session->records().edit(SourceRow{8}, *session->schema().find("work"), Empty{});
        // What the schema says is known before the database is asked.
        const RecordEdit* blocked = session->snapshot()->edits->record(SourceRow{8});
        QVERIFY(problemAt(*blocked, *session->schema().find("work")) && isBlocked(*blocked));
        session->records().putBack(SourceRow{8}, *session->schema().find("work"));
        QCOMPARE(session->snapshot()->value(SourceRow{8}, *session->schema().find("work")),
                 Value(std::string("job 9")));
        QCOMPARE(session->records().unsaved(), std::size_t{0});
        QVERIFY(original != Value(Decimal{50000, 2}));
    }

    /// A computed column follows its record at once, a sum over all soon; what it sorts stays until asked.
    void computedColumnsFollowEdits() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        Design design = session->design();
        const auto add = [&](const char* name, const char* rule) {
            ColumnDesign column;
            column.field = column.heading = name;
            column.rule = rule;
            design.columns.push_back(column);
        };
        add("cost", "hours * 40");
        add("share", "cost / SUM(cost) OVER ()");
        design.sort = {{.field = "cost"}};
        design.filter = {{"cost > 20", {}, {}, true}};
        session->setDesign(design);
        const FieldIndex hours = *session->schema().find("hours"), cost = *session->schema().find("cost"),
                         share = *session->schema().find("share");
        QVERIFY(until([&] { return session->snapshot()->order && session->snapshot()->table->column(share); }));
        const auto lines = session->snapshot()->lineCount();
        QCOMPARE(lines, std::int64_t{3000 - 33});  // those of 0.25 hours are out
        const SourceRow first = session->snapshot()->line(ViewLine{0}).row;
        const Value before = session->snapshot()->value(first, share);
        session->records().edit(first, hours, Decimal{30025, 2});
        QCOMPARE(session->snapshot()->value(first, cost), Value(Decimal{1201000, 2}));
        QVERIFY(session->view().orderIsStale());
        QVERIFY(until([&] { return answers_ == 1 && session->snapshot()->value(first, share) != before; }));
        QVERIFY(session->snapshot()->line(ViewLine{0}).row == first);
        QVERIFY(session->view().orderIsStale());
        session->view().resort();
        QVERIFY(until([&] { return session->snapshot()->line(ViewLine{lines - 1}).row == first; }));
        QCOMPARE(session->snapshot()->value(first, cost), Value(Decimal{1201000, 2}));
        // Away with it, and back: the sort goes with it, the edit stays.
        const Design with = design;
        design.columns.pop_back();
        design.columns.pop_back();
        session->setDesign(design);
        QVERIFY(!session->schema().find("cost"));
        QCOMPARE(session->plan().findings.size(), std::size_t{2});
        session->setDesign(with);
        QVERIFY(until([&] { return session->snapshot()->table->column(*session->schema().find("share")); }));
        QCOMPARE(session->snapshot()->value(first, *session->schema().find("cost")), Value(Decimal{1201000, 2}));
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QCOMPARE(session->snapshot()->value(first, *session->schema().find("cost")), Value(Decimal{1201000, 2}));
        session->records().edit(first, hours, Empty{});
        QCOMPARE(session->snapshot()->value(first, *session->schema().find("cost")), Value(Empty{}));
        QVERIFY(until([&] { return answers_ == 2; }));
    }

    void somebodyElsesChangeIsAConflict() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        run("UPDATE jobs SET work = 'theirs' WHERE number = 3");
        session->records().edit(SourceRow{2}, *session->schema().find("work"), std::string("mine"));
        QVERIFY(until([&] { return answers_ == 1; }));
        const CellEdit* edit = session->snapshot()->edits->find(SourceRow{2}, *session->schema().find("work"));
        QVERIFY(edit->state == EditState::Conflict && edit->message.find("theirs") != std::string::npos);
        QCOMPARE(*edit->theirs, Value(std::string("theirs")));
        QCOMPARE(stored("SELECT work FROM jobs WHERE number = 3"), QString("theirs"));
        // Records that came before shift the rows; the edit stays with its record.
        run("INSERT INTO jobs VALUES (-5, 'first', 1, 1)");
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QVERIFY(!session->snapshot()->edits->find(SourceRow{2}, *session->schema().find("work")));
        QVERIFY(session->snapshot()->edits->find(SourceRow{3}, *session->schema().find("work")));
        session->records().retry(SourceRow{3}, *session->schema().find("work"));
        QVERIFY(until([&] { return answers_ == 2; }));
        QCOMPARE(stored("SELECT work FROM jobs WHERE number = 3"), QString("mine"));
    }

    void aTableThatWasAlteredIsPlannedAgain() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        sortBy(*session, "rank");
        QVERIFY(until([&] { return session->snapshot()->order != nullptr; }));
        session->records().edit(SourceRow{9}, *session->schema().find("hours"), Decimal{50000, 2});  // refused, kept
        QVERIFY(until([&] { return answers_ == 1; }));
        run("ALTER TABLE jobs DROP COLUMN rank; ALTER TABLE jobs DROP COLUMN work; ALTER TABLE jobs ADD COLUMN place "
            "TEXT DEFAULT 'shed'");
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QCOMPARE(session->plan().columns.size(), std::size_t{2});   // number and hours are left of the design's
        QCOMPARE(session->plan().findings.size(), std::size_t{3});  // work, rank, and the key by rank
        QVERIFY(session->snapshot()->order == nullptr);
        QCOMPARE(session->snapshot()->value(SourceRow{0}, *session->schema().find("place")),
                 Value(std::string("shed")));
        QCOMPARE(session->snapshot()->value(SourceRow{1}, *session->schema().find("hours")), Value(Decimal{225, 2}));
        run("ALTER TABLE jobs ADD COLUMN rank INT DEFAULT 7");
        session->reload();
        QVERIFY(until([&] { return loads_ == 3; }));
        QVERIFY(session->snapshot()->order != nullptr);
    }

    void aChangedKeyIsFollowed() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        session->records().edit(SourceRow{0}, *session->schema().find("number"), std::int64_t{9000});
        session->records().edit(SourceRow{0}, *session->schema().find("work"), std::string("moved"));
        QVERIFY(until([&] { return answers_ == 2; }));
        QCOMPARE(stored("SELECT work FROM jobs WHERE number = 9000"), QString("moved"));
    }

    void manyEditsAtOnceAllArrive() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        const FieldIndex work = *session->schema().find("work");
        for (std::uint32_t row = 0; row < 60; ++row) {
            session->records().edit(SourceRow{row}, work, std::string("a"));
            session->records().edit(SourceRow{row}, work, std::string("b") + std::to_string(row));
        }
        QVERIFY(until([&] { return session->records().unsaved() == 0; }));
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE work = 'b' || (number - 1)"), QString("60"));
    }

    void endingInTheMiddleSavesWhatWasBegun() {
        for (int round = 0; round < 10; ++round) {
            auto session = opened();
            until([&] { return session->snapshot()->table->rows > 0; });
            session->records().edit(SourceRow{1}, *session->schema().find("work"), "round " + std::to_string(round));
            session->reload();
            sortBy(*session, "rank");
            session.reset();
            inbox_->pump();  // what was on its way finds nobody and does nothing
            QCOMPARE(stored("SELECT work FROM jobs WHERE number = 2"), QString("round %1").arg(round));
        }
    }

    void whatIsKeptOverAReloadMeansTheSameRecord() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        const FieldIndex number = *session->schema().find("number"), work = *session->schema().find("work");
        const RowRef hundred = session->refOf(SourceRow{99}), gone = session->refOf(SourceRow{4});
        run("DELETE FROM jobs WHERE number <= 10");
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QVERIFY(!session->now(gone));
        const auto row = session->now(hundred);
        QVERIFY(row && *row == SourceRow{89});
        QCOMPARE(session->snapshot()->value(*row, number), Value(std::int64_t{100}));
        session->records().edit(*row, number, std::int64_t{70000});
        QVERIFY(until([&] { return session->records().unsaved() == 0; }));
        session->reload();
        QVERIFY(until([&] { return loads_ == 3; }));
        const auto moved = session->now(hundred);
        QVERIFY(moved);
        QCOMPARE(session->snapshot()->value(*moved, work), Value(std::string("job 100")));
        QCOMPARE(session->rowOf({std::int64_t{70000}}), moved);
        QVERIFY(!session->rowOf({std::int64_t{100}}));
    }

    void anEditThatLosesItsRecordIsSaid() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        session->records().edit(SourceRow{9}, *session->schema().find("hours"), Decimal{50000, 2});  // refused
        QVERIFY(until([&] { return answers_ == 1; }));
        run("DELETE FROM jobs WHERE number = 10");
        session->reload();
        QVERIFY(until([&] { return loads_ == 2; }));
        QVERIFY2(failures_.contains("500.00") && failures_.contains("hours"), qPrintable(failures_));
        QCOMPARE(session->records().unsaved(), std::size_t{0});
    }

    /// Told at once, or a moment later where reading it takes longer; never taken for an empty database.
    void aDamagedDatabaseIsRefused() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        const QString damaged = path_ + QStringLiteral(".damaged");
        QVERIFY(QFile::copy(path_, damaged));
        QFile file(damaged);
        QVERIFY(file.open(QIODevice::ReadWrite));
        file.seek(100);
        file.write(QByteArray(500, 'x'));
        file.close();
        const auto done = session->open(session->design(), damaged.toStdString());
        QVERIFY(until([&] { return !session->isLoading(); }));
        const QString why = QString::fromStdString(done ? lastError_ : done.error().message);
        QVERIFY2(why.contains(QStringLiteral("is damaged")), qPrintable(why));
        if (!done) QCOMPARE(session->snapshot()->lineCount(), std::int64_t{3000});
    }

    void openingWhatIsNotThereChangesNothing() {
        auto session = opened();
        QVERIFY(until([&] { return loads_ == 1; }));
        QVERIFY(!session->open(session->design(), "/nowhere/at/all.db").ok());
        QCOMPARE(session->snapshot()->lineCount(), std::int64_t{3000});
    }

  private:
    sqlite3* lock() {
        sqlite3* other = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &other);
        if (sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr) != SQLITE_OK) qFatal("no lock");
        return other;
    }
    static void unlock(sqlite3* other) {
        sqlite3_exec(other, "COMMIT", nullptr, nullptr, nullptr);
        sqlite3_close(other);
    }
    Design designOf() {
        auto source = openSource(path_.toStdString());
        return designFor(*(*source)->schema({"jobs", ""}), {"sqlite", path_.toStdString(), "jobs", ""});
    }
    std::unique_ptr<Session> made() {
        SessionListener listener;
        listener.onSnapshot = [this] { ++snapshots_; };
        listener.onLoaded = [this](const Result<void>& result) {
            ++loads_;
            if (!result) lastError_ = result.error().message;
        };
        listener.onFailure = [this](const Error& error) { failures_ += QString::fromStdString(error.message); };
        listener.onEditAnswered = [this](SourceRow, FieldIndex, const CellEdit&) { ++answers_; };
        return std::make_unique<Session>([this](std::function<void()> call) { inbox_->post(std::move(call)); },
                                         listener);
    }
    std::unique_ptr<Session> opened() {
        auto session = made();
        loads_ = 0;
        if (!session->open(designOf(), path_.toStdString()).ok()) qFatal("the session did not open");
        return session;
    }
    static void sortBy(Session& session, const char* field) {
        Design design = session.design();
        design.sort = {{field, Direction::Ascending, Empties::Last}};
        session.setDesign(design);
    }
    bool until(const std::function<bool()>& reached, int mostMs = 20000) {
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < mostMs) {
            inbox_->pump();
            if (reached()) return true;
            QThread::msleep(2);
        }
        return false;
    }
    void run(const char* sql) {
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_busy_timeout(db, 5000);
        char* message = nullptr;
        if (sqlite3_exec(db, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(db);
    }
    QString stored(const char* sql) { return test::storedText(path_, sql); }

    std::unique_ptr<QTemporaryDir> folder_;
    QString path_;
    std::unique_ptr<Inbox> inbox_;
    int loads_ = 0, answers_ = 0, snapshots_ = 0;
    std::string lastError_;
    QString failures_;
};

QTEST_GUILESS_MAIN(SessionTest)
#include "session_test.moc"
