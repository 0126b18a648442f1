// SPDX-License-Identifier: MIT
// Composed faces in a real grid: what is painted, where the axis stands under the bars, presses by mouse, keys and
// assistive technology, tool tips, find, fit, edits, a second writer.
#include <QDesktopServices>
#include <QHelpEvent>
#include <QToolTip>
#include <QtTest>

#include <QAccessible>
#include <QImage>
#include <QScrollBar>

#include "grid/faces/composed_face.h"
#include "grid/faces/parts/bar_part.h"
#include "grid/paint/axis_painter.h"
#include "tests/grid/grid_fixture.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

constexpr QRgb kBarBlue = qRgb(0x3f, 0x6c, 0x9b);

int inked(const QImage& image, const QRect& area) {
    QHash<QRgb, int> colours;
    for (int y = area.top(); y <= area.bottom(); ++y)
        for (int x = area.left(); x <= area.right(); ++x) ++colours[image.pixel(x, y)];
    int most = 0;
    for (const int count : colours) most = std::max(most, count);
    return area.width() * area.height() - most;
}

}  // namespace

class ComposedTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }

    void open(const char* column, FacePart root) {
        f_ = std::make_unique<GridFixture>();
        f_->design.faces = {{"own", std::move(root)}};
        f_->design.column(column)->face = "own";
        f_->design.column(column)->width.pixels = 160;
        QVERIFY(f_->open());
        QTRY_VERIFY(!f_->text(0, "vessel").isEmpty());
    }
    QImage seen() { return grid().viewport()->grab().toImage(); }
    QAccessibleInterface* cellOf(std::int64_t line, const char* field) {
        QAccessibleInterface* table = QAccessible::queryAccessibleInterface(&grid());
        const auto column = [&] {
            for (int i = 0; i < table->tableInterface()->columnCount(); ++i)
                if (grid().session().plan().columns[static_cast<std::size_t>(i)].design.field == field) return i;
            return -1;
        }();
        return table->tableInterface()->cellAt(static_cast<int>(line), column);
    }
    /// Right of the last blue pixel of the bar on a line.
    int barEnd(const QImage& image, std::int64_t line, const char* field) {
        const QRect cell = grid().places().cell(line, field);
        for (int x = cell.right(); x >= cell.left(); --x)
            if (image.pixel(x, cell.center().y()) == kBarBlue) return x + 1;
        return -1;
    }

    QList<QUrl> opened_;

  public Q_SLOTS:
    void takeUrl(const QUrl& url) { opened_ << url; }

  private Q_SLOTS:
    void cleanup() { f_.reset(); }

    void everyKindIsPaintedInItsCell_data() {
        QTest::addColumn<int>("kind");
        for (int kind = 0; kind < 9; ++kind) QTest::newRow(qPrintable(QString::number(kind))) << kind;
    }
    void everyKindIsPaintedInItsCell() {
        QFETCH(int, kind);
        const std::vector<FacePart> parts = {
            face::text("{work} {hours}"),
            face::field("hours"),
            face::mark({{"paid", "teal", MarkShape::Tick}, {"", "buoy", MarkShape::Diamond}}),
            face::bar("hours"),
            face::trend("trend", TrendLook::Area),
            face::rating("number", 9),
            face::swatch("status"),
            face::link("call", "call {work}"),
            face::button("call", "Call")};
        FacePart part = parts[static_cast<std::size_t>(kind)];
        if (kind == 4) part.field = "status";  // no numbers: written as it is
        open("work", std::move(part));
        const QImage plain = [&] {
            const auto with = grid().design();
            grid().changeDesign([](Design& d) { d.column("work")->face.clear(); });
            const QImage image = seen();
            grid().changeDesign([&](Design& d) { d = with; });
            return image;
        }();
        const QImage image = seen();
        for (std::int64_t line = 0; line < 6; ++line) {
            const QRect cell = grid().places().cell(line, "work");
            QVERIFY2(inked(image, cell.adjusted(2, 2, -2, -3)) > 8, qPrintable(QString::number(line)));
            // Beside it nothing is touched.
            const QRect beside(cell.right() + 1, cell.top(), 60, cell.height());
            QCOMPARE(image.copy(beside), plain.copy(beside));
        }
        // Dark as well, in other colours.
        grid().changeDesign([](Design& d) { d.grid.theme = GridTheme::Dark; });
        const QImage dark = seen();
        QVERIFY(inked(dark, grid().places().cell(1, "work").adjusted(2, 2, -2, -3)) > 8);
        QVERIFY(dark.pixel(grid().places().cell(1, "work").center()) !=
                    image.pixel(grid().places().cell(1, "work").center()) ||
                dark != image);
    }

    /// The end of each bar is where the axis has that number, to the pixel: at five widths, pinned left and right,
    /// scrolled across, with and without totals, filtered.
    void theAxisStandsUnderTheBars() {
        open("hours", face::bar());
        const auto check = [&](const char* what) {
            QTest::qWait(1);
            const QImage image = seen();
            const PlannedColumn* column = nullptr;
            int index = -1;
            for (const PlannedColumn& c : grid().session().plan().columns) {
                ++index;
                if (c.design.field == "hours") {
                    column = &c;
                    break;
                }
            }
            QVERIFY2(column && AxisPainter::has(*column), what);
            int compared = 0;
            const QRect first = grid().places().cell(0, "hours");
            CellText cell;
            FaceReader reader(*grid().snapshot(), column->face);
            PartFonts fonts(grid().font());
            for (std::int64_t line = 0; line < 10; ++line) {
                const QRect rect = grid().places().cell(line, "hours");
                if (rect.isEmpty() || !grid().viewport()->rect().contains(rect)) continue;
                const double hours = grid().recordAt(line).text("hours").toDouble();
                FaceContent content;
                reader.read(grid().snapshot()->record(line), content);
                const PartLook look{column->face->parts.front(), content.parts.front(), fonts, tokens(Theme::Light)};
                const FaceCell place{*column, cell, rect};
                const QRectF area = BarPart::lengths(look, place.room());
                const int end = barEnd(image, line, "hours");
                QVERIFY2(end == static_cast<int>(placeOf(hours, reader.ends(0), area)),
                         qPrintable(QString("%1, line %2: %3").arg(what).arg(line).arg(end)));
                ++compared;
            }
            QVERIFY2(compared > 3, what);
            // The ticks: dark pixels right under the line, at the places of nice numbers.
            const int top = grid().viewport()->height() - AxisPainter::kHeight;
            FaceContent content;
            reader.read(grid().snapshot()->record(0), content);
            const PartLook look{column->face->parts.front(), content.parts.front(), fonts, tokens(Theme::Light)};
            const QRectF area = BarPart::lengths(look, FaceCell{*column, cell, first}.room());
            int ticks = 0;
            for (int x = first.left(); x <= first.right(); ++x)
                if (image.pixel(x, top + 4) == tokens(Theme::Light).ink3.rgb()) {
                    ++ticks;
                    bool isNice = false;
                    for (int number = -40; number <= 40 && !isNice; ++number)
                        isNice = static_cast<int>(placeOf(number, reader.ends(0), area)) == x;
                    QVERIFY2(isNice, qPrintable(QString("%1: a mark at %2").arg(what).arg(x)));
                }
            QVERIFY2(ticks >= 1, what);
            lastTicks_ = ticks;
        };
        int before = 0;
        for (const int width : {90, 120, 160, 240, 420}) {
            grid().changeDesign([width](Design& d) { d.column("hours")->width.pixels = width; });
            check(qPrintable(QString("width %1").arg(width)));
            QVERIFY(lastTicks_ >= before);  // it gains figures as the column widens
            before = lastTicks_;
        }
        QVERIFY(before > 4);
        grid().changeDesign([](Design& d) { d.column("hours")->width.pixels = 160; });
        grid().changeDesign([](Design& d) { d.grid.pinnedRight = static_cast<int>(d.columns.size()) - 5; });
        check("pinned right");
        grid().changeDesign([](Design& d) {
            d.grid.pinnedRight = 0;
            for (ColumnDesign& c : d.columns) c.width.pixels = 150;
        });
        grid().horizontalScrollBar()->setValue(133);
        check("scrolled");
        grid().changeDesign([](Design& d) { d.filter = {{"hours < 20", "", "", true}}; });
        QTRY_VERIFY(grid().lineCount() < 200);
        check("filtered, ends of all");
        grid().changeDesign([](Design& d) { d.faces.front().root.bar.ends = BarEnds::Filtered; });
        QTRY_VERIFY(grid().snapshot()->extents.size() == 1 && grid().snapshot()->extents.front().first.filtered);
        check("filtered, ends of these");
    }

    void pastAnEndIsMarked() {
        BarDesign fixed;
        fixed.ends = BarEnds::Fixed;
        fixed.from = 0;
        fixed.to = 10;
        open("hours", face::bar({}, fixed));
        const QImage image = seen();
        const auto hasBuoy = [&](std::int64_t line) {
            const QRect cell = grid().places().cell(line, "hours");
            for (int x = cell.left(); x <= cell.right(); ++x)
                for (int y = cell.top(); y <= cell.bottom(); ++y)
                    if (image.pixel(x, y) == tokens(Theme::Light).buoy.rgb()) return true;
            return false;
        };
        for (std::int64_t line = 0; line < 14; ++line)
            QCOMPARE(hasBuoy(line), grid().recordAt(line).text("hours").toDouble() > 10);
    }

    void linksAndButtonsTellTheApplication() {
        open("work", face::row({face::field("number").fixed(40), face::button("call", "Call"),
                                face::link("open", "notes").when("notes IS NOT NULL")}));
        QSignalSpy pressed(&grid(), &Grid::partPressed);
        const QRect cell = grid().places().cell(3, "work");
        f_->click({cell.left() + 66, cell.center().y()});
        QCOMPARE(pressed.count(), 1);
        QCOMPARE(pressed.last().at(0).value<Record>().text("number"), QString("4"));
        QCOMPARE(pressed.last().at(1).toString(), QString("work"));
        QCOMPARE(pressed.last().at(2).toString(), QString("call"));
        f_->click({cell.left() + 20, cell.center().y()});  // beside it
        QCOMPARE(pressed.count(), 1);
        f_->key(Qt::Key_Space);  // the first one of the current cell
        QCOMPARE(pressed.count(), 2);
        QAccessibleInterface* accessible = cellOf(4, "work");
        accessible->actionInterface()->doAction(QAccessibleActionInterface::showMenuAction());
        QCOMPARE(pressed.count(), 3);
        QCOMPARE(pressed.last().at(0).value<Record>().text("number"), QString("5"));
        // The link of another line, which has no notes, is not there.
        const QRect without = grid().places().cell(0, "work");
        f_->click({without.left() + 120, without.center().y()});
        QCOMPARE(pressed.count(), 3);
        f_->click({cell.left() + 110, cell.center().y()});
        QCOMPARE(pressed.last().at(2).toString(), QString("open"));
    }

    /// Nothing opens by itself but what the builder allows; the application hears of every press.
    void linksOpenWhatIsAllowed_data() {
        QTest::addColumn<QString>("opens");
        QTest::addColumn<QStringList>("allowed");
        QTest::addColumn<bool>("does");
        QTest::newRow("allowed") << "jollytest://{number}" << QStringList{"jollytest"} << true;
        QTest::newRow("another case") << "JollyTest://{number}" << QStringList{"jollytest"} << true;
        QTest::newRow("not allowed") << "jollytest://{number}" << QStringList{"https"} << false;
        QTest::newRow("nothing allowed") << "jollytest://{number}" << QStringList{} << false;
        QTest::newRow("no scheme") << "{number}" << QStringList{"jollytest"} << false;
        QTest::newRow("no address") << "jollytest://[{number}" << QStringList{"jollytest"} << false;
        QTest::newRow("a file") << "file:///etc/hostname" << QStringList{"file", "jollytest"} << false;
        QTest::newRow("scheme from the record") << "{status}://x" << QStringList{"jollytest"} << false;
        QTest::newRow("endless") << "jollytest://" + QString(3000, 'x') << QStringList{"jollytest"} << false;
    }
    void linksOpenWhatIsAllowed() {
        QFETCH(QString, opens);
        QFETCH(QStringList, allowed);
        QFETCH(bool, does);
        FacePart link = face::link("call", "call them");
        link.opens = opens.toStdString();
        open("work", face::row({std::move(link)}));
        grid().changeDesign([&](Design& d) {
            for (const QString& scheme : allowed) d.grid.linkSchemes.push_back(scheme.toStdString());
        });
        opened_.clear();
        for (const char* scheme : {"jollytest", "file", "https"})
            QDesktopServices::setUrlHandler(scheme, this, "takeUrl");
        QSignalSpy pressed(&grid(), &Grid::partPressed);
        const QRect cell = grid().places().cell(3, "work");
        f_->click({cell.left() + 20, cell.center().y()});
        for (const char* scheme : {"jollytest", "file", "https"}) QDesktopServices::unsetUrlHandler(scheme);
        QCOMPARE(pressed.count(), 1);
        QCOMPARE(opened_.size(), does ? 1 : 0);
        if (does) QVERIFY(opened_.front().toString().endsWith("4"));
    }

    /// Under the pointer each part of a stacked bar says what it is; beside them the bar as a whole.
    void partsOfAStackedBarHaveTips() {
        BarDesign both;
        both.fields = {"hours", "number"};
        open("hours", face::bar({}, both));
        const PlannedColumn* column = nullptr;
        for (const PlannedColumn& c : grid().session().plan().columns)
            if (c.design.field == "hours") column = &c;
        const QRect rect = grid().places().cell(7, "hours");
        FaceReader reader(*grid().snapshot(), column->face);
        FaceContent content;
        reader.read(grid().snapshot()->record(7), content);
        PartFonts fonts(grid().font());
        const PartLook look{column->face->parts.front(), content.parts.front(), fonts, tokens(Theme::Light)};
        const CellText cell;
        const auto stretches = BarPart::stretches(look, BarPart::lengths(look, FaceCell{*column, cell, rect}.room()));
        QCOMPARE(stretches.size(), std::size_t{2});
        const QImage image = seen();
        for (const BarStretch& stretch : stretches) {
            const QPoint at = stretch.rect.center().toPoint();
            QCOMPARE(image.pixelColor(at), stackedInk(stretch.index, tokens(Theme::Light)));
            QHelpEvent help(QEvent::ToolTip, at, grid().viewport()->mapToGlobal(at));
            QApplication::sendEvent(grid().viewport(), &help);
            QTRY_COMPARE(QToolTip::text(),
                         stretch.index == 0 ? QString("<qt>Hours: 8.50</qt>") : QString("<qt>Number: 8</qt>"));
        }
        QToolTip::hideText();
        // What the colours stand for is said at the foot, each beside its colour.
        const int foot = grid().viewport()->height() - AxisPainter::kLegend - 2;
        int found = 0;
        for (std::size_t i = 0; i < 2; ++i) {
            bool any = false;
            for (int y = foot; y < grid().viewport()->height(); ++y)
                for (int x = rect.left(); x < rect.right(); ++x)
                    any = any || image.pixelColor(x, y) == stackedInk(i, tokens(Theme::Light));
            found += any;
        }
        QCOMPARE(found, 2);
    }

    /// A band as it was asked for, marks of the least and greatest, and only the last numbers.
    void trendsShowBandMarksAndTheLast() {
        TrendDesign trend;
        const auto drawn = [&](const TrendDesign& with) {
            open("work", face::row({face::trend("notes", with)}));
            run(f_->path, "UPDATE jobs SET notes = '[3, 1, 4, 1, 5, null, 9, 2, 6]'");
            grid().reload();
            (void)QTest::qWaitFor([&] { return grid().recordAt(2).text("notes").startsWith('['); }, 30'000);
            const QRect cell = grid().places().cell(2, "work");
            return seen().copy(cell.adjusted(2, 2, -2, -3));
        };
        const auto count = [](const QImage& image, const QColor& colour) {
            int pixels = 0;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x) pixels += image.pixelColor(x, y) == colour;
            return pixels;
        };
        const Tokens& t = tokens(Theme::Light);
        const QImage plain = drawn(trend);
        trend.band = true;
        trend.from = -1e6;
        trend.to = 1e6;
        const QImage banded = drawn(trend);
        QCOMPARE(count(plain, t.tealPale), 0);
        QVERIFY(count(banded, t.tealPale) > banded.width() * banded.height() / 3);
        trend = {};
        trend.marks = true;
        QVERIFY(drawn(trend) != plain);
        trend = {};
        trend.last = 2;
        const QImage two = drawn(trend);
        QVERIFY(two != plain);
        trend.last = 1000;
        QCOMPARE(drawn(trend), plain);
    }

    void textsWrapInTheirLines() {
        open("work",
             face::row({face::text("{work} and a good many words besides, which no cell has room for on one line")
                            .share()
                            .wrapped()}));
        grid().changeDesign([](Design& d) { d.grid.rowHeight = 80; });
        const QRect cell = grid().places().cell(1, "work");
        const QImage image = seen();
        int lines = 0;
        bool was = false;
        for (int y = cell.top() + 3; y < cell.bottom() - 2; ++y) {
            const bool is = inked(image, QRect(cell.left() + 4, y, cell.width() - 8, 1)) > 3;
            lines += is && !was;
            was = is;
        }
        QVERIFY2(lines >= 3, qPrintable(QString::number(lines)));
    }

    void textsAreReadAloudCopiedAndFound() {
        open("work", face::column({face::field(), face::text("for {vessel.owner.name}").when("vessel IS NOT NULL")}));
        QTRY_VERIFY(cellOf(0, "work")->text(QAccessible::Name).contains("for "));
        const QString aloud = cellOf(0, "work")->text(QAccessible::Name);
        QVERIFY2(aloud.contains("work 1 for Tomas Rill"), qPrintable(aloud));
        grid().selection().setMode(SelectionMode::Cells);
        f_->click(grid().places().cell(0, "work").center());
        f_->key(Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QGuiApplication::clipboard()->text().trimmed(), QString("work 1 for Tomas Rill"));
    }

    void fitTakesTheWholeFace() {
        open("work", face::row({face::field("work"), face::spacer(30), face::text("{notes}")}));
        grid().changeDesign([](Design& d) { d.column("work")->width.mode = WidthMode::Fit; });
        QTRY_VERIFY(grid().places().cell(0, "work").width() > 300);
    }

    void anEditRedrawsItsFace() {
        open("hours", face::row({face::mark({{"value > 30", "buoy", MarkShape::Diamond}}), face::field()}));
        const auto isMarked = [&] {
            const QImage image = seen();
            const QRect cell = grid().places().cell(0, "hours");
            for (int x = cell.left(); x <= cell.right(); ++x)
                if (image.pixel(x, cell.center().y() + 2) == tokens(Theme::Light).buoy.rgb()) return true;
            return false;
        };
        QVERIFY(!isMarked());
        QVERIFY(grid().records().setValue(grid().recordAt(0), "hours", Decimal{3550, 2}));
        QTRY_VERIFY(isMarked());
        QTRY_COMPARE(grid().recordAt(0).text("hours"), QString("35.50"));
        // Another process writes; after a reload the face shows it.
        QTRY_VERIFY(grid().snapshot()->edits->count(EditState::Saving) == 0);
        run(f_->path, "UPDATE jobs SET hours = 1 WHERE number = 1");
        grid().reload();
        QTRY_VERIFY(!isMarked());
    }

    /// Before, during and after a save, and when it is refused: never the label of the record that it pointed to.
    void anEditedLookUpShowsWhatWasChosen() {
        open("vessel", face::row({face::field(), face::text("!")}));
        const QString before = f_->text(0, "vessel");
        QVERIFY(before.startsWith("Otter's Due"));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "vessel", std::int64_t{12}));
        QVERIFY2(!f_->text(0, "vessel").startsWith("Otter's Due"), qPrintable(f_->text(0, "vessel")));
        QTRY_COMPARE(f_->text(0, "vessel"), QString("Brisk Molly !"));
        QVERIFY(grid().records().setValue(grid().recordAt(1), "vessel", std::int64_t{99}));  // there is none
        QTRY_COMPARE(grid().snapshot()->edits->count(EditState::Refused), std::size_t{1});
        QCOMPARE(f_->text(1, "vessel"), QString("99 !"));
    }

    /// Equal texts beside other marks are not merged away.
    void composedCellsAreNotMerged() {
        open("paid", face::row({face::text("x"), face::mark({{"hours > 3", "buoy", MarkShape::Diamond}})}));
        grid().changeDesign([](Design& d) { d.column("paid")->merge = true; });
        const QImage image = seen();
        for (std::int64_t line = 0; line < 6; ++line)
            QVERIFY2(inked(image, grid().places().cell(line, "paid").adjusted(2, 2, -2, -3)) > 4,
                     qPrintable(QString::number(line)));
    }

    void theEditorIsThatOfTheColumn() {
        open("work", face::row({face::text("{vessel.name}"), face::field()}));
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, grid().places().cell(2, "work").center());
        auto* entry = f_->viewport()->findChild<QLineEdit*>();
        QVERIFY(entry && entry->isVisible());
        QCOMPARE(entry->text(), QString("work 3"));
        QTest::keyClick(entry, Qt::Key_Escape);
    }

    /// Trees that nobody would make, narrow and tall: nothing is painted outside, nothing fails.
    void randomTreesInNarrowCells() {
        std::mt19937 random(8);
        open("work", face::field());
        for (int turn = 0; turn < 40; ++turn) {
            const auto leaf = [&]() -> FacePart {
                switch (random() % 8) {
                    case 0: return face::text("{work} · {status}");
                    case 1: return face::bar(random() % 2 ? "hours" : "number");
                    case 2: return face::rating("number", 1 + static_cast<int>(random() % 20));
                    case 3: return face::mark({{"paid", "teal", static_cast<MarkShape>(random() % 11)}});
                    case 4: return face::swatch("status");
                    case 5: return face::button("b", "{due}");
                    case 6: return face::spacer(static_cast<int>(random() % 50));
                    default: return face::field("notes").share();
                }
            };
            std::vector<FacePart> parts;
            for (unsigned i = 0, n = 1 + random() % 6; i < n; ++i)
                parts.push_back(random() % 3 ? leaf() : face::column({leaf(), leaf()}));
            grid().changeDesign([&](Design& d) {
                d.faces.front().root = random() % 2 ? face::row(parts) : face::stack(parts);
                d.column("work")->width.pixels = 24 + static_cast<int>(random() % 300);
                d.grid.rowHeight = 16 + static_cast<int>(random() % 60);
            });
            const QImage image = seen();
            QVERIFY(!image.isNull());
            QVERIFY(grid().findings().empty());
            QTest::mouseMove(f_->viewport(), grid().places().cell(0, "work").center());
        }
    }

  private:
    int lastTicks_ = 0;
};

QTEST_MAIN(ComposedTest)
#include "tst_composed.moc"
