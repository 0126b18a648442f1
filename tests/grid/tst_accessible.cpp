// SPDX-License-Identifier: MIT
// The grid as assistive technology meets it: through QAccessible only.
#include <QAccessible>

#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class AccessibleTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        QAccessible::setActive(true);
        f_ = std::make_unique<GridFixture>();
        f_->design.title = "Yard jobs";
        f_->design.tier("Job").add("work", "status");
        f_->design.tier("All").addTier("Job").add("due");
        QVERIFY(f_->open());
        face_ = QAccessible::queryAccessibleInterface(&f_->grid);
        QVERIFY(face_ && face_->tableInterface());
    }
    void cleanup() { f_.reset(); }

    void isATableOfRowsColumnsAndHeadings() {
        QCOMPARE(face_->role(), QAccessible::Table);
        QCOMPARE(face_->text(QAccessible::Name), QString("Yard jobs"));
        auto* table = face_->tableInterface();
        QCOMPARE(table->rowCount(), 200);
        QCOMPARE(table->columnCount(), 8);
        QCOMPARE(table->columnDescription(2), QString("All, Job, Work"));  // with its tiers
        QCOMPARE(face_->childCount(), 8 + 2 + 200 * 8);
        QAccessibleInterface* heading = face_->child(2);
        QCOMPARE(heading->role(), QAccessible::ColumnHeader);
        QCOMPARE(face_->indexOfChild(heading), 2);
        QAccessibleInterface* tier = face_->child(8);
        QCOMPARE(tier->text(QAccessible::Name), QString("All"));
        QVERIFY(tier->state().expandable && tier->state().expanded);
    }

    void cellsTellNameValueStateAndHeadings() {
        auto* table = face_->tableInterface();
        QAccessibleInterface* cell = table->cellAt(3, 2);
        QVERIFY(cell && cell->isValid());
        QCOMPARE(cell->role(), QAccessible::Cell);
        QCOMPARE(cell->text(QAccessible::Name), QString("work 4"));
        QCOMPARE(cell->text(QAccessible::Description), QString("Work"));
        QVERIFY(cell->state().editable && !cell->state().focused);
        QCOMPARE(cell->tableCellInterface()->rowIndex(), 3);
        QCOMPARE(cell->tableCellInterface()->columnIndex(), 2);
        const auto headings = cell->tableCellInterface()->columnHeaderCells();
        QCOMPARE(headings.size(), 3);
        QCOMPARE(headings[1]->text(QAccessible::Name), QString("Job"));
        QCOMPARE(cell, table->cellAt(3, 2));  // the same one when asked again
        const QRect rect = cell->rect();
        QCOMPARE(face_->childAt(rect.center().x(), rect.center().y()), cell);
        QAccessibleInterface* paid = table->cellAt(1, 6);
        QVERIFY(paid->state().checkable && !paid->state().checked && table->cellAt(0, 6)->state().checked);
        QCOMPARE(table->cellAt(6, 1)->text(QAccessible::Name), QString("empty"));
        QVERIFY(!table->cellAt(200, 0) && !table->cellAt(0, 8) && !face_->child(-1));
    }

    void actionsDoWhatTheMouseDoes() {
        auto* table = face_->tableInterface();
        QAccessibleActionInterface* heading = face_->child(5)->actionInterface();
        QVERIFY(heading->actionNames().contains(QAccessibleActionInterface::pressAction()));
        heading->doAction(QAccessibleActionInterface::pressAction());
        QCOMPARE(f_->grid.design().sort.front().field, std::string("hours"));
        QVERIFY(face_->child(5)->text(QAccessible::Description).startsWith("sorted up, key 1"));
        face_->child(9)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QVERIFY(f_->grid.design().findTier("Job")->folded);
        QVERIFY(face_->child(face_->tableInterface()->columnCount() + 1)->state().collapsed);
        f_->grid.tier("Job").setFolded(false);
        QTRY_COMPARE(f_->text(0, "hours"), QString("0.50"));
        QAccessibleInterface* paid = table->cellAt(1, 6);
        const bool before = paid->state().checked;
        paid->actionInterface()->doAction(QAccessibleActionInterface::toggleAction());
        QTRY_COMPARE(f_->grid.records().unsaved(), std::size_t{0});
        QCOMPARE(table->cellAt(1, 6)->state().checked, !before);
        QVERIFY(table->selectRow(12));
        QCOMPARE(table->selectedRows(), (QList<int>{12}));
        QVERIFY(table->cellAt(12, 0)->state().selected);
    }

    void theFocusCanBeFound() {
        f_->click(f_->grid.places().cell(2, "work").center());
        QCOMPARE(face_->focusChild()->text(QAccessible::Name), QString("work 3"));
        f_->key(Qt::Key_Home, Qt::ControlModifier);
        f_->key(Qt::Key_Up);
        QCOMPARE(face_->focusChild()->role(), QAccessible::ColumnHeader);
        QVERIFY(face_->focusChild()->state().focused);
    }

    void survivesADesignWithFewerColumns() {
        QAccessibleInterface* cell = face_->tableInterface()->cellAt(0, 7);
        QVERIFY(cell->isValid());
        f_->grid.changeDesign([](Design& d) { d.columns.resize(2); });
        QVERIFY(!cell->isValid());
        QCOMPARE(cell->text(QAccessible::Name), QString());
        QCOMPARE(face_->tableInterface()->columnCount(), 2);
    }

  private:
    std::unique_ptr<GridFixture> f_;
    QAccessibleInterface* face_ = nullptr;
};

QTEST_MAIN(AccessibleTest)
#include "tst_accessible.moc"
