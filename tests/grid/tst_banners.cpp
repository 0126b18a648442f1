// SPDX-License-Identifier: MIT
// Banner rows in a real grid: painted across all columns, chosen and edited by mouse and keys, read aloud, scrolled.
#include <QtTest>

#include <QAccessible>
#include <QImage>
#include <QLineEdit>
#include <QScrollBar>

#include "grid/paint/tokens.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class BannersTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }
    void open(const std::function<void(BannerDesign&)>& change = {}) {
        f_ = std::make_unique<GridFixture>();
        BannerDesign banner;
        banner.where = "MOD(number, 10) = 3";
        banner.caption = "{work}, {status}";
        if (change) change(banner);
        f_->design.banners = {banner};
        f_->design.grid.stripes = false;
        QVERIFY(f_->open());
    }
    QImage seen() { return grid().viewport()->grab().toImage(); }
    static QRgb rgb(const QColor& colour) { return colour.rgb(); }

  private Q_SLOTS:
    void cleanup() { f_.reset(); }

    void itIsOneHeadingAcrossAllColumns() {
        open();
        const Tokens& t = tokens(Theme::Light);
        const QImage image = seen();
        const QRect banner = grid().places().line(2);
        // No text but the caption: right of it nothing but its colour, over every column's edge.
        const int y = banner.center().y();
        int ends = banner.left();
        for (int x = 30; x < 780; ++x)
            if (image.pixel(x, y) != rgb(t.panel2)) ends = x;
        QVERIFY2(ends < 300 && ends > 40, qPrintable(QString::number(ends)));
        QCOMPARE(image.pixel(600, grid().places().line(1).center().y() - 9), rgb(t.paper));
        // It stays where it is when the columns are scrolled.
        grid().changeDesign([](Design& d) {
            for (ColumnDesign& column : d.columns) column.width.pixels = 260;
        });
        const QImage wide = seen();
        grid().horizontalScrollBar()->setValue(300);
        const QImage scrolled = seen();
        const QRect caption(30, grid().places().line(2).top(), 250, grid().places().line(2).height());
        QCOMPARE(scrolled.copy(caption), wide.copy(caption));
    }

    void itHasALookOfItsOwn() {
        open([](BannerDesign& b) {
            b.background = "#203040";
            b.ink = "#223344";  // far too near: it is made legible
        });
        const QImage image = seen();
        const QRect banner = grid().places().line(2).adjusted(30, 3, -600, -3);
        QRgb lightest = image.pixel(banner.topLeft());
        QCOMPARE(lightest, qRgb(0x20, 0x30, 0x40));
        for (int y = banner.top(); y < banner.bottom(); ++y)
            for (int x = banner.left(); x < banner.right(); ++x)
                if (qGray(image.pixel(x, y)) > qGray(lightest)) lightest = image.pixel(x, y);
        QVERIFY(qGray(lightest) > 120);
        grid().changeDesign([](Design& d) { d.grid.theme = GridTheme::Dark; });
        QVERIFY(seen() != image);
    }

    void itIsChosenAndEdited() {
        open();
        f_->click(QPoint(500, grid().places().line(2).center().y()));
        QCOMPARE(grid().selection().current().text("number"), QString("3"));
        QCOMPARE(seen().pixel(700, grid().places().line(2).center().y()), rgb(tokens(Theme::Light).tealPale));
        // A double click anywhere on it edits what it says.
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, QPoint(700, grid().places().line(2).center().y()));
        QWidget* editor = QApplication::focusWidget();
        QVERIFY(qobject_cast<QLineEdit*>(editor));
        QCOMPARE(qobject_cast<QLineEdit*>(editor)->text(), QString("work 3"));
        QVERIFY(editor->mapTo(f_->viewport(), QPoint()).x() < 60);
        QTest::keyClick(editor, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(editor, "Haul out");
        QTest::keyClick(editor, Qt::Key_Return);
        QTRY_COMPARE(grid().recordAt(2).text("work"), QString("Haul out"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        // By keys any of its cells.
        int status = 0;
        for (const PlannedColumn& column : grid().session().plan().columns) {
            if (column.design.field == "status") break;
            ++status;
        }
        grid().selection().setCurrentCell(2, status);
        grid().setFocus();
        f_->key(Qt::Key_F2);
        editor = QApplication::focusWidget();
        QVERIFY(editor && editor != &grid());
        QTest::keyClick(editor, Qt::Key_Escape);
        // A click on where a check box would be turns nothing over.
        const QString paid = grid().recordAt(2).text("paid");
        f_->click(grid().places().cell(2, "paid").center());
        QTest::qWait(20);
        QCOMPARE(grid().recordAt(2).text("paid"), paid);
    }

    void itIsReadAloud() {
        open();
        QAccessibleInterface* table = QAccessible::queryAccessibleInterface(&grid());
        int work = 0;
        for (const PlannedColumn& column : grid().session().plan().columns) {
            if (column.design.field == "work") break;
            ++work;
        }
        QAccessibleInterface* cell = table->tableInterface()->cellAt(2, work);
        QCOMPARE(cell->text(QAccessible::Name), QString("work 3, Booked"));
        QVERIFY(cell->text(QAccessible::Description).contains("heading work 3, Booked"));
        QVERIFY(!table->tableInterface()->cellAt(1, work)->text(QAccessible::Description).contains("heading"));
    }

    void itFollowsAnEditOfItsCondition() {
        open([](BannerDesign& b) { b.where = "status = 'Booked'"; });
        const QColor behind = tokens(Theme::Light).panel2;
        const auto isBanner = [&](std::int64_t line) {
            return seen().pixel(700, grid().places().line(line).center().y()) == rgb(behind);
        };
        QVERIFY(isBanner(0));
        QVERIFY(!isBanner(6));
        QVERIFY(grid().records().setValue(grid().recordAt(6), "status", std::string("Booked")));
        QTRY_VERIFY(isBanner(6));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "status", std::string("Done")));
        QTRY_VERIFY(!isBanner(0));
        // Merged neighbours begin anew behind it.
        grid().changeDesign([](Design& d) { d.column("status")->merge = true; });
        seen();
    }

    void headsStayOverWhatIsSortedAndFiltered() {
        open([](BannerDesign& b) { b.heads = true; });
        SortDesign by;
        by.field = "number";
        by.direction = Direction::Descending;
        grid().setSort({by});
        QTRY_COMPARE(grid().recordAt(0).text("number"), QString("2"));  // before the first head
        QCOMPARE(grid().recordAt(2).text("number"), QString("3"));
        QCOMPARE(grid().recordAt(3).text("number"), QString("12"));
        QVERIFY(grid().filters().set("few", "number = 55").ok());
        QTRY_COMPARE(grid().lineCount(), 2);
        QCOMPARE(grid().recordAt(0).text("number"), QString("53"));
        QCOMPARE(grid().recordAt(1).text("number"), QString("55"));
    }
};

QTEST_MAIN(BannersTest)
#include "tst_banners.moc"
