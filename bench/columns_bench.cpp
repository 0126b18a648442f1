// SPDX-License-Identifier: MIT
// Many columns: a full repaint with 500 columns in four tiers against 15 columns on the same screen and records, a
// column dragged over the headings, a change of one column's setting, and fitting 15 columns to all of their values.
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QPainter>

#include <random>

#include "bench/measure.h"
#include "core/columns/schema.h"
#include "core/design/tier_tree.h"
#include "core/session/session.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "grid/paint/grid_painter.h"

namespace jollyrow::bench {
namespace {

void settle(Grid& grid) {
    QElapsedTimer timer;
    timer.start();
    while ((grid.isLoading() || grid.lineCount() == 0) && timer.elapsed() < 120000)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
}

/// The records of a loaded table under more columns than it has: the same columns over and over, in four tiers.
class Wide {
  public:
    Wide(const Snapshot& base, int count) {
        auto table = std::make_shared<Table>(*base.table);
        TableSchema schema;
        schema.name = "wide";
        std::vector<std::shared_ptr<const Column>> columns;
        std::vector<std::size_t> usable;
        for (std::size_t i = 0; i < base.table->columns.size(); ++i)
            if (base.table->columns[i]) usable.push_back(i);
        for (int i = 0; i < count; ++i) {
            const std::size_t from = usable[static_cast<std::size_t>(i) % usable.size()];
            FieldSchema field = base.table->schema.fields[from];
            field.name = "c" + std::to_string(i);
            field.join = 0;
            schema.fields.push_back(field);
            columns.push_back(base.table->columns[from]);
            ColumnDesign column;
            column.field = column.heading = field.name;
            column.width = {WidthMode::Fixed, 84, 1, 32, 0};
            const int block = i / 5;
            column.tier = "d" + std::to_string(block);
            design.columns.push_back(column);
        }
        // Tiers of 5 columns in tiers of 10, of 50, of all.
        const auto tier = [&](const std::string& name, const std::string& parent) {
            if (!design.findTier(name)) design.tiers.push_back({name, name, parent, {}, {}, {}, {}, {}, {}, {}});
        };
        tier("a", "");
        for (int i = 0; i < count; i += 5) {
            tier("b" + std::to_string(i / 50), "a");
            tier("c" + std::to_string(i / 10), "b" + std::to_string(i / 50));
            tier("d" + std::to_string(i / 5), "c" + std::to_string(i / 10));
        }
        settleTiers(design);
        table->schema = schema;
        table->columns = std::move(columns);
        auto shown = std::make_shared<Snapshot>(base);
        shown->table = std::move(table);
        snapshot = std::move(shown);
        plan = std::make_shared<ViewPlan>(planOf(design, schema));
        lines = std::make_unique<SnapshotRows>(snapshot, plan);
        layout = ColumnLayout(std::vector<int>(static_cast<std::size_t>(count), 84), {1, 0}, 22, 1280);
        insets.assign(static_cast<std::size_t>(count), 0);
    }

    /// One full repaint, headings included, at a random place.
    void paint(QImage& image, GridPainter& body, HeadingPainter& headings, std::mt19937_64& random,
               const HeadingState& state, int scrollX) {
        const HeadingLayout heads(*plan, layout, HeadingPainter::heightsFor(body.text().font()), scrollX);
        const int top = heads.height();
        BodyGeometry geometry;
        geometry.layout({.viewport = {1280, 800}, .headerHeight = top, .lines = lines->lineCount(), .columns = layout});
        geometry.setScrollX(scrollX);
        geometry.setScrollY(
            static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(geometry.scroll().maxScroll() + 1)));
        const GridFrame frame{.tokens = tokens(Theme::Light),
                              .body = geometry,
                              .lines = lines.get(),
                              .plan = *plan,
                              .selection = selection,
                              .decimalInsets = insets,
                              .hasFocus = true};
        QPainter on(&image);
        body.paint(on, frame, image.rect());
        headings.paint(on, frame, heads, state);
    }

    Design design;
    std::shared_ptr<const Snapshot> snapshot;
    std::shared_ptr<const ViewPlan> plan;
    std::unique_ptr<SnapshotRows> lines;
    ColumnLayout layout;
    Selection selection;
    std::vector<int> insets;
};

Figure fittedToAll(Grid& grid, Design design, const Setting& setting) {
    for (ColumnDesign& column : design.columns) column.shown = true;
    const auto add = [&](const char* field) {
        ColumnDesign column;
        column.field = column.heading = field;
        design.columns.push_back(column);
    };
    for (const char* field : {"notes", "booked_on", "vessel.kind", "vessel.owner.name"}) add(field);
    for (ColumnDesign& column : design.columns) column.width = {WidthMode::Fixed, 60, 1, 32, 0};
    grid.setDesign(design);
    settle(grid);
    return limit("15 columns fitted to all values", "at most 100 ms", 100, setting.rounds, [&] {
        grid.setDesign(design);
        return timed([&] {
            grid.designer().fitAll();
            QElapsedTimer timer;
            timer.start();
            while (grid.design().columns.front().width.mode != WidthMode::Fit && timer.elapsed() < 20000)
                QApplication::processEvents();
        });
    });
}

}  // namespace

std::vector<Figure> benchColumns(const Setting& setting) {
    Grid grid;
    grid.resize(1280, 800);
    grid.show();
    Design design = demo::yardJobsDesign(setting.database);
    if (!grid.open(design, QString::fromStdString(setting.database)).ok()) return {};
    settle(grid);
    Wide few(*grid.snapshot(), 15), many(*grid.snapshot(), 500);
    GridPainter body(grid.font());
    HeadingPainter headings(grid.font());
    QImage image(1280, 800, QImage::Format_RGB32);
    std::mt19937_64 random(3);
    HeadingState state;
    state.sorts.resize(500);
    const int rounds = setting.rounds * 10;
    std::vector<Figure> figures;
    figures.push_back(compare(
        "full repaint, 500 columns in four tiers", "15 columns on the same screen", "at most 1.5", rounds,
        [&] {
            return timed([&] { many.paint(image, body, headings, random, state, static_cast<int>(random() % 30000)); });
        },
        [&] { return timed([&] { few.paint(image, body, headings, random, state, 0); }); }));
    const DraggedHeading dragged{{"c3"}, {}};
    int x = 30;
    figures.push_back(limit("a heading dragged, a frame, 500 columns", "at most 8 ms", 8, rounds, [&] {
        return timed([&] {
            const HeadingLayout heads(*many.plan, many.layout, HeadingPainter::heightsFor(grid.font()), 2000);
            x = 30 + (x + 37) % 1200;
            const HeadingLanding landing = landingAt(many.design, *many.plan, heads, many.layout, dragged,
                                                     {x, heads.height() - 8}, Arranging::Design);
            HeadingState moving = state;
            moving.draggedColumn = 3;
            moving.dragAt = {x, 90};
            moving.landing = landing.mark;
            many.paint(image, body, headings, random, moving, 2000);
        });
    }));
    figures.push_back(limit("one setting changed, planned again, 500 columns", "a frame, 16 ms", 16, rounds, [&] {
        Design next = many.design;
        next.columns[7].heading += "x";
        return timed([&] { planOf(next, many.snapshot->table->schema, many.plan.get()); });
    }));
    figures.push_back(fittedToAll(grid, std::move(design), setting));
    return figures;
}

}  // namespace jollyrow::bench
