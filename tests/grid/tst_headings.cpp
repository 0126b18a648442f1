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
        grid.designer().setDesigning(true);
        QSignalSpy edited(&grid, &Grid::designEdited);
        QCOMPARE(f_->order(), QString("number vessel [Job: work status due] hours paid notes"));
        f_->drag(grid.places().heading("hours").center(), grid.places().tier("Job").center());  // onto the tier: joins
        QCOMPARE(f_->order(), QString("number vessel [Job: work status due hours] paid notes"));
        QCOMPARE(edited.last().at(0).toString(), QString("Move Hours under Job"));
        f_->drag(grid.places().heading("status").center(),
                 grid.places().heading("paid").topLeft() + QPoint(3, 30));  // beside: leaves
        QCOMPARE(f_->order(), QString("number vessel [Job: work due hours] status paid notes"));
        QCOMPARE(edited.last().at(0).toString(), QString("Move Status out of Job"));
        f_->drag(grid.places().heading("due").center(),
                 QPoint(grid.places().heading("work").left() + 3, grid.places().heading("work").center().y()));
        QCOMPARE(f_->order(),
                 QString("number vessel [Job: due work hours] status paid notes"));  // inside: the span stays
        f_->drag(grid.places().tier("Job").center(),
                 QPoint(grid.places().heading("number").left() + 3, 30));  // a tier with all under it
        QCOMPARE(f_->order(), QString("[Job: due work hours] number vessel status paid notes"));
        f_->drag(grid.places().heading("paid").center(),
                 QPoint(grid.places().heading("notes").center().x(), grid.places().heading("notes").bottom() - 4));
        QCOMPARE(f_->order(), QString("[Job: due work hours] number vessel status notes^paid"));
        QCOMPARE(edited.last().at(0).toString(), QString("Put Paid beneath Notes"));
        f_->key(Qt::Key_Escape);
        QCOMPARE(edited.count(), 5);
    }

    /// The mark of a filtered column is painted in its heading and nowhere else, beside the text, with the filter row,
    /// too.
    void theMarkOfAFilterStaysInItsHeading_data() {
        QTest::addColumn<bool>("row");
        QTest::newRow("without the filter row") << false;
        QTest::newRow("with the filter row") << true;
    }
    void theMarkOfAFilterStaysInItsHeading() {
        QFETCH(bool, row);
        Grid& grid = f_->grid;
        grid.changeDesign([&](Design& design) { design.grid.filterRow = row; });
        QTest::qWait(20);
        const auto image = [&] { return grid.viewport()->grab().toImage(); };
        for (const char* field : {"hours", "work"}) {  // at the right, and at the left under a tier
            const QImage before = image();
            QVERIFY(grid.filters().set("mine", QString::fromLatin1(field) + " IS NOT NULL").ok());
            QTest::qWait(60);
            const QImage after = image();
            const QRect heading = grid.places().heading(field);
            const qreal scale = after.devicePixelRatio();
            int inside = 0, outside = 0;
            for (int y = 0; y < int(heading.bottom() * scale); ++y)
                for (int x = 0; x < after.width(); ++x) {
                    if (before.pixel(x, y) == after.pixel(x, y)) continue;
                    const bool isIn = heading.contains(QPoint(int(x / scale), int(y / scale)));
                    ++(isIn ? inside : outside);
                }
            QVERIFY2(inside > 20 && inside < 200 && outside == 0,
                     qPrintable(QString("%1 and %2").arg(inside).arg(outside)));
            // The text is where it was: dark pixels of the heading do not become the mark's.
            QVERIFY(grid.filters().set("mine", "").ok());
            QTest::qWait(60);
            QVERIFY(image().copy(0, 0, after.width(), int(heading.bottom() * scale)) ==
                    before.copy(0, 0, after.width(), int(heading.bottom() * scale)));
        }
    }

    void escapeTakesADragBack() {
        f_->grid.designer().setDesigning(true);
        const QString before = f_->order();
        QTest::mousePress(f_->viewport(), Qt::LeftButton, {}, f_->grid.places().heading("hours").center());
        QTest::mouseMove(f_->viewport(), f_->grid.places().tier("Job").center() + QPoint(5, 0));
        QTest::mouseMove(f_->viewport(), f_->grid.places().tier("Job").center());
        f_->key(Qt::Key_Escape);
        QTest::mouseRelease(f_->viewport(), Qt::LeftButton, {}, f_->grid.places().tier("Job").center());
        QCOMPARE(f_->order(), before);
    }

    void formUsersMoveWithinTheirTier() {
        Grid& grid = f_->grid;
        const QString before = f_->order();
        f_->drag(grid.places().heading("hours").center(), grid.places().tier("Job").center());
        f_->drag(grid.places().heading("status").center(), grid.places().heading("paid").center());
        QCOMPARE(f_->order(), before);
        f_->drag(grid.places().heading("due").center(), grid.places().heading("work").center() - QPoint(20, 0));
        QCOMPARE(f_->order(), QString("number vessel [Job: due work status] hours paid notes"));
    }

    void foldsByItsMarkAndByKey() {
        Grid& grid = f_->grid;
        QTest::mouseMove(f_->viewport(), grid.places().tier("Job").center());
        f_->click(grid.places().cell(4, "hours").center());
        f_->click(grid.places().fold("Job").center());
        QVERIFY(grid.design().findTier("Job")->folded);
        QCOMPARE(grid.session()
                     .plan()
                     .columns[static_cast<std::size_t>(grid.selection().currentCell()->column)]
                     .design.field,
                 std::string("hours"));
        QVERIFY(grid.places().heading("status").isEmpty() && !grid.places().heading("work").isEmpty());
        f_->click(grid.places().cell(0, "work").center());
        f_->key(Qt::Key_Up);  // into the headings
        f_->key(Qt::Key_Up);  // onto the tier
        f_->key(Qt::Key_Space);
        QVERIFY(!grid.design().findTier("Job")->folded);
        QVERIFY(!grid.places().heading("status").isEmpty());
    }

    void everyOperationHasAKey() {
        Grid& grid = f_->grid;
        grid.designer().setDesigning(true);
        f_->click(grid.places().cell(0, "hours").center());
        f_->key(Qt::Key_Up);
        const int width = grid.places().heading("hours").width();
        f_->key(Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(grid.places().heading("hours").width(), width + 8);
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
        QCOMPARE(grid.selection().currentCell()->line, std::int64_t{1});
    }

    void aClickOnATierSelectsItsColumns() {
        f_->click(f_->grid.places().tier("Job").topLeft() + QPoint(12, 6));
        QCOMPARE(f_->grid.designer().selectedColumns(), (std::vector<std::string>{"work", "status", "due"}));
        f_->key(Qt::Key_Escape);
        QVERIFY(f_->grid.designer().selectedColumns().empty());
    }

    void recordsOnTwoLines() {
        Grid& grid = f_->grid;
        const int one = grid.places().cell(0, "work").height();
        grid.column("notes").setUnder("work").setSpan(2);
        QCOMPARE(grid.places().cell(1, "work").top() - grid.places().cell(0, "work").top(), 2 * one);
        QCOMPARE(grid.places().cell(0, "notes").top(), grid.places().cell(0, "work").bottom() + 1);
        QCOMPARE(grid.places().cell(0, "notes").width(),
                 grid.places().cell(0, "work").width() + grid.places().cell(0, "status").width());
        QVERIFY(grid.places().heading("notes").top() > grid.places().heading("work").top());
        f_->click(grid.places().cell(3, "notes").center());
        QCOMPARE(QString::fromStdString(grid.session()
                                            .plan()
                                            .columns[static_cast<std::size_t>(grid.selection().currentCell()->column)]
                                            .design.field),
                 QString("notes"));
        f_->key(Qt::Key_Down);  // to the upper line of the next record
        QCOMPARE(grid.selection().currentCell()->line, std::int64_t{4});
        QCOMPARE(grid.session()
                     .plan()
                     .columns[static_cast<std::size_t>(grid.selection().currentCell()->column)]
                     .design.field,
                 std::string("work"));
        f_->key(Qt::Key_Down);
        QCOMPARE(grid.selection().currentCell()->line, std::int64_t{4});
        f_->key(Qt::Key_End, Qt::ControlModifier);
        QVERIFY(!grid.places().cell(199, "work").isEmpty());
    }

    void wrappedRowsGrowWithTheirText() {
        Grid& grid = f_->grid;
        const int one = grid.places().cell(0, "work").height();
        grid.changeDesign([](Design& d) { d.grid.lineHeight = LineHeight::Automatic; });
        grid.column("notes").setWrap(true).setWidth(140);
        QCOMPARE(grid.places().cell(0, "notes").height(), one);      // no notes
        QVERIFY(grid.places().cell(3, "notes").height() > 2 * one);  // many words
        QCOMPARE(grid.places().cell(4, "work").top(), grid.places().cell(3, "work").bottom() + 1);
        grid.selection().setCurrentCell(0, 0);
        f_->key(Qt::Key_End, Qt::ControlModifier);
        const QRect last = grid.places().cell(199, "work");
        QVERIFY(!last.isEmpty() && last.bottom() <= f_->viewport()->height());
        f_->key(Qt::Key_Home, Qt::ControlModifier);
        QCOMPARE(grid.verticalScrollBar()->value(), 0);
        // Downwards by keys, every record comes in sight.
        for (int i = 1; i < 60; ++i) {
            f_->key(Qt::Key_Down);
            QVERIFY2(grid.places().cell(i, "work").height() >= one, QByteArray::number(i));
        }
    }

    void equalNeighboursAreMergedWhileRecordsStaySelectable() {
        Grid& grid = f_->grid;
        const auto dark = [&](int line) {
            const QImage image = f_->viewport()->grab().toImage();
            const QRect cell = grid.places().cell(line, "status").adjusted(4, 3, -4, -3);
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
        f_->click(grid.places().cell(6, "status").center());
        QCOMPARE(grid.selection().current().text("number"), QString("7"));
        QCOMPARE(grid.selection().count(), 1);
    }

    void pinnedRecordsStayAtTheEdges() {
        Grid& grid = f_->grid;
        const int top = grid.places().cell(0, "work").top();
        f_->click(grid.places().cell(8, "work").center());
        f_->key(Qt::Key_Menu);
        auto* menu = grid.findChild<QMenu*>("recordMenu");
        QTRY_VERIFY(menu && menu->isVisible());
        choose(menu, "Pin this record at the top");
        QCOMPARE(grid.design().grid.pinnedRecords.front().key, (std::vector<std::string>{"9"}));
        QVERIFY(grid.places().cell(0, "work").top() > top);
        grid.selection().showLine(150);
        f_->click(QPoint(grid.places().heading("work").center().x(), top + 5));  // the pinned one
        QCOMPARE(grid.selection().current().text("number"), QString("9"));
        QCOMPARE(grid.selection().currentCell()->line, std::int64_t{8});
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
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, grid.places().cell(0, "vessel").center());
        auto* entry = f_->viewport()->findChild<QLineEdit*>("cellEntry");
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, "moll");
        QTest::keyClick(entry, Qt::Key_Return);  // the search has not answered yet; the only one found is taken
        QTRY_COMPARE(edited.count(), 1);
        QTRY_COMPARE(grid.records().unsaved(), std::size_t{0});
        QVERIFY(grid.recordAt(0).value("vessel") == Value(std::int64_t{12}));
        QCOMPARE(f_->text(0, "vessel"), QString("Brisk Molly"));
        QTRY_COMPARE(f_->text(0, "vessel.owner.name"), QString("Åse Myhre"));  // what hangs on it has followed
        // Two of one name: the list must say which.
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, grid.places().cell(1, "vessel").center());
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
        QCOMPARE(grid.places().heading("due").width(), 83);
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
        QVERIFY(grid.places().heading("work").isEmpty() && !grid.places().heading("due").isEmpty());
        grid.tier("Job").dissolve();
        QVERIFY(!grid.tier("Job").isValid() && grid.column("work").settings().tier.empty());
        QVERIFY(!grid.column("nothing").isValid());
        grid.column("nothing").setHeading("x");  // does nothing
    }

    void theColumnListShowsHidesFindsAndKeepsSecrets() {
        Grid& grid = f_->grid;
        grid.column("notes").setHiddenFromUsers(true);
        QVERIFY(grid.places().heading("notes").isEmpty());
        grid.designer().openColumnList();
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
        grid.designer().fitAll();
        QTRY_VERIFY(grid.design().column("work")->width.mode == WidthMode::Fit);
        QVERIFY(grid.places().heading("work").width() > 300);
        QVERIFY(grid.places().heading("number").width() < 100);
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
