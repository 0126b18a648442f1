// SPDX-License-Identifier: MIT
// The arithmetic of columns and lines: properties over random settings, scroll positions past 2^31 pixels, and a
// painter that asks its source for exactly the lines in sight.
#include <QtTest>

#include <QImage>
#include <QPainter>

#include <numeric>
#include <random>
#include <set>

#include "core/design/tier_tree.h"
#include "grid/layout/column_layout.h"
#include "grid/layout/heading_layout.h"
#include "grid/layout/scroll_map.h"
#include "grid/paint/grid_painter.h"
#include "workbench/rowline/rowline_bar.h"

using namespace jollyrow;

namespace {

std::vector<ColumnRoom> randomColumns(std::mt19937& random, bool bounded) {
    std::vector<ColumnRoom> columns(1 + random() % 14);
    for (ColumnRoom& c : columns) {
        c.width.mode = static_cast<WidthMode>(random() % 3);
        c.width.pixels = 24 + static_cast<int>(random() % 300);
        c.width.weight = 0.25 * (1 + random() % 16);
        c.width.minimum = bounded ? 24 + static_cast<int>(random() % 100) : 24;
        c.width.maximum = bounded && random() % 2 ? c.width.minimum + static_cast<int>(random() % 200) : 0;
        c.fitPx = 10 + static_cast<int>(random() % 400);
    }
    return columns;
}

/// A source of endless lines that notes what it was asked for; every fifth cell is still on its way.
class EndlessLines final : public RowsView {
  public:
    explicit EndlessLines(std::int64_t count) : count_(count) {}
    std::int64_t lineCount() const override { return count_; }
    void cell(ViewLine line, int column, CellText& out) const override {
        asked.insert(raw(line));
        out = {};
        out.isPending = (raw(line) + column) % 5 == 0;
        out.text = out.isPending ? "" : "line " + std::to_string(raw(line));
    }
    CellMark recordMark(ViewLine) const override { return CellMark::None; }
    SourceRow rowAt(ViewLine line) const override { return static_cast<SourceRow>(raw(line) & 0xffffffff); }
    mutable std::set<std::int64_t> asked;

  private:
    std::int64_t count_;
};

}  // namespace

class LayoutTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void widthsKeepTheirPromises() {
        std::mt19937 random(6);
        for (int round = 0; round < 5000; ++round) {
            const auto columns = randomColumns(random, round % 2 == 0);
            const int room = static_cast<int>(random() % 2500);
            const std::vector<int> widths = columnWidths(columns, room);
            int taken = 0, shared = 0;
            bool unboundedShare = false;
            double weights = 0;
            for (std::size_t i = 0; i < columns.size(); ++i) {
                const Width& w = columns[i].width;
                if (w.mode == WidthMode::Fixed) {
                    QCOMPARE(widths[i], w.pixels);
                } else {
                    QVERIFY(widths[i] >= w.minimum);
                    QVERIFY(w.maximum == 0 || widths[i] <= std::max(w.maximum, w.minimum));
                }
                if (w.mode == WidthMode::Share) {
                    shared += widths[i];
                    weights += w.weight;
                    unboundedShare = unboundedShare || w.maximum == 0;
                } else {
                    taken += widths[i];
                }
            }
            int least = 0;
            for (const ColumnRoom& c : columns) least += c.width.mode == WidthMode::Share ? c.width.minimum : 0;
            if (unboundedShare && room - taken >= least) QCOMPARE(taken + shared, room);
            // Without bounds in the way, weights hold to a pixel.
            if (round % 2 == 1 && weights > 0) {
                bool bounded = false;
                for (std::size_t i = 0; i < columns.size(); ++i)
                    bounded = bounded || (columns[i].width.mode == WidthMode::Share && widths[i] == 24);
                for (std::size_t i = 0; i < columns.size() && !bounded; ++i)
                    if (columns[i].width.mode == WidthMode::Share)
                        QVERIFY(std::abs(widths[i] - columns[i].width.weight / weights * (room - taken)) <= 1.0);
            }
        }
    }

    void whatIsLeftGoesToTheColumnThatFills() {
        std::mt19937 random(8);
        for (int round = 0; round < 500; ++round) {
            const auto columns = randomColumns(random, true);
            const int room = static_cast<int>(random() % 4000), fills = static_cast<int>(random() % columns.size());
            const auto plain = columnWidths(columns, room), filled = columnWidths(columns, room, fills);
            const int sum = std::accumulate(filled.begin(), filled.end(), 0);
            QVERIFY(sum >= room);
            for (std::size_t i = 0; i < columns.size(); ++i)
                if (static_cast<int>(i) != fills) QCOMPARE(filled[i], plain[i]);
            if (sum > room) QCOMPARE(filled, plain);
        }
    }

    void everyPixelHasItsColumn() {
        std::mt19937 random(5);
        for (int round = 0; round < 400; ++round) {
            const std::vector<int> widths = columnWidths(randomColumns(random, true), 900);
            // Some columns beneath others, one or more places wide.
            std::vector<ColumnPlace> places;
            for (int p = 0; p < static_cast<int>(widths.size()); ++p) {
                places.push_back({p, 1, 0});
                if (round % 2 && random() % 3 == 0)
                    places.push_back(
                        {p, 1 + static_cast<int>(random() % (widths.size() - static_cast<std::size_t>(p))), 1});
            }
            std::set<int> taken;
            std::erase_if(places, [&](const ColumnPlace& c) {
                for (int p = c.place; c.line > 0 && p < c.place + c.span; ++p)
                    if (!taken.insert(p).second) return true;
                return false;
            });
            const ColumnLayout layout(widths, {static_cast<int>(random() % 4), static_cast<int>(random() % 3)}, 22, 900,
                                      places);
            const int scroll = layout.maxScroll() == 0
                                   ? 0
                                   : static_cast<int>(random() % static_cast<unsigned>(layout.maxScroll() + 1));
            for (int x = 0; x < 900; x += 3)
                for (const int line : {0, 1}) {
                    const auto column = layout.columnAt(x, scroll, line);
                    if (x < 22) QVERIFY(!column);
                    if (!column) continue;
                    QVERIFY(x >= layout.x(*column, scroll) && x < layout.x(*column, scroll) + layout.width(*column));
                    const Zone zone = layout.zoneOf(*column);
                    const auto [from, to] = layout.extent(zone);
                    QVERIFY(x >= from && x < to);
                    const ColumnRange range = layout.visible(zone, scroll);
                    QVERIFY(*column >= range.begin && *column < range.end);
                }
            for (int column = 0; column < layout.count(); ++column) {
                const int shown = layout.scrollToShow(column, scroll);
                QVERIFY(shown >= 0 && shown <= std::max(layout.maxScroll(), scroll));
                QVERIFY(layout.x(column, shown) >= layout.extent(layout.zoneOf(column)).first ||
                        layout.width(column) > 900);
            }
        }
    }

    void tiersStandOverTheirColumnsHoweverScrolledAndPinned() {
        std::mt19937 random(9);
        for (int round = 0; round < 300; ++round) {
            Design design;
            TableSchema schema;
            for (int i = 0; i < 10; ++i) {
                ColumnDesign column;
                column.field = column.heading = "c" + std::to_string(i);
                FieldSchema field;
                field.name = column.field;
                schema.fields.push_back(field);
                design.columns.push_back(column);
            }
            for (int i = 0; i < 4; ++i) {
                const int first = static_cast<int>(random() % 9);
                makeTier(design, {"c" + std::to_string(first), "c" + std::to_string(first + 1)}, "T");
            }
            const ViewPlan plan = planOf(design, schema);
            const ColumnLayout columns(std::vector<int>(10, 60 + static_cast<int>(random() % 90)),
                                       {static_cast<int>(random() % 4), static_cast<int>(random() % 3)}, 22, 500);
            const int scroll = columns.maxScroll() == 0
                                   ? 0
                                   : static_cast<int>(random() % static_cast<unsigned>(columns.maxScroll() + 1));
            const HeadingLayout layout(plan, columns, {}, scroll);
            std::vector<QRect> level;
            for (int t = 0; t < static_cast<int>(plan.tiers.size()); ++t) {
                const QRect rect = layout.tierRect(t);
                // It covers every part of its columns that can be seen, and nothing of others.
                for (int c = 0; c < 10; ++c) {
                    const auto [from, to] = columns.extent(columns.zoneOf(c));
                    const QRect seen = layout.columnRect(c) & QRect(from, 0, to - from, 1000);
                    if (seen.isEmpty()) continue;
                    const bool under = c >= plan.tiers[static_cast<std::size_t>(t)].first &&
                                       c < plan.tiers[static_cast<std::size_t>(t)].end;
                    if (under)
                        QVERIFY(rect.left() <= seen.left() && rect.right() >= seen.right());
                    else
                        QVERIFY(rect.isEmpty() || rect.right() < seen.left() || rect.left() > seen.right());
                }
            }
            // Every point of the headings over a column has one heading.
            for (int x = 23; x < 500; x += 7)
                for (int y = 1; y < layout.height(); y += 5) {
                    const auto hit = layout.hitAt({x, y});
                    QCOMPARE(hit.has_value(), columns.columnAt(x, scroll).has_value());
                    if (hit) QVERIFY(hit->column.has_value() != hit->tier.has_value());
                    if (hit && hit->tier) QVERIFY(layout.tierRect(*hit->tier).contains(x, y));
                    if (hit && hit->column) QVERIFY(layout.columnRect(*hit->column).contains(x, y));
                }
        }
    }

    void automaticHeightsReachEveryLine() {
        std::mt19937 random(3);
        for (int round = 0; round < 200; ++round) {
            const std::int64_t lines = 1 + static_cast<std::int64_t>(random() % 400);
            std::vector<int> heights(static_cast<std::size_t>(lines));
            for (int& height : heights) height = 26 + 13 * static_cast<int>(random() % 8);
            const auto heightOf = [&](std::int64_t line) { return heights[static_cast<std::size_t>(line)]; };
            const std::int64_t most = scrollWithBottomOf(lines - 1, heightOf, 400);
            const ScrollMap scroll(lines, LinePlaces::kUnits, 400 * LinePlaces::kUnits / 26, most);
            QCOMPARE(scroll.maxScroll(), most);
            const LinePlaces last(scroll, lines, most, heightOf, 26, 34, 434);
            QCOMPARE(last.end(), lines);
            QVERIFY(std::abs(last.top(lines - 1) + last.height(lines - 1) - 434) <= 1 || lines < 20);
            std::int64_t y = 0;
            for (int step = 0; step < 50; ++step) {
                const std::int64_t next = std::min(most, scrolledBy(y, 100, lines, heightOf));
                const LinePlaces before(scroll, lines, y, heightOf, 26, 34, 434),
                    after(scroll, lines, next, heightOf, 26, 34, 434);
                if (next < most && after.first() < before.end())
                    QVERIFY(std::abs(before.top(after.first()) - after.top(after.first()) - 100) <= 1);
                for (std::int64_t line = after.first(); line + 1 < after.end(); ++line)
                    QCOMPARE(after.top(line) + after.height(line), after.top(line + 1));
                if (const auto at = after.lineAt(200))
                    QVERIFY(after.top(*at) <= 200 && after.top(*at) + after.height(*at) > 200);
                y = next;
            }
        }
    }

    void wrappedTextBreaksBetweenWords() {
        const GlyphText text{QFont()};
        const std::string words = "Owner calls in the morning, mast was cracked; insurer wants pictures";
        const qreal width = text.width(words);
        QCOMPARE(text.wrappedLines(words, width + 1, 9), 1);
        QVERIFY(text.wrappedLines(words, width / 2, 9) >= 2);
        QCOMPARE(text.wrappedLines(words, width / 20, 3), 3);
        QCOMPARE(text.wrappedLines("a\nb\nc", 500, 9), 3);
        QCOMPARE(text.wrappedLines("", 500, 9), 1);
        QVERIFY(text.wrappedLines("Übermäßigübermäßigübermäßig", 40, 9) > 1);  // a word longer than the line
    }

    void bordersAreFoundNearThem() {
        const ColumnLayout layout({100, 60, 200}, {1, 0}, 22, 500);
        QCOMPARE(layout.borderAt(122, 0, 4), std::optional(0));
        QCOMPARE(layout.borderAt(118, 0, 4), std::optional(0));
        QCOMPARE(layout.borderAt(126, 0, 4), std::optional(0));
        QCOMPARE(layout.borderAt(382, 0, 4), std::optional(2));
        QVERIFY(!layout.borderAt(60, 0, 4));
    }

    void scrollingPastTwoToTheThirtyOne_data() {
        QTest::addColumn<qint64>("lines");
        for (const qint64 lines : {0LL, 1LL, 20LL, 23LL, 24LL, 5000LL, 1LL << 24, (1LL << 24) + 1, 82'595'524LL,
                                   200'000'000LL, 4'000'000'000LL})
            QTest::addRow("%lld lines", lines) << lines;
    }
    void scrollingPastTwoToTheThirtyOne() {
        QFETCH(qint64, lines);
        const ScrollMap map(lines, 26, 600);
        QCOMPARE(map.fromBar(map.toBar(map.maxScroll())), map.maxScroll());
        QCOMPARE(map.fromBar(0), 0);
        QVERIFY(map.barMaximum() <= 1'000'000'001);
        std::mt19937_64 random(3);
        std::int64_t last = -1;
        for (int step = 0; step <= 1000; ++step) {
            const std::int64_t y = map.maxScroll() / 1000 * step;
            QVERIFY(map.barMaximum() == 0 ||
                    std::abs(map.fromBar(map.toBar(y)) - y) <= map.maxScroll() / map.barMaximum() + 1);
            QVERIFY(map.toBar(y) >= last);
            last = map.toBar(y);
            if (lines == 0) continue;
            const auto line = static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(lines));
            const std::int64_t shown = map.scrollToShow(line, y);
            QVERIFY(map.top(line) >= shown &&
                    map.top(line) + 26 <= shown + 600 + (map.contentHeight() < 600 ? 600 : 0));
            QCOMPARE(map.lineAt(map.top(line) + 25), line);
        }
    }

    void thePainterAsksForTheLinesInSightAndNoOthers_data() {
        QTest::addColumn<qint64>("line");
        for (const qint64 line : {0LL, 17LL, (1LL << 24) + 5, (1LL << 31) / 26 + 3, 199'999'970LL})
            QTest::addRow("from line %lld", line) << line;
    }
    void thePainterAsksForTheLinesInSightAndNoOthers() {
        QFETCH(qint64, line);
        const EndlessLines source(200'000'000);
        ViewPlan plan;
        for (int i = 0; i < 3; ++i) plan.columns.emplace_back().formatter = Formatter::automatic({});
        BodyGeometry body;
        body.layout({.viewport = {600, 400},
                     .lines = source.lineCount(),
                     .columns = ColumnLayout({200, 150, 300}, {1, 0}, 22, 600)});
        body.setScrollY(line * 26 + 7);
        const Selection selection;
        const std::vector<int> insets(3, 0);
        GridFrame frame{.tokens = tokens(Theme::Light),
                        .body = body,
                        .lines = &source,
                        .plan = plan,
                        .selection = selection,
                        .decimalInsets = insets};
        QImage image(600, 400, QImage::Format_RGB32);
        image.fill(Qt::magenta);
        QPainter painter(&image);
        GridPainter(QFont()).paint(painter, frame, image.rect());
        painter.end();
        QCOMPARE(*source.asked.begin(), std::int64_t{line});
        QCOMPARE(*source.asked.rbegin(),
                 std::min<std::int64_t>(source.lineCount() - 1, line + (366 + 7) / 26 + ((366 + 7) % 26 ? 0 : -1)));
        QCOMPARE(static_cast<std::int64_t>(source.asked.size()), *source.asked.rbegin() - line + 1);
        QVERIFY(image.pixel(300, 20) == QColor(Qt::magenta).rgb());  // not above the body
        QVERIFY(image.pixel(590, 390) != QColor(Qt::magenta).rgb());
        int ink = 0;
        for (int x = 22; x < 200; ++x)
            for (int y = 60; y < 330; ++y) ink += qGray(image.pixel(x, y)) < 120 ? 1 : 0;
        QVERIFY2(ink > 200, qPrintable(QString::number(ink)));
    }

    void textIsElidedWithinItsRoom() {
        GlyphText text{QFont()};
        for (const char* words :
             {"Renew shaft seal and rewire the mast", "Åse Lindqvist møtte Étoile på bryggen", "مرحبا بالعالم يا قارب",
              "日本の船は静かに進む、どこまでも", "e\u0301e\u0301e\u0301e\u0301e\u0301e\u0301e\u0301e\u0301e\u0301"}) {
            QImage image(300, 40, QImage::Format_RGB32);
            image.fill(Qt::white);
            QPainter painter(&image);
            text.add(words, QRectF(100, 5, 60, 30), GlyphText::Align::Left, TextTone::Ink);
            text.flush(painter, {Qt::black, Qt::black, Qt::black, Qt::black});
            painter.end();
            int inside = 0, outside = 0;
            for (int x = 0; x < 300; ++x)
                for (int y = 0; y < 40; ++y)
                    if (qGray(image.pixel(x, y)) < 128) (x >= 98 && x <= 163 ? inside : outside)++;
            QVERIFY2(inside > 10 && outside == 0, words);
        }
        QVERIFY(text.elides("a long text that has no room", 40));
        QVERIFY(!text.elides("ab", 400));
        QCOMPARE(text.width("1111"), text.width("8888"));
    }

    void theCurrentFollowsTheRows() {
        QVERIFY(CurrentShape::thicknessFor(120000) > CurrentShape::thicknessFor(8412));
        QVERIFY(CurrentShape::thicknessFor(37) > CurrentShape::thicknessFor(0));
        for (const double width : {700.0, 1280.0, 2600.0}) {
            const CurrentShape shape = CurrentShape::of({150, 240}, {50, 60}, {20, 10}, width, 92);
            QVERIFY(shape.stations[1].x0 - shape.stations[0].x1 >= 76);
            QVERIFY(shape.stations[1].x1 < width);
            const CurrentShape wordy = CurrentShape::of({150, 240}, {140, 60}, {20, 10}, width, 92);
            QVERIFY(wordy.stations[1].x0 - wordy.stations[0].x1 >= 150);
            QVERIFY(wordy.stations[1].x1 < width);
            QVERIFY(shape.outline.contains(QPointF(60, 46)) && !shape.outline.contains(QPointF(60, 91)));
        }
    }
};

QTEST_MAIN(LayoutTest)
#include "tst_layout.moc"
