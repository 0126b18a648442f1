// SPDX-License-Identifier: MIT
// Painting plain cells takes no memory from the heap, cell by cell: counted in the whole program while frames of many
// and of few lines are painted, with all columns and with half of them.
#include <QtTest>

#include <cstdlib>
#include <new>

#include "tests/grid/grid_fixture.h"

namespace {
thread_local std::int64_t allocations = 0;  // of the thread that paints; workers have their own business
}

// The program's own, which the libraries use as well (ISO C++, replacement.functions).
void* operator new(std::size_t bytes) {
    ++allocations;
    if (void* made = std::malloc(bytes == 0 ? 1 : bytes)) return made;
    throw std::bad_alloc();
}
void operator delete(void* made) noexcept { std::free(made); }
void operator delete(void* made, std::size_t) noexcept { std::free(made); }

using namespace jollyrow;

class AllocationsTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }

    /// Allocations of a frame that paints this many lines, all of which have been painted before.
    std::int64_t ofFrame(int lines) {
        const QRect first = grid().places().line(0), last = grid().places().line(lines - 1);
        const QRegion part(first.united(last));
        QImage image(grid().viewport()->size(), QImage::Format_ARGB32_Premultiplied);
        std::int64_t least = std::numeric_limits<std::int64_t>::max();
        for (int turn = 0; turn < 5; ++turn) {
            const std::int64_t before = allocations;
            grid().viewport()->render(&image, first.topLeft(), part, QWidget::DrawChildren);
            least = std::min(least, allocations - before);
        }
        return least;
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        QVERIFY(f_->open());
        grid().resize(1000, 900);
        QTRY_VERIFY(!grid().places().line(28).isEmpty());
        f_->click(grid().places().cell(0, "work").center());
    }
    void cleanup() { f_.reset(); }

    void theCountingCounts() {
        const std::int64_t before = allocations;
        std::vector<int>* made = new std::vector<int>(100);
        delete made;
        QVERIFY(allocations >= before + 2);
    }

    /// A line takes a few, for its runs of glyphs; with twice as many cells it takes no more.
    void plainCellsTakeNone() {
        const auto aLine = [this] {
            const std::int64_t few = ofFrame(4), many = ofFrame(28);
            return static_cast<double>(many - few) / 24;
        };
        const double all = aLine();
        std::size_t shown = 0;
        grid().changeDesign([&](Design& d) {
            for (ColumnDesign& column : d.columns) shown += column.shown;
            for (std::size_t i = d.columns.size() / 2; i < d.columns.size(); ++i) d.columns[i].shown = false;
        });
        const double half = aLine();
        const std::size_t cells = shown - grid().session().plan().columns.size();
        QVERIFY(cells >= 3);
        qInfo("%.2f a line of %zu cells, %.2f without %zu of them", all, shown, half, cells);
        QVERIFY2(all - half < 0.8 * static_cast<double>(cells), qPrintable(QString("%1 %2").arg(all).arg(half)));
        QVERIFY(all < 12);
    }
};

QTEST_MAIN(AllocationsTest)
#include "tst_allocations.moc"
