// SPDX-License-Identifier: MIT
// The grid in a real window, with real mouse and key events, on a real database.
#include <QtTest>

#include <QClipboard>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>

#include <sqlite3.h>

#include "core/columns/civil.h"
#include "core/design/make_design.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"
#include "grid/editors/message_strip.h"
#include "tests/stored_text.h"

using namespace jollyrow;

namespace {
constexpr const char* kYard = R"(
CREATE TABLE jobs (number INTEGER PRIMARY KEY, work VARCHAR(40) NOT NULL, status TEXT NOT NULL CHECK (status IN ('Booked', 'In hand', 'Done')),
  due DATE, hours DECIMAL(6,2) CHECK (hours BETWEEN 0.25 AND 400 OR typeof(hours) = 'blob'), rate REAL, paid BOOLEAN NOT NULL, locked TEXT GENERATED ALWAYS AS (work) VIRTUAL);
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 300)
INSERT INTO jobs SELECT i, 'work ' || (i * 37 % 301), CASE i % 3 WHEN 0 THEN 'Booked' WHEN 1 THEN 'Done' ELSE 'In hand' END,
  CASE WHEN i % 10 = 0 THEN NULL ELSE date('2026-01-01', i || ' days') END, i % 40 + 0.5, i / 8.0, i % 2 FROM c;
)";
}

class GridTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        path_ = folder_->filePath("yard.db");
        execute(kYard);
        grid_ = std::make_unique<Grid>();
        grid_->resize(900, 500);
        auto source = openSource(path_.toStdString());
        Design design = designFor(*(*source)->schema({"jobs", ""}), {"sqlite", path_.toStdString(), "jobs", ""});
        for (ColumnDesign& column : design.columns) column.width = {WidthMode::Fixed, 100, 1, 32, 0};
        design.grid.pinned = 1;
        QVERIFY(grid_->open(design, path_).ok());
        grid_->show();
        QVERIFY(QTest::qWaitForWindowExposed(grid_.get()));
        QTRY_COMPARE(grid_->lineCount(), 300);
        QTRY_VERIFY(!grid_->isLoading());
    }

    void headingsSortUpDownAndBack() {
        QSignalSpy edited(grid_.get(), &Grid::designEdited);
        clickHeading("due");
        QTRY_COMPARE(text(0, "due"), QString("2 Jan 2026"));
        QVERIFY(text(299, "due").isEmpty());  // empties last
        clickHeading("due");
        QTRY_COMPARE(text(0, "due"), QString("27 Oct 2026"));
        QVERIFY(text(299, "due").isEmpty());  // and still last
        clickHeading("due");
        QTRY_COMPARE(text(0, "number"), QString("1"));
        QVERIFY(grid_->design().sort.empty());
        clickHeading("status");
        clickHeading("hours", Qt::ControlModifier);
        clickHeading("hours", Qt::ControlModifier);
        QCOMPARE(grid_->design().sort.size(), std::size_t{2});
        QTRY_COMPARE(text(0, "status") + text(0, "hours"), QString("Booked39.50"));
        QCOMPARE(edited.count(), 6);
        QCOMPARE(edited.at(0).at(0).toString(), QString("Sort by Due"));
    }

    void selectionStaysWithItsRecordThroughASort() {
        clickCell(7, "work");
        QTest::mouseClick(grid_->viewport(), Qt::LeftButton, Qt::ControlModifier,
                          grid_->places().cell(9, "work").center());
        const QString number = grid_->selection().current().text("number");
        clickHeading("work");
        QTRY_COMPARE(grid_->design().sort.size(), std::size_t{1});
        QTRY_VERIFY(text(0, "number") != "1");
        QCOMPARE(grid_->selection().current().text("number"), number);
        QCOMPARE(grid_->selection().count(), 2);
        grid_->reload();
        QTRY_VERIFY(!grid_->isLoading());
        QTRY_COMPARE(grid_->selection().current().text("number"), number);
        QCOMPARE(grid_->selection().count(), 2);
    }

    void bordersResizeAndDoubleClickFits() {
        QSignalSpy edited(grid_.get(), &Grid::designEdited);
        const QPoint border(grid_->places().heading("work").right() + 1, 12);
        QTest::mousePress(grid_->viewport(), Qt::LeftButton, {}, border);
        for (int dx = 10; dx <= 60; dx += 10) QTest::mouseMove(grid_->viewport(), border + QPoint(dx, 0));
        QTest::mouseRelease(grid_->viewport(), Qt::LeftButton, {}, border + QPoint(60, 0));
        QCOMPARE(grid_->places().heading("work").width(), 160);
        QCOMPARE(edited.count(), 1);
        QCOMPARE(edited.at(0).at(0).toString(), QString("Widen Work"));
        QTest::mouseDClick(grid_->viewport(), Qt::LeftButton, {},
                           QPoint(grid_->places().heading("work").right() + 1, 12));
        QTRY_COMPARE(grid_->design().column("work")->width.mode, WidthMode::Fit);
        const int fit = grid_->places().heading("work").width();
        QVERIFY(fit < 160 && fit > 50);
        QVERIFY(grid_->design().sort.empty());
    }

    void headingsAreDraggedToANewPlace() {
        QSignalSpy edited(grid_.get(), &Grid::designEdited);
        drag(grid_->places().heading("hours").center(), grid_->places().heading("work").center() - QPoint(30, 0));
        QCOMPARE(grid_->design().columns[1].field, std::string("hours"));
        QCOMPARE(edited.count(), 1);
        QVERIFY(grid_->places().heading("hours").left() < grid_->places().heading("work").left());
        QVERIFY(grid_->design().sort.empty());  // a drag is no click
        QSignalSpy dropped(grid_.get(), &Grid::headingDropped);
        drag(grid_->places().heading("due").center(), QPoint(300, -40));
        QCOMPARE(dropped.count(), 1);
        QCOMPARE(edited.count(), 1);  // let go above the grid: another may take it, the grid does nothing
    }

    void keysMoveAndSelect() {
        clickCell(0, "work");
        QTest::keyClick(grid_.get(), Qt::Key_Down);
        QTest::keyClick(grid_.get(), Qt::Key_Right);
        QCOMPARE(*grid_->selection().currentCell(), (CellPlace{1, 2}));
        QTest::keyClick(grid_.get(), Qt::Key_End, Qt::ControlModifier);
        QCOMPARE(grid_->selection().currentCell()->line, 299);
        QVERIFY(!grid_->places().cell(299, "status").isEmpty());
        QTest::keyClick(grid_.get(), Qt::Key_Home);
        QCOMPARE(grid_->selection().currentCell()->column, 0);
        QTest::keyClick(grid_.get(), Qt::Key_PageUp, Qt::ShiftModifier);
        QVERIFY(grid_->selection().count() > 10);
        QTest::keyClick(grid_.get(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(grid_->selection().count(), 300);
        QTest::keyClick(grid_.get(), Qt::Key_Home, Qt::ControlModifier);
        QCOMPARE(grid_->selection().count(), 1);
        QTest::keyClick(grid_.get(), Qt::Key_Down, Qt::ControlModifier);
        QTest::keyClick(grid_.get(), Qt::Key_Space, Qt::ControlModifier);
        QCOMPARE(grid_->selection().count(), 2);
        QTest::keyClick(grid_.get(), Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QGuiApplication::clipboard()->text().count('\n'), 2);
        QSignalSpy activated(grid_.get(), &Grid::recordActivated);
        QTest::keyClick(grid_.get(), Qt::Key_Return);
        QCOMPARE(activated.count(), 1);
        QCOMPARE(activated.at(0).at(0).value<Record>().text("number"), QString("2"));
    }

    void goingToALineAndBackAndForward() {
        clickCell(2, "work");
        QTest::keyClick(grid_.get(), Qt::Key_Down);  // a step is no journey
        QTest::keyClick(grid_.get(), Qt::Key_J, Qt::ControlModifier);
        auto* entry = grid_->viewport()->findChild<QLineEdit*>("goToEntry");
        QVERIFY(entry);
        QTest::keyClicks(entry, "301");
        QTest::keyClick(entry, Qt::Key_Return);
        QCOMPARE(grid_->selection().currentCell()->line, 3);  // there are 300: the entry stays
        QTest::keyClick(entry, Qt::Key_Backspace);
        QTest::keyClicks(entry, "0");
        QTest::keyClick(entry, Qt::Key_Return);
        QCOMPARE(grid_->selection().currentCell()->line, 299);
        QVERIFY(!grid_->places().cell(299, "work").isEmpty());
        QTest::keyClick(grid_.get(), Qt::Key_Home, Qt::ControlModifier);
        QTest::keyClick(grid_.get(), Qt::Key_Left, Qt::AltModifier);
        QCOMPARE(grid_->selection().currentCell()->line, 299);
        QTest::keyClick(grid_.get(), Qt::Key_Left, Qt::AltModifier);
        QCOMPARE(grid_->selection().currentCell()->line, 3);
        QVERIFY(!grid_->selection().goBack());
        clickHeading("number");
        clickHeading("number");  // the records are now in another order
        QTRY_COMPARE(text(0, "number"), QString("300"));
        QVERIFY(grid_->selection().goForward());
        QCOMPARE(grid_->selection().current().text("number"), QString("300"));
    }

    void typingOnAReadOnlyColumnJumps() {
        clickCell(0, "locked");
        QTest::keyClicks(grid_.get(), "work 29");
        QVERIFY(grid_->selection().current().text("work").startsWith("work 29"));
    }

    void cellsAreSelectedInBlocks() {
        grid_->selection().setMode(SelectionMode::Cells);
        QTest::mousePress(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(2, "work").center());
        QTest::mouseMove(grid_->viewport(), grid_->places().cell(4, "due").center());
        QTest::mouseRelease(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(4, "due").center());
        QTest::keyClick(grid_.get(), Qt::Key_C, Qt::ControlModifier);
        const QStringList lines = QGuiApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 3);
        QCOMPARE(lines[0].count('\t'), 2);
    }

    void anEditIsTypedConvertedAndSaved_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("stored");
        QTest::addColumn<QString>("shown");
        QTest::newRow("text") << "work"
                              << "Rewire Åse's mast"
                              << "Rewire Åse's mast"
                              << "Rewire Åse's mast";
        QTest::newRow("decimal") << "hours"
                                 << "12.25"
                                 << "12.25"
                                 << "12.25";
        QTest::newRow("date") << "due"
                              << "24 nov 2026"
                              << "2026-11-24"
                              << "24 Nov 2026";
        QTest::newRow("emptied") << "due"
                                 << ""
                                 << ""
                                 << "";
        QTest::newRow("real") << "rate"
                              << "0.125"
                              << "0.125"
                              << "0.125";
        QTest::newRow("choice") << "status"
                                << "Booked"
                                << "Booked"
                                << "Booked";
    }
    void anEditIsTypedConvertedAndSaved() {
        QFETCH(QString, field);
        QFETCH(QString, typed);
        QFETCH(QString, stored);
        QFETCH(QString, shown);
        QSignalSpy answered(grid_.get(), &Grid::editAnswered);
        QTest::mouseDClick(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(4, field).center());
        QVERIFY(entry());
        entry()->selectAll();
        QTest::keyClick(entry(), Qt::Key_Delete);
        QTest::keyClicks(entry(), typed);
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(answered.count(), 1);
        QVERIFY2(answered.at(0).at(0).toBool(), qPrintable(answered.at(0).at(1).toString()));
        QVERIFY(!entry());
        QCOMPARE(value("SELECT " + field + " FROM jobs WHERE number = 5"), stored);
        QCOMPARE(text(4, field), shown);
        QCOMPARE(grid_->selection().currentCell()->line, 5);  // Enter goes on to the next record
    }

    void whatDoesNotConvertStaysOpenAndSaysWhy() {
        clickCell(3, "hours");
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(entry());
        const QString before = entry()->text();
        QTest::keyClicks(entry(), "x");
        QTest::keyClick(entry(), Qt::Key_Return);
        QVERIFY(entry());
        QVERIFY2(grid_->message().contains("not a number"), qPrintable(grid_->message()));
        clickCell(8, "work");  // the cell is not left while it is wrong
        QVERIFY(entry());
        QCOMPARE(grid_->selection().currentCell()->line, 3);
        QTest::keyClick(entry(), Qt::Key_Escape);
        QVERIFY(!entry());
        QVERIFY(grid_->message().isEmpty());
        QCOMPARE(text(3, "hours"), before);
        QCOMPARE(grid_->records().unsaved(), std::size_t{0});
    }

    void whatTheDatabaseRefusesIsKeptAndCanBePutBack() {
        QSignalSpy answered(grid_.get(), &Grid::editAnswered);
        clickCell(3, "hours");
        QTest::keyClicks(grid_.get(), "9");
        QTest::keyClicks(entry(), "99");
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(answered.count(), 1);
        QVERIFY(!answered.at(0).at(0).toBool());
        QCOMPARE(text(3, "hours"), QString("999.00"));
        QCOMPARE(grid_->records().unsaved(), std::size_t{1});
        clickCell(3, "work");
        QVERIFY(grid_->message().contains("does not allow"));
        const auto links = grid_->findChild<MessageStrip*>()->findChildren<QPushButton*>();
        QCOMPARE(links.size(), 2);
        QTest::mouseClick(links[0], Qt::LeftButton);
        QCOMPARE(text(3, "hours"), QString("4.50"));
        QCOMPARE(grid_->records().unsaved(), std::size_t{0});
        QVERIFY(grid_->message().isEmpty());
    }

    void checksToggleByClickAndSpace() {
        const QString before = value("SELECT paid FROM jobs WHERE number = 3");
        clickCell(2, "paid");
        QTRY_VERIFY(value("SELECT paid FROM jobs WHERE number = 3") != before);
        QTest::keyClick(grid_.get(), Qt::Key_Space);
        QTRY_COMPARE(value("SELECT paid FROM jobs WHERE number = 3"), before);
    }

    void columnsThatCannotBeWrittenAreNotEdited() {
        clickCell(1, "locked");
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(!entry());
        Design design = grid_->design();
        design.column("work")->readOnly = true;
        grid_->setDesign(design);
        QTest::mouseDClick(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(1, "work").center());
        QVERIFY(!entry());
        grid_->setEditable(false);
        clickCell(1, "hours");
        QVERIFY(!grid_->records().editCurrentCell());
    }

    void anEditThatMovesTheRecordDoesNotMakeItJump() {
        clickHeading("hours");
        QTRY_COMPARE(grid_->design().sort.size(), std::size_t{1});
        QTRY_COMPARE(text(0, "hours"), QString("0.50"));
        clickCell(0, "hours");
        QTest::keyClicks(grid_.get(), "3");
        QTest::keyClicks(entry(), "99");
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(grid_->records().unsaved(), std::size_t{0});
        QCOMPARE(text(0, "hours"), QString("399.00"));
        QVERIFY(grid_->session().view().orderIsStale());
        grid_->session().view().resort();
        QTRY_COMPARE(text(299, "hours"), QString("399.00"));
    }

    void wheelScrollsByPixelsAndThePinnedColumnStays() {
        const QPoint middle(400, 250);
        QWheelEvent down(middle, grid_->viewport()->mapToGlobal(middle), QPoint(0, -37), QPoint(0, 0), Qt::NoButton,
                         Qt::NoModifier, Qt::NoScrollPhase, false);
        QCoreApplication::sendEvent(grid_->viewport(), &down);
        QCOMPARE(grid_->places().cell(3, "work").top(), 34 + 3 * 26 - 37);
        grid_->resize(420, 400);
        QVERIFY(grid_->horizontalScrollBar()->maximum() > 0);
        const QRect pinned = grid_->places().heading("number");
        grid_->horizontalScrollBar()->setValue(grid_->horizontalScrollBar()->maximum());
        QCOMPARE(grid_->places().heading("number"), pinned);
        QVERIFY(grid_->places().heading("locked").width() > 50);
    }

    void whatCannotOpenLeavesTheGridAsItWas() {
        const auto result = grid_->open(grid_->design(), folder_->filePath("none.db"));
        QVERIFY(!result.ok());
        QCOMPARE(grid_->lineCount(), 300);
        Design other = grid_->design();
        other.source.table = "jobz";
        QVERIFY(!grid_->open(other, path_).ok());
        QCOMPARE(text(0, "number"), QString("1"));
    }

    void recordsAreTyped() {
        const Record record = grid_->recordAt(4);
        QCOMPARE(std::get<std::int64_t>(record.value("number")), 5);
        QCOMPARE(record.value("due"), Value(Date{*daysFromCivil({2026, 1, 6})}));
        QCOMPARE(record.plain("hours"), QString("5.50"));
        QVERIFY(isEmpty(record.value("nothing")) && !Record().isValid());
        QCOMPARE(record.key(), RecordKey{std::int64_t{5}});
    }

  private:
    void clickHeading(const char* field, Qt::KeyboardModifiers modifiers = {}) {
        QTest::mouseClick(grid_->viewport(), Qt::LeftButton, modifiers, grid_->places().heading(field).center());
    }
    void clickCell(std::int64_t line, const char* field) {
        QTest::mouseClick(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(line, field).center());
    }
    void drag(QPoint from, QPoint to) {
        QTest::mousePress(grid_->viewport(), Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(grid_->viewport(), from + (to - from) * step / 6);
        QTest::mouseRelease(grid_->viewport(), Qt::LeftButton, {}, to);
    }
    QString text(std::int64_t line, const QString& field) { return grid_->recordAt(line).text(field.toStdString()); }
    QLineEdit* entry() {
        return grid_->viewport()->findChild<QLineEdit*>("cellEntry") &&
                       grid_->viewport()->findChild<QLineEdit*>("cellEntry")->isVisible()
                   ? grid_->viewport()->findChild<QLineEdit*>("cellEntry")
                   : nullptr;
    }
    void execute(const char* sql) {
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        char* message = nullptr;
        if (sqlite3_exec(db, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(db);
    }
    QString value(const QString& sql) { return test::storedText(path_, sql.toUtf8().constData()); }
    std::unique_ptr<QTemporaryDir> folder_;
    QString path_;
    std::unique_ptr<Grid> grid_;
};

QTEST_MAIN(GridTest)
#include "tst_grid.moc"
