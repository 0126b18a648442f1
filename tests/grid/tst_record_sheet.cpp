// SPDX-License-Identifier: MIT
// The record sheet beside a grid: the same values, editors and checks; marks of what is changed; the way through
// records; real keys and clicks.
#include <QtWidgets>

#include "grid/sheet/field_box.h"
#include "grid/sheet/record_sheet.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class RecordSheetTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        w_ = std::make_unique<WindowHelpers>();
        Design design = w_->design();
        design.grid.saving = Saving::EachRecord;
        design.checks = {{"some", "hours", "hours > 0", "No hours, no job.", false, true, {}}};
        QVERIFY(w_->open(design));
        sheet_ = std::make_unique<RecordSheet>(w_->grid());
        sheet_->resize(320, 600);
        sheet_->show();
        QVERIFY(QTest::qWaitForWindowExposed(sheet_.get()));
    }
    void cleanup() {
        sheet_.reset();
        w_.reset();
    }

    /// A face is how the grid shows a cell; a record's name and a box of the form are the field's own.
    void facesStayInTheGrid() {
        Design design = w_->grid().design();
        design.faces.push_back(
            {"several", face::row({face::field("notes"), face::field(), face::text("at {status}")})});
        for (const char* field : {"work", "vessel"}) design.column(field)->face = "several";
        w_->grid().setDesign(design);
        w_->choose(4, "vessel");
        const QString name =
            w_->stored("SELECT name FROM vessels WHERE id = (SELECT vessel FROM jobs WHERE number = 5)");
        QVERIFY(!name.isEmpty());
        QTRY_VERIFY(w_->text(4, "vessel").contains(name + " at "));  // the grid shows all of it
        QStringList titles;
        for (const QLabel* label : sheet_->findChildren<QLabel*>()) titles << label->text();
        QVERIFY2(titles.contains(name), qPrintable(titles.join("; ")));
        QStringList shown;
        for (QWidget* box : sheet_->findChildren<FieldBox*>()) shown << box->accessibleDescription();
        QVERIFY2(shown.contains(name), qPrintable(shown.join("; ")));
        QVERIFY2(shown.contains("work 5"), qPrintable(shown.join("; ")));
        for (const QLabel* label : sheet_->findChildren<QLabel*>())
            QVERIFY2(!label->text().contains("at "), qPrintable(label->text()));
        // The entry of a look-up begins with the label that is looked up, too.
        w_->key(Qt::Key_F2);
        QTRY_VERIFY(w_->entry());
        QCOMPARE(w_->entry()->text(), name);
        QTest::keyClick(w_->entry(), Qt::Key_Escape);
    }

    void itShowsTheCurrentRecord() {
        QVERIFY(box("work")->shownText().isEmpty());
        for (const std::int64_t line : {std::int64_t{0}, std::int64_t{7}, std::int64_t{150}}) {
            w_->choose(line, "work");
            for (const char* field : {"number", "vessel", "work", "status", "due", "hours", "notes"})
                QCOMPARE(box(field)->shownText(), w_->text(line, field));
        }
    }

    void typingInItEditsTheRecord() {
        w_->choose(4, "work");
        sheet_->activateWindow();
        box("hours")->setFocus();
        QTest::keyClick(box("hours"), Qt::Key_F2);
        enter("hours", "12.5");
        QCOMPARE(w_->text(4, "hours"), box("hours")->shownText());
        QCOMPARE(sheet_->status(), QString("1 changed"));
        QCOMPARE(w_->stored("SELECT hours FROM jobs WHERE number = 5"), QString("5.5"));
        // Typing begins over what stands there.
        QTest::keyClicks(box("work"), "N");
        QVERIFY(box("work")->isEditing());
        enter("work", "New words");
        QCOMPARE(sheet_->status(), QString("2 changed"));
        press("Save");
        QTRY_COMPARE(w_->stored("SELECT work || hours FROM jobs WHERE number = 5"), QString("New words12.5"));
        QTRY_COMPARE(sheet_->status(), QString());
    }

    void whatIsWrongStaysTypedAndSaysWhy() {
        w_->choose(4, "work");
        sheet_->activateWindow();
        QTest::mouseClick(box("hours"), Qt::LeftButton, {}, box("hours")->rect().center());
        QVERIFY(box("hours")->isEditing());
        enter("hours", "0");
        QVERIFY(box("hours")->isEditing());
        QCOMPARE(box("hours")->message(), QString("No hours, no job."));
        sheet_->fieldBox("due");
        QTest::keyClick(line("hours"), Qt::Key_Escape);
        QVERIFY(!box("hours")->isEditing());
        QVERIFY(box("hours")->message().isEmpty());
        QTest::mouseClick(box("due"), Qt::LeftButton, {}, box("due")->rect().center());
        enter("due", "31 Feb 2027");
        QVERIFY(box("due")->isEditing());
        QVERIFY(!box("due")->message().isEmpty());
    }

    void revertPutsTheRecordBack() {
        w_->choose(4, "work");
        sheet_->activateWindow();
        box("work")->setFocus();
        QTest::keyClick(box("work"), Qt::Key_F2);
        enter("work", "gone soon");
        QCOMPARE(grid().records().unsaved(), std::size_t{1});
        press("Revert");
        QCOMPARE(box("work")->shownText(), QString("work 5"));
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
    }

    void itGoesToTheNextRecordAndBack() {
        w_->choose(4, "work");
        sheet_->activateWindow();
        box("work")->setFocus();
        QTest::keyClick(box("work"), Qt::Key_PageDown, Qt::ControlModifier);
        QCOMPARE(grid().selection().current().text("number"), QString("6"));
        QCOMPARE(box("number")->shownText(), QString("6"));
        QTest::keyClick(box("work"), Qt::Key_PageUp, Qt::ControlModifier);
        QTest::keyClick(box("work"), Qt::Key_PageUp, Qt::ControlModifier);
        QCOMPARE(box("number")->shownText(), QString("4"));
        // What was typed is saved on the way.
        QTest::keyClick(box("work"), Qt::Key_F2);
        line("work")->selectAll();
        QTest::keyClicks(line("work"), "on the way");
        QTest::keyClick(line("work"), Qt::Key_Return);
        QTest::keyClick(box("work"), Qt::Key_PageDown, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 4"), QString("on the way"));
    }

    void aYesOrNoIsTurnedOver() {
        w_->choose(4, "work");
        sheet_->activateWindow();
        const QString before = w_->stored("SELECT paid FROM jobs WHERE number = 5");
        box("paid")->setFocus();
        QTest::keyClick(box("paid"), Qt::Key_Space);
        grid().records().saveAll();
        QTRY_VERIFY(w_->stored("SELECT paid FROM jobs WHERE number = 5") != before);
    }

    void itFollowsTheDesign() {
        w_->choose(4, "work");
        Design design = grid().design();
        design.column("notes")->shown = false;
        design.column("status")->readOnly = true;
        design.tiers.emplace_back().name = "t";
        design.tiers.back().heading = "Money";
        design.column("hours")->tier = "t";
        grid().setDesign(design);
        QTRY_VERIFY(!sheet_->fieldBox("notes"));
        QVERIFY(box("status")->focusPolicy() != Qt::StrongFocus);
        QVERIFY(!box("status")->begin({}));
        QCOMPARE(box("hours")->shownText(), w_->text(4, "hours"));
    }

  private:
    Grid& grid() { return w_->grid(); }
    FieldBox* box(const char* field) { return static_cast<FieldBox*>(sheet_->fieldBox(field)); }
    QLineEdit* line(const char* field) { return box(field)->findChild<QLineEdit*>("cellEntry"); }
    void enter(const char* field, const QString& words) {
        QVERIFY(line(field));
        line(field)->selectAll();
        QTest::keyClicks(line(field), words);
        QTest::keyClick(line(field), Qt::Key_Return);
    }
    void press(const char* words) {
        for (QPushButton* button : sheet_->findChildren<QPushButton*>())
            if (button->text() == words) return button->click();
        QFAIL(words);
    }
    std::unique_ptr<WindowHelpers> w_;
    std::unique_ptr<RecordSheet> sheet_;
};

QTEST_MAIN(RecordSheetTest)
#include "tst_record_sheet.moc"
