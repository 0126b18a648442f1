// SPDX-License-Identifier: MIT
// A full repaint of the grid at 1280x800 after a jump to rows not shown before, against the toolkit's own drawing of
// the same texts; at few lines and, by a source that repeats the records, at 10 million.
#include <QFontMetrics>
#include <QImage>
#include <QPainter>

#include <random>

#include <fmt/format.h>

#include "bench/measure.h"
#include "core/design/make_design.h"
#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/paint/grid_painter.h"
#include "grid/pictures/picture_shelf.h"

#include <QApplication>
#include <QElapsedTimer>

namespace jollyrow::bench {
namespace {

/// The records of a snapshot over and over, as if there were `lines` of them.
class Repeated final : public RowsView {
  public:
    Repeated(const SnapshotRows& lines, std::int64_t count) : lines_(lines), count_(count) {}
    std::int64_t lineCount() const override { return count_; }
    void cell(ViewLine line, int column, CellText& out) const override { lines_.cell(inner(line), column, out); }
    CellMark recordMark(ViewLine line) const override { return lines_.recordMark(inner(line)); }
    SourceRow rowAt(ViewLine line) const override { return lines_.rowAt(inner(line)); }

  private:
    ViewLine inner(ViewLine line) const { return static_cast<ViewLine>(raw(line) * 7919 % lines_.lineCount()); }
    const SnapshotRows& lines_;
    std::int64_t count_;
};

/// False when it does not come up.
bool openWhole(Grid& grid, const Design& design, const Setting& setting) {
    grid.resize(1280, 800);
    grid.show();
    if (!grid.open(design, QString::fromStdString(setting.database)).ok()) return false;
    QElapsedTimer timer;
    timer.start();
    while ((grid.isLoading() || grid.lineCount() == 0) && timer.elapsed() < 60000)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    return grid.lineCount() > 0;
}

/// Twelve columns of composed faces: a text, a mark by a rule, a bar, a picture and a trend in each cell.
Design composedDesign(const std::string& database) {
    Design design = demo::yardJobsDesign(database);
    design.grid.rowHeight = 26;
    design.grid.pinned = 0;
    design.tiers.clear();
    const char* fields[] = {"number", "work", "status", "hours", "labour",    "parts",
                            "due_on", "paid", "vessel", "berth", "booked_on", "notes"};
    design.columns.clear();
    for (const char* field : fields) {
        ColumnDesign& column = design.columns.emplace_back();
        column.field = column.heading = column.face = field;
        column.width = {WidthMode::Fixed, 104, 1, 32, 0};
        BarDesign bar;
        bar.number = BarNumber::None;
        design.faces.push_back(
            {field, face::row({face::mark({{"status = 'Done'", "teal", MarkShape::Tick},
                                           {"hours > 20", "buoy", MarkShape::Diamond},
                                           {"", "quiet", MarkShape::Ring}}),
                               face::picture("vessel.picture").fixed(20), face::field().sized(-1),
                               face::bar("hours", bar).share(), face::trend("berth.power_week").fixed(24)})});
    }
    return design;
}

void turn(int milliseconds) {
    QElapsedTimer timer;
    timer.start();
    do QApplication::processEvents(QEventLoop::AllEvents, 5);
    while (timer.elapsed() < milliseconds);
}

/// The vessels, each with its picture, scrolled through from the first to the last.
Figure benchPictures(const Setting& setting) {
    Grid grid;
    auto source = openSource(setting.database);
    Design design = designFor(*(*source)->schema({"vessels", ""}), {"sqlite", setting.database, "vessels", ""});
    design.grid.rowHeight = 60;
    design.grid.pictureMegabytes = 4;
    if (!openWhole(grid, design, setting)) return {};
    QImage image(1280, 800, QImage::Format_RGB32);
    std::vector<double> frames;
    double longest = 0;
    std::size_t most = 0;
    const std::int64_t step = std::max<std::int64_t>(12, grid.lineCount() / 400);
    for (std::int64_t line = 0; line < grid.lineCount(); line += step) {
        grid.selection().showLine(line);
        frames.push_back(timed([&] { grid.viewport()->render(&image); }));
        longest = std::max(longest, frames.back());
        turn(2);
        most = std::max(most, grid.pictures().held());
    }
    fmt::print(stderr, "{} pictures in {} frames: median {:.2f} ms, longest {:.2f} ms, at most {:.1f} of 4 MB held\n",
               grid.lineCount(), frames.size(), median(frames), longest, static_cast<double>(most) / 1e6);
    return {"the longest frame while all pictures are scrolled through",
            longest / 16,
            longest,
            16,
            "the limit",
            "at most 16 ms"};
}

/// Ten conditions over whole records and single columns.
void addStyles(Design& design) {
    const char* rules[] = {"hours > 22",
                           "paid AND hours < 3",
                           "status = 'Waiting for parts'",
                           "due_on < DATE '2026-01-01'",
                           "parts > labour",
                           "MOD(number, 97) = 0",
                           "berth IS NULL",
                           "labour > 1000",
                           "work LIKE 'F%'",
                           "hours BETWEEN 7 AND 8"};
    for (int i = 0; i < 10; ++i) {
        StyleDesign& style = design.styles.emplace_back();
        style.name = "S" + std::to_string(i);
        style.where = rules[i];
        if (i % 2) style.columns = {"work", "hours"};
        i % 3 ? style.ink = "teal" : style.background = "brass";
    }
}

/// What ten styles add to a frame, in milliseconds.
Figure benchStyles(const Setting& setting) {
    Grid grid;
    if (!openWhole(grid, demo::yardJobsDesign(setting.database), setting)) return {};
    Design plain = grid.design(), styled = plain;
    addStyles(styled);
    std::mt19937_64 random(8);
    QImage image(1280, 800, QImage::Format_RGB32);
    const auto frame = [&] { return timed([&] { grid.viewport()->render(&image); }); };
    std::vector<double> more;
    for (int round = 0; round < setting.rounds * 20; ++round) {
        grid.selection().showLine(static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(grid.lineCount())));
        double ms[2];
        for (const bool withStyles : {round % 2 == 0, round % 2 != 0}) {
            grid.setDesign(withStyles ? styled : plain);
            frame();  // the rules are made ready once
            ms[withStyles] = frame();
        }
        more.push_back(ms[1] - ms[0]);
    }
    const double added = median(more);
    return {"ten styles by rules, what they add to a frame", added / 0.3, added, 0.3, "the limit", "at most 0.3 ms"};
}

/// The same cells by QPainter::drawText with elided text.
double drawPlainly(QImage& image, const SnapshotRows& lines, const ColumnLayout& columns, const QFont& font,
                   std::mt19937_64& random) {
    const Repeated source(lines, 5000);
    const std::int64_t first = static_cast<std::int64_t>(random() % 4900);
    QPainter on(&image);
    on.setFont(font);
    const QFontMetrics metrics(font);
    CellText cell;
    return timed([&] {
        on.fillRect(image.rect(), Qt::white);
        for (std::int64_t line = 0; line < 30; ++line)
            for (int column = 0; column < columns.count(); ++column) {
                source.cell(static_cast<ViewLine>(first + line), column, cell);
                const QRect rect(columns.x(column, 0) + 8, 34 + static_cast<int>(line) * 26, columns.width(column) - 16,
                                 26);
                on.drawText(rect, Qt::AlignVCenter,
                            metrics.elidedText(QString::fromUtf8(cell.text), Qt::ElideRight, rect.width()));
            }
    });
}

}  // namespace

std::vector<Figure> benchFaces(const Setting& setting) {
    Grid grid;
    if (!openWhole(grid, composedDesign(setting.database), setting)) return {};
    std::mt19937_64 random(4);
    QImage image(1280, 800, QImage::Format_RGB32);
    const auto jump = [&] {
        grid.selection().showLine(static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(grid.lineCount())));
        return timed([&] { grid.viewport()->render(&image); });
    };
    const std::int64_t rows = grid.lineCount();
    const FieldIndex hours = *grid.session().schema().find("hours");
    const FieldIndex fields[] = {hours};
    std::vector<Figure> figures;
    figures.push_back(
        limit("a frame of 30 lines x 12 composed faces after a jump", "at most 8 ms", 8, setting.rounds * 30, jump));
    figures.push_back(
        limit("the ends of a bar over all records, a million of them", "at most 50 ms", 50, setting.rounds, [&] {
            return timed([&] { extentOf(*grid.snapshot()->table, nullptr, nullptr, fields, Cancel()); }) * 1e6 /
                   static_cast<double>(rows);
        }));
    figures.push_back(benchStyles(setting));
    figures.push_back(benchPictures(setting));
    return figures;
}

std::vector<Figure> benchPainting(const Setting& setting) {
    Grid grid;
    if (!openWhole(grid, demo::yardJobsDesign(setting.database), setting)) return {};
    const SnapshotRows lines(grid.snapshot(), grid.session().sharedPlan());
    const ViewPlan& plan = grid.session().plan();

    std::vector<ColumnRoom> rooms;
    for (const PlannedColumn& column : plan.columns) rooms.push_back({column.design.width, 90});
    const ColumnLayout columns(columnWidths(rooms, 1280 - 22), {1, 0}, 22, 1280);
    GridPainter painter(grid.font());
    const Selection selection;
    const std::vector<int> insets(plan.columns.size(), 0);
    QImage image(1280, 800, QImage::Format_RGB32);
    std::mt19937_64 random(2);
    const auto jump = [&](std::int64_t count) {
        const Repeated source(lines, count);
        BodyGeometry body;
        body.layout({.viewport = {1280, 800}, .lines = count, .columns = columns});
        body.setScrollY(
            static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(body.scroll().maxScroll() + 1)));
        GridFrame frame{.tokens = tokens(Theme::Light),
                        .body = body,
                        .lines = &source,
                        .plan = plan,
                        .selection = selection,
                        .decimalInsets = insets,
                        .hasFocus = true};
        QPainter on(&image);
        return timed([&] { painter.paint(on, frame, image.rect()); });
    };
    const auto plain = [&] { return drawPlainly(image, lines, columns, grid.font(), random); };
    const int rounds = setting.rounds * 30;
    std::vector<Figure> figures;
    figures.push_back(
        limit("full repaint after a jump, 5 000 lines", "at most 3 ms", 3, rounds, [&] { return jump(5000); }));
    figures.push_back(limit("full repaint after a jump, 10 000 000 lines", "at most 3 ms", 3, rounds,
                            [&] { return jump(10'000'000); }));
    figures.push_back(compare(
        "full repaint after a jump, 10 000 000 lines", "the same at 5 000 lines", "about 1", rounds,
        [&] { return jump(10'000'000); }, [&] { return jump(5000); }));
    figures.push_back(compare(
        "full repaint after a jump", "the toolkit's drawText of the same cells", "below 1", rounds,
        [&] { return jump(5000); }, plain));
    return figures;
}

}  // namespace jollyrow::bench
