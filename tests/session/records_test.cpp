// SPDX-License-Identifier: MIT
// Records as wholes in a session: made, doubled, saved one by one and together, taken back, undone after
// saving, decided after conflicts; with what the database makes of them. Deletions: deleting_test.cpp.
#include <QtTest>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
Value money(std::int64_t cents) { return Decimal{cents, 2}; }
}  // namespace

class RecordsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { f_ = std::make_unique<SessionFixture>(kJobs); }
    void cleanup() { f_.reset(); }

    void aNewRecordIsADraftUntilItIsSaved() {
        QVERIFY(f_->open());
        const auto row = session().records().insert({{f_->field("work"), text("hang rudder")}});
        QVERIFY(row.ok());
        QVERIFY(f_->shows("10,20,30,40,-"));
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("4"));
        QCOMPARE(session().records().unsaved(), std::size_t{2});  // the record, and its one cell
        session().records().edit(*row, f_->field("hours"), money(350));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("4"));  // it is saved when it is left
        session().records().leave(*row);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT number || work || hours || noted FROM jobs WHERE number > 40"),
                 QString("41hang rudder3.5made"));
        // What the database has made of it: its key, a trigger's field, a generated one.
        QCOMPARE(f_->value(*row, "number"), Value(std::int64_t{41}));
        QCOMPARE(f_->value(*row, "noted"), text("made"));
        QCOMPARE(f_->value(*row, "twice"), money(700));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(session().refOf(*row).key, RecordKey{Value(std::int64_t{41})});
        // Its next edit finds it by the key it got.
        session().records().edit(*row, f_->field("work"), text("hang rudder again"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 41"), QString("hang rudder again"));
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown(), QString("10,20,30,40,41"));
        QVERIFY(session().snapshot()->edits->empty());
    }

    void defaultsOfTheDatabaseAreRead() {
        QVERIFY(f_->open());
        const auto row = session().records().insert({{f_->field("work"), text("w")}});
        QCOMPARE(session().records().save({*row}), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(f_->value(*row, "hours"), money(150));
        const auto empty =
            session().records().insert({{f_->field("work"), text("w")}, {f_->field("hours"), Value(Empty{})}});
        QCOMPARE(session().records().save({*empty}), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(f_->value(*empty, "hours"), Value(Empty{}));  // said to be empty it is
    }

    /// What was typed into a new record and taken back is left to the database again: no empty value takes the place of
    /// a default. So with one value typed, several, a block, done again and taken back once more, or refused meanwhile.
    void whatIsTakenBackInANewRecordIsLeftToTheDatabase_data() {
        QTest::addColumn<int>("how");
        int n = 0;
        for (const char* how :
             {"one", "typed twice", "a step of several", "done again and taken back", "refused before"})
            QTest::newRow(how) << n++;
    }
    void whatIsTakenBackInANewRecordIsLeftToTheDatabase() {
        QFETCH(int, how);
        QVERIFY(f_->open());
        const auto row = session().records().insert({{f_->field("work"), text("w")}});
        QVERIFY(row.ok());
        int steps = 1;
        if (how == 4) {
            session().records().edit(*row, f_->field("tag"), text("a"));  // taken already
            session().records().edit(*row, f_->field("hours"), money(350));
            QCOMPARE(session().records().save({*row}), std::size_t{1});
            QVERIFY(f_->settled());
            QCOMPARE(f_->state(*row, "tag"), EditState::Refused);
            steps = 2;
        } else if (how == 2) {
            session().records().edit(
                {{*row, f_->field("hours"), money(350), {}}, {*row, f_->field("number"), std::int64_t{77}, {}}});
        } else {
            session().records().edit(*row, f_->field("hours"), money(350));
        }
        if (how == 1) {
            session().records().edit(*row, f_->field("hours"), money(450));
            steps = 2;
        }
        for (int i = 0; i < steps; ++i) QVERIFY(session().steps().undo());
        if (how == 3) {
            QVERIFY(session().steps().redo());
            QVERIFY(f_->shows("10,20,30,40,-"));
            QCOMPARE(f_->value(*row, "hours"), money(350));
            QVERIFY(session().steps().undo());
        }
        QVERIFY(f_->shows("10,20,30,40,-"));
        QCOMPARE(f_->value(*row, "hours"), Value(Empty{}));  // as it was before anything was typed
        QCOMPARE(session().records().save({*row}), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT number || work || hours || coalesce(tag, '-') FROM jobs WHERE number > 40"),
                 QString("41w1.5-"));
        QCOMPARE(f_->value(*row, "hours"), money(150));
        QVERIFY2(f_->failures.isEmpty(), qPrintable(f_->failures));
    }

    /// A new record that is let go and taken back, or doubled before it is saved, says no more than was typed: what was
    /// not, the database gives; what was said to be empty stays so.
    void aDraftThatIsMadeAgainSaysWhatWasTyped_data() {
        QTest::addColumn<int>("how");
        int n = 0;
        for (const char* how :
             {"deleted and undone", "deleted, undone, undone, redone", "doubled", "a stored one doubled"})
            QTest::newRow(how) << n++;
    }
    void aDraftThatIsMadeAgainSaysWhatWasTyped() {
        QFETCH(int, how);
        QVERIFY(f_->open());
        if (how == 3) {  // what the database holds is copied, also where it holds nothing
            f_->run("UPDATE jobs SET hours = NULL WHERE number = 20");
            QVERIFY(f_->reload());
            const auto made = session().records().duplicate(f_->row(20));
            QVERIFY(made.ok());
            QCOMPARE(session().records().save({*made}), std::size_t{1});
            QVERIFY(f_->settled());
            QCOMPARE(f_->stored("SELECT work || coalesce(hours, '-') FROM jobs WHERE number > 40"), QString("caulk-"));
            return;
        }
        const auto row =
            session().records().insert({{f_->field("work"), text("w")}, {f_->field("vessel"), Value(Empty{})}});
        QVERIFY(row.ok());
        session().records().edit(*row, f_->field("tag"), text("free"));
        QVERIFY(f_->shows("10,20,30,40,-"));
        if (how == 2) {
            QVERIFY(session().records().duplicate(*row).ok());
        } else {
            session().records().remove({*row});
            QVERIFY(f_->shows("10,20,30,40"));
            QVERIFY(session().steps().undo());
        }
        if (how == 1) {
            QVERIFY(f_->shows("10,20,30,40,-"));
            QVERIFY(session().steps().undo());  // the tag
            QVERIFY(session().steps().redo());
        }
        session().records().saveAll();
        QVERIFY(f_->settled());
        const QString one = "w|1.5|free|-";
        QCOMPARE(
            f_->stored("SELECT group_concat(work || '|' || coalesce(hours, '-') || '|' || coalesce(tag, '-') || '|' "
                       "|| coalesce(vessel, '-'), ' ') FROM (SELECT * FROM jobs WHERE number > 40 ORDER BY number)"),
            how == 2 ? one + " w|1.5|-|-" : one);  // a unique value is not doubled
        QVERIFY2(f_->failures.isEmpty(), qPrintable(f_->failures));
    }

    /// Typed while the record is on its way to the database, and taken back after that has given the field a value:
    /// that is what it goes back to. Before, nobody knows.
    void whatIsTypedWhileARecordIsMadeGoesBackToWhatItWasGiven() {
        QVERIFY(f_->open());
        sqlite3* other = f_->connection();
        QCOMPARE(sqlite3_exec(other, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr), SQLITE_OK);
        const auto row = session().records().insert({{f_->field("work"), text("w")}});
        QCOMPARE(session().records().save({*row}), std::size_t{1});
        session().records().edit(*row, f_->field("hours"), money(350));
        session().records().edit(*row, f_->field("number"), std::int64_t{77});
        QVERIFY(!session().steps().undo());
        QCOMPARE(f_->value(*row, "number"), Value(std::int64_t{77}));
        sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr);
        sqlite3_close(other);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT number || hours FROM jobs WHERE number > 40"), QString("773.5"));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT number || hours FROM jobs WHERE number > 40"), QString("411.5"));
        QVERIFY(session().steps().redo());
        QVERIFY(session().steps().redo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT number || hours FROM jobs WHERE number > 40"), QString("773.5"));
        QVERIFY2(f_->failures.isEmpty(), qPrintable(f_->failures));
    }

    void anEmptyNewRecordThatIsLeftIsLetGo() {
        QVERIFY(f_->open());
        const auto row = session().records().insert();
        QVERIFY(f_->shows("10,20,30,40,-"));
        session().records().leave(*row);
        QVERIFY(f_->shows("10,20,30,40"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void aRefusedNewRecordStaysAndIsPutRight() {
        QVERIFY(f_->open());
        const auto row = session().records().insert({{f_->field("work"), text("w")}, {f_->field("tag"), text("a")}});
        session().records().leave(*row);
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(*row, "tag"), EditState::Refused);
        QCOMPARE(f_->state(*row, "work"), EditState::Draft);
        QCOMPARE(session().snapshot()->edits->fate(*row)->state, EditState::Refused);
        session().records().edit(*row, f_->field("tag"), text("free"));
        session().records().leave(*row);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || tag FROM jobs WHERE number > 40"), QString("wfree"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void aRecordIsDoubledWithoutItsKeys() {
        QVERIFY(f_->open());
        const auto row = session().records().duplicate(f_->row(20));
        QVERIFY(row.ok());
        session().records().leave(*row);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || hours || coalesce(tag, '-') || vessel FROM jobs WHERE number = 41"),
                 QString("caulk8-2"));
    }

    /// What only the database has of a record is in its double, too; nothing is left out without a word.
    void aDoubleHasThePicturesToo() {
        for (const bool isShown : {true, false}) {
            f_ = std::make_unique<SessionFixture>(kJobs);
            f_->run(
                "ALTER TABLE jobs ADD COLUMN picture BLOB; ALTER TABLE jobs ADD COLUMN plan BLOB;"
                "UPDATE jobs SET picture = x'89504e470d0a1a0a01', plan = x'0102' WHERE number = 30");
            QVERIFY(f_->open(Saving::Together));
            if (!isShown) {
                Design design = session().design();
                std::erase_if(design.columns, [](const ColumnDesign& c) { return c.field == "picture"; });
                session().setDesign(design);
                QVERIFY(f_->settled());
            }
            const auto twin = session().records().duplicate(f_->row(30));
            QVERIFY(twin.ok());
            QVERIFY(f_->until([&] {
                return session().snapshot()->edits->find(*twin, f_->field("picture")) &&
                       session().snapshot()->edits->find(*twin, f_->field("plan"));
            }));
            session().records().saveAll();
            QVERIFY(f_->settled());
            QCOMPARE(f_->stored("SELECT hex(picture) || ' ' || hex(plan) FROM jobs WHERE number > 40"),
                     QString("89504E470D0A1A0A01 0102"));
            // One that has none gets none.
            const auto bare = session().records().duplicate(f_->row(20));
            session().records().saveAll();
            QVERIFY(f_->settled());
            QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE picture IS NOT NULL"), QString("2"));
            QVERIFY(bare.ok());
        }
    }

    /// Drafts have no keys yet: what was kept of one never means another after a reload.
    void aKeptDraftIsNoOtherAfterAReload() {
        QVERIFY(f_->open(Saving::Together));
        const auto one = session().records().insert({{f_->field("work"), text("one")}});
        const auto other =
            session().records().insert({{f_->field("number"), std::int64_t{77}}, {f_->field("work"), text("other")}});
        QVERIFY(one.ok() && other.ok());
        const RowRef ref = session().refOf(*one), keyed = session().refOf(*other);
        session().reload();
        QVERIFY(f_->settled());
        for (const auto& [kept, work] : {std::pair(ref, "one"), std::pair(keyed, "other")})
            if (const auto row = session().now(kept)) QCOMPARE(f_->value(*row, "work"), text(work));
        QVERIFY(session().records().unsaved() > 0);
    }

    /// A record that somebody deletes while its double is made: what could not be copied is said.
    void whatCannotBeCopiedIsSaid() {
        f_->run("ALTER TABLE jobs ADD COLUMN plan BLOB; UPDATE jobs SET plan = x'0102' WHERE number = 30");
        QVERIFY(f_->open(Saving::Together));
        const SourceRow row = f_->row(30);
        f_->run("DELETE FROM jobs WHERE number = 30");
        QVERIFY(session().records().duplicate(row).ok());
        QVERIFY(f_->until([&] { return f_->failures.contains("plan was not copied"); }));
    }

    void savingEachRecordWaitsUntilItIsLeft() {
        QVERIFY(f_->open(Saving::EachRecord));
        const SourceRow row = f_->row(20);
        session().records().edit(row, f_->field("work"), text("sand"));
        session().records().edit(row, f_->field("hours"), money(100));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("caulk"));
        QCOMPARE(f_->state(row, "work"), EditState::Draft);
        session().records().leave(row);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || hours FROM jobs WHERE number = 20"), QString("sand1"));
        QCOMPARE(f_->value(row, "twice"), money(200));
    }

    /// All or none, whatever the order that links need.
    void savingTogetherIsOneTransaction() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("work"), text("sand"));
        session().records().remove({f_->row(30)});
        const auto made = session().records().insert({{f_->field("work"), text("new")}, {f_->field("tag"), text("a")}});
        QVERIFY(f_->settled());
        QVERIFY(f_->shows("10,20,30,40,-"));
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE work IN ('sand', 'new')"), QString("0"));
        // The new one's tag is another's, so all is refused.
        QCOMPARE(session().records().saveAll(), std::size_t{3});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM jobs"), QString("rewire,caulk,paint,step mast"));
        QCOMPARE(f_->state(*made, "tag"), EditState::Refused);
        QCOMPARE(f_->state(f_->row(20), "work"), EditState::Draft);
        // That of the deleted one it may take.
        session().records().edit(*made, f_->field("tag"), text("c"));
        QCOMPARE(session().records().saveAll(), std::size_t{3});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM jobs"), QString("rewire,sand,step mast,new"));
        QVERIFY(f_->shows("10,20,40,41"));
        QCOMPARE(f_->stored("SELECT group_concat(tag) FROM jobs"), QString("a,b,c"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    void aRecordThatBreaksACheckIsNotSaved() {
        Design design = f_->design();
        design.checks = {
            {"long jobs", "", "hours <= 10 OR vessel IS NOT NULL", "{work} takes a vessel.", false, true, {}},
            {"many hours", "hours", "hours < 50", "That is much.", true, true, {}}};
        QVERIFY(f_->open(design));
        const SourceRow row = f_->row(30);
        session().records().edit(row, f_->field("hours"), money(2000));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT hours FROM jobs WHERE number = 30"), QString("2"));
        const auto& problems = session().snapshot()->edits->record(row)->problems();
        QCOMPARE(problems.size(), std::size_t{1});
        QCOMPARE(problems[0].message, std::string("paint takes a vessel."));
        session().records().edit(row, f_->field("vessel"), std::int64_t{1});  // both go now
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT hours || vessel FROM jobs WHERE number = 30"), QString("201"));
        QVERIFY(session().snapshot()->edits->record(row)->problems().empty());
        // A warning waits for a yes.
        session().records().edit(row, f_->field("hours"), money(6000));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT hours FROM jobs WHERE number = 30"), QString("20"));
        session().records().overrideWarning(row, "many hours");
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT hours FROM jobs WHERE number = 30"), QString("60"));
    }

    /// By headings and formats of the columns, not by what the database calls and keeps.
    void aConflictIsSaidAsTheColumnsShowIt() {
        QVERIFY(f_->open());
        Design design = session().design();
        design.column("hours")->heading = "Time taken";
        session().setDesign(design);
        QVERIFY(f_->settled());
        const auto messageOf = [&](std::int64_t number, const char* field) {
            const CellEdit* edit = session().snapshot()->edits->find(f_->row(number), f_->field(field));
            return edit ? QString::fromStdString(edit->message) : QString();
        };
        f_->run("UPDATE jobs SET hours = 7.5 WHERE number = 20; UPDATE jobs SET vessel = 1 WHERE number = 40");
        session().records().edit(f_->row(20), f_->field("hours"), Decimal{100, 2});
        QVERIFY(f_->settled());
        QCOMPARE(messageOf(20, "hours"), QString("Somebody changed Time taken to 7.50 meanwhile."));
        session().records().edit(f_->row(40), f_->field("vessel"), std::int64_t{2});
        QVERIFY(f_->settled());
        QCOMPARE(messageOf(40, "vessel"), QString("Somebody changed Vessel meanwhile."));
        f_->run("UPDATE jobs SET work = 'again' WHERE number = 30");
        session().records().edit(f_->row(30), f_->field("work"), text("mine"));
        QVERIFY(f_->settled());
        QCOMPARE(messageOf(30, "work"), QString("Somebody changed Work to again meanwhile."));
    }

    void conflictsAreDecidedFieldByField() {
        for (const bool mine : {true, false}) {
            f_ = std::make_unique<SessionFixture>(kJobs);
            QVERIFY(f_->open(Saving::EachRecord));
            const SourceRow row = f_->row(20);
            session().records().edit(row, f_->field("work"), text("mine"));
            session().records().edit(row, f_->field("hours"), money(900));
            f_->run("UPDATE jobs SET work = 'theirs', noted = 'by them' WHERE number = 20");
            session().records().leave(row);
            QVERIFY(f_->settled());
            QCOMPARE(f_->state(row, "work"), EditState::Conflict);
            QCOMPARE(f_->state(row, "hours"), EditState::Draft);
            QCOMPARE(*session().snapshot()->edits->find(row, f_->field("work"))->theirs, text("theirs"));
            session().records().resolve(
                row, {{f_->field("work"), mine ? SessionRecords::Keep::Mine : SessionRecords::Keep::Theirs}});
            QVERIFY(f_->settled());
            QCOMPARE(f_->stored("SELECT work || hours || noted FROM jobs WHERE number = 20"),
                     mine ? QString("mine9by them") : QString("theirs9by them"));
            QCOMPARE(session().records().unsaved(), std::size_t{0});
            QCOMPARE(f_->value(row, "noted"), text("by them"));  // read back with it
        }
    }

    void aDeletedRecordIsMadeAgainOrLetGo() {
        QVERIFY(f_->open());
        const SourceRow row = f_->row(30);
        f_->run("DELETE FROM jobs WHERE number = 30");
        session().records().edit(row, f_->field("work"), text("varnish"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(row, "work"), EditState::Conflict);
        const auto again = session().records().makeAgain(row);
        QVERIFY(again.ok());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || tag FROM jobs WHERE number = 30"), QString("varnishc"));
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown(), QString("10,20,30,40"));
    }

    /// Typed over one value, another one is there after a reload: it must be decided, not overwritten.
    void aDraftOverAChangedValueIsAConflictAfterAReload() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("work"), text("mine"));
        session().records().edit(f_->row(30), f_->field("work"), text("also mine"));
        f_->run("UPDATE jobs SET work = 'theirs' WHERE number = 20; INSERT INTO jobs (number, work) VALUES (5, 'x')");
        QVERIFY(f_->reload());
        QCOMPARE(f_->state(f_->row(20), "work"), EditState::Conflict);
        QCOMPARE(f_->state(f_->row(30), "work"), EditState::Draft);
        QCOMPARE(session().records().saveAll(), std::size_t{1});  // the one in conflict stays
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM (SELECT work FROM jobs ORDER BY number)"),
                 QString("x,rewire,theirs,also mine,step mast"));
    }

    void newRecordsOutliveReloads() {
        QVERIFY(f_->open(Saving::Together));
        const auto one = session().records().insert({{f_->field("work"), text("one")}});
        const auto two = session().records().insert({{f_->field("work"), text("two")}});
        QVERIFY(one.ok() && two.ok());
        f_->run("INSERT INTO jobs (number, work) VALUES (1, 'before'), (2, 'before')");
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown("work"), QString("before,before,rewire,caulk,paint,step mast,one,two"));
        QCOMPARE(session().records().unsaved(), std::size_t{4});
        session().records().saveAll();
        QVERIFY(f_->settled());
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown(), QString("1,2,10,20,30,40,41,42"));
    }

    void editsAreUndoneAfterSaving() {
        QVERIFY(f_->open());
        const SourceRow row = f_->row(20);
        session().records().edit(row, f_->field("work"), text("one"));
        session().records().edit(row, f_->field("work"), text("two"));
        QVERIFY(f_->settled());
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("one"));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("caulk"));
        QVERIFY(!session().steps().undo());
        QVERIFY(session().steps().redo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("one"));
        // What somebody else has changed since is not taken back.
        f_->run("UPDATE jobs SET work = 'theirs' WHERE number = 20");
        QVERIFY(f_->reload());
        QVERIFY(!session().steps().undo());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), QString("theirs"));
    }

    void aBatchIsOneStepAndOneTransaction() {
        QVERIFY(f_->open());
        session().steps().begin("Paste");
        session().records().edit(
            {{f_->row(10), f_->field("work"), text("p"), {}}, {f_->row(20), f_->field("tag"), text("a"), {}}});
        session().steps().end();
        QVERIFY(f_->settled());  // the second one's tag is taken: neither is saved
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
        QCOMPARE(session().steps().history().undoLabel(), std::string("Paste"));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(f_->value(f_->row(10), "work"), text("rewire"));
    }

    /// Filters, groups, sums over all and finding know of new and deleted records at once.
    void everythingCountsThem() {
        Design design = f_->design();
        design.filter = {{"hours > 3", "", "", true, {}}};
        ColumnDesign all;
        all.field = "of_all";
        all.rule = "COUNT(*) OVER ()";
        design.columns.push_back(all);
        design.summaries = {{"sum", "hours"}};
        QVERIFY(f_->open(design));
        QVERIFY(f_->shows("10,20,40"));
        const auto total = [&] { return session().snapshot()->groups->total(0).value; };
        const auto isTotal = [&](std::int64_t cents) {
            return f_->until([&] { return total() == RuleValue(WideDecimal{cents, 2}); }, 30'000);
        };
        QVERIFY(isTotal(2800));
        const auto row = session().records().insert({{f_->field("work"), text("w")}, {f_->field("hours"), money(100)}});
        QVERIFY(f_->shows("10,20,40,-"));  // the filter would leave it out; a draft stays
        QVERIFY(isTotal(2900));
        QCOMPARE(f_->value(f_->row(10), "of_all"), Value(std::int64_t{5}));
        session().records().leave(*row);
        QVERIFY(f_->settled());
        QVERIFY(session().view().orderIsStale());
        session().view().resort();
        QVERIFY(f_->shows("10,20,40"));
        session().records().remove({f_->row(20)});
        QVERIFY(f_->shows("10,40"));
        QVERIFY(isTotal(2000));
        QVERIFY(f_->until([&] { return f_->value(f_->row(10), "of_all") == Value(std::int64_t{4}); }, 30'000));
        QCOMPARE(session().snapshot()->source.rowsOut, std::int64_t{4});
    }

    void whatCannotTakeRecordsSaysWhy() {
        f_->run("CREATE VIEW seen AS SELECT * FROM jobs");
        Design design = f_->design();
        design.source.table = "seen";
        QVERIFY(f_->open(design));
        const auto made = session().records().insert();
        QVERIFY(!made.ok());
        QVERIFY(!made.error().message.empty());
    }

  private:
    Session& session() { return *f_->session; }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(RecordsTest)
#include "records_test.moc"
