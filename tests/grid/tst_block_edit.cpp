// SPDX-License-Identifier: MIT
// Blocks of cells: pasted, filled, cleared, by real keys and the real clipboard; what cannot be written is shown before
// anything is; one step back takes all of it back.
#include <QtWidgets>

#include "grid/records/paste_card.h"
#include "grid/select/block_edit.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class BlockEditTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        w_ = std::make_unique<WindowHelpers>();
        QVERIFY(w_->open());
        grid().selection().setMode(SelectionMode::Cells);
    }
    void cleanup() { w_.reset(); }

    void textIsTakenApart() {
        using Lines = std::vector<std::vector<QString>>;
        QCOMPARE(cellsOf("a\tb\nc\td\n"), (Lines{{"a", "b"}, {"c", "d"}}));
        QCOMPARE(cellsOf("a\tb\r\nc\t"), (Lines{{"a", "b"}, {"c", ""}}));
        QCOMPARE(cellsOf("\"a\tb\"\t\"say \"\"yes\"\"\"\n\"two\nlines\""),
                 (Lines{{"a\tb", "say \"yes\""}, {"two\nlines"}}));
        QCOMPARE(cellsOf("5\" pipe\tx"), (Lines{{"5\" pipe", "x"}}));
        QCOMPARE(cellsOf("\t"), (Lines{{"", ""}}));
        QCOMPARE(cellsOf("\n"), (Lines{{""}}));
        QVERIFY(cellsOf("").empty());
        QCOMPARE(cellsOf("\"open"), (Lines{{"open"}}));
    }

    /// What was quoted comes back, whatever it holds.
    void quotedCellsComeBack() {
        std::mt19937 dice(8);
        for (int turn = 0; turn < 500; ++turn) {
            std::vector<std::vector<QString>> lines(1 + dice() % 4);
            QString text;
            for (auto& line : lines) {
                for (std::size_t i = 0, n = 1 + dice() % 4; i < n; ++i) {
                    QString cell;
                    for (std::size_t k = dice() % 6; k > 0; --k)
                        cell += QString("ab\"\t\n ").at(static_cast<int>(dice() % 6));
                    line.push_back(cell);
                    text += (i == 0 ? "\"" : "\t\"") + QString(cell).replace("\"", "\"\"") + "\"";
                }
                text += '\n';
            }
            QCOMPARE(cellsOf(text), lines);
        }
    }

    void aBlockIsPastedInOneStep() {
        w_->choose(2, "work");
        paste("new a\tBooked\nnew b\tDone\n");
        QTRY_COMPARE(w_->stored("SELECT group_concat(work || status) FROM jobs WHERE number IN (3, 4)"),
                     QString("new aBooked,new bDone"));
        w_->key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work LIKE 'new%'"), QString("0"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(!grid().records().canUndo());
        w_->key(Qt::Key_Y, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work LIKE 'new%'"), QString("2"));
    }

    void aSingleValueFillsTheBlock() {
        w_->choose(2, "work");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        paste("same");
        QTRY_COMPARE(w_->stored("SELECT group_concat(number) FROM jobs WHERE work = 'same'"), QString("3,4,5"));
    }

    void pastingPastTheEndMakesRecords() {
        w_->choose(199, "work");
        paste("last\tDone\nmade a\tDone\nmade b\tBooked");
        // They lack what is required, so they stay drafts and say so.
        QTRY_COMPARE(grid().lineCount(), std::int64_t{202});
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 200"), QString("last"));
        QTRY_COMPARE(grid().session().snapshot()->edits->count(EditState::Saving), std::size_t{0});
        QCOMPARE(grid().records().changes().size(), std::size_t{2});
        QVERIFY(grid().records().changes()[0].isBlocked);
        QVERIFY2(grid().records().changes()[0].message.contains("paid"),
                 qPrintable(grid().records().changes()[0].message));
        w_->key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(grid().lineCount(), std::int64_t{200});
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 200"), QString("work 200"));
    }

    void whatCannotBeWrittenIsShownBefore() {
        w_->choose(2, "due");
        paste("2027-01-05\t4\nsoon\t5\n2027-02-31\tmany\n2027-03-01\t7");
        auto* card = grid().findChild<PasteCard*>();
        QVERIFY(card && card->isVisible());
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        QString words;
        for (QLabel* label : card->findChildren<QLabel*>()) words += label->text() + u'|';
        QVERIFY2(words.contains("3 values cannot be written") && words.contains("soon") && words.contains("Line 5"),
                 qPrintable(words));
        QTest::keyClick(card, Qt::Key_Escape);
        QTest::qWait(20);
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs WHERE due >= '2027-01-01'"), QString("0"));
        paste("2027-01-05\t4\nsoon\t5\n2027-02-31\tmany\n2027-03-01\t7");
        QTRY_VERIFY(grid().findChild<QPushButton*>("writeRest"));
        grid().findChild<QPushButton*>("writeRest")->click();
        QTRY_COMPARE(
            w_->stored(
                "SELECT group_concat(number || ' ' || due || ' ' || hours) FROM jobs WHERE number BETWEEN 3 AND 6"),
            QString("3 2027-01-05 4,4 2026-01-05 5,5 2026-01-06 5.5,6 2027-03-01 7"));
    }

    void checksHoldForPastes() {
        Design design = w_->design();
        design.checks = {{"some", "hours", "hours > 0", "No hours, no job.", false, true, {}}};
        grid().setDesign(design);
        w_->choose(2, "hours");
        paste("5\n-3\n6");
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QString words;
        for (QLabel* label : grid().findChild<PasteCard*>()->findChildren<QLabel*>()) words += label->text() + u'|';
        QVERIFY2(words.contains("No hours, no job."), qPrintable(words));
    }

    void columnsThatAreNotEditedAreLeftOut() {
        Design design = w_->design();
        design.column("status")->readOnly = true;
        grid().setDesign(design);
        QSignalSpy said(&grid(), &Grid::failed);
        w_->choose(2, "work");
        paste("x\tDone");
        QTRY_COMPARE(w_->stored("SELECT work FROM jobs WHERE number = 3"), QString("x"));
        QVERIFY(!said.isEmpty() && said.last()[0].toString().contains("left out"));
    }

    void cellsAreFilledDownAndOn() {
        w_->choose(0, "due");
        w_->edit("2026-05-01");
        w_->choose(1, "due");
        w_->edit("2026-05-08");
        w_->choose(0, "hours");
        w_->edit("1");
        w_->choose(1, "hours");
        w_->edit("1.25");
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        w_->choose(0, "due");
        for (int i = 0; i < 4; ++i) w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Right, Qt::ShiftModifier);
        w_->key(Qt::Key_E, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT group_concat(due || ' ' || hours) FROM jobs WHERE number BETWEEN 3 AND 5"),
                     QString("2026-05-15 1.5,2026-05-22 1.75,2026-05-29 2"));
        w_->key(Qt::Key_D, Qt::ControlModifier);
        QTRY_COMPARE(w_->stored("SELECT group_concat(DISTINCT due || ' ' || hours) FROM jobs WHERE number <= 5"),
                     QString("2026-05-01 1"));
    }

    void deleteClearsABlock() {
        w_->choose(0, "due");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Right, Qt::ShiftModifier);
        w_->key(Qt::Key_Delete);
        QTRY_COMPARE(w_->stored("SELECT count(*) FROM jobs WHERE due IS NULL AND hours IS NULL"), QString("2"));
        QVERIFY(!w_->entry());
        // What must not be empty is not cleared.
        w_->choose(3, "work");
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Delete);
        QTRY_VERIFY(grid().findChild<PasteCard*>());
        QCOMPARE(w_->stored("SELECT count(*) FROM jobs WHERE work IS NULL OR work = ''"), QString("0"));
    }

    void tooMuchIsRefusedWhole() {
        QSignalSpy said(&grid(), &Grid::failed);
        w_->choose(0, "work");
        paste(QString("a\t").repeated(1'000'001));
        QVERIFY(!said.isEmpty() && said.last()[0].toString().contains("Nothing was pasted"));
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
    }

  private:
    Grid& grid() { return w_->grid(); }
    void paste(const QString& text) {
        QApplication::clipboard()->setText(text);
        w_->key(Qt::Key_V, Qt::ControlModifier);
    }
    std::unique_ptr<WindowHelpers> w_;
};

QTEST_MAIN(BlockEditTest)
#include "tst_block_edit.moc"
