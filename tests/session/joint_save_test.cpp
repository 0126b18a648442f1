// SPDX-License-Identifier: MIT
// Several sessions on one database save in one transaction: a record and its lines stand or fall together.
#include <QtTest>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
constexpr const char* kOrders =
    "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT NOT NULL, hours INTEGER CHECK (hours < 100));"
    "CREATE TABLE lines (id INTEGER PRIMARY KEY, job INTEGER NOT NULL REFERENCES jobs(number), what TEXT UNIQUE);"
    "INSERT INTO jobs VALUES (1, 'rewire', 4); INSERT INTO lines VALUES (1, 1, 'cable');";
}  // namespace

class JointSaveTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<SessionFixture>(kOrders);
        QVERIFY(f_->open(Saving::Together));
        lines_ = std::make_unique<Session>([this](std::function<void()> call) { f_->inbox.post(std::move(call)); },
                                           SessionListener{});
        const auto source = openSource(f_->path());
        Design design = designFor(*(*source)->schema({"lines", ""}), {"sqlite", f_->path(), "lines", ""});
        design.grid.saving = Saving::Together;
        QVERIFY(lines_->open(design, f_->path()).ok());
        QVERIFY(f_->until([&] { return !lines_->isLoading() && lines_->snapshot()->table->complete; }));
    }
    void cleanup() {
        lines_.reset();
        f_.reset();
    }

    void aRecordAndItsLinesAreSavedTogether() {
        makeJob(2, 5);
        makeLine(2, "paint");
        makeLine(2, "brush");
        QCOMPARE(*saveTogether(), std::size_t{3});
        QVERIFY(settled());
        QCOMPARE(jobs().records().unsaved() + lines_->records().unsaved(), std::size_t{0});
        QCOMPARE(f_->stored("SELECT group_concat(job || what) FROM lines WHERE id > 1"), QString("2paint,2brush"));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 2"), QString("new"));
    }

    /// Both are given: neither alone would be taken by the database.
    void linksLookAtTheWhole() {
        makeLine(7, "first the line");
        makeJob(7, 5);
        QCOMPARE(*saveTogether({lines_.get(), &jobs()}), std::size_t{2});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM lines WHERE job = 7"), QString("1"));
    }

    void aLineThatIsRefusedHoldsTheRecordBack() {
        makeJob(2, 5);
        makeLine(2, "cable");  // another line has it
        QCOMPARE(*saveTogether(), std::size_t{2});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("1"));
        QCOMPARE(lines_->snapshot()->edits->count(EditState::Refused) > 0, true);
        QCOMPARE(jobs().snapshot()->edits->count(EditState::Refused), std::size_t{0});  // it is not to blame
        QCOMPARE(jobs().snapshot()->edits->fate(*made_)->state, EditState::Draft);
        lines_->records().edit(*line_, *lines_->schema().find("what"), text("rope"));
        QCOMPARE(*saveTogether(), std::size_t{2});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT what FROM lines WHERE job = 2"), QString("rope"));
    }

    void aRecordThatIsRefusedHoldsTheLinesBack() {
        makeJob(1, 5);  // the key is another's
        makeLine(1, "rope");
        QCOMPARE(*saveTogether(), std::size_t{2});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM lines"), QString("1"));
    }

    void whoHasNothingToSaveIsNotWaitedFor() {
        makeLine(1, "rope");
        QCOMPARE(*saveTogether(), std::size_t{1});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM lines WHERE job = 1"), QString("2"));
        QCOMPARE(*saveTogether(), std::size_t{0});
        QVERIFY(settled());
    }

    void aLockIsToldToBoth() {
        makeJob(2, 5);
        makeLine(2, "rope");
        sqlite3* other = f_->connection();
        QCOMPARE(sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        QCOMPARE(*saveTogether(), std::size_t{2});
        QVERIFY(settled());
        sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_close(other);
        QCOMPARE(jobs().snapshot()->edits->fate(*made_)->state, EditState::Refused);
        QCOMPARE(lines_->snapshot()->edits->fate(*line_)->state, EditState::Refused);
        QCOMPARE(*saveTogether(), std::size_t{2});
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM lines WHERE job = 2"), QString("1"));
    }

    void manyInARow() {
        for (int i = 0; i < 40; ++i) {
            makeJob(100 + i, 5);
            makeLine(100 + i, ("l" + std::to_string(i)).c_str());
            QCOMPARE(*saveTogether(i % 2 == 0 ? both() : std::vector<Session*>{lines_.get(), &jobs()}), std::size_t{2});
        }
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs JOIN lines ON job = number WHERE number >= 100"), QString("40"));
        QCOMPARE(jobs().records().unsaved() + lines_->records().unsaved(), std::size_t{0});
    }

    /// What is in conflict is decided first; nothing of the others is saved without it.
    void aRecordInConflictHoldsAllBack() {
        jobs().records().edit(f_->row(1), f_->field("work"), text("mine"));
        f_->run("UPDATE jobs SET work = 'theirs' WHERE number = 1");
        QCOMPARE(*saveTogether(), std::size_t{1});
        QVERIFY(settled());
        QCOMPARE(jobs().snapshot()->edits->count(EditState::Conflict), std::size_t{1});
        makeLine(1, "rope");
        const auto saved = saveTogether();
        QVERIFY(!saved.ok());
        QCOMPARE(saved.error().code, ErrorCode::Conflict);
        QCOMPARE(jobs().snapshot()->edits->count(EditState::Saving), std::size_t{0});
        QCOMPARE(lines_->snapshot()->edits->count(EditState::Saving), std::size_t{0});
        QCOMPARE(f_->stored("SELECT count(*) FROM lines"), QString("1"));
        jobs().records().resolve(f_->row(1), {{f_->field("work"), SessionRecords::Keep::Mine}});
        QVERIFY(settled());
        QVERIFY(saveTogether().ok());
        QVERIFY(settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 1"), QString("mine"));
        QCOMPARE(f_->stored("SELECT count(*) FROM lines"), QString("2"));
    }

    void otherSourcesAreRefused() {
        SessionFixture other(kOrders);
        QVERIFY(other.open(Saving::Together));
        makeJob(2, 5);
        const auto saved = saveTogether({&jobs(), other.session.get()});
        QVERIFY(!saved.ok());
        QCOMPARE(saved.error().code, ErrorCode::Unsupported);
        QCOMPARE(jobs().snapshot()->edits->count(EditState::Saving), std::size_t{0});
    }

    /// A session may end while the others still save: nobody waits for ever.
    void oneEndsMeanwhile() {
        makeJob(2, 5);
        makeLine(2, "rope");
        QCOMPARE(*saveTogether(), std::size_t{2});
        lines_.reset();
        f_->session.reset();
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs JOIN lines ON job = number WHERE number = 2"), QString("1"));
    }

  private:
    Session& jobs() { return *f_->session; }
    std::vector<Session*> both() { return {&jobs(), lines_.get()}; }
    Result<std::size_t> saveTogether(std::vector<Session*> sessions = {}) {
        if (sessions.empty()) sessions = both();
        std::vector<SessionRecords*> records;
        for (Session* session : sessions) records.push_back(&session->records());
        return SessionRecords::saveTogether(records);
    }
    void makeJob(std::int64_t number, std::int64_t hours) {
        const auto made = jobs().records().insert(
            {{f_->field("number"), number}, {f_->field("work"), text("new")}, {f_->field("hours"), hours}});
        QVERIFY(made.ok());
        made_ = *made;
    }
    void makeLine(std::int64_t job, const char* what) {
        const auto field = [&](const char* name) { return *lines_->schema().find(name); };
        const auto made = lines_->records().insert({{field("job"), job}, {field("what"), text(what)}});
        QVERIFY(made.ok());
        line_ = *made;
    }
    bool settled() {
        return f_->until([&] {
            return jobs().snapshot()->edits->count(EditState::Saving) == 0 &&
                   lines_->snapshot()->edits->count(EditState::Saving) == 0;
        });
    }
    std::unique_ptr<SessionFixture> f_;
    std::unique_ptr<Session> lines_;
    std::optional<SourceRow> made_, line_;
};

QTEST_GUILESS_MAIN(JointSaveTest)
#include "joint_save_test.moc"
