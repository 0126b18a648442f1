// SPDX-License-Identifier: MIT
// Layout, scrolling and frames of the grid.
#include <QGuiApplication>
#include <QLineEdit>
#include <QScrollBar>

#include <cmath>

#include "core/formats/text_format.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {
namespace {
constexpr std::size_t kMostHeightsKept = 4096;
constexpr int kCellAir = 8;  // pixels above and below the text of a cell, together
}  // namespace

GridPrivate::GridPrivate(Grid& owner) : grid(owner) {
    SessionListener listener;
    listener.onSnapshot = [this] { snapshotArrived(); };
    listener.onProgress = [this](const LoadProgress& progress) { Q_EMIT grid.loadProgressed(progress); };
    listener.onLoaded = [this](const Result<void>& result) { loadEnded(result); };
    listener.onEditAnswered = [this](SourceRow row, FieldIndex field, const CellEdit& edit) {
        answered(row, field, edit);
    };
    listener.onRowsMoved = [this](const RowMoves& moves) { rowsMoved(moves); };
    listener.onFailure = [this](const Error& error) { Q_EMIT grid.failed(QString::fromStdString(error.message)); };
    const QPointer<Grid> target(&owner);
    session = std::make_unique<Session>(
        [target](std::function<void()> call) {
            // The session's destructor joins its threads before the grid is gone, so the pointer is good here.
            if (target) QMetaObject::invokeMethod(target.data(), std::move(call), Qt::QueuedConnection);
        },
        std::move(listener));
    autoScroll.setInterval(30);
    QObject::connect(&autoScroll, &QTimer::timeout, &owner, [this] {
        QMouseEvent again(QEvent::MouseMove, lastMove, grid.viewport()->mapToGlobal(lastMove), Qt::NoButton,
                          Qt::LeftButton, Qt::NoModifier);
        move(again);
    });
    makeFonts();
}

void GridPrivate::makeFonts() {
    painter = std::make_unique<GridPainter>(grid.font());
    headings = std::make_unique<HeadingPainter>(grid.font());
    headingHeights = HeadingPainter::heightsFor(grid.font());
    knownFits.clear();
    fitsPlan = nullptr;
}

const Tokens& GridPrivate::look() const {
    switch (session->design().grid.theme) {
        case GridTheme::Automatic: return tokens(themeOf(grid.palette()));
        case GridTheme::Light: return tokens(Theme::Light);
        case GridTheme::Dark: return tokens(Theme::Dark);
    }
    return tokens(Theme::Light);
}

int GridPrivate::rowHeight() const {
    return std::max(session->design().grid.rowHeight, static_cast<int>(painter->text().lineHeight()) + 8);
}

int GridPrivate::bodyTop() const {
    const auto rows = static_cast<int>(pinnedTop.size());
    return headerHeight() + rows * recordHeight() + (rows > 0 ? 1 : 0);
}

int GridPrivate::bodyBottom() const {
    const auto rows = static_cast<int>(pinnedBottom.size());
    return std::max(bodyTop(), grid.viewport()->height() - totalsHeight() - rows * recordHeight() - (rows > 0 ? 1 : 0));
}

bool GridPrivate::hasAutomaticHeights() const {
    if (ownHeights) return true;
    if (session->design().grid.lineHeight != LineHeight::Automatic) return false;
    const auto& all = session->plan().columns;
    return std::any_of(all.begin(), all.end(), [](const PlannedColumn& c) { return c.design.wrap; });
}

/// What the wrapped texts of a record need; all lines of a record get the height of the highest.
int GridPrivate::heightOf(std::int64_t line) const {
    if (const auto known = heightsKept.find(line); known != heightsKept.end()) return known->second;
    if (groupedLines()) {
        const Line at = lines->lineAt(static_cast<ViewLine>(line));
        if (at.kind != LineKind::Record)
            return groupLineHeight(groupedLines()->tree().nodes[at.group].level, at.kind == LineKind::GroupFooter);
    }
    const bool wraps = session->design().grid.lineHeight == LineHeight::Automatic;
    int most = 1;
    CellText cell;
    const ViewPlan& plan = session->plan();
    for (std::size_t i = 0; lines && i < plan.columns.size(); ++i) {
        if (!wraps || !plan.columns[i].design.wrap) continue;
        lines->cell(static_cast<ViewLine>(line), static_cast<int>(i), cell);
        most = std::max(most, painter->text().wrappedLines(
                                  cell.text, columns.width(static_cast<int>(i)) - 2 * measure::kCellPadding,
                                  session->design().grid.mostLines));
    }
    const int text = most == 1 ? 0 : static_cast<int>(std::ceil(painter->text().lineHeight())) * most + kCellAir + 1;
    const int height = std::max(rowHeight(), text) * std::max(1, plan.recordLines);
    if (heightsKept.size() > kMostHeightsKept) heightsKept.clear();
    heightsKept.emplace(line, height);
    return height;
}

const LinePlaces& GridPrivate::places() const {
    if (!placesKept) {
        const std::int64_t count = lines ? lines->lineCount() : 0;
        if (hasAutomaticHeights())
            placesKept.emplace(
                scroll, count, scrollY, [this](std::int64_t line) { return heightOf(line); }, recordHeight(), bodyTop(),
                bodyBottom());
        else
            placesKept.emplace(scroll, count, scrollY, recordHeight(), bodyTop(), bodyBottom());
    }
    return *placesKept;
}

void GridPrivate::scrollPixels(std::int64_t pixels) {
    if (!hasAutomaticHeights()) return setScrollY(scrollY + pixels);
    setScrollY(scrolledBy(scrollY, pixels, lines ? lines->lineCount() : 0,
                          [this](std::int64_t line) { return heightOf(line); }));
}

/// The line at a y of the viewport, pinned ones included.
std::optional<std::int64_t> GridPrivate::lineAt(int y) const {
    const int height = recordHeight();
    if (y >= bodyTop() && y < bodyBottom())
        for (const PinnedLine& sticky : stickyLines())
            if (y >= sticky.y && y < sticky.y + sticky.height) return sticky.line;
    if (y >= grid.viewport()->height() - totalsHeight()) return std::nullopt;
    if (y >= headerHeight() && y < bodyTop() && !pinnedTop.empty())
        return pinnedTop[std::min<std::size_t>(static_cast<std::size_t>((y - headerHeight()) / height),
                                               pinnedTop.size() - 1)];
    if (y > bodyBottom() && !pinnedBottom.empty())
        return pinnedBottom[std::min<std::size_t>(static_cast<std::size_t>((y - bodyBottom() - 1) / height),
                                                  pinnedBottom.size() - 1)];
    return places().lineAt(y);
}

/// Where the records that the design pins stand now. O(records) for each, so only when lines have changed.
void GridPrivate::findPinnedLines() {
    pinnedTop.clear();
    pinnedBottom.clear();
    const auto& snapshot = session->snapshot();
    if (!snapshot || !snapshot->table->hasKeys()) return;
    const Table& table = *snapshot->table;
    for (const PinnedRecord& record : session->design().grid.pinnedRecords) {
        RecordKey key;
        for (std::size_t i = 0; i < record.key.size(); ++i) {
            FieldSchema field;
            field.type = Type::Integer;
            if (!table.rowIds && i < table.keyFields.size()) field = table.schema.field(table.keyFields[i]);
            if (const auto value = parseTyped(record.key[i], field)) key.push_back(*value);
        }
        const auto row = session->rowOf(key);
        const auto line = row ? snapshot->lineOf(*row) : std::nullopt;
        if (line) (record.edge == PinnedRecord::Edge::Top ? pinnedTop : pinnedBottom).push_back(raw(*line));
    }
}

Record GridPrivate::recordAt(std::int64_t line) const {
    if (!isRecordLine(line)) return {};
    return {session->snapshot(), session->refOf(lines->rowAt(static_cast<ViewLine>(line))), session->sharedPlan()};
}

std::optional<int> GridPrivate::columnOf(const QString& field) const {
    const auto& planned = session->plan().columns;
    for (std::size_t i = 0; i < planned.size(); ++i)
        if (QString::fromStdString(planned[i].design.field) == field) return static_cast<int>(i);
    return std::nullopt;
}

QRect GridPrivate::roomOf(int column) const {
    const auto [from, to] = columns.extent(columns.zoneOf(column));
    return {from, 0, to - from, grid.viewport()->height()};
}

/// Lines answer by column index, so they go with the plan as much as with the snapshot.
void GridPrivate::makeLines() {
    lines = std::make_unique<SnapshotLines>(session->snapshot(), session->sharedPlan());
    linesPlan = &session->plan();
}

void GridPrivate::relayout() {
    if (lines && linesPlan != &session->plan()) makeLines();
    ownHeights = hasOwnGroupHeights();
    measureFits();
    const QSize size = grid.viewport()->size();
    const ViewPlan& plan = session->plan();
    std::vector<ColumnRoom> rooms;
    rooms.reserve(plan.places.size());
    for (const int column : plan.places)
        rooms.push_back({plan.columns[static_cast<std::size_t>(column)].design.width, fitWidth(column)});
    std::vector<ColumnPlace> columnPlaces;
    for (std::size_t i = 0; i < plan.columns.size(); ++i) {
        const PlannedColumn& column = plan.columns[i];
        columnPlaces.push_back({column.place, column.span, column.line});
        // What stands beneath a column widens it as far as it alone needs.
        if (column.line > 0 && column.span == 1) {
            int& fit = rooms[static_cast<std::size_t>(column.place)].fitPx;
            fit = std::max(fit, fitWidth(static_cast<int>(i)));
        }
    }
    const GridDesign& design = session->design().grid;
    const int count = static_cast<int>(rooms.size());
    const std::optional<int> fills =
        design.lastFills && count > design.pinnedRight ? std::optional(count - design.pinnedRight - 1) : std::nullopt;
    columns =
        ColumnLayout(columnWidths(rooms, size.width() - measure::kGutter, fills), {design.pinned, design.pinnedRight},
                     measure::kGutter, size.width(), std::move(columnPlaces));
    heightsKept.clear();
    placesKept.reset();
    const std::int64_t lineCount = lines ? lines->lineCount() : 0;
    const int page = std::max(0, bodyBottom() - bodyTop());
    if (hasAutomaticHeights()) {
        const auto height = [this](std::int64_t line) { return heightOf(line); };
        scroll = ScrollMap(lineCount, LinePlaces::kUnits, page * LinePlaces::kUnits / recordHeight(),
                           scrollWithBottomOf(lineCount - 1, height, page));
    } else {
        scroll = ScrollMap(lineCount, recordHeight(), page);
    }
    if (headingFocus && ((headingFocus->column && *headingFocus->column >= columns.count()) ||
                         (headingFocus->tier && *headingFocus->tier >= static_cast<int>(plan.tiers.size()))))
        headingFocus.reset();
    scrollX = std::clamp(scrollX, 0, columns.maxScroll());
    scrollY = scroll.clamped(scrollY);
    if (const auto current = selection.current(); current && !currentField.empty())
        if (const auto column = columnOf(QString::fromStdString(currentField))) selection.moveCurrentToColumn(*column);
    selection.clampTo(lineCount, columns.count());
    syncBars();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
    layoutFilterRow();
    showFilterProblem();
}

void GridPrivate::syncBars() {
    syncing = true;
    QScrollBar* across = grid.horizontalScrollBar();
    across->setRange(0, columns.maxScroll());
    across->setPageStep(std::max(1, columns.rightStart() - columns.pinnedEnd()));
    across->setSingleStep(20);
    across->setValue(scrollX);
    QScrollBar* down = grid.verticalScrollBar();
    down->setRange(0, scroll.barMaximum());
    down->setPageStep(scroll.barPage());
    down->setSingleStep(hasAutomaticHeights() ? LinePlaces::kUnits : recordHeight());
    down->setValue(scroll.toBar(scrollY));
    syncing = false;
}

void GridPrivate::setScrollX(int x) {
    x = std::clamp(x, 0, columns.maxScroll());
    if (x == scrollX) return;
    scrollX = x;
    syncBars();
    layoutFilterRow();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::setScrollY(std::int64_t y) {
    y = scroll.clamped(y);
    if (y == scrollY) return;
    scrollY = y;
    placesKept.reset();
    syncBars();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::showPlace(CellPlace place) {
    if (!hasAutomaticHeights()) {
        setScrollY(scroll.scrollToShow(place.line, scrollY));
    } else {
        const LinePlaces& at = places();
        const bool inSight = place.line >= at.first() && place.line < at.end();
        if (place.line < at.first() || (inSight && at.top(place.line) < bodyTop()))
            setScrollY(place.line * LinePlaces::kUnits);
        else if (!inSight || at.top(place.line) + at.height(place.line) > bodyBottom())
            setScrollY(scrollWithBottomOf(
                place.line, [this](std::int64_t line) { return heightOf(line); }, bodyBottom() - bodyTop()));
    }
    // Lines of groups that stay at the top must not lie over it.
    if (const int depth = stickyDepth(place.line); depth > 0)
        if (const int above = bodyTop() + depth - places().top(place.line); above > 0) scrollPixels(-above);
    setScrollX(columns.scrollToShow(place.column, scrollX));
}

std::optional<CellPlace> GridPrivate::placeAt(QPoint position) const {
    if (!lines || position.y() < headerHeight()) return std::nullopt;
    const auto line = lineAt(position.y());
    if (!line || *line < 0 || *line >= lines->lineCount()) return std::nullopt;
    const bool pinned = position.y() < bodyTop() || position.y() > bodyBottom();
    const int top =
        pinned ? position.y() -
                     (position.y() - (position.y() < bodyTop() ? headerHeight() : bodyBottom() + 1)) % recordHeight()
               : places().top(*line);
    const int height = pinned ? recordHeight() : places().height(*line);
    const int recordLine = std::clamp((position.y() - top) * session->plan().recordLines / std::max(1, height), 0,
                                      session->plan().recordLines - 1);
    const auto column = columns.columnAt(position.x(), scrollX, recordLine);
    return column ? std::optional(CellPlace{*line, *column}) : std::nullopt;
}

QString GridPrivate::emptyMessage() const {
    if (!failure.isEmpty()) return failure;
    if (session->isLoading()) return Grid::tr("Loading…");
    if (session->plan().columns.empty()) {
        const auto& fields = session->schema().fields;
        const bool allBinary =
            !fields.empty() && std::all_of(fields.begin(), fields.end(),
                                           [](const FieldSchema& field) { return field.type == Type::Binary; });
        if (session->design().columns.empty()) return Grid::tr("Nothing is bound to this grid yet.");
        return allBinary ? Grid::tr(
                               "%1 holds only binary data, which has no text to show. A column can be shown all the "
                               "same from the list of columns.")
                               .arg(QString::fromStdString(session->schema().name))
                         : Grid::tr("No column is shown. The list of columns shows them.");
    }
    const Snapshot& snapshot = *session->snapshot();
    if (snapshot.source.rowsOut != 0 && snapshot.filter.rowsOut == 0)
        return Grid::tr("None of %L1 records meets the conditions.").arg(snapshot.source.rowsOut);
    return Grid::tr("There are no records in %1.").arg(QString::fromStdString(session->schema().name));
}

GridFrame GridPrivate::frame() const {
    const Design& design = session->design();
    GridFrame f{.tokens = look(),
                .columns = columns,
                .places = places(),
                .lines = lines.get(),
                .plan = session->plan(),
                .selection = selection,
                .decimalInsets = decimalInsets,
                .viewport = grid.viewport()->size(),
                .headerHeight = headerHeight(),
                .bodyTop = bodyTop(),
                .bodyBottom = bodyBottom(),
                .scrollX = scrollX,
                .stripes = design.grid.stripes,
                .hairlines = design.grid.lines,
                .hasFocus = (grid.hasFocus() && !headingFocus) || editor,
                .hover = hover};
    f.grouped = groupedLines();
    f.sticky = stickyLines();
    f.totals = totalRows();
    f.selectedFigures = selectedFigures;
    f.groupIndent = design.grid.groupIndent;
    f.totalColour = design.grid.totalColour;
    f.totalWeight = design.grid.totalWeight;
    f.dropOn = dropOn;
    for (const QString& field : designFields)
        if (const auto column = columnOf(field)) f.designColumns.push_back(*column);
    for (const std::string& field : chosenFields)
        if (const auto column = columnOf(QString::fromStdString(field))) f.selectedColumns.push_back(*column);
    int y = f.headerHeight;
    for (const std::int64_t line : pinnedTop)
        f.pinnedTop.push_back({line, std::exchange(y, y + recordHeight()), recordHeight()});
    y = f.bodyBottom + 1;
    for (const std::int64_t line : pinnedBottom)
        f.pinnedBottom.push_back({line, std::exchange(y, y + recordHeight()), recordHeight()});
    if (!findQueryNow.empty()) f.find = &findQueryNow;
    if (session->orderIsStale()) f.outOfPlace = &session->outOfPlace();
    if (!lines || lines->lineCount() == 0 || session->plan().columns.empty()) f.message = emptyMessage();
    return f;
}

HeadingState GridPrivate::headingState() const {
    HeadingState state;
    const ViewPlan& plan = session->plan();
    state.sorts.resize(plan.columns.size());
    state.severalKeys = session->design().sort.size() > 1;
    for (const ViewPlan::SortMark& mark : plan.sortMarks)
        for (std::size_t i = 0; i < plan.columns.size(); ++i)
            if (plan.columns[i].field == mark.field) state.sorts[i] = {mark.rank, mark.direction};
    state.filtered.resize(plan.columns.size());
    for (std::size_t i = 0; i < plan.columns.size(); ++i) {
        const auto reads = [&](FieldIndex field) {
            return std::find(plan.filterMarks.begin(), plan.filterMarks.end(), field) != plan.filterMarks.end();
        };
        // With the filter row in sight its cells say it.
        state.filtered[i] = !session->design().grid.filterRow &&
                            (reads(plan.columns[i].field) || (plan.columns[i].label && reads(*plan.columns[i].label)));
    }
    state.grouped.resize(plan.columns.size());
    for (const PlannedGroup& group : plan.grouping->groups)
        for (std::size_t i = 0; i < plan.columns.size(); ++i)
            if (plan.columns[i].design.field == group.design.key.field) state.grouped[i] = true;
    if (hoveredHeading) {
        state.hoveredColumn = hoveredHeading->column;
        state.hoveredTier = hoveredHeading->tier;
    }
    if (headingFocus && grid.hasFocus()) {
        state.focusedColumn = headingFocus->column;
        state.focusedTier = headingFocus->tier;
    }
    for (std::size_t i = 0; designTier && i < plan.tiers.size(); ++i)
        if (QString::fromStdString(plan.tiers[i].design.name) == *designTier) state.designTier = static_cast<int>(i);
    if (gesture == Gesture::DragColumn) {
        state.draggedColumn = pressedHeading.column;
        state.draggedTier = pressedHeading.tier;
        state.dragAt = dragAt;
        state.landing = landing.mark;
    }
    return state;
}

void GridPrivate::paint(QPainter& on, const QRect& dirty) {
    const GridFrame f = frame();
    painter->paint(on, f, dirty);
    if (dirty.top() < f.headerHeight || gesture == Gesture::DragColumn)
        headings->paint(on, f, headingLayout(), headingState());
}

void GridPrivate::showOutOfPlace() {
    const std::size_t count = session->outOfPlace().size();
    if (!orderChip && count == 0) return;
    if (!orderChip) {
        orderChip = new OrderChip(grid.viewport(), look());
        orderChip->setFont(grid.font());
        QObject::connect(orderChip, &OrderChip::clicked, &grid, [this] {
            session->resort();
            grid.setFocus();
            showOutOfPlace();
        });
    }
    orderChip->showCount(count, QRect(0, 0, grid.viewport()->width(), bodyBottom()));
}

/// A reload: whatever names a record by its row names it by its new one.
void GridPrivate::rowsMoved(const RowMoves& moves) {
    const auto now = [&moves](SourceRow row) { return moves.now(row); };
    const auto follow = [&](std::optional<SourceRow>& row) {
        if (row) row = now(*row);
    };
    follow(currentRow);
    follow(followed);
    const std::int64_t selected = selection.rows().count();
    selection.moveRows(now);
    visited.moveRows(now);
    if (editor) {
        const auto row = now(editorRow);
        editorRecordGone = !row;
        editorRow = row.value_or(editorRow);
    }
    foundSet.reset();  // found again when the load has ended
    dropOn.reset();
    if (gesture == Gesture::DragRecords || gesture == Gesture::PressRecords) gesture = Gesture::None;
    if (strip && !editor) strip->hide();
    if (selected != selection.rows().count()) Q_EMIT grid.selectionChanged();
}

void GridPrivate::snapshotArrived() {
    const auto& snapshot = session->snapshot();
    bool moved = false;
    makeLines();
    if (const auto current = selection.current(); current && currentRow) {
        const bool inPlace =
            current->line < lines->lineCount() && lines->rowAt(static_cast<ViewLine>(current->line)) == *currentRow;
        if (!inPlace) {
            auto line = snapshot->lineOf(*currentRow);
            if (!line && followed == currentRow && session->openGroups().levels.size() > 0 &&
                snapshot->placeOf(*currentRow)) {
                // What was edited into a closed group opens it; this comes back here with that snapshot.
                session->openGroupsAround(*currentRow);
                return;
            }
            if (!line && snapshot->grouped) {
                // Its group was closed: the group's line takes its place.
                const auto place = snapshot->placeOf(*currentRow);
                const GroupTree& tree = snapshot->grouped->tree();
                for (int level = tree.levels() - 1; place && !line && level >= 0; --level)
                    if (const auto at = snapshot->grouped->lineOf(tree.nodeAt(level, *place))) {
                        line = static_cast<ViewLine>(*at);
                        currentGroup = tree.nodes[tree.nodeAt(level, *place)].path;
                    }
                if (line) currentRow.reset();
            }
            selection.moveCurrentTo(line ? std::optional(raw(*line)) : std::nullopt);
            if (line && followed == currentRow) moved = true;
        }
    } else if (selection.current() && currentGroup) {
        const auto line = lineOfGroup(*currentGroup);
        if (line || !snapshot->groups || !session->isLoading()) selection.moveCurrentTo(line);
    }
    followEdit();
    findPinnedLines();
    relayout();
    if (const auto current = selection.current(); current && !currentRow && isRecordLine(current->line)) {
        // The current record is gone: the one that stands in its place is current now.
        announceCurrent();
        Q_EMIT grid.currentRecordChanged(grid.currentRecord());
    }
    if (moved && selection.current()) {
        followed.reset();
        showPlace(*selection.current());
    }
    showOutOfPlace();
    sumUpSelection();
    Q_EMIT grid.snapshotChanged();
}

void GridPrivate::loadEnded(const Result<void>& result) {
    failure = result ? QString() : QString::fromStdString(result.error().message);
    relayout();
    if (findBar) find(findBar->entry()->text());  // the records are others now
    Q_EMIT grid.loadEnded(failure);
}

}  // namespace jollyrow
