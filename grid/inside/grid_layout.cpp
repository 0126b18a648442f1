// SPDX-License-Identifier: MIT
// The layout and the frame of a grid, put together from what its parts say.
#include <cmath>

#include "grid/inside/grid_private.h"

#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {
constexpr int kCellAir = 8;  // pixels above and below the text of a cell, together
}  // namespace

FitInput GridPrivate::fitInput() const {
    return {context.session().snapshot().get(), context.plan(), rows.groupText(), painters.cells(),
            painters.headings()};
}

/// What the wrapped texts of a record need; all lines of a record get the height of the highest.
int GridPrivate::lineHeight(std::int64_t line) const {
    if (!rows.has(line)) return body.recordHeight();
    if (rows.groups())
        if (const Line at = rows.at(line); at.kind != LineKind::Record)
            return groups.lineHeight(rows.groups()->tree().nodes[at.group].level, at.kind == LineKind::GroupFooter);
    const GridDesign& design = context.design().grid;
    const GlyphText& glyphs = painters.cells().text();
    int most = 1;
    CellText cell;
    const int count = design.lineHeight == LineHeight::Automatic ? body.columns().count() : 0;
    for (int column = 0; column < count; ++column) {
        if (!context.planned(column).design.wrap) continue;
        rows.cell(line, column, cell);
        const int room = body.columns().width(column) - 2 * measure::kCellPadding;
        most = std::max(most, glyphs.wrappedLines(cell.text, room, design.mostLines));
    }
    const int text = most == 1 ? 0 : static_cast<int>(std::ceil(glyphs.lineHeight())) * most + kCellAir + 1;
    return std::max(painters.rowHeight(design), text) * std::max(1, context.plan().recordLines);
}

void GridPrivate::layoutColumns(BodyRoom& room) const {
    const ViewPlan& plan = context.plan();
    std::vector<ColumnRoom> wanted;
    wanted.reserve(plan.places.size());
    for (const int column : plan.places) wanted.push_back({context.planned(column).design.width, fits.width(column)});
    std::vector<ColumnPlace> places;
    for (int i = 0; i < static_cast<int>(plan.columns.size()); ++i) {
        const PlannedColumn& column = context.planned(i);
        places.push_back({column.place, column.span, column.line});
        if (column.line == 0 || column.span != 1) continue;
        // What stands beneath a column widens it as far as it alone needs.
        int& fit = wanted[static_cast<std::size_t>(column.place)].fitPx;
        fit = std::max(fit, fits.width(i));
    }
    const GridDesign& design = context.design().grid;
    const auto count = static_cast<int>(wanted.size());
    std::optional<int> fills;
    if (design.lastFills && count > design.pinnedRight) fills = count - design.pinnedRight - 1;
    room.columns =
        ColumnLayout(columnWidths(wanted, room.viewport.width() - measure::kGutter, fills),
                     {design.pinned, design.pinnedRight}, measure::kGutter, room.viewport.width(), std::move(places));
}

BodyRoom GridPrivate::roomNow() const {
    const GridDesign& design = context.design().grid;
    const ViewPlan& plan = context.plan();
    BodyRoom room;
    room.viewport = grid.viewport()->size();
    layoutColumns(room);
    room.headerHeight =
        HeadingLayout(plan, room.columns, painters.headingHeights(), body.scrollX()).height() + search.filters.height();
    room.totalsHeight = figures.totals.height();
    room.rowHeight = painters.rowHeight(design);
    room.recordLines = plan.recordLines;
    (design.entryLine == EntryLinePlace::Top ? room.headerHeight : room.totalsHeight) += entryHeight();
    room.lines = rows.count();
    room.pinnedTop = marks_.pinned.at(PinnedRecord::Edge::Top);
    room.pinnedBottom = marks_.pinned.at(PinnedRecord::Edge::Bottom);
    const bool wraps = design.lineHeight == LineHeight::Automatic &&
                       std::any_of(plan.columns.begin(), plan.columns.end(),
                                   [](const PlannedColumn& column) { return column.design.wrap; });
    if (wraps || groups.hasOwnHeights()) room.lineHeight = [this](std::int64_t line) { return lineHeight(line); };
    if (design.stickyGroups && context.session().snapshot()) room.sticky = context.snapshot().grouped;
    room.groupHeight = [this](int level) { return groups.lineHeight(level, false); };
    return room;
}

/// Of the line where new records are begun; 0: there is none.
int GridPrivate::entryHeight() const {
    const GridDesign& design = context.design().grid;
    const bool isWanted =
        design.entryLine != EntryLinePlace::None && records.canInsert() && !context.plan().columns.empty();
    return isWanted ? painters.rowHeight(design) : 0;
}

void GridPrivate::relayout() {
    context.refreshLook();
    const bool otherMode = cursor.selection().mode() != context.design().grid.selection;
    if (otherMode) cursor.setMode(context.design().grid.selection);
    marks_.glow.follow();
    parts.shelf.setMost(static_cast<std::size_t>(context.design().grid.pictureMegabytes) * 1'000'000);
    const bool areOthers = rows.view() && !rows.areOf(context.plan());
    if (areOthers) showRows();
    fits.measure(fitInput());
    marks_.pinned.find(context.session());
    parts.pictures.hideCard();
    body.layout(roomNow());
    headings.fit();
    const std::string& field = cursor.field();
    cursor.fit(field.empty() ? std::nullopt : context.columnOf(QString::fromStdString(field)), rows.count(),
               body.columns().count());
    scroller.syncBars();
    entryLine->place(entryHeight());
    editors.place();
    editors.showRefusal();
    context.update();
    search.filters.layout();
    showOutOfPlace();
    if (areOthers) Q_EMIT grid.columnsChanged();
    if (otherMode) Q_EMIT grid.selectionChanged();
}

QString GridPrivate::emptyMessage() const {
    if (!opened.failure.isEmpty()) return opened.failure;
    const Session& session = context.session();
    if (session.isLoading()) return Grid::tr("Loading…");
    const QString things = QString::fromStdString(context.schema().name);
    if (context.plan().columns.empty()) {
        const auto& fields = context.schema().fields;
        const bool allBinary =
            !fields.empty() && std::all_of(fields.begin(), fields.end(),
                                           [](const FieldSchema& field) { return field.type == Type::Binary; });
        if (context.design().columns.empty()) return Grid::tr("Nothing is bound to this grid yet.");
        return allBinary ? Grid::tr(
                               "%1 holds only binary data, which has no text to show. A column can be shown all the "
                               "same from the list of columns.")
                               .arg(things)
                         : Grid::tr("No column is shown. The list of columns shows them.");
    }
    const Snapshot& snapshot = context.snapshot();
    if (snapshot.source.rowsOut != 0 && snapshot.filter.rowsOut == 0)
        return Grid::tr("None of %1 records meets the conditions.").arg(grouped(snapshot.source.rowsOut));
    return Grid::tr("There are no records in %1.").arg(things);
}

GridFrame GridPrivate::frame() {
    const GridDesign& design = context.design().grid;
    GridFrame f{.tokens = context.look(),
                .body = body,
                .lines = rows.view(),
                .plan = context.plan(),
                .selection = cursor.selection(),
                .decimalInsets = fits.decimalInsets(),
                .stripes = design.stripes,
                .hairlines = design.lines,
                .hasFocus = (grid.hasFocus() && !headings.focus()) || editors.isOpen(),
                .hover = input.gestures.onBody().hovered()};
    f.crossLight = design.crossLight;
    f.grouped = rows.groups();
    f.sticky = body.stickyLines();
    f.pinnedTop = body.pinnedTop();
    f.pinnedBottom = body.pinnedBottom();
    f.totals = figures.totals.rows(body.viewport().height());
    f.axisTop = figures.totals.axisTop(body.viewport().height());
    f.selectedFigures = figures.totals.ofSelected();
    f.groupIndent = design.groupIndent;
    f.totalColour = design.totalColour;
    f.totalTextColour = design.totalTextColour;
    f.totalWeight = design.totalWeight;
    f.dropOn = input.gestures.onBody().dropOn();
    for (const QString& field : headings.designed())
        if (const auto column = context.columnOf(field)) f.designColumns.push_back(*column);
    for (const std::string& field : headings.chosen())
        if (const auto column = context.columnOf(QString::fromStdString(field))) f.selectedColumns.push_back(*column);
    f.pictures = &parts.shelf;
    if (!marks_.glow.isEmpty()) f.glow = [this](SourceRow row) { return marks_.glow.of(row); };
    f.find = search.find.query();
    if (context.session().view().orderIsStale()) f.outOfPlace = &context.session().view().outOfPlace();
    if (rows.count() == 0 || context.plan().columns.empty()) f.message = emptyMessage();
    return f;
}

HeadingState GridPrivate::headingState() const {
    HeadingState state = headings.state();
    input.gestures.onHeadings().mark(state);
    return state;
}

void GridPrivate::paint(QPainter& on, const QRect& dirty) {
    const GridFrame f = frame();
    painters.cells().paint(on, f, dirty);
    if (dirty.top() < body.headerHeight() || input.gestures.onHeadings().isDragging())
        painters.headings().paint(on, f, headings.layout(), headingState());
}

}  // namespace jollyrow
