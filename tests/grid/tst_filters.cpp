// SPDX-License-Identifier: MIT
// Filtering and finding on the grid by real mouse and keys: the filter row, its menu, the pick list, the words above
// the grid, controls of a form, the find bar.
#include <QtTest>

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QMenu>

#include "grid/api/filter_words.h"
#include "grid/filter/filter_row.h"
#include "grid/filter/pick_popup.h"
#include "grid/find/find_bar.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class FiltersTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    QTemporaryDir folder_;

    Grid& grid() { return f_->grid; }
    std::int64_t lines() { return grid().lineCount(); }
    QString rule(const char* field) {
        const FilterDesign* part = grid().design().filterAt(field);
        return part ? QString::fromStdString(part->rule) : QString();
    }
    QLineEdit* entry() { return grid().findChild<FilterRow*>()->entry(); }
    void clickFilter(const char* field) {
        const QRect cell = grid().places().filter(field);
        QVERIFY(!cell.isEmpty());
        auto* row = grid().findChild<FilterRow*>();
        QTest::mouseClick(row, Qt::LeftButton, {}, row->mapFrom(grid().viewport(), cell.center()));
    }
    PickPopup* pick() { return grid().findChild<PickPopup*>(); }
    void clickLine(const QString& words, int x = 40) {
        PickRows& rows = pick()->rows();
        const int line = rows.lineOf(words);
        QVERIFY2(line >= 0, qPrintable(words));
        QTest::mouseClick(rows.viewport(), Qt::LeftButton, {}, QPoint(x, rows.lineRect(line).center().y()));
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        f_->design.grid.filterRow = true;
        QVERIFY(f_->open());
    }
    void cleanup() { f_.reset(); }

    void typingFiltersAtOnce() {
        clickFilter("hours");
        QTest::keyClicks(entry(), "> 30");
        QTRY_COMPARE(lines(), 50);  // hours run from 0.5 to 39.5
        QCOMPARE(rule("hours"), QString("hours > 30"));
        QTest::keyClick(entry(), Qt::Key_Tab);  // to the next cell
        QCOMPARE(grid().findChild<FilterRow*>()->focusedField(), std::optional<QString>("paid"));
        QTest::keyClicks(entry(), "yes");
        QTRY_VERIFY(lines() < 50 && lines() > 10);
        QTest::keyClick(entry(), Qt::Key_Backtab);
        QCOMPARE(entry()->text(), QString("> 30"));
        QTest::keyClick(entry(), Qt::Key_Escape);  // clears the cell
        QTRY_COMPARE(rule("hours"), QString());
        QTest::keyClick(entry(), Qt::Key_Return);  // to the records
        QVERIFY(grid().hasFocus());
        QVERIFY(grid().selection().currentCell().has_value());
        f_->key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(entry()->hasFocus());
        QCOMPARE(grid().findChild<FilterRow*>()->focusedField(), std::optional<QString>("hours"));
    }

    void aWrongEntryIsSaidAndTheLastGoodOneStays() {
        clickFilter("hours");
        QTest::keyClicks(entry(), "> 30");
        QTRY_COMPARE(lines(), 50);
        QTest::keyClicks(entry(), "x");
        QTest::qWait(60);
        QCOMPARE(lines(), 50);
        QCOMPARE(rule("hours"), QString("hours > 30"));
        const auto& cells = grid().findChild<FilterRow*>()->cells();
        const auto cell =
            std::find_if(cells.begin(), cells.end(), [](const FilterCell& c) { return c.field == "hours"; });
        QVERIFY(cell->problem.contains("30x"));
        QTest::keyClick(entry(), Qt::Key_Backspace);
        QTRY_COMPARE(lines(), 50);
        // The cross takes it away.
        const QRect box = grid().places().filter("hours");
        auto* row = grid().findChild<FilterRow*>();
        QTest::mouseClick(row, Qt::LeftButton, {},
                          row->mapFrom(grid().viewport(), QPoint(box.right() - 7, box.center().y())));
        QTRY_COMPARE(lines(), 200);
    }

    void lookUpsAreFilteredByTheirLabel() {
        QVERIFY(grid().filters().setEntry("vessel", "otter*").ok());
        QTRY_VERIFY(lines() > 0 && lines() < 60);
        QCOMPARE(f_->text(0, "vessel"), QString("Otter's Due"));
        QVERIFY(!grid().filters().setEntry("due", "someday").ok());
        QVERIFY(!grid().filters().set("mine", "hous > 2").ok());
        QVERIFY(grid().filters().set("mine", "hours > 20").ok());
        const std::int64_t both = lines();
        QTRY_VERIFY(lines() < 60 && lines() <= both);
        grid().filters().clear();
        QTRY_COMPARE(lines(), 200);
    }

    void theMenuOffersByType() {
        auto* row = grid().findChild<FilterRow*>();
        const QRect cell = grid().places().filter("due");
        QTest::mouseClick(row, Qt::RightButton, {}, row->mapFrom(grid().viewport(), cell.center()));
        QMenu* menu = nullptr;
        QTRY_VERIFY((menu = grid().findChild<QMenu*>()) && menu->isVisible());
        QStringList all;
        for (QAction* action : menu->findChildren<QAction*>()) all << action->text();
        QVERIFY(all.contains("this week"));
        QVERIFY(all.contains("is on this day of any year…"));
        QVERIFY(!all.contains("is even"));
        for (QAction* action : menu->findChildren<QAction*>())
            if (action->text() == "is empty") action->trigger();
        menu->close();
        QTRY_COMPARE(rule("due"), QString("due IS NULL"));
        QTRY_COMPARE(lines(), 0);
        QVERIFY(grid().filters().setEntry("number", "is even").ok());
        QVERIFY(grid().filters().setEntry("due", "").ok());
        QTRY_COMPARE(lines(), 100);
        QVERIFY(grid().filters().setEntry("hours", "top 5").ok());
        QTRY_COMPARE(lines(), 0);  // the longest jobs have odd numbers
        QVERIFY(grid().filters().setEntry("number", "").ok());
        QTRY_COMPARE(lines(), 5);
    }

    void valuesArePicked() {
        grid().filters().openPickList("status");
        QTRY_VERIFY(pick() && pick()->rows().list());
        QCOMPARE(pick()->rows().list()->entries.size(), std::size_t{3});
        clickLine("Done");
        QTRY_VERIFY(lines() < 200);
        QCOMPARE(rule("status"), QString("status <> 'Done'"));
        // Another column counts what is left.
        grid().filters().openPickList("due");
        QTRY_VERIFY(pick() && pick()->rows().list() && pick()->rows().lineOf("2026") >= 0);
        QCOMPARE(pick()->rows().list()->records, lines());
        clickLine("2026", 10);  // the arrow opens the year
        clickLine("February", 28);
        const int february = pick()->rows().lineOf("February");
        QVERIFY(february > 0);
        const auto before = lines();
        clickLine("February", 60);  // the check takes the month out
        QTRY_VERIFY(lines() < before);
        QVERIFY(rule("due").contains("BETWEEN"));
        QTest::keyClicks(pick()->searchEntry(), "15 Mar");
        QTRY_VERIFY(pick()->rows().lineOf("2026") < 0);
        QTest::keyClick(pick()->searchEntry(), Qt::Key_Escape);
        QTRY_VERIFY(!pick());
        // Opened again it shows what is picked.
        grid().filters().openPickList("status");
        QTRY_VERIFY(pick() && pick()->rows().list());
        QTRY_COMPARE(pick()->rows().checkedCount(), std::size_t{2});
        pick()->rows().setShown(true);
        QTRY_COMPARE(rule("status"), QString());
        pick()->rows().setFocus();
        QTest::keyClick(&pick()->rows(), Qt::Key_Space);
        QTRY_COMPARE(rule("status"), QString("status <> 'Booked'"));
    }

    void whatIsFilteredStandsInWords() {
        FilterWords words(grid());
        words.resize(800, 40);
        words.show();
        QVERIFY(grid().filters().setEntry("hours", "> 30").ok());
        QVERIFY(grid().filters().setEntry("status", "= Done").ok());
        QTRY_VERIFY(words.sentence().contains("Hours is over 30 and Status is Done"));
        const std::int64_t both = lines();
        QVERIFY(words.isVisible());
        QTest::mouseClick(&words, Qt::LeftButton, {}, words.partAt(0));  // off
        QTRY_VERIFY(lines() > both);
        QVERIFY(!grid().design().filter[0].on);
        QTest::mouseClick(&words, Qt::LeftButton, {}, words.partAt(0));
        QTRY_COMPARE(lines(), both);
        QTest::mouseClick(&words, Qt::LeftButton, {}, words.crossAt(1));
        QTRY_COMPARE(lines(), 50);
        words.setFocus();
        QTest::keyClick(&words, Qt::Key_Delete);
        QTRY_COMPARE(lines(), 200);
        // What was taken away is still within reach, by keys too.
        QTRY_VERIFY(words.sentence().contains("every record"));
        QVERIFY(words.isVisible());
        QCOMPARE(grid().filters().earlier().size(), std::size_t{2});
        QTest::keyClick(&words, Qt::Key_Down);
        auto* menu = words.findChild<QMenu*>();
        QTRY_VERIFY(menu && menu->isVisible());
        QCOMPARE(menu->actions().size(), 2);
        menu->actions()[1]->trigger();
        menu->close();
        QTRY_COMPARE(lines(), both);
        QCOMPARE(grid().design().filter.size(), std::size_t{2});
    }

    /// Kept over grids, by table, wherever it was taken away: in the row, by the heading, from code not.
    void whatWasFilteredIsBroughtBack() {
        QTemporaryDir state;
        const auto reopen = [&] {
            f_ = std::make_unique<GridFixture>();
            f_->design.grid.filterRow = true;
            f_->path = folder_.filePath("kept.db");
            grid().records().setDraftFolder(state.path());
            return f_->open();
        };
        QVERIFY(QFile::exists(folder_.filePath("kept.db")) || QFile::copy(f_->path, folder_.filePath("kept.db")));
        QVERIFY(reopen());
        QVERIFY(grid().filters().earlier().empty() && !grid().filters().bringBack());
        clickFilter("hours");
        QTest::keyClicks(entry(), "> 30");
        QTRY_COMPARE(lines(), 50);
        QVERIFY(grid().filters().earlier().empty());
        QTest::keyClick(entry(), Qt::Key_Escape);  // cleared in the row
        QTRY_COMPARE(lines(), 200);
        QCOMPARE(grid().filters().earlier().size(), std::size_t{1});
        QVERIFY(grid().filters().setEntry("status", "= Done").ok());
        grid().filters().clear();  // as by "Clear all filters"
        QTRY_COMPARE(lines(), 200);
        QCOMPARE(grid().filters().earlier().size(), std::size_t{2});
        QVERIFY(grid().filters().setEntry("status", "= Booked").ok());
        QVERIFY(grid().filters().setEntry("status", "").ok());  // by code: nobody's wish
        QCOMPARE(grid().filters().earlier().size(), std::size_t{2});
        QVERIFY(reopen());
        QCOMPARE(grid().filters().earlier().size(), std::size_t{2});
        grid().setFocus();
        f_->key(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_VERIFY(rule("status").contains("'Done'"));
        QVERIFY(grid().filters().bringBack(1));
        QTRY_COMPARE(lines(), 50);
        QVERIFY(!grid().filters().bringBack(7));
        // Only its user may read it; what is damaged is as none.
        const QDir kept(state.path() + "/filters");
        const QFileInfoList files = kept.entryInfoList(QDir::Files);
        QCOMPARE(files.size(), 1);
        QVERIFY(!(files[0].permissions() & (QFile::ReadGroup | QFile::ReadOther)));
        for (const char* damaged :
             {"", "{", "[1]", "{\"filters\": {\"rule\": 1}}", "{\"filters\": [[{\"rule\": 7}], 3]}"}) {
            QFile file(files[0].filePath());
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(damaged);
            file.close();
            QVERIFY(reopen());
            QVERIFY(grid().filters().earlier().empty());
        }
        // Nowhere to keep it: there until the grid goes.
        QVERIFY(QFile::remove(files[0].filePath()) && QDir().rmdir(kept.path()));
        QFile inTheWay(kept.path());
        QVERIFY(inTheWay.open(QIODevice::WriteOnly));
        QVERIFY(grid().filters().setEntry("hours", "> 30").ok());
        grid().filters().clear();
        QCOMPARE(grid().filters().earlier().size(), std::size_t{1});
    }

    void controlsOfAFormFilter() {
        QComboBox box;
        box.addItems({"every status", "Booked", "Done"});
        QLineEdit line;
        grid().filters().follow(&box, "status");
        grid().filters().follow(&line, "hours");
        box.setCurrentIndex(2);
        QTRY_VERIFY(lines() > 0 && lines() < 100);
        const std::int64_t done = lines();
        line.setText("> 30");
        QTRY_VERIFY(lines() < done);
        box.setCurrentIndex(0);
        line.clear();
        QTRY_COMPARE(lines(), 200);
    }

    void findingMarksAndSteps() {
        f_->key(Qt::Key_F, Qt::ControlModifier);
        auto* bar = grid().findChild<FindBar*>();
        QVERIFY(bar && bar->entry()->hasFocus());
        QTest::keyClicks(bar->entry(), "work 19");
        QTRY_COMPARE(bar->count(), QString("1 of 11"));  // 19 and 190 to 199
        QCOMPARE(grid().selection().current().plain("work"), QString("work 19"));
        QTest::keyClick(bar->entry(), Qt::Key_Return);
        QCOMPARE(grid().selection().current().plain("work"), QString("work 190"));
        QCOMPARE(bar->count(), QString("2 of 11"));
        QTest::keyClick(bar->entry(), Qt::Key_Return, Qt::ShiftModifier);
        QCOMPARE(grid().selection().current().plain("work"), QString("work 19"));
        bar->hideRest()->setChecked(true);
        QTRY_COMPARE(lines(), 11);
        bar->entry()->setText("status: done, work: 19");
        QTRY_VERIFY(lines() < 11 && lines() > 0);
        QCOMPARE(f_->text(0, "status"), QString("Done"));
        bar->entry()->setText("no such thing");
        QTRY_COMPARE(bar->count(), QString("nothing found"));
        bar->entry()->clear();
        QTRY_COMPARE(lines(), 200);
        QTest::keyClick(bar->entry(), Qt::Key_Escape);
        QTRY_VERIFY(!grid().findChild<FindBar*>());
        QVERIFY(grid().hasFocus());
    }

    void findingOutlivesAReload() {
        grid().openFind("work 19");
        auto* bar = grid().findChild<FindBar*>();
        QTRY_COMPARE(bar->count(), QString("1 of 11"));
        sqlite3* handle = nullptr;
        sqlite3_open(f_->path.toLocal8Bit().constData(), &handle);
        sqlite3_exec(handle,
                     "WITH RECURSIVE c(i) AS (SELECT 1000 UNION ALL SELECT i + 1 FROM c WHERE i < 1999) INSERT INTO "
                     "jobs SELECT i, 10, 'work 19', 'Done', NULL, 1, 0, NULL FROM c",
                     nullptr, nullptr, nullptr);
        sqlite3_close(handle);
        grid().reload();
        QTRY_COMPARE(lines(), 1200);
        QTRY_VERIFY2(bar->count().endsWith(QStringLiteral("of 1\u2009011")), qPrintable(bar->count()));
    }

    void editsWaitForAResort() {
        QVERIFY(grid().filters().setEntry("hours", "> 30").ok());
        grid().setSort({{"hours", Direction::Ascending, Empties::Last}});
        QTRY_COMPARE(lines(), 50);
        const Record first = grid().recordAt(0);
        grid().records().setValue(first, "hours", Decimal{100, 2});
        QTRY_VERIFY(grid().session().view().orderIsStale());
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(lines(), 50);  // it stays where it is
        grid().session().view().resort();
        QTRY_COMPARE(lines(), 49);
        grid().changeDesign([](Design& design) { design.grid.resortAtOnce = true; });
        grid().records().setValue(grid().recordAt(0), "hours", Decimal{3990, 2});
        QTRY_COMPARE(grid().recordAt(48).plain("hours"), QString("39.90"));
    }

    void parametersBindRules() {
        grid().changeDesign([](Design& design) {
            design.parameters = {{"least", "At least", Type::Decimal, ""}};
            design.filter = {{"hours >= :least", "", "", true}};
        });
        QTest::qWait(50);
        QCOMPARE(lines(), 200);  // empty: no restriction
        grid().setParameter("least", Decimal{3050, 2});
        QTRY_COMPARE(lines(), 50);
        grid().setParameter("least", Empty{});
        QTRY_COMPARE(lines(), 200);
    }
};

QTEST_MAIN(FiltersTest)
#include "tst_filters.moc"
