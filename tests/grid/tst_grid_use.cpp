// SPDX-License-Identifier: MIT
// What an application does with a grid from C++: all records whatever is folded, figures over any of them, levels,
// the summary table, pinned records, ways to sort by a box, selection modes and what was selected, activation.
#include <QtTest>
#include <QtWidgets>

#include "grid/groups/figure_card.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class GridUseTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }
    /// Groups by status with a sum and a count, all closed.
    void group() {
        GroupDesign status, paid;
        status.key.field = "status";
        status.open = false;
        paid.key.field = "paid";
        f_->design.groups = {status, paid};
        for (const SummaryShow show : {SummaryShow::Sum, SummaryShow::Count}) {
            SummaryDesign summary;
            summary.column = "hours";
            summary.show = show;
            summary.name = show == SummaryShow::Sum ? "sum" : "count";
            f_->design.summaries.push_back(summary);
        }
    }
    bool open(std::int64_t lines) {
        grid().resize(1000, 500);
        if (!grid().open(f_->design, f_->path).ok()) return false;
        grid().show();
        grid().activateWindow();
        return QTest::qWaitForWindowExposed(&grid()) &&
               QTest::qWaitFor([&] { return !grid().isLoading() && grid().lineCount() == lines; });
    }
    Decimal hoursOf(const std::function<bool(const Record&)>& counts) {
        std::int64_t sum = 0;
        grid().records().forEach([&](const Record& record) {
            if (counts(record)) sum += std::get<Decimal>(record.value("hours")).mantissa;
            return true;
        });
        return {sum, 2};
    }
    std::map<QString, Value> figures(GridGroups::Over over) {
        std::optional<std::map<QString, Value>> made;
        grid().groups().figures(over, [&](const std::map<QString, Value>& all) { made = all; });
        if (!QTest::qWaitFor([&] { return made.has_value(); })) return {};
        return *made;
    }
    static std::string words(const Value& value) {
        std::string text;
        appendPlain(text, value);
        return text;
    }

  private Q_SLOTS:
    void init() { f_ = std::make_unique<GridFixture>(); }
    void cleanup() { f_.reset(); }

    void allRecordsWhateverIsFolded() {
        group();
        f_->design.filter = {{"hours > 10", "", "", true, {}}};
        f_->design.sort = {{"work", Direction::Descending, Empties::Last}};
        QVERIFY(open(3));  // three closed groups
        std::vector<std::int64_t> bound, shown;
        grid().records().forEach([&](const Record& record) {
            bound.push_back(std::get<std::int64_t>(record.value("number")));
            return true;
        });
        QCOMPARE(bound.size(), std::size_t{200});
        QVERIFY(std::is_sorted(bound.begin(), bound.end()));
        grid().records().forEachShown([&](const Record& record) {
            shown.push_back(std::get<std::int64_t>(record.value("number")));
            return true;
        });
        QCOMPARE(shown.size(), std::size_t{150});
        int seen = 0;
        grid().records().forEach([&](const Record&) { return ++seen < 7; });
        QCOMPARE(seen, 7);
        // With what was inserted and deleted here.
        const auto made =
            grid().records().insert({{"work", std::string("new")}, {"status", std::string("Done")}, {"paid", true}});
        QVERIFY(made.ok());
        grid().records().save(*made);
        grid().records().remove({grid().records().find({Value(std::int64_t{9})})});
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        const auto all = [&] {
            bound.clear();
            grid().records().forEach([&](const Record& record) {
                bound.push_back(std::get<std::int64_t>(record.value("number")));
                return true;
            });
            return bound.size();
        };
        QTRY_COMPARE(all(), std::size_t{200});  // the new one is shown a moment later
        QVERIFY(std::find(bound.begin(), bound.end(), 9) == bound.end());
        QVERIFY(!grid().records().find({Value(std::int64_t{9})}).isValid());
        QVERIFY(!grid().records().find({}).isValid());
    }

    void figuresOverAnyRecords() {
        group();
        f_->design.filter = {{"hours > 30", "", "", true, {}}};
        QVERIFY(open(3));
        const auto any = [](const Record&) { return true; };
        const auto some = [](const Record& record) { return std::get<Decimal>(record.value("hours")).mantissa > 3000; };
        QCOMPARE(words(figures(GridGroups::Over::All)["sum"]), words(Value(hoursOf(any))));
        QCOMPARE(words(figures(GridGroups::Over::Shown)["sum"]), words(Value(hoursOf(some))));
        QCOMPARE(figures(GridGroups::Over::Shown)["count"], Value(std::int64_t{50}));
        QCOMPARE(figures(GridGroups::Over::Selected)["count"], Value(std::int64_t{0}));
        grid().groups().openAll();
        QTRY_VERIFY(grid().lineCount() > 50);
        f_->click(grid().places().line(0).center());  // a group's line stands for its records
        QTRY_VERIFY(grid().selection().count() > 5);
        QCOMPARE(figures(GridGroups::Over::Selected)["count"], Value(grid().selection().count()));
        // Two at once: each is answered.
        int answers = 0;
        for (int i = 0; i < 3; ++i) grid().groups().figures(GridGroups::Over::All, [&](const auto&) { ++answers; });
        QTRY_COMPARE(answers, 3);
    }

    /// By keys, of a group, of what is shown, of all and of the selected; the records that made it are shown alone.
    void howAFigureWasMade() {
        group();
        f_->design.filter = {{"hours > 30", "", "", true, {}}};
        f_->design.groups[0].open = true;
        f_->design.summaries[0].where = "paid";
        f_->design.grid.totalAll = f_->design.grid.totalSelected = true;
        QVERIFY(open(3 + 6 + 50));
        QSignalSpy asked(&grid(), &Grid::figureClicked);
        const auto press = [&](Qt::KeyboardModifiers modifiers) {
            asked.clear();
            f_->key(Qt::Key_I, modifiers);
            return asked.size() == 1 ? asked[0][1].toUInt() : 9999U;
        };
        const auto nodes = static_cast<unsigned>(grid().snapshot()->groups->tree->nodes.size());
        f_->click(grid().places().line(0).center());
        QCOMPARE(press(Qt::ControlModifier), 0U);
        f_->click(grid().places().cell(2, "work").center());
        QCOMPARE(press(Qt::ControlModifier), nodes);
        QCOMPARE(press(Qt::ControlModifier | Qt::ShiftModifier), nodes + 1);
        f_->click(grid().places().cell(4, "work").center(), Qt::ShiftModifier);
        QVERIFY(grid().selection().count() >= 2);
        QTRY_COMPARE(press(Qt::ControlModifier), nodes + 2);
        const auto card = [&](unsigned node) {
            auto made = std::make_unique<FigureCard>(grid(), 0, node, nullptr);
            made->show();
            const bool isThere =
                QTest::qWaitFor([&] { return made->findChild<QPushButton*>("showRecords") != nullptr; });
            if (!isThere) QTest::qFail("the card says nothing", __FILE__, __LINE__);
            return made;
        };
        const auto offered = [](const FigureCard& of) {
            return of.findChild<QPushButton*>("showRecords")->text().remove(QRegularExpression("[^0-9]")).toLongLong();
        };
        // Of all 200 a hundred are paid; but those that the filter leaves out are not promised.
        QCOMPARE(offered(*card(nodes + 1)), qlonglong{25});
        QVERIFY(card(nodes + 1)->findChild<QPushButton*>("showRecords")->text().contains("not filtered out"));
        const auto shown = card(nodes);
        QCOMPARE(offered(*shown), qlonglong{25});
        QTest::mouseClick(shown->findChild<QPushButton*>("showRecords"), Qt::LeftButton);
        QTRY_COMPARE(grid().snapshot()->recordCount(), std::int64_t{25});
        grid().records().forEachShown([](const Record& record) {
            if (record.value("paid") != Value(true)) QTest::qFail("one that is not counted", __FILE__, __LINE__);
            return true;
        });
        auto* bar = grid().viewport()->findChild<QLineEdit*>(QString(), Qt::FindChildrenRecursively);
        QVERIFY(bar);
        QTest::keyClick(bar, Qt::Key_Escape);
        QTRY_COMPARE(grid().snapshot()->recordCount(), std::int64_t{50});
        // Read again, and as many as before: its rows may be other records, so it goes.
        const auto stale = card(nodes);
        QSignalSpy left(stale.get(), &FigureCard::left);
        grid().reload();
        QTRY_COMPARE(left.size(), 1);
    }

    void levelsOpenAndClose() {
        group();
        f_->design.groups[0].open = true;
        QVERIFY(open(3 + 6 + 200));
        grid().groups().setLevelOpen(1, false);
        QTRY_COMPARE(grid().lineCount(), std::int64_t{3 + 6});
        grid().groups().setLevelOpen(0, false);
        QTRY_COMPARE(grid().lineCount(), std::int64_t{3});
        grid().groups().setLevelOpen(0, true);
        QTRY_COMPARE(grid().lineCount(), std::int64_t{3 + 6});
    }

    void theSummaryTableOfTheDesign() {
        group();
        f_->design.groups[1].across = true;
        QVERIFY(open(3));
        std::optional<Result<SummaryTable>> made;
        const auto keep = [&](const Result<SummaryTable>& table) { made.emplace(table); };
        grid().groups().summaryTable(keep);
        QTRY_VERIFY(made);
        QVERIFY((*made).ok());
        Grid other;
        QVERIFY(other.open((**made).design, (**made).table).ok());
        QTRY_COMPARE(other.lineCount(), std::int64_t{3});
        QCOMPARE((**made).design.columns.size(), std::size_t{1 + 3 * 2});
        made.reset();
        grid().groups().summaryTable({{0, 1}, false}, keep);
        QTRY_VERIFY(made);
        QCOMPARE((**made).table->rows, std::size_t{1});
    }

    void pinnedFromCode() {
        QVERIFY(open(200));
        const Record record = grid().records().find({Value(std::int64_t{150})});
        QVERIFY(!grid().records().isPinned(record) && grid().records().pin(record));
        QVERIFY(grid().records().isPinned(record));
        QVERIFY(!grid().records().pin(Record()));
        // In sight above the others, far down as it stands.
        QTest::qWait(20);
        f_->click(grid().places().line(0).topLeft() + QPoint(200, -8));
        QCOMPARE(grid().selection().current().value("number"), Value(std::int64_t{150}));
        QVERIFY(grid().records().pin(record, PinnedRecord::Edge::Bottom));
        QCOMPARE(grid().design().grid.pinnedRecords.size(), std::size_t{1});
        grid().records().unpin(record);
        QVERIFY(!grid().records().isPinned(record));
    }

    void waysToSortInABox() {
        QVERIFY(open(200));
        QComboBox box;
        const SortDesign hours{"hours", Direction::Descending, Empties::Last};
        grid().sortBy(&box, {{"As they came", {}}, {"Long ones first", {hours}}, {"By day", {{"due"}}}});
        QCOMPARE(box.currentIndex(), 0);
        QSignalSpy steps(&grid(), &Grid::designEdited);
        box.show();
        QTest::keyClick(&box, Qt::Key_Down);
        QTRY_COMPARE(f_->text(0, "hours"), QString("39.50"));
        QCOMPARE(steps.size(), 1);
        QVERIFY(grid().design().sort == std::vector<SortDesign>{hours});
        grid().setSort({{"work"}});
        QTRY_COMPARE(box.currentIndex(), -1);  // none of them
        grid().setSort({});
        QTRY_COMPARE(box.currentIndex(), 0);
        {
            QComboBox gone;
            grid().sortBy(&gone, {{"a", {hours}}});
        }
        grid().setSort({hours});
        QTRY_COMPARE(box.currentIndex(), 1);
    }

    void whatComesToTheSelectionAndLeaves() {
        QVERIFY(open(200));
        std::vector<std::int64_t> came, went;
        QObject::connect(&grid(), &Grid::selectedRecordsChanged, &grid(),
                         [&](const std::vector<Record>& in, const std::vector<Record>& out) {
                             for (const Record& r : in) came.push_back(std::get<std::int64_t>(r.value("number")));
                             for (const Record& r : out) went.push_back(std::get<std::int64_t>(r.value("number")));
                         });
        const auto click = [&](int line, Qt::KeyboardModifiers modifiers) {
            came.clear();
            went.clear();
            f_->click(grid().places().cell(line, "work").center(), modifiers);
        };
        using Numbers = std::vector<std::int64_t>;
        click(2, {});
        QVERIFY(came == Numbers{3} && went.empty());
        click(5, Qt::ShiftModifier);
        QVERIFY(came == (Numbers{4, 5, 6}) && went.empty());
        click(4, Qt::ControlModifier);
        QVERIFY(came.empty() && went == Numbers{5});
        click(0, {});
        QVERIFY(came == Numbers{1} && went == (Numbers{3, 4, 6}));
        came.clear();
        went.clear();
        grid().reload();  // the same records: nothing came, nothing left
        QTRY_VERIFY(!grid().isLoading());
        QTest::qWait(50);
        QVERIFY(came.empty() && went.empty());
        f_->key(Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(came.size(), std::size_t{199});
    }

    /// Each mode by real clicks, set from C++ and kept in the design.
    void whatCanBeSelected() {
        QVERIFY(open(200));
        const auto click = [&](int line, const char* field, Qt::KeyboardModifiers modifiers = {}) {
            f_->click(grid().places().cell(line, field).center(), modifiers);
        };
        grid().selection().setMode(SelectionMode::OneRow);
        QCOMPARE(grid().design().grid.selection, SelectionMode::OneRow);
        click(1, "work");
        click(4, "work", Qt::ControlModifier);
        QCOMPARE(grid().selection().count(), std::int64_t{1});
        grid().selection().setMode(SelectionMode::None);
        click(3, "work");
        click(6, "hours", Qt::ShiftModifier);
        f_->key(Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(grid().selection().count(), std::int64_t{0});
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{6});
        grid().selection().setMode(SelectionMode::Columns);
        click(3, "number");
        click(5, "vessel", Qt::ShiftModifier);
        grid().selection().copy();
        const QStringList lines = QApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 200);
        QCOMPARE(lines[0].count('\t'), 1);
        // Emptying a whole column is nobody's single key.
        f_->key(Qt::Key_Delete);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        grid().setSort({{"work", Direction::Descending, Empties::Last}});
        QTRY_COMPARE(f_->text(0, "work"), QString("work 99"));
        grid().selection().copy();
        QCOMPARE(QApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts).size(), 200);
        grid().selection().setMode(SelectionMode::Rows);
        click(1, "work");
        click(4, "work", Qt::ControlModifier);
        QCOMPARE(grid().selection().count(), std::int64_t{2});
    }

    void aDoubleClickActivatesWhereItDoesNotEdit() {
        QVERIFY(open(200));
        QSignalSpy activated(&grid(), &Grid::recordActivated);
        const auto twice = [&](int line, const char* field) {
            const QPoint at = grid().places().cell(line, field).center();
            f_->click(at);
            QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, at);
        };
        const auto entry = [&] { return grid().viewport()->findChild<QLineEdit*>("cellEntry"); };
        twice(1, "work");
        QVERIFY(activated.isEmpty() && entry());
        QTest::keyClick(entry(), Qt::Key_Escape);
        twice(2, "paid");  // a check box is turned over by its clicks
        QCOMPARE(activated.size(), 1);
        f_->design = grid().design();
        grid().changeDesign([](Design& design) { design.grid.doubleClickEdits = false; });
        twice(3, "work");
        QCOMPARE(activated.size(), 2);
        QCOMPARE(activated.back()[0].value<Record>().plain("number"), QString("4"));
        f_->key(Qt::Key_F2);
        QTRY_VERIFY(entry());
        QTest::keyClick(entry(), Qt::Key_Escape);
        grid().changeDesign([](Design& design) {
            design.grid.doubleClickEdits = true;
            design.column("work")->readOnly = true;
        });
        twice(5, "work");
        QCOMPARE(activated.size(), 3);
    }

    void hiddenAndReadOnlyColumns() {
        QVERIFY(open(200));
        grid().column("work").setReadOnly(true);
        f_->click(grid().places().cell(2, "work").center());
        QVERIFY(!grid().records().editCurrentCell());
        f_->key(Qt::Key_F2);
        QVERIFY(!grid().viewport()->findChild<QLineEdit*>("cellEntry"));
        // A program may, a person may not.
        QVERIFY(grid().records().setValue(grid().recordAt(2), "work", std::string("by code")));
        grid().column("work").setReadOnly(false);
        QVERIFY(grid().records().editCurrentCell());
        QTest::keyClick(grid().viewport()->findChild<QLineEdit*>("cellEntry"), Qt::Key_Escape);
        grid().column("hours").setHiddenFromUsers(true);
        QVERIFY(!grid().places().heading("hours").isValid());
        QCOMPARE(grid().recordAt(0).plain("hours"), QString("1.50"));  // it is read all the same
        grid().column("hours").setHiddenFromUsers(false);
        QVERIFY(grid().places().heading("hours").isValid());
    }

    /// A form may be closed with anything open on its grid, with the keys in it.
    void itGoesWithAnythingOpen_data() {
        QTest::addColumn<int>("key");
        QTest::addColumn<int>("modifiers");
        QTest::newRow("going to a line") << int(Qt::Key_J) << int(Qt::ControlModifier);
        QTest::newRow("going by a beginning") << int(Qt::Key_J) << int(Qt::ControlModifier | Qt::ShiftModifier);
        QTest::newRow("finding") << int(Qt::Key_F) << int(Qt::ControlModifier);
        QTest::newRow("replacing") << int(Qt::Key_H) << int(Qt::ControlModifier);
        QTest::newRow("filtering") << int(Qt::Key_F) << int(Qt::ControlModifier | Qt::ShiftModifier);
        QTest::newRow("editing") << int(Qt::Key_F2) << 0;
        QTest::newRow("a new record") << int(Qt::Key_Insert) << 0;
        QTest::newRow("a menu") << int(Qt::Key_Menu) << 0;
    }
    void itGoesWithAnythingOpen() {
        QFETCH(int, key);
        QFETCH(int, modifiers);
        for (const bool types : {false, true}) {
            for (const char* field : {"work", "due", "vessel", "hours"}) {
                f_ = std::make_unique<GridFixture>();
                f_->design.grid.filterRow = true;
                f_->design.column("vessel")->label = "name";
                QVERIFY(open(200));
                f_->click(grid().places().cell(2, field).center());
                f_->key(static_cast<Qt::Key>(key), static_cast<Qt::KeyboardModifiers>(modifiers));
                QWidget* in = QApplication::focusWidget();
                if (types && in) QTest::keyClicks(in, "1");
                QTest::qWait(types ? 30 : 0);
                f_.reset();  // sanitizers look on
            }
        }
    }

    void editedRecordsGoWhereTheyBelong() {
        f_->design.sort = {{"hours", Direction::Ascending, Empties::Last}};
        QVERIFY(open(200));
        const std::int64_t number = std::get<std::int64_t>(grid().recordAt(0).value("number"));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "hours", Decimal{99'900, 2}));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QCOMPARE(grid().recordAt(0).value("number"), Value(number));
        grid().records().resort();
        QTRY_COMPARE(grid().recordAt(199).value("number"), Value(number));
    }
};

QTEST_MAIN(GridUseTest)
#include "tst_grid_use.moc"
