// SPDX-License-Identifier: MIT
#include "grid/grid.h"

#include <QScrollBar>

#include "core/design/design_file.h"
#include "grid/grid_p.h"

namespace jollyrow {

Grid::Grid(QWidget* parent) : QAbstractScrollArea(parent), d(std::make_unique<GridPrivate>(*this)) {
    setFocusPolicy(Qt::StrongFocus);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Records"));
    viewport()->setMouseTracking(true);
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    viewport()->setAttribute(Qt::WA_AcceptTouchEvents);
    d->relayout();
}

Grid::~Grid() = default;

Result<void> Grid::open(const QString& designPath, const QString& databasePath) {
    auto read = readDesignFile(designPath.toStdString());
    if (!read) return read.error();
    const std::string path = databasePath.isEmpty() ? resolvedSourcePath(read->design, designPath.toStdString())
                                                    : databasePath.toStdString();
    if (auto opened = open(read->design, QString::fromStdString(path)); !opened) return opened;
    d->fileFindings = std::move(read->findings);
    return {};
}

Result<void> Grid::open(const Design& design, const QString& databasePath) {
    d->endEdit();
    if (auto opened = d->session->open(design, databasePath.toStdString()); !opened) return opened;
    d->fileFindings.clear();
    d->failure.clear();
    d->selection.clear();
    d->currentRow.reset();
    d->visited.clear();
    d->scrollX = 0;
    d->scrollY = 0;
    d->relayout();
    return {};
}

std::vector<Finding> Grid::findings() const {
    std::vector<Finding> all = d->fileFindings;
    all.insert(all.end(), d->session->plan().findings.begin(), d->session->plan().findings.end());
    return all;
}

void Grid::reload() { d->session->reload(); }
void Grid::cancelLoad() { d->session->cancelLoad(); }
bool Grid::isLoading() const { return d->session->isLoading(); }
const Design& Grid::design() const { return d->session->design(); }

void Grid::setDesign(const Design& design) {
    if (design == d->session->design()) return;
    d->endEdit();
    d->session->setDesign(design);
    d->relayout();
}

void Grid::setSort(const std::vector<SortDesign>& keys) {
    Design next = design();
    next.sort = keys;
    setDesign(next);
}

void Grid::setDesignColumn(const std::optional<QString>& field) {
    if (field == d->designField) return;
    d->designField = field;
    viewport()->update();
}

std::optional<QString> Grid::designColumn() const { return d->designField; }
std::int64_t Grid::lineCount() const { return d->lines ? d->lines->lineCount() : 0; }
Record Grid::recordAt(std::int64_t line) const { return d->recordAt(line); }
Record Grid::currentRecord() const {
    return d->selection.current() ? d->recordAt(d->selection.current()->line) : Record();
}
std::optional<CellPlace> Grid::currentCell() const { return d->selection.current(); }

void Grid::setCurrentCell(std::int64_t line, int column) {
    if (line < 0 || line >= lineCount() || column < 0 || column >= d->columns.count()) return;
    d->choose({line, column}, SelectHow::Replace);
}

std::vector<Record> Grid::selectedRecords(std::size_t most) const {
    std::vector<Record> records;
    for (const SourceRow row : d->selection.rows().rows(most)) records.emplace_back(snapshot(), row);
    return records;
}

std::int64_t Grid::selectedCount() const { return d->selection.rows().count(); }

void Grid::setSelectionMode(SelectionMode mode) {
    d->selection.setMode(mode);
    viewport()->update();
}

SelectionMode Grid::selectionMode() const { return d->selection.mode(); }
bool Grid::goBack() { return d->revisit(false); }
bool Grid::goForward() { return d->revisit(true); }
void Grid::openGoTo() { d->openGoTo(); }
void Grid::showLine(std::int64_t line) { d->setScrollY(d->scroll.scrollToShow(line, d->scrollY)); }

void Grid::setEditable(bool editable) {
    d->editable = editable;
    if (!editable) d->endEdit();
}

bool Grid::editCurrentCell() { return d->beginEdit({}); }
std::size_t Grid::unsavedEdits() const { return d->session->unsavedEdits(); }

void Grid::setValue(const Record& record, const QString& field, const Value& value) {
    if (const auto index = d->session->schema().find(field.toStdString()); index && record.isValid())
        d->session->edit(record.row(), *index, value);
}

QString Grid::message() const { return d->strip && d->strip->isVisibleTo(this) ? d->strip->message() : QString(); }
Session& Grid::session() { return *d->session; }
const std::shared_ptr<const Snapshot>& Grid::snapshot() const { return d->session->snapshot(); }

double Grid::paintOnce(QPaintDevice& device) {
    QElapsedTimer timer;
    timer.start();
    {
        QPainter painter(&device);
        d->paint(painter, viewport()->rect());
    }
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

QRect Grid::headingRect(const QString& field) const {
    const auto column = d->columnOf(field);
    if (!column) return {};
    return QRect(d->columns.x(*column, d->scrollX), 0, d->columns.width(*column), d->headerHeight()) &
           d->roomOf(*column);
}

QRect Grid::cellRect(std::int64_t line, const QString& field) const {
    const auto column = d->columnOf(field);
    if (!column || line < 0 || line >= lineCount()) return {};
    return d->frame().cellRect({line, *column}) & d->roomOf(*column).adjusted(0, d->headerHeight(), 0, 0);
}

QSize Grid::sizeHint() const { return {760, 480}; }

void Grid::paintEvent(QPaintEvent* event) {
    QPainter painter(viewport());
    d->paint(painter, event->rect());
}

void Grid::resizeEvent(QResizeEvent*) { d->relayout(); }

void Grid::scrollContentsBy(int, int) {
    if (d->syncing) return;
    d->setScrollX(horizontalScrollBar()->value());
    d->setScrollY(d->scroll.fromBar(verticalScrollBar()->value()));
}

bool Grid::viewportEvent(QEvent* event) {
    switch (event->type()) {
        case QEvent::Leave:
            d->setHover(std::nullopt);
            d->hoverHeading(std::nullopt, false);
            break;
        case QEvent::ToolTip: return d->showToolTip(*static_cast<QHelpEvent*>(event));
        default: break;
    }
    return QAbstractScrollArea::viewportEvent(event);
}

void Grid::mousePressEvent(QMouseEvent* event) { d->press(*event); }
void Grid::mouseMoveEvent(QMouseEvent* event) { d->move(*event); }
void Grid::mouseReleaseEvent(QMouseEvent* event) { d->release(*event); }
void Grid::mouseDoubleClickEvent(QMouseEvent* event) { d->doubleClick(*event); }

void Grid::wheelEvent(QWheelEvent* event) {
    // Touchpads tell pixels, wheels eighths of a degree: three lines a notch.
    const QPointF pixels = !event->pixelDelta().isNull() ? QPointF(event->pixelDelta())
                                                         : QPointF(event->angleDelta()) / 120.0 * 3 * d->rowHeight();
    const bool sideways = std::abs(pixels.x()) > std::abs(pixels.y()) || event->modifiers() == Qt::ShiftModifier;
    const double delta = (pixels.x() != 0 && sideways ? pixels.x() : pixels.y()) + d->wheelRest;
    const double whole = std::trunc(delta);
    d->wheelRest = delta - whole;
    sideways ? d->setScrollX(d->scrollX - static_cast<int>(whole))
             : d->setScrollY(d->scrollY - static_cast<std::int64_t>(whole));
    event->accept();
}

void Grid::keyPressEvent(QKeyEvent* event) {
    if (!d->key(*event)) QAbstractScrollArea::keyPressEvent(event);
}

void Grid::focusInEvent(QFocusEvent* event) {
    if (!d->selection.current() && lineCount() > 0 && d->columns.count() > 0 && event->reason() == Qt::TabFocusReason)
        setCurrentCell(0, 0);
    viewport()->update();
}

void Grid::focusOutEvent(QFocusEvent*) { viewport()->update(); }

/// Tab walks cells inside the grid; Ctrl+Tab and the last cell leave it.
bool Grid::focusNextPrevChild(bool next) { return QAbstractScrollArea::focusNextPrevChild(next); }

void Grid::changeEvent(QEvent* event) {
    if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange) {
        d->makeFonts();
        d->relayout();
    }
    if (event->type() == QEvent::PaletteChange) viewport()->update();
    QAbstractScrollArea::changeEvent(event);
}

}  // namespace jollyrow
