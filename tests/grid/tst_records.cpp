// SPDX-License-Identifier: MIT
// Records over reloads in a real window: another process deletes, renumbers and inserts while an editor is open,
// records are kept by the application, and many are selected.
#include "core/columns/civil.h"
#include "grid/api/record.h"
#include "tests/grid/grid_fixture.h"
#include "tests/stored_text.h"

using namespace jollyrow;

class RecordsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        fixture_ = std::make_unique<GridFixture>();
        QVERIFY(fixture_->open());
    }
    void cleanup() { fixture_.reset(); }

    void anEditorLeftOpenWritesToItsRecord() {
        openEditor(99, "work");
        QCOMPARE(text(99, "number"), QString("100"));
        QTest::keyClicks(entry(), "typed on one hundred");
        outside("DELETE FROM jobs WHERE number <= 10");
        reload();
        QVERIFY(entry());
        QCOMPARE(entry()->text(), QString("typed on one hundred"));
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT group_concat(number) FROM jobs WHERE work = 'typed on one hundred'"), QString("100"));
    }

    void anEditorWhoseRecordIsGoneSaysWhatWasTyped() {
        openEditor(9, "work");
        QTest::keyClicks(entry(), "not lost");
        outside("DELETE FROM jobs WHERE number <= 10");
        reload();
        QVERIFY(!entry());
        QVERIFY2(grid().message().contains("not lost"), qPrintable(grid().message()));
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE work LIKE '%not lost%'"), QString("0"));
    }

    void anEditorFollowsItsColumnThroughAnAlteredTable() {
        openEditor(4, "work");
        QTest::keyClicks(entry(), "here");
        outside("ALTER TABLE jobs DROP COLUMN vessel; ALTER TABLE jobs ADD COLUMN place TEXT");
        reload();
        QVERIFY(entry());
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT work FROM jobs WHERE number = 5"), QString("here"));
    }

    /// What somebody else has written meanwhile stays, unless something was typed.
    void anEditorLeftAsItBeganWritesNothing() {
        for (const char* field : {"work", "hours", "due", "vessel"}) {
            openEditor(40, field);
            outside(
                "UPDATE jobs SET work = work || '!', hours = hours + 1, due = date(due, '1 day'), "
                "vessel = 10 + (COALESCE(vessel, 0) + 1) % 4 WHERE number = 41");
            const QString before = stored("SELECT work || hours || due || vessel FROM jobs WHERE number = 41");
            reload();
            QVERIFY2(entry(), field);
            QSignalSpy edited(&grid(), &Grid::cellEdited);
            QTest::keyClick(entry(), Qt::Key_Return);
            QTRY_VERIFY2(!entry(), field);
            QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
            QCOMPARE(stored("SELECT work || hours || due || vessel FROM jobs WHERE number = 41"), before);
            QVERIFY2(edited.isEmpty(), field);
        }
    }

    void whatTheApplicationKeptIsTheSameRecord() {
        const Record kept = grid().recordAt(60), doomed = grid().recordAt(2);
        QCOMPARE(kept.text("number"), QString("61"));
        outside("DELETE FROM jobs WHERE number <= 10; UPDATE jobs SET number = number + 1000 WHERE number > 150");
        reload();
        QVERIFY(grid().records().setValue(kept, "work", std::string("sixty-one")));
        QVERIFY(!grid().records().setValue(doomed, "work", std::string("nobody")));
        for (const Value& wrong : {Value(Date{1}), Value(std::int64_t{5}), Value(true), Value(Instant{1}), Value(1.5)})
            QVERIFY(!grid().records().setValue(kept, "work", wrong));
        QVERIFY(!grid().selection().show(doomed));
        QVERIFY(grid().selection().show(kept));
        QCOMPARE(grid().selection().current().text("number"), QString("61"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT group_concat(number) FROM jobs WHERE work = 'sixty-one'"), QString("61"));
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE work = 'nobody'"), QString("0"));
        // The record kept is what it was: it does not follow.
        QCOMPARE(kept.text("work"), QString("work 61"));
    }

    void allMeansAllThatAreShown() {
        QVERIFY(grid().filters().set("done", "status = 'Done'").ok());
        QTRY_VERIFY(grid().lineCount() < 100);
        const auto shown = grid().lineCount();
        fixture_->click(grid().places().cell(0, "work").center());
        fixture_->key(Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(grid().selection().count(), shown);
        for (const Record& record : grid().selection().records()) QCOMPARE(record.text("status"), QString("Done"));
        outside("DELETE FROM jobs WHERE number <= 20");
        const auto left = stored("SELECT count(*) FROM jobs WHERE status = 'Done'").toLongLong();
        QVERIFY(left < shown);
        reload();
        QTRY_COMPARE(grid().selection().count(), left);
        for (const Record& record : grid().selection().records()) QCOMPARE(record.text("status"), QString("Done"));
    }

    void manySelectedRecordsStaySelected() {
        fixture_->click(grid().places().cell(0, "work").center());
        fixture_->key(Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(grid().selection().count(), std::int64_t{200});
        outside(
            "UPDATE jobs SET number = number + 5000 WHERE number % 3 = 0; INSERT INTO jobs SELECT number + 900, "
            "vessel, "
            "work, status, due, hours, paid, notes FROM jobs WHERE number < 50");
        reload();
        const auto same = stored("SELECT count(*) FROM jobs WHERE number <= 200").toLongLong();
        QCOMPARE(grid().selection().count(), same);
        for (const Record& record : grid().selection().records())
            QVERIFY(std::get<std::int64_t>(record.value("number")) <= 200);
    }

    void theCurrentRecordThatIsGoneGivesItsPlace() {
        fixture_->click(grid().places().cell(5, "work").center());
        QSignalSpy current(&grid(), &Grid::currentRecordChanged);
        outside("DELETE FROM jobs WHERE number = 6");
        reload();
        QCOMPARE(grid().selection().current().text("number"), QString("7"));
        QVERIFY(!current.isEmpty());
        QTest::keyClick(&grid(), Qt::Key_F2);
        QVERIFY(entry());
        entry()->selectAll();
        QTest::keyClicks(entry(), "seven");
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT group_concat(number) FROM jobs WHERE work = 'seven'"), QString("7"));
    }

    void whatFitsNoTypeIsShownAndWrittenOver() {
        outside("UPDATE jobs SET due = 'soon' WHERE number = 3; UPDATE jobs SET hours = 'long' WHERE number = 3");
        reload();
        QCOMPARE(text(2, "due"), QString("soon"));
        QVERIFY(std::holds_alternative<Unfit>(grid().recordAt(2).value("due")));
        openEditor(2, "due");
        QCOMPARE(entry()->text(), QString("soon"));
        entry()->selectAll();
        QTest::keyClicks(entry(), "2026-12-24");
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(stored("SELECT due || hours FROM jobs WHERE number = 3"), QString("2026-12-24long"));
    }

  private:
    Grid& grid() { return fixture_->grid; }
    QString text(std::int64_t line, const char* field) { return fixture_->text(line, field); }
    QLineEdit* entry() {
        for (QLineEdit* line : grid().viewport()->findChildren<QLineEdit*>())
            if (line->isVisibleTo(&grid())) return line;
        return nullptr;
    }
    void openEditor(std::int64_t line, const char* field) {
        grid().selection().showLine(line);
        fixture_->click(grid().places().cell(line, field).center());
        fixture_->key(Qt::Key_F2);
        QVERIFY(entry());
        if (QString(field) == "work") entry()->selectAll();
    }
    void reload() {
        QSignalSpy ended(&grid(), &Grid::loadEnded);
        grid().reload();
        QTRY_VERIFY(!ended.isEmpty() && !grid().isLoading());
    }
    /// As another process would: on a connection of its own.
    void outside(const char* sql) {
        sqlite3* other = nullptr;
        sqlite3_open(fixture_->path.toLocal8Bit().constData(), &other);
        sqlite3_busy_timeout(other, 5000);
        char* message = nullptr;
        if (sqlite3_exec(other, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(other);
    }
    QString stored(const char* sql) { return test::storedText(fixture_->path, sql); }
    std::unique_ptr<GridFixture> fixture_;
};

QTEST_MAIN(RecordsTest)
#include "tst_records.moc"
