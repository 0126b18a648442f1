// SPDX-License-Identifier: MIT
// Headings in a real window: tiers by drag, fold, keys and menus; what form users may not; records on several lines,
// wrapped text, merged neighbours, pinned records; related columns and the look-up editor; the C++ calls.
#include <QCompleter>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QScrollBar>

#include "core/rows/snapshot.h"
#include "grid/editors/message_strip.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class HeadingsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        f_->design.tier("Job").add("work", "status", "due");
        QVERIFY(f_->open());
    }
    void cleanup() { f_.reset(); }

    void dragsMakeJoinAndLeaveTiers() {
        Grid& grid = f_->grid;
        grid.setDesigning(true);
        QSignalSpy edited(&grid, &Grid::designEdited);
        QCOMPARE(f_->order(), QString("number vessel [Job: work status due] hours paid notes"));
        f_->drag(grid.headingRect("hours").center(), grid.tierRect("Job").center());  // onto the tier: joins
        QCOMPARE(f_->order(), QString("number vessel [Job: work status due hours] paid notes"));
        QCOMPARE(edited.last().at(0).toString(), QString("Move Hours under Job"));
        f_->drag(grid.headingRect("status").center(),
                 grid.headingRect("paid").topLeft() + QPoint(3, 30));  // beside: leaves
        QCOMPARE(f_->order(), QString("number vessel [Job: work due hours] status paid notes"));
        QCOMPARE(edited.last().at(0).toString(), QString("Move Status out of Job"));
        f_->drag(grid.headingRect("due").center(),
                 QPoint(grid.headingRect("work").left() + 3, grid.headingRect("work").center().y()));
        QCOMPARE(f_->order(),
                 QString("number vessel [Job: due work hours] status paid notes"));  // inside: the span stays
        f_->drag(grid.tierRect("Job").center(),
                 QPoint(grid.headingRect("number").left() + 3, 30));  // a tier with all under it
        QCOMPARE(f_->order(), QString("[Job: due work hours] number vessel status paid notes"));
        f_->drag(grid.headingRect("paid").center(),
                 QPoint(grid.headingRect("notes").center().x(), grid.headingRect("notes").bottom() - 4));
        QCOMPARE(f_->order(), QString("[Job: due work hours] number vessel status notes^paid"));
        QCOMPARE(edited.last().at(0).toString(), QString("Put Paid beneath Notes"));
        f_->key(Qt::Key_Escape);
        QCOMPARE(edited.count(), 5);
    }

    void escapeTakesADragBack() {
        f_->grid.setDesigning(true);
        const QString before = f_->order();
        QTest::mousePress(f_->viewport(), Qt::LeftButton, {}, f_->grid.headingRect("hours").center());
        QTest::mouseMove(f_->viewport(), f_->grid.tierRect("Job").center() + QPoint(5, 0));
        QTest::mouseMove(f_->viewport(), f_->grid.tierRect("Job").center());
        f_->key(Qt::Key_Escape);
        QTest::mouseRelease(f_->viewport(), Qt::LeftButton, {}, f_->grid.tierRect("Job").center());
        QCOMPARE(f_->order(), before);
    }

    void formUsersMoveWithinTheirTier() {
        Grid& grid = f_->grid;
        const QString before = f_->order();
        f_->drag(grid.headingRect("hours").center(), grid.tierRect("Job").center());
        f_->drag(grid.headingRect("status").center(), grid.headingRect("paid").center());
        QCOMPARE(f_->order(), before);
        f_->drag(grid.headingRect("due").center(), grid.headingRect("work").center() - QPoint(20, 0));
        QCOMPARE(f_->order(), QString("number vessel [Job: due work status] hours paid notes"));
    }

    void foldsByItsMarkAndByKey() {
        Grid& grid = f_->grid;
        QTest::mouseMove(f_->viewport(), grid.tierRect("Job").center());
        f_->click(grid.cellRect(4, "hours").center());
        f_->click(grid.foldRect("Job").center());
        QVERIFY(grid.design().findTier("Job")->folded);
        QCOMPARE(grid.session().plan().columns[static_cast<std::size_t>(grid.currentCell()->column)].design.field,
                 std::string("hours"));
        QVERIFY(grid.headingRect("status").isEmpty() && !grid.headingRect("work").isEmpty());
        f_->click(grid.cellRect(0, "work").center());
        f_->key(Qt::Key_Up);  // into the headings
        f_->key(Qt::Key_Up);  // onto the tier
        f_->key(Qt::Key_Space);
        QVERIFY(!grid.design().findTier("Job")->folded);
        QVERIFY(!grid.headingRect("status").isEmpty());
    }

    void everyOperationHasAKey() {
        Grid& grid = f_->grid;
        grid.setDesigning(true);
        f_->click(grid.cellRect(0, "hours").center());
        f_->key(Qt::Key_Up);
        const int width = grid.headingRect("hours").width();
        f_->key(Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(grid.headingRect("hours").width(), width + 8);
        f_->key(Qt::Key_Return);
        QTRY_COMPARE(grid.design().sort.size(), std::size_t{1});
        QCOMPARE(grid.design().sort[0].field, std::string("hours"));
        f_->key(Qt::Key_Left, Qt::AltModifier);  // past the whole tier beside it
        QCOMPARE(f_->order(), QString("number vessel hours [Job: work status due] paid notes"));
        f_->key(Qt::Key_Right, Qt::AltModifier);
        QCOMPARE(f_->order(), QString("number vessel [Job: work status due] hours paid notes"));
        f_->key(Qt::Key_F2);
        auto* entry = f_->viewport()->findChild<QLineEdit*>("headingEntry");
        QVERIFY(entry);
        QTest::keyClicks(entry, "Time");
        QTest::keyClick(entry, Qt::Key_Return);
        QCOMPARE(grid.design().column("hours")->heading, std::string("Time"));
        f_->key(Qt::Key_Menu);
        auto* menu = grid.findChild<QMenu*>("headingMenu");
        QTRY_VERIFY(menu && menu->isVisible());
        choose(menu, "Pin left up to here");
        QCOMPARE(grid.design().grid.pinned, 6);
        f_->key(Qt::Key_Delete);
        QVERIFY(!grid.design().column("hours")->shown);
        f_->key(Qt::Key_Escape);
        f_->key(Qt::Key_Down);
        QCOMPARE(grid.currentCell()->line, std::int64_t{1});
    }

    void aClickOnATierSelectsItsColumns() {
        f_->click(f_->grid.tierRect("Job").topLeft() + QPoint(12, 6));
        QCOMPARE(f_->grid.selectedColumns(), (std::vector<std::string>{"work", "status", "due"}));
        f_->key(Qt::Key_Escape);
        QVERIFY(f_->grid.selectedColumns().empty());
    }

    void recordsOnTwoLines() {
        Grid& grid = f_->grid;
        const int one = grid.cellRect(0, "work").height();
        grid.column("notes").setUnder("work").setSpan(2);
        QCOMPARE(grid.cellRect(1, "work").top() - grid.cellRect(0, "work").top(), 2 * one);
        QCOMPARE(grid.cellRect(0, "notes").top(), grid.cellRect(0, "work").bottom() + 1);
        QCOMPARE(grid.cellRect(0, "notes").width(),
                 grid.cellRect(0, "work").width() + grid.cellRect(0, "status").width());
        QVERIFY(grid.headingRect("notes").top() > grid.headingRect("work").top());
        f_->click(grid.cellRect(3, "notes").center());
        QCOMPARE(QString::fromStdString(
                     grid.session().plan().columns[static_cast<std::size_t>(grid.currentCell()->column)].design.field),
                 QString("notes"));
        f_->key(Qt::Key_Down);  // to the upper line of the next record
        QCOMPARE(grid.currentCell()->line, std::int64_t{4});
        QCOMPARE(grid.session().plan().columns[static_cast<std::size_t>(grid.currentCell()->column)].design.field,
                 std::string("work"));
        f_->key(Qt::Key_Down);
        QCOMPARE(grid.currentCell()->line, std::int64_t{4});
        f_->key(Qt::Key_End, Qt::ControlModifier);
        QVERIFY(!grid.cellRect(199, "work").isEmpty());
    }

    void wrappedRowsGrowWithTheirText() {
        Grid& grid = f_->grid;
        const int one = grid.cellRect(0, "work").height();
        grid.changeDesign([](Design& d) { d.grid.lineHeight = LineHeight::Automatic; });
        grid.column("notes").setWrap(true).setWidth(140);
        QCOMPARE(grid.cellRect(0, "notes").height(), one);      // no notes
        QVERIFY(grid.cellRect(3, "notes").height() > 2 * one);  // many words
        QCOMPARE(grid.cellRect(4, "work").top(), grid.cellRect(3, "work").bottom() + 1);
        grid.setCurrentCell(0, 0);
        f_->key(Qt::Key_End, Qt::ControlModifier);
        const QRect last = grid.cellRect(199, "work");
        QVERIFY(!last.isEmpty() && last.bottom() <= f_->viewport()->height());
        f_->key(Qt::Key_Home, Qt::ControlModifier);
        QCOMPARE(grid.verticalScrollBar()->value(), 0);
        // Downwards by keys, every record comes in sight.
        for (int i = 1; i < 60; ++i) {
            f_->key(Qt::Key_Down);
            QVERIFY2(grid.cellRect(i, "work").height() >= one, QByteArray::number(i));
        }
    }

    void equalNeighboursAreMergedWhileRecordsStaySelectable() {
        Grid& grid = f_->grid;
        const auto dark = [&](int line) {
            const QImage image = f_->viewport()->grab().toImage();
            const QRect cell = grid.cellRect(line, "status").adjusted(4, 3, -4, -3);
            int count = 0;
            for (int y = cell.top(); y <= cell.bottom(); ++y)
                for (int x = cell.left(); x <= cell.right(); ++x) count += qGray(image.pixel(x, y)) < 110 ? 1 : 0;
            return count;
        };
        QVERIFY(dark(5) > 0 && dark(6) > 0);
        grid.column("status").setMerge(true);
        QVERIFY(dark(4) > 0);  // line 4 = job 5, the first "In hand"
        QCOMPARE(dark(5), 0);
        QVERIFY(dark(9) > 0);  // the next run
        f_->click(grid.cellRect(6, "status").center());
        QCOMPARE(grid.currentRecord().text("number"), QString("7"));
        QCOMPARE(grid.selectedCount(), 1);
    }

    void pinnedRecordsStayAtTheEdges() {
        Grid& grid = f_->grid;
        const int top = grid.cellRect(0, "work").top();
        f_->click(grid.cellRect(8, "work").center());
        f_->key(Qt::Key_Menu);
        auto* menu = grid.findChild<QMenu*>("recordMenu");
        QTRY_VERIFY(menu && menu->isVisible());
        choose(menu, "Pin this record at the top");
        QCOMPARE(grid.design().grid.pinnedRecords.front().key, (std::vector<std::string>{"9"}));
        QVERIFY(grid.cellRect(0, "work").top() > top);
        grid.showLine(150);
        f_->click(QPoint(grid.headingRect("work").center().x(), top + 5));  // the pinned one
        QCOMPARE(grid.currentRecord().text("number"), QString("9"));
        QCOMPARE(grid.currentCell()->line, std::int64_t{8});
    }

    void lookUpsShowLabelsAndEditBySearch() {
        Grid& grid = f_->grid;
        QTRY_COMPARE(f_->text(0, "vessel"), QString("Otter's Due"));
        QVERIFY(grid.recordAt(0).value("vessel") == Value(std::int64_t{11}));
        QVERIFY(f_->text(6, "vessel").isEmpty());
        grid.changeDesign([](Design& d) {
            ColumnDesign owner;
            owner.field = "vessel.owner.name";
            owner.heading = "Owner";
            owner.width = {WidthMode::Fixed, 90, 1, 32, 0};
            d.columns.insert(d.columns.begin() + 2, owner);
        });
        QTRY_COMPARE(f_->text(0, "vessel.owner.name"), QString("Tomas Rill"));
        QSignalSpy edited(&grid, &Grid::cellEdited);
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, grid.cellRect(0, "vessel").center());
        auto* entry = f_->viewport()->findChild<QLineEdit*>("cellEntry");
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, "moll");
        QTest::keyClick(entry, Qt::Key_Return);  // the search has not answered yet; the only one found is taken
        QTRY_COMPARE(edited.count(), 1);
        QTRY_COMPARE(grid.unsavedEdits(), std::size_t{0});
        QVERIFY(grid.recordAt(0).value("vessel") == Value(std::int64_t{12}));
        QCOMPARE(f_->text(0, "vessel"), QString("Brisk Molly"));
        QTRY_COMPARE(f_->text(0, "vessel.owner.name"), QString("Åse Myhre"));  // what hangs on it has followed
        // Two of one name: the list must say which.
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, grid.cellRect(1, "vessel").center());
        entry = visibleEntry();
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, "Sandpiper");
        QTest::qWait(150);
        QTest::keyClick(entry, Qt::Key_Return);
        QTRY_VERIFY(grid.message().contains("Choose from the list"));
        QTest::keyClick(entry, Qt::Key_Escape);
        QCOMPARE(edited.count(), 1);
        // Sorted by what is read, not by the number behind it.
        grid.setSort({{"vessel", Direction::Ascending, Empties::Last}});
        QTRY_COMPARE(f_->text(0, "vessel"), QString("Brisk Molly"));
        QTRY_VERIFY(f_->text(199, "vessel").isEmpty());
    }

    void settingsFromCpp() {
        Grid& grid = f_->grid;
        grid.column("due").setFormat("EEE d MMM").setHeading("Due").setWidth(83).setEmptyText("none");
        QCOMPARE(f_->text(0, "due"), QString("Fri 2 Jan"));
        QCOMPARE(grid.headingRect("due").width(), 83);
        const auto wrong = grid.column("due").checkFormat("#,##0");
        QVERIFY(!wrong.ok() && QString::fromStdString(wrong.error().message).contains("not a date pattern"));
        grid.column("due").setFormat("#,##0");  // shown by type then, and said
        QCOMPARE(f_->text(0, "due"), QString("2 Jan 2026"));
        QVERIFY(!grid.findings().empty());
        grid.column("work").setFormat("{work} ({hours, number, ::.0} h, {vessel})");
        QTRY_COMPARE(f_->text(0, "work"), QString("work 1 (1.5 h, Otter's Due)"));
        grid.column("paid").setFormat("paid;open");
        QCOMPARE(f_->text(0, "paid"), QString("paid"));
        grid.tier("Cost").add("hours", "paid").setLook(TierLook::Band).setHeading("Costs");
        QCOMPARE(grid.tier("Cost").columns(), (std::vector<std::string>{"hours", "paid"}));
        grid.tier("Job").setFolded(true).setLead("due");
        QVERIFY(grid.headingRect("work").isEmpty() && !grid.headingRect("due").isEmpty());
        grid.tier("Job").dissolve();
        QVERIFY(!grid.tier("Job").isValid() && grid.column("work").settings().tier.empty());
        QVERIFY(!grid.column("nothing").isValid());
        grid.column("nothing").setHeading("x");  // does nothing
    }

    void theColumnListShowsHidesFindsAndKeepsSecrets() {
        Grid& grid = f_->grid;
        grid.column("notes").setHiddenFromUsers(true);
        QVERIFY(grid.headingRect("notes").isEmpty());
        grid.openColumnList();
        auto* list = grid.findChild<QWidget*>("columnList")->findChild<QListWidget*>();
        QCOMPARE(list->count(), 7);
        auto* entry = list->parentWidget()->findChild<QLineEdit*>();
        QTest::keyClicks(entry, "stat");
        QCOMPARE(list->count(), 1);
        list->item(0)->setCheckState(Qt::Unchecked);
        QVERIFY(!grid.design().column("status")->shown);
        entry->clear();
        list->setCurrentRow(0);
        QTest::keyClick(list, Qt::Key_Down, Qt::AltModifier);
        QCOMPARE(f_->order().left(13), QString("vessel number"));
        QTest::keyClick(entry, Qt::Key_Escape);
    }

    void exactFitsSeeEveryValue() {
        Grid& grid = f_->grid;
        sqlite3* handle = nullptr;
        sqlite3_open(f_->path.toLocal8Bit().constData(), &handle);
        sqlite3_exec(handle,
                     "UPDATE jobs SET work = 'The one long text that no sample of the lines is sure to meet at all' "
                     "WHERE number = 187",
                     nullptr, nullptr, nullptr);
        sqlite3_close(handle);
        grid.reload();
        QTRY_VERIFY(!grid.isLoading());
        grid.fitAll();
        QTRY_VERIFY(grid.design().column("work")->width.mode == WidthMode::Fit);
        QVERIFY(grid.headingRect("work").width() > 300);
        QVERIFY(grid.headingRect("number").width() < 100);
    }

  private:
    QLineEdit* visibleEntry() {
        for (QLineEdit* entry : f_->viewport()->findChildren<QLineEdit*>("cellEntry"))
            if (entry->isVisible()) return entry;
        return nullptr;
    }
    static void choose(QMenu* menu, const QString& words) {
        for (QAction* action : menu->actions())
            if (action->text() == words) {
                action->trigger();
                menu->close();
                return;
            }
        QFAIL(qPrintable("no such action: " + words));
    }
    std::unique_ptr<GridFixture> f_;
};

QTEST_MAIN(HeadingsTest)
#include "tst_headings.moc"
