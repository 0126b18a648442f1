// SPDX-License-Identifier: MIT
#include <QtTest>

#include <random>
#include <set>

#include "grid/select/selection.h"

using namespace jollyrow;

class SelectionTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void rowSetAgainstAPlainSet() {
        std::mt19937 random(1);
        RowSet rows;
        std::set<std::uint32_t> expected;
        for (int i = 0; i < 20000; ++i) {
            const std::uint32_t row = random() % 500;
            random() % 3 == 0 ? (rows.remove(SourceRow{row}), void(expected.erase(row)))
                              : (rows.add(SourceRow{row}), void(expected.insert(row)));
            QCOMPARE(rows.count(), static_cast<std::int64_t>(expected.size()));
        }
        const auto listed = rows.rows(1000);
        QVERIFY(std::equal(listed.begin(), listed.end(), expected.begin(), expected.end(),
                           [](SourceRow a, std::uint32_t b) { return raw(a) == b; }));
        QCOMPARE(rows.rows(3).size(), std::size_t{3});
        std::vector<SourceRow> visited;
        rows.forEach([&](SourceRow row) { visited.push_back(row); });
        QCOMPARE(visited, listed);
    }

    void clicksAsPeopleExpectThem() {
        Selection s;
        const auto rowAt = [](std::int64_t line) {
            return static_cast<SourceRow>(1000 - line);
        };  // another order than the lines
        const auto select = [&](std::int64_t line, SelectHow how) {
            s.select({line, 0}, how, [&](std::int64_t at, const auto& take) { take(rowAt(at)); });
        };
        select(5, SelectHow::Replace);
        select(8, SelectHow::Extend);
        QCOMPARE(s.rows().count(), std::int64_t{4});
        select(6, SelectHow::Extend);  // shrinks from the anchor
        QCOMPARE(s.rows().count(), std::int64_t{2});
        select(20, SelectHow::Toggle);
        QCOMPARE(s.rows().count(), std::int64_t{3});
        select(22, SelectHow::Extend);  // a second range beside the first
        QCOMPARE(s.rows().count(), std::int64_t{5});
        select(5, SelectHow::Toggle);
        QVERIFY(!s.isRowSelected(rowAt(5)) && s.isRowSelected(rowAt(6)));
        select(40, SelectHow::MoveOnly);
        QCOMPARE(s.rows().count(), std::int64_t{4});
        QCOMPARE(s.current()->line, std::int64_t{40});
        s.setMode(SelectionMode::OneRow);
        select(1, SelectHow::Toggle);
        select(3, SelectHow::Extend);
        QCOMPARE(s.rows().count(), std::int64_t{1});
    }

    void blocksOfCells() {
        Selection s;
        s.setMode(SelectionMode::Cells);
        const Selection::RowsAt rowAt = [](std::int64_t line, const auto& take) { take(static_cast<SourceRow>(line)); };
        s.select({4, 4}, SelectHow::Replace, rowAt);
        s.select({2, 1}, SelectHow::Extend, rowAt);
        QVERIFY(s.isCellSelected({3, 2}) && s.isCellSelected({4, 4}) && !s.isCellSelected({5, 4}) &&
                !s.isCellSelected({3, 0}));
        s.select({9, 0}, SelectHow::Toggle, rowAt);
        QVERIFY(s.isCellSelected({9, 0}) && s.isCellSelected({3, 2}));
        s.clampTo(6, 3);
        QVERIFY(!s.isCellSelected({9, 0}));
        s.selectAll(6, 3, [](const auto& take) {
            for (std::uint32_t row = 0; row < 6; ++row) take(static_cast<SourceRow>(row));
        });
        QVERIFY(s.isCellSelected({5, 2}));
        s.moveCurrentTo(std::nullopt);
        QVERIFY(!s.current() && s.blocks().empty());
    }

    /// Whole columns reach over all lines, however many there are, and stay when those are put in another order.
    void wholeColumns() {
        Selection s;
        s.setMode(SelectionMode::Columns);
        const Selection::RowsAt rowAt = [](std::int64_t line, const auto& take) { take(static_cast<SourceRow>(line)); };
        s.clampTo(100, 8);
        s.select({4, 2}, SelectHow::Replace, rowAt);
        QVERIFY(s.isCellSelected({0, 2}) && s.isCellSelected({99, 2}) && !s.isCellSelected({4, 3}));
        QVERIFY(s.rows().count() == 0 && !s.isRowSelected(SourceRow{4}));
        s.select({50, 4}, SelectHow::Extend, rowAt);
        QVERIFY(s.isCellSelected({0, 3}) && s.isCellSelected({99, 4}) && s.blocks().size() == 1);
        s.select({7, 7}, SelectHow::Toggle, rowAt);
        QVERIFY(s.isCellSelected({3, 7}) && s.isCellSelected({3, 2}) && !s.isCellSelected({3, 6}));
        s.moveCurrentTo(std::int64_t{30});
        s.clampTo(500, 8);
        QVERIFY(s.isCellSelected({499, 7}) && s.isCellSelected({499, 2}));
        s.moveRows([](SourceRow) { return std::nullopt; });
        QVERIFY(s.isCellSelected({499, 7}));
        s.clampTo(500, 5);  // a column is hidden
        QVERIFY(!s.isCellSelected({1, 7}) && s.isCellSelected({1, 3}));
        s.clampTo(0, 0);
        QVERIFY(s.blocks().empty());
    }

    void nothingIsSelected() {
        Selection s;
        s.setMode(SelectionMode::None);
        const Selection::RowsAt rowAt = [](std::int64_t line, const auto& take) { take(static_cast<SourceRow>(line)); };
        for (const SelectHow how : {SelectHow::Replace, SelectHow::Extend, SelectHow::Toggle, SelectHow::MoveOnly})
            s.select({3, 1}, how, rowAt);
        s.selectAll(10, 3, [](const auto& take) { take(SourceRow{1}); });
        QVERIFY(s.rows().count() == 0 && s.blocks().empty() && !s.isCellSelected({3, 1}));
        QCOMPARE(s.current()->line, std::int64_t{3});  // keys still have a place
    }
};

QTEST_APPLESS_MAIN(SelectionTest)
#include "tst_selection.moc"
