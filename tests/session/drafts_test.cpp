// SPDX-License-Identifier: MIT
// Drafts that outlive their session: taken up again where their records stand by then, in conflict where somebody has
// written since, and never when the database has them already.
#include <QtTest>

#include <sys/stat.h>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
}  // namespace

class DraftsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<SessionFixture>(kJobs);
        f_->drafts = f_->folder.filePath("state").toStdString();
    }
    void cleanup() { f_.reset(); }

    void draftsAreOfferedAgain() {
        QVERIFY(f_->open(Saving::Together));
        QCOMPARE(f_->draftsLeft, 0);
        session().records().edit(f_->row(20), f_->field("work"), text("sand"));
        session().records().edit(f_->row(30), f_->field("work"), text("mine"));
        session().records().remove({f_->row(40)});
        QVERIFY(session().records().insert({{f_->field("work"), text("new")}}).ok());
        QVERIFY(f_->settled());
        f_->session.reset();
        f_->run("UPDATE jobs SET work = 'theirs' WHERE number = 30; INSERT INTO jobs (number, work) VALUES (5, 'x')");
        QVERIFY(f_->open(Saving::Together));
        QVERIFY(f_->until([&] { return f_->draftsLeft == 1; }));
        QCOMPARE(session().drafts().left().size(), std::size_t{4});
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(session().drafts().takeUp(), std::size_t{4});
        QVERIFY(f_->until([&] { return f_->shown("work") == "x,rewire,sand,mine,step mast,new"; }));
        QCOMPARE(f_->state(f_->row(20), "work"), EditState::Draft);
        QCOMPARE(f_->state(f_->row(30), "work"), EditState::Conflict);
        QCOMPARE(session().snapshot()->edits->fate(f_->row(40))->change, RecordChange::Delete);
        session().records().resolve(f_->row(30), {});
        session().records().saveAll();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM (SELECT work FROM jobs ORDER BY number)"),
                 QString("x,rewire,sand,mine,new"));
        f_->session.reset();
        QVERIFY(f_->open());
        QVERIFY(f_->settled());
        QCOMPARE(f_->draftsLeft, 1);  // nothing is left
    }

    void whatIsDroppedIsGone() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("work"), text("sand"));
        QVERIFY(f_->settled());
        f_->session.reset();
        QVERIFY(f_->open());
        QVERIFY(f_->until([&] { return f_->draftsLeft == 1; }));
        session().drafts().drop();
        QVERIFY(f_->settled());
        f_->session.reset();
        QVERIFY(f_->open());
        QVERIFY(f_->settled());
        QCOMPARE(f_->draftsLeft, 1);
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("caulk"));
    }

    void whatIsNotAskedForStays() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("work"), text("sand"));
        QVERIFY(f_->settled());
        for (int i = 1; i <= 3; ++i) {
            f_->session.reset();
            QVERIFY(f_->open());
            QVERIFY(f_->until([&] { return f_->draftsLeft == i; }));
        }
    }

    void refusedEditsAreKeptToo() {
        QVERIFY(f_->open());
        session().records().edit(f_->row(30), f_->field("tag"), text("a"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(30), "tag"), EditState::Refused);
        f_->session.reset();
        QVERIFY(f_->open());
        QVERIFY(f_->until([&] { return f_->draftsLeft == 1; }));
        QCOMPARE(session().drafts().left()[0].record.cells[0].value, text("a"));
    }

    void savedEditsLeaveNothing() {
        QVERIFY(f_->open());
        for (int i = 0; i < 20; ++i)
            session().records().edit(f_->row(20), f_->field("work"), std::string("w" + std::to_string(i)));
        const auto row = session().records().insert({{f_->field("work"), text("new")}});
        session().records().leave(*row);
        f_->session.reset();  // before their answers are heard
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("w19"));
        QVERIFY(f_->open());
        QVERIFY(f_->settled());
        QCOMPARE(f_->draftsLeft, 0);
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE work = 'new'"), QString("1"));
    }

    void draftsOfARecordThatIsGoneStayToBeSeen() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(30), f_->field("work"), text("typed for nobody"));
        QVERIFY(f_->settled());
        f_->session.reset();
        f_->run("DELETE FROM jobs WHERE number = 30");
        QVERIFY(f_->open());
        QVERIFY(f_->until([&] { return f_->draftsLeft == 1; }));
        QCOMPARE(session().drafts().left()[0].state, LeftState::Gone);
        QCOMPARE(session().drafts().takeUp(), std::size_t{0});
        QCOMPARE(session().drafts().left().size(), std::size_t{1});
    }

    void aFolderThatCannotBeWrittenIsSaidAndNothingElseSuffers() {
        f_->drafts = "/proc/no-such-place";
        QVERIFY(f_->open());
        QVERIFY(f_->until([&] { return f_->failures.contains("not safe"); }));
        session().records().edit(f_->row(20), f_->field("work"), text("sand"));
        QVERIFY(f_->until([&] { return f_->stored("SELECT work FROM jobs WHERE number = 20") == "sand"; }));
    }

  private:
    Session& session() { return *f_->session; }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(DraftsTest)
#include "drafts_test.moc"
