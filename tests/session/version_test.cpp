// SPDX-License-Identifier: MIT
// Tables that count the versions of their records: conflicts whatever was changed, by whom; several saves on their way;
// and what is told of fields that only somebody else has changed.
#include <QtTest>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
constexpr const char* kCounted =
    "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT NOT NULL, hours INTEGER, version INTEGER DEFAULT 1);"
    "INSERT INTO jobs VALUES (1, 'rewire', 4, 1), (2, 'caulk', 8, 7), (3, 'paint', 2, NULL);";
}  // namespace

class VersionTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { f_ = std::make_unique<SessionFixture>(kCounted); }
    void cleanup() { f_.reset(); }

    void eachSaveCountsOn() {
        QVERIFY(opened());
        edit(1, "work", text("a"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || version FROM jobs WHERE number = 1"), QString("a2"));
        QCOMPARE(f_->value(f_->row(1), "version"), Value(std::int64_t{2}));
        edit(1, "hours", std::int64_t{5});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || hours || version FROM jobs WHERE number = 1"), QString("a53"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void savesOnTheirWayFollowEachOther() {
        QVERIFY(opened());
        for (int i = 0; i < 30; ++i)
            edit(2, i % 2 == 0 ? "hours" : "work", i % 2 == 0 ? Value(std::int64_t{i}) : text("w"));
        edit(2, "work", text("last"));
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(f_->stored("SELECT work || hours FROM jobs WHERE number = 2"), QString("last28"));
        QVERIFY(f_->stored("SELECT version FROM jobs WHERE number = 2").toInt() > 7);
    }

    /// Somebody has changed another field: with values alone that is none of our business, with versions it is.
    void anotherFieldChangedElsewhereIsAConflict() {
        QVERIFY(opened());
        f_->run("UPDATE jobs SET hours = 99, version = 8 WHERE number = 2");
        edit(2, "work", text("mine"));
        QVERIFY(f_->settled());
        const SourceRow row = f_->row(2);
        QCOMPARE(f_->state(row, "work"), EditState::Conflict);
        const CellEdit* cell = session().snapshot()->edits->find(row, f_->field("work"));
        QCOMPARE(cell->message, std::string("Somebody has changed this record meanwhile."));
        QVERIFY(cell->theirs);
        QCOMPARE(*cell->theirs, text("caulk"));
        QCOMPARE(f_->value(row, "hours"), Value(std::int64_t{99}));  // what they changed is shown
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 2"), QString("caulk"));
        session().records().resolve(row, {});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || hours || version FROM jobs WHERE number = 2"), QString("mine999"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void theSameFieldIsToldByItsValue() {
        QVERIFY(opened());
        f_->run("UPDATE jobs SET work = 'theirs', version = 8 WHERE number = 2");
        edit(2, "work", text("mine"));
        QVERIFY(f_->settled());
        const CellEdit* cell = session().snapshot()->edits->find(f_->row(2), f_->field("work"));
        QCOMPARE(cell->state, EditState::Conflict);
        QVERIFY(cell->message.find("theirs") != std::string::npos);
        QCOMPARE(*cell->theirs, text("theirs"));
    }

    /// Whoever writes keeps their name in the record: conflicts of fields, of versions, and those told before a save.
    void conflictsNameWhoWasTheLast() {
        const auto begin = [&](const char* version, const char* changedBy) {
            f_ = std::make_unique<SessionFixture>(
                "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, hours INTEGER, saved_by TEXT, version "
                "INTEGER);"
                "INSERT INTO jobs VALUES (1, 'rewire', 4, 'Ann', 1), (2, 'caulk', 8, NULL, 1), (3, 'paint', 2, 'Ann', "
                "1);");
            Design design = f_->design();
            design.grid.version = version;
            design.grid.changedBy = changedBy;
            return f_->open(design);
        };
        const auto words = [&](std::int64_t number, const char* field) {
            const CellEdit* cell = session().snapshot()->edits->find(f_->row(number), f_->field(field));
            return QString::fromStdString(cell && cell->state == EditState::Conflict ? cell->message : "no conflict");
        };
        for (const char* version : {"", "version"}) {
            QVERIFY(begin(version, "saved_by"));
            f_->run("UPDATE jobs SET work = 'varnish', saved_by = 'Tom Ward', version = 2");
            f_->run("UPDATE jobs SET saved_by = NULL WHERE number = 2");
            f_->run("UPDATE jobs SET saved_by = 'O''Neil; the \"boss\"' WHERE number = 3");
            for (const std::int64_t number : {1, 2, 3}) edit(number, "work", text("mine"));
            QVERIFY(f_->settled());
            QCOMPARE(words(1, "work"),
                     QString("Somebody changed Work to varnish meanwhile; Tom Ward saved the record last."));
            QCOMPARE(words(2, "work"), QString("Somebody changed Work to varnish meanwhile."));
            QVERIFY(words(3, "work").contains("O'Neil; the \"boss\" saved the record last."));
            QCOMPARE(f_->value(f_->row(1), "saved_by"), text("Tom Ward"));
        }
        // A column that is not shown is said by its name, and whose it was all the same.
        QVERIFY(begin("", "saved_by"));
        Design hidden = session().design();
        for (ColumnDesign& column : hidden.columns) column.shown = column.field != "work";
        session().setDesign(hidden);
        QVERIFY(f_->settled());
        f_->run("UPDATE jobs SET work = 'varnish', saved_by = 'Tom Ward' WHERE number = 1");
        edit(1, "work", text("mine"));
        QVERIFY(f_->settled());
        QVERIFY2(words(1, "work").endsWith("; Tom Ward saved the record last."), qPrintable(words(1, "work")));
        // The version alone tells of it: another field was changed.
        QVERIFY(begin("version", "saved_by"));
        f_->run("UPDATE jobs SET hours = hours + 1, version = version + 1, saved_by = 'Tom Ward' WHERE number = 1");
        edit(1, "work", text("again"));
        QVERIFY(f_->settled());
        QCOMPARE(words(1, "work"), QString("Somebody has changed this record meanwhile; Tom Ward saved it last."));
        // A column that cannot say it is a finding, and nobody is named.
        for (const char* wrong : {"hours", "nowhere"}) {
            QVERIFY(begin("", wrong));
            const auto& findings = session().plan().findings;
            QVERIFY(std::any_of(findings.begin(), findings.end(),
                                [](const Finding& finding) { return finding.where == "grid/changedBy"; }));
            f_->run("UPDATE jobs SET work = 'varnish', saved_by = 'Tom Ward', hours = 5 WHERE number = 1");
            edit(1, "work", text("mine"));
            QVERIFY(f_->settled());
            QCOMPARE(words(1, "work"), QString("Somebody changed Work to varnish meanwhile."));
        }
    }

    void deletingLooksAtTheVersion() {
        QVERIFY(opened());
        f_->run("UPDATE jobs SET version = 8 WHERE number = 2");
        const SourceRow row = f_->row(2);
        session().records().remove({row});
        QVERIFY(f_->settled());
        QCOMPARE(session().snapshot()->edits->fate(row)->state, EditState::Conflict);
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("3"));
    }

    void newRecordsBeginTheirCount() {
        QVERIFY(opened());
        const auto row = session().records().insert({{f_->field("work"), text("new")}});
        session().records().leave(*row);
        session().records().edit(*row, f_->field("work"), text("newer"));  // while it is on its way
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || version FROM jobs WHERE number = 4"), QString("newer2"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void emptyVersionsAreComparedToo() {
        QVERIFY(opened());
        edit(3, "work", text("a"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || coalesce(version, '-') FROM jobs WHERE number = 3"), QString("a-"));
        f_->run("UPDATE jobs SET version = 1 WHERE number = 3");
        edit(3, "hours", std::int64_t{3});
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(3), "hours"), EditState::Conflict);
    }

    /// The database counts by itself: what it makes of each save is what the next one is compared with.
    void versionsThatATriggerMakes() {
        f_ = std::make_unique<SessionFixture>(
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, version TEXT DEFAULT 'v0');"
            "CREATE TRIGGER t AFTER UPDATE ON jobs BEGIN UPDATE jobs SET version = 'v' || (SELECT count(*) FROM log) "
            "WHERE number = NEW.number; INSERT INTO log VALUES (1); END;"
            "CREATE TABLE log (x); INSERT INTO jobs (number, work) VALUES (1, 'a');");
        QVERIFY(opened());
        for (const char* word : {"b", "c", "d", "e"}) {
            edit(1, "work", text(word));
            QVERIFY(f_->settled());
            QCOMPARE(session().records().unsaved(), std::size_t{0});
        }
        QCOMPARE(f_->stored("SELECT work FROM jobs"), QString("e"));
        f_->run("UPDATE jobs SET work = work");
        edit(1, "work", text("f"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(1), "work"), EditState::Conflict);
    }

    void aColumnThatIsNotThereIsSaid() {
        Design design = f_->design();
        design.grid.version = "count";
        QVERIFY(f_->open(design));
        const auto& findings = session().plan().findings;
        QVERIFY(
            std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.where == "grid/version"; }));
        edit(1, "work", text("a"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || version FROM jobs WHERE number = 1"), QString("a1"));
    }

    // ---- Without versions

    /// Fields that somebody else has changed and nobody edits here are shown as they are by now.
    void whatElseTheyChangedIsShownWithAConflict() {
        QVERIFY(f_->open());
        f_->run("UPDATE jobs SET work = 'theirs', hours = 50 WHERE number = 2");
        edit(2, "work", text("mine"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(2), "work"), EditState::Conflict);
        QCOMPARE(f_->value(f_->row(2), "hours"), Value(std::int64_t{50}));
    }

    /// Typed while the record was being made, over what the database then gave the field: no conflict with oneself.
    void typedWhileTheRecordIsMade() {
        f_ = std::make_unique<SessionFixture>(kJobs);
        QVERIFY(f_->open());
        for (int i = 0; i < 20; ++i) {
            const auto row = session().records().insert({{f_->field("work"), text("new")}});
            QCOMPARE(session().records().save({*row}), std::size_t{1});
            session().records().edit(*row, f_->field("hours"), Decimal{900 + i, 2});  // has a default of 1.5
            session().records().edit(*row, f_->field("noted"), text("typed"));        // a trigger writes 'made'
            QVERIFY(f_->settled());
            QCOMPARE(f_->state(*row, "hours"), EditState::Saved);
            QCOMPARE(f_->state(*row, "noted"), EditState::Saved);
        }
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE noted = 'typed' AND hours >= 9"), QString("20"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    /// What somebody else has deleted is not made again by undoing one's own wish to delete it.
    void undoDoesNotBringBackWhatOthersDeleted() {
        QVERIFY(f_->open(Saving::Together));
        session().records().remove({f_->row(2)});
        f_->run("DELETE FROM jobs WHERE number = 2");
        QVERIFY(f_->reload());
        QVERIFY(f_->shows("1,3"));
        session().steps().undo();
        QVERIFY(f_->settled());
        session().records().saveAll();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("2"));
        // One's own deletion, saved, is brought back after a reload, too.
        session().records().remove({f_->row(3)});
        session().records().saveAll();
        QVERIFY(f_->settled());
        QVERIFY(f_->reload());
        QVERIFY(session().steps().undo());
        session().records().saveAll();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 3"), QString("paint"));
    }

    /// Several records that are gone are told apart in the history.
    void recordsThatAreGoneAreNotMixedUp() {
        QVERIFY(f_->open());
        for (const std::int64_t key : {1, 2, 3}) {
            session().records().remove({f_->row(key)});
            QVERIFY(f_->settled());
        }
        QVERIFY(f_->reload());
        for (const char* now : {"3", "3,2", "3,2,1"}) {
            QVERIFY(session().steps().undo());
            QVERIFY(f_->settled());
            QVERIFY(f_->shows(now));
        }
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM (SELECT work FROM jobs ORDER BY number)"),
                 QString("rewire,caulk,paint"));
        for (const char* now : {"3,2", "3", ""}) {
            QVERIFY(session().steps().redo());
            QVERIFY(f_->settled());
            QVERIFY(f_->shows(now));
        }
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("0"));
    }

  private:
    Session& session() { return *f_->session; }
    bool opened() {
        Design design = f_->design();
        design.grid.version = "version";
        design.column("version")->shown = false;  // nobody needs to see it
        return f_->open(design);
    }
    void edit(std::int64_t key, const char* field, Value value) {
        session().records().edit(f_->row(key), f_->field(field), std::move(value));
    }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(VersionTest)
#include "version_test.moc"
