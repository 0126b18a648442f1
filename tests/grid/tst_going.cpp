// SPDX-License-Identifier: MIT
// Going to a record by the entry in the corner: by line, by key, by how a value begins, over any number of lines.
#include <QtTest>
#include <QtWidgets>

#include "core/columns/column_builder.h"
#include "grid/input/go_to_entry.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class GoingTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }
    QLineEdit* entry() { return grid().viewport()->findChild<QLineEdit*>("goToEntry"); }
    bool says(const QString& words) {
        for (const QLabel* label : grid().viewport()->findChild<GoToEntry*>()->findChildren<QLabel*>())
            if (label->text().contains(words)) return true;
        return false;
    }
    QString number() { return grid().selection().current().plain("number"); }
    void type(const QString& text, Qt::Key end = Qt::Key_Return) {
        entry()->selectAll();
        QTest::keyClicks(entry(), text);
        QTest::keyClick(entry(), end);
    }

  private Q_SLOTS:
    void init() { f_ = std::make_unique<GridFixture>(); }
    void cleanup() { f_.reset(); }

    void byItsKey() {
        f_->design.filter = {{"number < 150", "", "", true, {}}};
        f_->design.sort = {{"work", Direction::Descending, Empties::Last}};
        GroupDesign status;
        status.key.field = "status";
        status.open = false;
        f_->design.groups = {status};
        grid().resize(1000, 500);
        QVERIFY(grid().open(f_->design, f_->path).ok());
        grid().show();
        grid().activateWindow();
        QVERIFY(QTest::qWaitForWindowExposed(&grid()));
        QTRY_VERIFY(!grid().isLoading() && grid().lineCount() == 3 && grid().snapshot()->recordCount() == 149);
        f_->click(grid().places().line(0).center());
        f_->key(Qt::Key_J, Qt::ControlModifier);
        QVERIFY(entry());
        QTest::keyClick(entry(), Qt::Key_J, Qt::ControlModifier);
        type("abc");
        QVERIFY(says("No record here has this key"));
        type("1000");
        QVERIFY(says("No record here has this key"));
        type("170");
        QVERIFY(says("filtered out"));
        type("137");
        QTRY_COMPARE(number(), QString("137"));  // its group has opened
        QTRY_VERIFY(!entry());
        QVERIFY(grid().hasFocus());
    }

    /// In a column that is edited by typing, too: by keys of its own.
    void byHowAValueBegins() {
        QVERIFY(f_->open());
        f_->click(grid().places().cell(3, "work").center());
        f_->key(Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(entry());
        QTest::keyClicks(entry(), "work 1");
        QTRY_COMPARE(number(), QString("10"));
        QTest::keyClicks(entry(), "9");
        QTRY_COMPARE(number(), QString("19"));
        QTest::keyClick(entry(), Qt::Key_Return);
        QTRY_COMPARE(number(), QString("190"));
        type("nothing like it", Qt::Key_Shift);
        QTRY_VERIFY(says("No value here begins so"));
        QCOMPARE(number(), QString("190"));
        QTest::keyClick(entry(), Qt::Key_Escape);
        QCOMPARE(grid().records().unsaved(), std::size_t{0});
        QVERIFY(grid().hasFocus());
    }

    /// Every line is looked at, once around, and the window answers meanwhile.
    void overManyLines() {
        constexpr int kRows = 260'000;
        auto table = std::make_shared<Table>();
        table->schema.name = "many";
        table->schema.writable = false;
        table->rows = kRows;
        FieldSchema field;
        field.name = "word";
        field.type = Type::Text;
        table->schema.fields = {field};
        ColumnChunk chunk;
        ColumnBuilder builder(Type::Text, 0);
        for (int begin = 0; begin < kRows; begin += 10'000) {
            chunk.reset(Type::Text, 0, builder.prefersArena());
            for (int i = begin; i < begin + 10'000; ++i)
                chunk.addText(i == kRows - 3 ? "zander" : i == 2 ? "anchovy" : "cod");
            builder.append(chunk);
        }
        table->columns = {builder.share()};
        grid().resize(600, 400);
        QVERIFY(grid().open(designFor(table->schema, {}), std::shared_ptr<const Table>(table)).ok());
        grid().show();
        QVERIFY(QTest::qWaitForWindowExposed(&grid()));
        QTRY_COMPARE(grid().lineCount(), std::int64_t{kRows});
        f_->click(grid().places().cell(4, "word").center());
        QTest::keyClicks(&grid(), "zan");  // read-only: typing jumps
        QTRY_COMPARE(grid().selection().currentCell()->line, std::int64_t{kRows - 3});
        f_->key(Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
        QTest::keyClicks(entry(), "anch");
        QTRY_COMPARE(grid().selection().currentCell()->line, std::int64_t{2});
    }
};

QTEST_MAIN(GoingTest)
#include "tst_going.moc"
