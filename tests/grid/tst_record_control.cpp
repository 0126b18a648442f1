// SPDX-License-Identifier: MIT
// Records made, doubled, deleted, left, saved, undone and decided in a real window, by keys, clicks and menus; and the
// list of what is not saved.
#include <QtWidgets>

#include "grid/records/change_list.h"
#include "grid/records/conflict_card.h"
#include "grid/records/entry_line.h"
#include "tests/grid/grid_fixture.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class RecordControlTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { w_ = std::make_unique<WindowHelpers>(); }
    void cleanup() { w_.reset(); }

    void insertBeginsARecordAndLeavingSavesIt() {
        QVERIFY(w_->open());
        w_->choose(3, "work");
        w_->key(Qt::Key_Insert);
        QTRY_VERIFY(w_->entry());
        QCOMPARE(grid().lineCount(), std::int64_t{201});
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{200});
        QTest::keyClick(w_->entry(), Qt::Key_Tab);  // the key is the database's
        w_->type("vessel", "Otter's Due");
        w_->type("work", "Step the mast");
        w_->type("status", "Booked");
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("200"));
        w_->type("paid", {});
        w_->key(Qt::Key_Up);  // leaves the record
        QTRY_COMPARE(w_->stored("SELECT vessel || work || status FROM jobs WHERE number > 200"),
                     QString("11Step the mastBooked"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(w_->text(200, "number"), QString("201"));
    }

    void theEntryLineBeginsARecord_data() {
        QTest::addColumn<bool>("top");
        QTest::newRow("at the top") << true;
        QTest::newRow("at the foot") << false;
    }
    void theEntryLineBeginsARecord() {
        QFETCH(bool, top);
        Design design = w_->design();
        design.grid.entryLine = top ? EntryLinePlace::Top : EntryLinePlace::Bottom;
        design.grid.filterRow = true;
        design.sort = {{"hours", Direction::Descending, Empties::Last}};
        QVERIFY(w_->open(design));
        QWidget* line = grid().viewport()->findChild<QWidget*>("entryLine");
        QVERIFY(line && line->isVisible());
        QVERIFY(line->geometry().right() <= grid().viewport()->width());
        // It covers no record and no heading.
        grid().selection().showLine(0);
        QVERIFY(!line->geometry().intersects(grid().places().heading("work")));
        QVERIFY(!line->geometry().intersects(grid().places().filter("work")));
        if (top) QVERIFY(!line->geometry().intersects(grid().places().cell(0, "work")));
        if (!top) QVERIFY(line->geometry().bottom() >= grid().viewport()->height() - 2);
        const int x = grid().places().cell(0, "work").center().x();
        QTest::mouseClick(line, Qt::LeftButton, {}, QPoint(x, line->height() / 2));
        QTRY_VERIFY(w_->entry());
        QCOMPARE(grid().lineCount(), std::int64_t{201});
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{top ? 0 : 200});
        QTest::keyClicks(w_->entry(), "Haul out");
        QTest::keyClick(w_->entry(), Qt::Key_Tab);
        w_->type("status", "Done");
        w_->type("paid", {});
        // Another cell: it is left, saved, and still where it was made until records are put in order.
        w_->choose(top ? 5 : 100, "work");
        QTRY_COMPARE(w_->stored("SELECT work || status FROM jobs WHERE number > 200"), QString("Haul outDone"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(w_->text(top ? 0 : 200, "work"), QString("Haul out"));
        // Without the right to add there is no line.
        grid().changeDesign([](Design& next) { next.grid.canInsert = false; });
        QVERIFY(!line->isVisible());
        grid().changeDesign([](Design& next) { next.grid.canInsert = true; });
        QVERIFY(line->isVisible());
        grid().changeDesign([](Design& next) { next.grid.entryLine = EntryLinePlace::None; });
        QVERIFY(!line->isVisible());
    }

    void theEntryLineShowsWhatTheDatabaseFillsIn() {
        FieldSchema field;
        field.type = Type::Text;
        const auto formatter = Formatter::automatic({});
        const auto shown = [&](const char* sql, Type type = Type::Text) {
            field.type = type;
            field.defaultSql = sql;
            return plainDefault(field, *formatter);
        };
        QCOMPARE(shown("'Booked'"), QString("Booked"));
        QCOMPARE(shown("'It''s'"), QString("It's"));
        QCOMPARE(shown("'a' || 'b'"), QString());
        QCOMPARE(shown("CURRENT_TIMESTAMP"), QString());
        QCOMPARE(shown("datetime('now')"), QString());
        QCOMPARE(shown("12", Type::Integer), QString("12"));
        QCOMPARE(shown("1 + 1", Type::Integer), QString());
        QCOMPARE(shown("'", Type::Text), QString());
        QCOMPARE(shown("", Type::Text), QString());
        QCOMPARE(shown("NULL", Type::Text), QString());
    }

    void aRecordIsNotLeftWhileItIsWrong() {
        Design design = w_->design();
        design.checks = {{"paid", "", "paid OR hours < 30", "Only {hours} hours can be unpaid.", false, true, {}}};
        QVERIFY(w_->open(design));
        const auto line = w_->lineWhere("number", "20");  // unpaid, 20.5 hours
        w_->choose(line, "hours");
        w_->edit("35");
        QCOMPARE(w_->text(line, "hours"), QString("35.50").replace("35.50", w_->text(line, "hours")));
        QTRY_VERIFY2(grid().message().contains("can be unpaid"), qPrintable(grid().message()));
        QCOMPARE(w_->stored("SELECT hours FROM jobs WHERE number = 20"), QString("20.5"));
        const std::int64_t stays = grid().selection().currentCell()->line;
        w_->key(Qt::Key_Down);
        w_->key(Qt::Key_PageDown);
        QCOMPARE(grid().selection().currentCell()->line, stays);
        w_->key(Qt::Key_Escape);  // the record again
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(grid().message().isEmpty());
        w_->key(Qt::Key_Down);
        QCOMPARE(grid().selection().currentCell()->line, stays + 1);
    }

    void aCellIsNotLeftWhileItIsWrong() {
        Design design = w_->design();
        design.checks = {{"some", "hours", "hours > 0", "No hours, no job.", false, true, {}},
                         {"many", "hours", "hours < 300", "That is much.", true, true, {}}};
        QVERIFY(w_->open(design));
        w_->choose(4, "hours");
        w_->key(Qt::Key_F2);
        w_->enter("0");
        QVERIFY(w_->entry());
        QCOMPARE(grid().message(), QString("No hours, no job."));
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
        QVERIFY(!w_->entry());
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        // A warning is passed over by a second Enter, and the list says so.
        w_->choose(4, "hours");
        w_->key(Qt::Key_F2);
        w_->enter("400");
        QVERIFY(w_->entry());
        QVERIFY(grid().message().contains("That is much."));
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QVERIFY(!w_->entry());
        QTRY_COMPARE(w_->stored("SELECT hours FROM jobs WHERE number = 5"), QString("400"));
    }

    void draftsMayBeLeftWhereTheDesignSaysSo() {
        Design design = w_->design();
        design.grid.keepsDrafts = true;
        design.checks = {{"some", "hours", "hours > 0", "No hours, no job.", false, true, {}}};
        QVERIFY(w_->open(design));
        w_->choose(4, "hours");
        w_->edit("0");
        w_->key(Qt::Key_Down);
        QVERIFY(grid().selection().currentCell()->line > 4);
        QCOMPARE(grid().records().unsaved(), std::size_t{1});
        const auto changes = grid().records().changes();
        QCOMPARE(changes.size(), std::size_t{1});
        QVERIFY(changes[0].isBlocked && changes[0].isToPutRight());
        QCOMPARE(changes[0].message, QString("No hours, no job."));
        QCOMPARE(grid().records().saveAll(), 0);
    }

    void deletingAsksForMoreThanOneAndIsUndone() {
        QVERIFY(w_->open());
        w_->choose(2, "work");
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("199"));  // one is gone at once
        QTRY_COMPARE(grid().lineCount(), std::int64_t{199});
        w_->choose(10, "work");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_VERIFY(w_->link("Delete 2 records"));
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("199"));
        w_->link("Keep")->click();
        QVERIFY(!w_->link("Delete 2 records"));
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_VERIFY(w_->link("Delete 2 records"));
        QTest::keyClick(w_->link("Delete 2 records"), Qt::Key_Space);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("197"));
        w_->key(Qt::Key_Z, Qt::ControlModifier);  // too early it does nothing, and is not lost
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        if (w_->stored("SELECT count(*) FROM jobs") == "197") w_->key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("199"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        w_->key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE number = 3"), QString("1"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        w_->key(Qt::Key_Y, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("199"));
    }

    void whatDependsOnARecordIsSaidBefore() {
        w_->outside(
            "CREATE TABLE lines (job INTEGER REFERENCES jobs ON DELETE CASCADE); INSERT INTO lines VALUES (1), (1);"
            "CREATE TABLE claims (job INTEGER REFERENCES jobs); INSERT INTO claims VALUES (2)");
        QVERIFY(w_->open());
        w_->choose(w_->lineWhere("number", "1"), "work");
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_VERIFY(w_->link("Delete 1 record"));
        QVERIFY2(w_->question().contains("2 of lines are deleted"), qPrintable(w_->question()));
        w_->link("Delete 1 record")->click();
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM lines"), QString("0"));
        w_->choose(w_->lineWhere("number", "2"), "work");
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_VERIFY(w_->link("Close"));
        QVERIFY2(w_->question().contains("cannot be deleted") && w_->question().contains("claims"),
                 qPrintable(w_->question()));
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("199"));
    }

    void aConflictIsDecidedOnACard() {
        Design design = w_->design();
        design.grid.saving = Saving::EachRecord;
        design.grid.changedBy = "notes";
        QVERIFY(w_->open(design));
        const auto line = w_->lineWhere("number", "5");
        w_->choose(line, "work");
        w_->edit("mine");
        w_->choose(line, "hours");
        w_->edit("3");
        w_->outside("UPDATE jobs SET work = 'theirs', hours = 9, notes = 'Tom Ward' WHERE number = 5");
        w_->choose(line, "work");
        w_->key(Qt::Key_S, Qt::ControlModifier);
        QTRY_VERIFY(w_->link("Compare"));
        w_->link("Compare")->click();
        auto* card = grid().findChild<ConflictCard*>();
        QVERIFY(card && card->isVisible());
        const auto labels = card->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(),
                            [](const QLabel* label) { return label->text() == "Tom Ward saved it last"; }));
        card->choose(*grid().session().schema().find("hours"), SessionRecords::Keep::Theirs);
        QCOMPARE(card->findChild<QPushButton*>("decide")->text(), QString("Save 1 field"));
        card->findChild<QPushButton*>("decide")->click();
        QTRY_COMPARE(w_->stored("SELECT work || hours FROM jobs WHERE number = 5"), QString("mine9"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
    }

    void theChangeListSaysWhatIsNotSaved() {
        Design design = w_->design();
        design.grid.saving = Saving::Together;
        QVERIFY(w_->open(design));
        ChangeList list(grid());
        list.resize(320, 500);
        list.show();
        QCOMPARE(list.heading(), QString("No changes"));
        w_->choose(1, "work");
        w_->edit("typed");
        w_->choose(1, "hours");
        w_->edit("7");
        w_->choose(4, "work");
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_COMPARE(list.heading(), QString("3 changes in 2 records"));
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'typed'"), QString("0"));
        const auto changes = grid().records().changes();
        QCOMPARE(changes[0].cells[0].before, QString("work 2"));
        QCOMPARE(changes[0].cells[0].after, QString("typed"));
        QCOMPARE(changes[1].change, RecordChange::Delete);
        // A name goes to its record.
        w_->choose(100, "work");
        const auto names = list.findChildren<QPushButton*>("goTo");
        QCOMPARE(names.size(), 2);
        names[0]->click();
        QCOMPARE(grid().selection().current().text("number"), QString("2"));
        const auto press = [&](const char* words) {
            for (QPushButton* button : list.findChildren<QPushButton*>())
                if (button->text() == words) return button->click(), true;
            return false;
        };
        QVERIFY(press("Bring back"));
        QTRY_COMPARE(list.heading(), QString("2 changes in 1 record"));
        QVERIFY(press("Put back"));
        QTRY_COMPARE(list.heading(), QString("1 change in 1 record"));
        QVERIFY(press("Save all"));
        QTRY_COMPARE(list.heading(), QString("No changes"));
        QTRY_COMPARE(w_->stored("SELECT work || hours FROM jobs WHERE number = 2"), QString("work 27"));
    }

    void applicationsMakeSaveAndHear() {
        Design design = w_->design();
        design.grid.saving = Saving::EachRecord;
        QVERIFY(w_->open(design));
        QSignalSpy answers(&grid(), &Grid::recordAnswered);
        const auto wrong = grid().records().insert({{"hours", Value(true)}});
        QVERIFY(!wrong.ok() && wrong.error().message.find("hours") != std::string::npos);
        QVERIFY(!grid().records().insert({{"nowhere", Value(true)}}).ok());
        const auto made = grid().records().insert(
            {{"work", std::string("by call")}, {"status", std::string("Done")}, {"paid", Value(false)}});
        QVERIFY(made.ok());
        QCOMPARE(grid().records().save(*made), 1);
        QTRY_COMPARE(answers.size(), 1);
        QVERIFY(answers[0][1].toBool());
        const auto saved = answers[0][0].value<Record>();
        QCOMPARE(saved.text("work"), QString("by call"));
        QCOMPARE(saved.text("number"), QString("201"));
        const auto twin = grid().records().duplicate(saved);
        QVERIFY(twin.ok());
        QCOMPARE(grid().records().save(*twin), 1);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'by call'"), QString("2"));
        QTRY_COMPARE(answers.size(), 2);
        QVERIFY(grid().records().remove({answers[1][0].value<Record>()}));
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'by call'"), QString("1"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(grid().records().canUndo() && !grid().records().canRedo());
        QVERIFY(grid().records().undo());
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work = 'by call'"), QString("2"));
        QVERIFY(grid().records().canRedo());
    }

    void whatMayNotIsNotOffered() {
        Design design = w_->design();
        design.grid.canInsert = design.grid.canDelete = false;
        QVERIFY(w_->open(design));
        w_->choose(2, "work");
        w_->key(Qt::Key_Insert);
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTest::qWait(60);
        QCOMPARE(grid().lineCount(), std::int64_t{200});
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs"), QString("200"));
    }

    /// Every state is drawn, told apart by shape, and said to assistive technology.
    void marksAreSeenAndSaid() {
        Design design = w_->design();
        design.grid.saving = Saving::Together;
        design.grid.keepsDrafts = true;
        design.checks = {{"some", "hours", "hours > 0", "No hours, no job.", false, true, {}}};
        QVERIFY(w_->open(design));
        const auto gutter = [&](std::int64_t line) {
            const QRect row = grid().places().line(line);
            return w_->viewport()->grab(QRect(0, row.top() + 1, 22, row.height() - 2)).toImage();
        };
        const QImage nothing = gutter(1);
        w_->choose(1, "work");
        w_->edit("typed");
        w_->choose(3, "hours");
        w_->edit("0");
        w_->choose(5, "work");
        w_->key(Qt::Key_Delete, Qt::ControlModifier);
        QTRY_COMPARE(grid().records().changes().size(), std::size_t{3});
        w_->choose(10, "work");
        const QImage draft = gutter(1), wrong = gutter(3), gone = gutter(5);
        for (const auto& [a, b] :
             {std::pair(nothing, draft), {draft, wrong}, {wrong, gone}, {draft, gone}, {nothing, gone}})
            QVERIFY(a != b);
        QAccessibleInterface* table = QAccessible::queryAccessibleInterface(&grid());
        const auto said = [&](int line, int column) {
            return table->tableInterface()->cellAt(line, column)->text(QAccessible::Description);
        };
        QVERIFY2(said(1, 2).contains("draft"), qPrintable(said(1, 2)));
        QVERIFY2(said(3, 5).contains("No hours, no job."), qPrintable(said(3, 5)));
        QVERIFY2(said(5, 2).contains("deleted"), qPrintable(said(5, 2)));
    }

  private:
    Grid& grid() { return w_->grid(); }
    std::unique_ptr<WindowHelpers> w_;
};

QTEST_MAIN(RecordControlTest)
#include "tst_record_control.moc"
