// SPDX-License-Identifier: MIT
// Where lines and cells stand, against lines counted one by one: random heights, pinned records, scroll positions.
#include <QtTest>

#include <numeric>
#include <random>

#include "grid/layout/body_geometry.h"

using namespace jollyrow;

namespace {

/// A body of random sizes, and what it was made from.
struct RandomBody {
    explicit RandomBody(unsigned seed) : random(seed) {
        const auto any = [&](int least, int most) { return least + static_cast<int>(random() % (most - least + 1)); };
        BodyRoom room;
        room.viewport = {any(200, 900), any(150, 700)};
        room.headerHeight = any(20, 60);
        room.totalsHeight = random() % 2 ? any(20, 60) : 0;
        room.rowHeight = any(18, 40);
        room.recordLines = any(1, 3);
        room.lines = random() % 4 == 0 ? any(0, 3) : any(4, 400);
        for (auto* pinned : {&room.pinnedTop, &room.pinnedBottom})
            for (int n = any(-3, 2); n > 0 && room.lines > 0; --n)
                pinned->push_back(static_cast<std::int64_t>(random() % static_cast<unsigned>(room.lines)));
        std::vector<ColumnPlace> places;
        const int across = any(1, 9);
        std::vector<int> widths;
        for (int place = 0; place < across; ++place) {
            widths.push_back(any(30, 250));
            for (int line = 0; line < room.recordLines; ++line)
                if (line == 0 || random() % 2) places.push_back({place, 1, line});
        }
        room.columns = ColumnLayout(widths, {any(0, std::min(2, across)), 0}, 22, room.viewport.width(), places);
        if (random() % 2) {
            heights.resize(static_cast<std::size_t>(room.lines));
            for (int& height : heights) height = room.rowHeight * room.recordLines + any(0, 50);
            room.lineHeight = [this](std::int64_t line) { return heights[static_cast<std::size_t>(line)]; };
        }
        lines = room.lines;
        body.layout(std::move(room));
    }
    int heightOf(std::int64_t line) const {
        return heights.empty() ? body.recordHeight() : heights[static_cast<std::size_t>(line)];
    }
    CellPlace anyPlace() {
        return {static_cast<std::int64_t>(random() % static_cast<unsigned>(lines)),
                static_cast<int>(random() % static_cast<unsigned>(body.columns().count()))};
    }
    std::mt19937 random;
    std::vector<int> heights;
    std::int64_t lines = 0;
    BodyGeometry body;
};

}  // namespace

class BodyTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void linesFollowEachOtherWithoutGaps() {
        for (unsigned seed = 0; seed < 600; ++seed) {
            RandomBody r(seed);
            BodyGeometry& body = r.body;
            for (int turn = 0; turn < 4; ++turn) {
                body.scrollPixels(static_cast<int>(r.random() % 6000) - 2000);
                const LinePlaces& at = body.places();
                for (std::int64_t line = at.first(); line < at.end(); ++line) {
                    QCOMPARE(at.height(line), r.heightOf(line));
                    if (line + 1 < at.end()) QCOMPARE(at.top(line + 1), at.top(line) + r.heightOf(line));
                }
                if (r.lines == 0) continue;
                // The body is filled from its top, and to its end when there are lines enough.
                QVERIFY(at.top(at.first()) <= body.top());
                const std::int64_t total = [&] {
                    std::int64_t sum = 0;
                    for (std::int64_t line = 0; line < r.lines; ++line) sum += r.heightOf(line);
                    return sum;
                }();
                if (total >= body.bottom() - body.top() && body.bottom() > body.top())
                    QVERIFY2(at.top(at.end() - 1) + r.heightOf(at.end() - 1) >= body.bottom() - 1,
                             qPrintable(QString::number(seed)));
            }
        }
    }

    void aPointInsideACellIsThatCell() {
        int inside = 0;
        for (unsigned seed = 0; seed < 600; ++seed) {
            RandomBody r(seed);
            BodyGeometry& body = r.body;
            body.scrollPixels(static_cast<int>(r.random() % 3000));
            body.setScrollX(static_cast<int>(r.random() % 500));
            for (std::int64_t line = body.places().first(); line < body.places().end(); ++line)
                for (int column = 0; column < body.columns().count(); ++column) {
                    const QRect cell = body.cellRect({line, column}) & body.roomOf(column) &
                                       QRect(0, body.top(), body.viewport().width(), body.bottom() - body.top());
                    if (cell.isEmpty()) continue;
                    ++inside;
                    for (const QPoint corner : {cell.topLeft(), cell.bottomRight(), cell.center()})
                        QCOMPARE(body.placeAt(corner), std::optional(CellPlace{line, column}));
                }
        }
        QVERIFY2(inside > 10'000, qPrintable(QString::number(inside)));
    }

    void pinnedLinesAreFoundWhereTheyStand() {
        int found = 0;
        for (unsigned seed = 0; seed < 600; ++seed) {
            const RandomBody r(seed);
            const BodyGeometry& body = r.body;
            if (body.bottom() <= body.top()) continue;
            for (const auto& lines : {body.pinnedTop(), body.pinnedBottom()})
                for (const PinnedLine& line : lines) {
                    if (line.y + line.height > body.totalsTop()) continue;
                    ++found;
                    QCOMPARE(body.lineAt(line.y), std::optional(line.line));
                    QCOMPARE(body.lineAt(line.y + line.height - 1), std::optional(line.line));
                }
        }
        QVERIFY(found > 200);
    }

    void whatIsShownIsInSight() {
        for (unsigned seed = 0; seed < 600; ++seed) {
            RandomBody r(seed);
            BodyGeometry& body = r.body;
            if (r.lines == 0) continue;
            for (int turn = 0; turn < 6; ++turn) {
                const CellPlace place = r.anyPlace();
                body.show(place);
                const int room = body.bottom() - body.top(), top = body.places().top(place.line);
                if (room <= 0) continue;
                if (r.heightOf(place.line) <= room) {
                    QVERIFY2(top >= body.top() - 1, qPrintable(QString::number(seed)));
                    QVERIFY2(top + r.heightOf(place.line) <= body.bottom() + 1, qPrintable(QString::number(seed)));
                }
                // It moves nothing a second time, but for a page that is lower than a line.
                if (body.hasOwnHeights() || r.heightOf(place.line) <= room)
                    QVERIFY2(!body.show(place), qPrintable(QString::number(seed)));
            }
        }
    }

    void whatIsScrolledStaysBetweenTheEnds() {
        for (unsigned seed = 0; seed < 300; ++seed) {
            RandomBody r(seed);
            BodyGeometry& body = r.body;
            body.scrollPixels(-100);
            QCOMPARE(body.scrollY(), std::int64_t{0});
            body.scrollPixels(1'000'000);
            QCOMPARE(body.scrollY(), body.scroll().maxScroll());
            QVERIFY(!body.scrollPixels(100));
            if (r.lines > 0 && body.bottom() > body.top()) QCOMPARE(body.places().end(), r.lines);
            body.setScrollX(1'000'000);
            QCOMPARE(body.scrollX(), body.columns().maxScroll());
        }
    }

    void aLayoutKeepsThePlaceThatIsStillThere() {
        BodyGeometry body;
        BodyRoom room{.viewport = {400, 434}, .lines = 1000, .columns = ColumnLayout({100, 100}, {}, 22, 400)};
        body.layout(room);
        body.setScrollY(500 * 26);
        body.layout(room);
        QCOMPARE(body.places().first(), std::int64_t{500});
        room.lines = 100;
        body.layout(room);
        QCOMPARE(body.scrollY(), body.scroll().maxScroll());
        room.lines = 0;
        body.layout(room);
        QCOMPARE(body.scrollY(), std::int64_t{0});
        QVERIFY(!body.placeAt({50, 100}));
    }
};

QTEST_MAIN(BodyTest)
#include "tst_body.moc"
