// SPDX-License-Identifier: MIT
// Layout, scrolling and frames of the grid.
#include <QGuiApplication>
#include <QScrollBar>

#include <cmath>

#include "grid/grid_p.h"

namespace jollyrow {
namespace {
// Lines measured for a fit: the first, and as many spread over the rest; while loading about what is in sight.
constexpr std::int64_t kFitSample = 150;
constexpr std::int64_t kFitWhileLoading = 40;
}  // namespace

GridPrivate::GridPrivate(Grid& owner) : grid(owner) {
    SessionListener listener;
    listener.onSnapshot = [this] { snapshotArrived(); };
    listener.onProgress = [this](const LoadProgress& progress) { Q_EMIT grid.loadProgressed(progress); };
    listener.onLoaded = [this](const Result<void>& result) { loadEnded(result); };
    listener.onEditAnswered = [this](SourceRow row, FieldIndex field, const CellEdit& edit) {
        answered(row, field, edit);
    };
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
    fitsPlan = nullptr;
}

int GridPrivate::rowHeight() const {
    return std::max(session->design().grid.rowHeight, static_cast<int>(painter->text().lineHeight()) + 8);
}
int GridPrivate::headerHeight() const { return HeadingPainter::heightFor(grid.font()); }

Record GridPrivate::recordAt(std::int64_t line) const {
    if (!lines || line < 0 || line >= lines->lineCount()) return {};
    return {session->snapshot(), lines->rowAt(static_cast<ViewLine>(line))};
}

std::optional<int> GridPrivate::columnOf(const QString& field) const {
    const auto& planned = session->plan().columns;
    for (std::size_t i = 0; i < planned.size(); ++i)
        if (QString::fromStdString(planned[i].design.field) == field) return static_cast<int>(i);
    return std::nullopt;
}

QRect GridPrivate::roomOf(int column) const {
    const QRect all = grid.viewport()->rect();
    return column < columns.pinned() ? all : all.adjusted(columns.pinnedEnd(), 0, 0, 0);
}

int GridPrivate::fitWidth(int column) const {
    const auto index = static_cast<std::size_t>(column);
    return index < fits.size() ? fits[index] : 80;
}

/// Measures headings and a sample of the values; a screenful first while loading, all again when the table is whole.
void GridPrivate::measureFits() {
    const ViewPlan& plan = session->plan();
    const auto& table = session->snapshot() ? session->snapshot()->table : nullptr;
    const std::size_t rows = table ? table->rows : 0;
    const bool worthAgain = rows != fitsRows && (fitsRows == 0 || (table && table->complete));
    if (fitsPlan == &plan && !worthAgain) return;
    fitsPlan = &plan;
    fitsRows = rows;
    fits.assign(plan.columns.size(), 0);
    decimalInsets.assign(plan.columns.size(), 0);
    const std::int64_t count = lines ? lines->lineCount() : 0;
    const std::int64_t sample = table && table->complete ? kFitSample : kFitWhileLoading;
    CellText cell;
    for (std::size_t i = 0; i < plan.columns.size(); ++i) {
        const bool isReal = plan.columns[i].format.type == Type::Real;
        double widest = 0, wholes = 0, fractions = 0;
        const auto measure = [&](std::int64_t line) {
            lines->cell(static_cast<ViewLine>(line), static_cast<int>(i), cell);
            const double width = plan.columns[i].format.type == Type::Boolean
                                     ? 16
                                     : painter->text().width(std::string_view(cell.text).substr(0, 200));
            widest = std::max(widest, width);
            if (!isReal || cell.isMisfit) return;
            const std::size_t point = cell.text.find('.');
            const double fraction =
                point == std::string::npos ? 0 : painter->text().width(std::string_view(cell.text).substr(point));
            fractions = std::max(fractions, fraction);
            wholes = std::max(wholes, width - fraction);
        };
        for (std::int64_t line = 0; line < std::min(count, sample); ++line) measure(line);
        const std::int64_t step = std::max<std::int64_t>(1, count / sample);
        for (std::int64_t line = sample; table->complete && line < count; line += step) measure(line);
        decimalInsets[i] = static_cast<int>(std::ceil(fractions));
        widest = std::max(widest, wholes + fractions);
        fits[i] = std::max(headings->neededWidth(plan.columns[i].design.heading),
                           static_cast<int>(std::ceil(widest)) + 2 * measure::kCellPadding + 2);
    }
}

/// Lines answer by column index, so they go with the plan as much as with the snapshot.
void GridPrivate::makeLines() {
    lines = std::make_unique<SnapshotLines>(session->snapshot(), session->sharedPlan());
    linesPlan = &session->plan();
}

void GridPrivate::relayout() {
    if (lines && linesPlan != &session->plan()) makeLines();
    measureFits();
    const QSize size = grid.viewport()->size();
    const ViewPlan& plan = session->plan();
    std::vector<ColumnRoom> rooms;
    rooms.reserve(plan.columns.size());
    for (std::size_t i = 0; i < plan.columns.size(); ++i)
        rooms.push_back({plan.columns[i].design.width, fitWidth(static_cast<int>(i))});
    columns = ColumnLayout(columnWidths(rooms, size.width() - measure::kGutter), session->design().grid.pinned,
                           measure::kGutter, size.width());
    scroll = ScrollMap(lines ? lines->lineCount() : 0, rowHeight(), std::max(0, size.height() - headerHeight()));
    scrollX = std::clamp(scrollX, 0, columns.maxScroll());
    scrollY = scroll.clamped(scrollY);
    selection.clampTo(lines ? lines->lineCount() : 0, columns.count());
    syncBars();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::syncBars() {
    syncing = true;
    QScrollBar* across = grid.horizontalScrollBar();
    across->setRange(0, columns.maxScroll());
    across->setPageStep(std::max(1, grid.viewport()->width() - columns.pinnedEnd()));
    across->setSingleStep(20);
    across->setValue(scrollX);
    QScrollBar* down = grid.verticalScrollBar();
    down->setRange(0, scroll.barMaximum());
    down->setPageStep(scroll.barPage());
    down->setSingleStep(rowHeight());
    down->setValue(scroll.toBar(scrollY));
    syncing = false;
}

void GridPrivate::setScrollX(int x) {
    x = std::clamp(x, 0, columns.maxScroll());
    if (x == scrollX) return;
    scrollX = x;
    syncBars();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::setScrollY(std::int64_t y) {
    y = scroll.clamped(y);
    if (y == scrollY) return;
    scrollY = y;
    syncBars();
    placeEditor();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::showPlace(CellPlace place) {
    setScrollY(scroll.scrollToShow(place.line, scrollY));
    setScrollX(columns.scrollToShow(place.column, scrollX));
}

std::optional<CellPlace> GridPrivate::placeAt(QPoint position) const {
    if (!lines || position.y() < headerHeight()) return std::nullopt;
    const std::int64_t line = scroll.lineAt(scrollY + position.y() - headerHeight());
    const auto column = columns.columnAt(position.x(), scrollX);
    if (!column || line < 0 || line >= lines->lineCount()) return std::nullopt;
    return CellPlace{line, *column};
}

QString GridPrivate::emptyMessage() const {
    if (!failure.isEmpty()) return failure;
    if (session->isLoading()) return Grid::tr("Loading…");
    if (session->plan().columns.empty())
        return session->design().columns.empty() ? Grid::tr("Nothing is bound to this grid yet.")
                                                 : Grid::tr("No column is shown.");
    return Grid::tr("There are no records in %1.").arg(QString::fromStdString(session->schema().name));
}

GridFrame GridPrivate::frame() const {
    static const std::vector<int> kNone;
    const Design& design = session->design();
    GridFrame f{.tokens = look(),
                .columns = columns,
                .scroll = scroll,
                .lines = lines.get(),
                .plan = session->plan(),
                .selection = selection,
                .decimalInsets = decimalInsets,
                .viewport = grid.viewport()->size(),
                .headerHeight = headerHeight(),
                .rowHeight = rowHeight(),
                .scrollX = scrollX,
                .scrollY = scrollY,
                .stripes = design.grid.stripes,
                .hairlines = design.grid.lines,
                .hasFocus = grid.hasFocus() || editor,
                .hover = hover,
                .designColumn = std::nullopt,
                .message = {}};
    if (designField) f.designColumn = columnOf(*designField);
    if (!lines || lines->lineCount() == 0) f.message = emptyMessage();
    return f;
}

HeadingState GridPrivate::headingState() const {
    HeadingState state;
    const ViewPlan& plan = session->plan();
    state.sorts.resize(plan.columns.size());
    state.severalKeys = plan.sort.size() > 1;
    for (std::size_t k = 0; k < plan.sort.size(); ++k)
        for (std::size_t i = 0; i < plan.columns.size(); ++i)
            if (plan.columns[i].field == plan.sort[k].field)
                state.sorts[i] = {static_cast<int>(k) + 1, plan.sort[k].direction};
    state.hovered = hoveredHeading;
    if (gesture == Gesture::DragColumn) {
        state.dragged = gestureColumn;
        state.dragX = dragX;
        state.landing = landing;
    }
    return state;
}

void GridPrivate::paint(QPainter& on, const QRect& dirty) {
    const GridFrame f = frame();
    painter->paint(on, f, dirty);
    if (dirty.top() < f.headerHeight || gesture == Gesture::DragColumn) headings->paint(on, f, headingState());
}

void GridPrivate::snapshotArrived() {
    const auto& snapshot = session->snapshot();
    const Table* table = snapshot->table.get();
    const bool otherRows =
        tableSeen && table != tableSeen && tableRowsSeen != 0 && snapshot->table->complete && !currentKey.empty();
    makeLines();
    if (otherRows) {
        // A reload: find the records again by their keys.
        visited.clear();
        currentRow = session->rowOf(currentKey);
        std::vector<SourceRow> again;
        for (const RecordKey& key : selectedKeys)
            if (const auto row = session->rowOf(key)) again.push_back(*row);
        selection.replaceRows(again);
    }
    tableSeen = table;
    tableRowsSeen = table->rows;
    if (const auto current = selection.current(); current && currentRow) {
        const bool inPlace =
            current->line < lines->lineCount() && lines->rowAt(static_cast<ViewLine>(current->line)) == *currentRow;
        if (!inPlace) {
            const auto line = snapshot->lineOf(*currentRow);
            selection.moveCurrentTo(line ? std::optional(raw(*line)) : std::nullopt);
        }
    }
    if (editor && lines->lineCount() > editorPlace.line &&
        lines->rowAt(static_cast<ViewLine>(editorPlace.line)) != editorRow) {
        if (const auto line = snapshot->lineOf(editorRow))
            editorPlace.line = raw(*line);
        else
            endEdit();
    }
    relayout();
    Q_EMIT grid.snapshotChanged();
}

void GridPrivate::loadEnded(const Result<void>& result) {
    failure = result ? QString() : QString::fromStdString(result.error().message);
    relayout();
    Q_EMIT grid.loadEnded(failure);
}

}  // namespace jollyrow
