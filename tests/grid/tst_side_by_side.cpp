// SPDX-License-Identifier: MIT
// Chosen records on a card as columns: by keys, from the record's menu, from C++; in the order shown, filtered and
// sorted as they are; too few are nobody's keys; Escape brings back to the grid.
#include <QtTest>

#include <QLabel>
#include <QMenu>

#include "grid/api/grid.h"
#include "grid/select/side_by_side.h"
#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class SideBySideTest : public QObject {
    Q_OBJECT
    std::unique_ptr<WindowHelpers> w_;
    Grid& grid() { return w_->grid(); }
    SideBySide* card() { return grid().findChild<SideBySide*>("sideBySide"); }

  private Q_SLOTS:
    void init() { w_ = std::make_unique<WindowHelpers>(); }
    void cleanup() { w_.reset(); }

    void keysOpenAndCloseIt() {
        Design design = w_->design();
        design.sort.clear();
        SortDesign key;
        key.field = "number";
        key.direction = Direction::Descending;
        design.sort.push_back(key);
        QVERIFY(w_->open(design));
        w_->choose(2, "work");
        w_->key(Qt::Key_B, Qt::ControlModifier);
        QVERIFY(!card());  // one alone
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_Down, Qt::ShiftModifier);
        w_->key(Qt::Key_B, Qt::ControlModifier);
        QVERIFY(card() && card()->isVisible());
        Grid& table = card()->table();
        QTRY_COMPARE(table.lineCount(), static_cast<std::int64_t>(grid().session().plan().columns.size()));
        QStringList heads;
        for (const ColumnDesign& column : table.design().columns) heads << QString::fromStdString(column.heading);
        const int top = grid().recordAt(2).text("number").toInt();
        QCOMPARE(heads,
                 (QStringList{"Column", QString::number(top), QString::number(top - 1), QString::number(top - 2)}));
        int works = -1;
        for (int line = 0; line < table.lineCount(); ++line)
            if (table.recordAt(line).text("column") == "Work") works = line;
        QVERIFY(works >= 0);
        QCOMPARE(table.recordAt(works).text("record2"), grid().recordAt(3).text("work"));
        QVERIFY(!table.session().schema().writable);  // it is to look at
        const QString facts = card()->findChild<QLabel*>("differing")->text();
        QVERIFY2(facts.contains("differ"), qPrintable(facts));
        QTest::keyClick(table.viewport(), Qt::Key_Escape);
        QTRY_VERIFY(!card());
        QCOMPARE(grid().selection().count(), std::int64_t{3});
        w_->key(Qt::Key_B, Qt::ControlModifier);
        QVERIFY(card());
        w_->key(Qt::Key_B, Qt::ControlModifier);  // again: one card
        QTRY_COMPARE(grid().findChildren<SideBySide*>().size(), 1);
    }

    void tooManyAreSaid() {
        QVERIFY(w_->open());
        QSignalSpy failed(&grid(), &Grid::failed);
        w_->choose(0, "work");
        w_->key(Qt::Key_A, Qt::ControlModifier);
        QVERIFY(grid().selection().count() >= 200);
        QVERIFY(!grid().selection().openSideBySide());
        QCOMPARE(failed.count(), 1);
        QVERIFY(failed[0][0].toString().contains("too many"));
        QVERIFY(!card());
    }

    void applicationsGetTheTable() {
        QVERIFY(w_->open());
        QVERIFY(!grid().selection().sideBySide().ok());
        w_->choose(5, "work");
        w_->key(Qt::Key_Up, Qt::ShiftModifier);
        const auto made = grid().selection().sideBySide();
        QVERIFY(made.ok());
        Grid other;
        other.resize(700, 400);
        QVERIFY(other.open(made->design, made->table).ok());
        QTRY_COMPARE(other.lineCount(), static_cast<std::int64_t>(made->table->rows));
        QCOMPARE(made->design.columns[1].heading, grid().recordAt(4).text("number").toStdString());
    }
};

QTEST_MAIN(SideBySideTest)
#include "tst_side_by_side.moc"
