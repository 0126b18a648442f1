// SPDX-License-Identifier: MIT
#include "grid/api/grid.h"

#include <QScrollBar>

#include <QComboBox>
#include "core/design/design_file.h"
#include "core/design/tier_tree.h"
#include "grid/access/grid_accessible.h"

#include "core/design/filter_entry.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {

Grid::Grid(QWidget* parent) : QAbstractScrollArea(parent), d(std::make_unique<GridPrivate>(*this)) {
    installGridAccessibility();  // before anything asks for this widget's face
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
    d->begun();
    return {};
}

Result<void> Grid::open(const Design& design, std::shared_ptr<const Table> table) {
    d->endEdit();
    if (auto opened = d->session->open(design, std::move(table)); !opened) return opened;
    d->begun();
    return {};
}

/// Another source was opened: nothing of the last one is left.
void GridPrivate::begun() {
    fileFindings.clear();
    failure.clear();
    selection.clear();
    currentRow.reset();
    currentGroup.reset();
    followed.reset();
    visited.clear();
    scrollX = 0;
    scrollY = 0;
    relayout();
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
    d->findPinnedLines();
    d->relayout();
}

void Grid::setSort(const std::vector<SortDesign>& keys) {
    Design next = design();
    next.sort = keys;
    setDesign(next);
}

void Grid::changeDesign(const std::function<void(Design&)>& change) {
    Design next = design();
    change(next);
    setDesign(next);
}

Result<void> Grid::setFilter(const QString& name, const QString& rule) {
    const std::string field = (QLatin1Char(':') + name).toStdString();  // no column is called so
    Design next = design();
    std::erase_if(next.filter, [&](const FilterDesign& part) { return part.field == field; });
    if (!rule.trimmed().isEmpty()) {
        BindOptions condition;
        condition.expected = RuleKind::Boolean;
        const auto program = compileRule(rule.toStdString(), d->session->schema(),
                                         vocabularyOf(next, d->session->registered()), condition);
        if (!program) return program.error();
        next.filter.push_back({rule.toStdString(), field, {}, true});
    }
    setDesign(next);
    return {};
}

Result<void> Grid::setFilterEntry(const QString& field, const QString& entry) {
    const auto condition = conditionFromEntry(entry.toStdString(), design(), d->session->schema(), field.toStdString());
    if (!condition) return condition.error();
    Design next = design();
    std::erase_if(next.filter, [&](const FilterDesign& part) { return part.field == field.toStdString(); });
    const std::string rule = ruleOf(*condition, d->session->schema());
    if (!rule.empty()) next.filter.push_back({rule, field.toStdString(), entry.trimmed().toStdString(), true});
    setDesign(next);
    return {};
}

void Grid::filterBy(QComboBox* box, const QString& field) {
    const auto apply = [this, field, control = QPointer<QComboBox>(box)] {
        if (!control) return;
        const QString value = control->currentIndex() <= 0 ? QString() : control->currentText();
        if (const auto done = setFilterEntry(field, value.isEmpty() ? value : QStringLiteral("= ") + value); !done)
            Q_EMIT failed(QString::fromStdString(done.error().message));
    };
    connect(box, &QComboBox::currentIndexChanged, this, apply);
    apply();
}

void Grid::filterBy(QLineEdit* entry, const QString& field) {
    const auto apply = [this, field, control = QPointer<QLineEdit>(entry)] {
        if (!control) return;
        if (const auto done = setFilterEntry(field, control->text()); !done)
            Q_EMIT failed(QString::fromStdString(done.error().message));
    };
    connect(entry, &QLineEdit::textChanged, this, apply);
    apply();
}

void Grid::setGroups(const std::vector<GroupDesign>& groups) {
    Design next = design();
    next.groups = groups;
    setDesign(next);
}

void Grid::setSummaries(const std::vector<SummaryDesign>& summaries) {
    Design next = design();
    next.summaries = summaries;
    setDesign(next);
}

void Grid::groupBy(const QString& field, GroupBy by) {
    GroupDesign group;
    group.key.field = field.toStdString();
    group.by = by;
    Design next = design();
    next.groups.push_back(std::move(group));
    setDesign(next);
}

void Grid::openAllGroups() { d->session->setAllGroupsOpen(true); }
void Grid::closeAllGroups() { d->session->setAllGroupsOpen(false); }

std::optional<GroupLine> Grid::groupAt(std::int64_t line) const {
    const auto group = d->groupOnLine(line);
    if (!group) return std::nullopt;
    const Snapshot& snapshot = *d->session->snapshot();
    const Line at = snapshot.line(static_cast<ViewLine>(line));
    const GroupNode& node = snapshot.grouped->tree().nodes[*group];
    GroupLine out;
    out.level = node.level;
    out.records = node.count;
    out.isOpen = snapshot.grouped->isOpen(*group);
    std::string caption;
    d->lines->groupText()->caption(at, caption);
    out.caption = QString::fromStdString(caption);
    const EvaluatedCell key = snapshot.grouped->tree().key(node);
    if (!isError(key.state)) out.key = plainValue(key.value);
    return out;
}

void Grid::setGroupOpen(std::int64_t line, bool open) {
    if (const auto group = d->groupOnLine(line)) d->session->setGroupOpen(*group, open);
}

Value Grid::figure(const QString& summary, std::optional<std::int64_t> line) const {
    const Snapshot& snapshot = *d->session->snapshot();
    const Grouping* grouping = groupingOf(snapshot);
    const auto group = line ? d->groupOnLine(*line) : std::nullopt;
    if (!grouping || !snapshot.groups || (line && !group)) return Empty{};
    for (std::size_t i = 0; i < std::min(grouping->summaries.size(), snapshot.groups->figures.size()); ++i) {
        if (grouping->summaries[i].design.name != summary.toStdString()) continue;
        const EvaluatedCell cell = group ? snapshot.groups->figure(i, *group) : snapshot.groups->total(i);
        return cell.state == CellState::Filled ? plainValue(cell.value) : Value(Empty{});
    }
    return Empty{};
}

QRect Grid::figureRect(const QString& summary, std::optional<std::int64_t> line) const {
    const Grouping* grouping = groupingOf(*d->session->snapshot());
    const GroupText* text = d->lines ? d->lines->groupText() : nullptr;
    if (!grouping || !text) return {};
    std::vector<FigureText> figures;
    for (int column = 0; column < d->columns.count(); ++column) {
        QRect row;
        if (line) {
            if (*line < 0 || *line >= lineCount()) return {};
            text->figures(d->lines->lineAt(static_cast<ViewLine>(*line)), column, figures);
            row = QRect(0, d->places().top(*line), 1, d->places().height(*line));
        } else {
            text->totals(TotalScope::Filtered, column, {}, figures);
            for (const TotalRow& total : d->totalRows())
                if (total.scope == TotalScope::Filtered) row = QRect(0, total.y, 1, total.height);
        }
        for (std::size_t i = 0; i < figures.size(); ++i) {
            if (grouping->summaries[figures[i].summary].design.name != summary.toStdString()) continue;
            const int height = d->painter->groups().lineHeight();
            const int top = row.y() + (row.height() - 1 - static_cast<int>(figures.size()) * height) / 2;
            return QRect(d->columns.x(column, d->scrollX), top + static_cast<int>(i) * height, d->columns.width(column),
                         height) &
                   d->roomOf(column);
        }
    }
    return {};
}

QRect Grid::lineRect(std::int64_t line) const {
    if (line < 0 || line >= lineCount()) return {};
    for (const PinnedLine& sticky : d->stickyLines())
        if (sticky.line == line) return {0, sticky.y, viewport()->width(), sticky.height};
    return QRect(0, d->places().top(line), viewport()->width(), d->places().height(line)) &
           QRect(0, d->bodyTop(), viewport()->width(), d->bodyBottom() - d->bodyTop());
}

void Grid::clearFilters() { d->clearFilters(); }
bool Grid::focusFilter(const QString& field) { return d->focusFilter(field); }
void Grid::openPickList(const QString& field) { d->openPickList(field); }
void Grid::openFind(const QString& text) { d->openFind(text); }
bool Grid::isTypingFilter() const { return d->typingFilter; }
void Grid::setParameter(const QString& name, const Value& value) {
    d->session->setParameter(name.toStdString(), value);
}
QRect Grid::filterRect(const QString& field) const {
    return d->filterRow && d->filterRow->isVisibleTo(this) ? d->filterRow->cellRect(field) : QRect();
}

GridColumn Grid::column(const QString& field) { return {*this, field.toStdString()}; }
GridTier Grid::tier(const QString& name) { return {*this, name.toStdString()}; }

void Grid::fitAll() {
    std::vector<std::string> fields;
    for (const PlannedColumn& column : d->session->plan().columns) fields.push_back(column.design.field);
    d->fitExactly(std::move(fields));
}

void Grid::makeTier(const std::vector<std::string>& fields) {
    Design next = design();
    const std::string made = jollyrow::makeTier(next, fields, tr("New heading").toStdString());
    if (made.empty()) return;
    d->changeDesign(std::move(next), tr("New heading over %1").arg(headingOfField(design(), fields.front())));
    for (std::size_t i = 0; i < d->session->plan().tiers.size(); ++i)
        if (d->session->plan().tiers[i].design.name == made) {
            Q_EMIT tierClicked(QString::fromStdString(made));
            d->rename(HeadingHit{{}, static_cast<int>(i), {}});
        }
}

void Grid::setDesigning(bool designing) { d->designing = designing; }
bool Grid::isDesigning() const { return d->designing; }

void Grid::setDesignSelection(const std::vector<QString>& fields, const std::optional<QString>& tier) {
    if (fields == d->designFields && tier == d->designTier) return;
    d->designFields = fields;
    d->designTier = tier;
    viewport()->update();
}

std::vector<QString> Grid::designSelection() const { return d->designFields; }
std::vector<std::string> Grid::selectedColumns() const { return d->chosenFields; }
void Grid::openColumnList() { d->openColumnList(); }
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
    for (const SourceRow row : d->selection.rows().rows(most))
        records.emplace_back(snapshot(), d->session->refOf(row), d->session->sharedPlan());
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
bool Grid::showRecord(const Record& record) {
    const auto row = record.isValid() ? d->session->now(record.ref()) : std::nullopt;
    if (!row || d->columns.count() == 0 || !d->session->openGroupsAround(*row)) return false;
    const auto line = snapshot()->lineOf(*row);
    if (!line) return false;
    d->choose({raw(*line), d->selection.current() ? d->selection.current()->column : 0}, SelectHow::Replace);
    return true;
}

void Grid::showLine(std::int64_t line) {
    if (d->columns.count() == 0) return;
    const int column =
        std::clamp(d->columns.columnAt(d->columns.extent(Zone::Scrolled).first + 1, d->scrollX).value_or(0), 0,
                   d->columns.count() - 1);
    const int x = d->scrollX;
    d->showPlace({line, column});
    d->setScrollX(x);
}

void Grid::showColumn(const QString& field) {
    if (const auto column = d->columnOf(field)) d->setScrollX(d->columns.scrollToShow(*column, d->scrollX));
}

void Grid::setEditable(bool editable) {
    d->editable = editable;
    if (!editable) d->endEdit();
}

bool Grid::editCurrentCell() { return d->beginEdit({}); }
std::size_t Grid::unsavedEdits() const { return d->session->unsavedEdits(); }

bool Grid::setValue(const Record& record, const QString& field, const Value& value) {
    const auto index = d->session->schema().find(field.toStdString());
    const auto row = record.isValid() ? d->session->now(record.ref()) : std::nullopt;
    if (!index || !row || !isOfType(value, d->session->schema().field(*index).type)) return false;
    d->session->edit(*row, *index, value);
    return true;
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
    return d->headingLayout().columnRect(*column) & d->roomOf(*column);
}

QRect Grid::tierRect(const QString& name) const {
    const auto& tiers = d->session->plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d->headingLayout().tierRect(static_cast<int>(i)) & viewport()->rect();
    return {};
}

QRect Grid::foldRect(const QString& name) const {
    const auto& tiers = d->session->plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d->headingLayout().foldRect(static_cast<int>(i));
    return {};
}

QRect Grid::cellRect(std::int64_t line, const QString& field) const {
    const auto column = d->columnOf(field);
    if (!column || line < 0 || line >= lineCount()) return {};
    const QRect room = d->roomOf(*column) & QRect(0, d->bodyTop(), viewport()->width(), d->bodyBottom() - d->bodyTop());
    return d->frame().cellRect({line, *column}) & room;
}

QSize Grid::sizeHint() const { return {760, 480}; }

void Grid::paintEvent(QPaintEvent* event) {
    QPainter painter(viewport());
    d->paint(painter, event->rect());
}

void Grid::resizeEvent(QResizeEvent*) {
    d->relayout();
    d->showOutOfPlace();
}

void Grid::scrollContentsBy(int, int) {
    if (d->syncing) return;
    d->setScrollX(horizontalScrollBar()->value());
    d->setScrollY(d->scroll.fromBar(verticalScrollBar()->value()));
}

bool Grid::viewportEvent(QEvent* event) {
    switch (event->type()) {
        case QEvent::Leave:
            d->setHover(std::nullopt);
            d->hoverHeading({}, false);
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
                                                         : QPointF(event->angleDelta()) / 120.0 * 3 * d->recordHeight();
    const bool sideways = std::abs(pixels.x()) > std::abs(pixels.y()) || event->modifiers() == Qt::ShiftModifier;
    const double delta = (pixels.x() != 0 && sideways ? pixels.x() : pixels.y()) + d->wheelRest;
    const double whole = std::trunc(delta);
    d->wheelRest = delta - whole;
    sideways ? d->setScrollX(d->scrollX - static_cast<int>(whole)) : d->scrollPixels(-static_cast<std::int64_t>(whole));
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

void Grid::contextMenuEvent(QContextMenuEvent* event) {
    const QPoint at = viewport()->mapFromGlobal(event->globalPos());
    if (event->reason() == QContextMenuEvent::Keyboard) return;  // the keys have said where already
    if (const auto hit = d->headingLayout().hitAt(at)) {
        d->openHeadingMenu(*hit, event->globalPos());
    } else if (const auto place = d->placeAt(at)) {
        if (d->editor && !d->commitEdit()) return;
        const auto row = d->lines->rowAt(static_cast<ViewLine>(place->line));
        if (row == kNoRow || !d->selection.isRowSelected(row)) d->choose(*place, SelectHow::Replace);
        d->openLineMenu(place->line, event->globalPos());
    }
}

void Grid::changeEvent(QEvent* event) {
    if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange) {
        d->makeFonts();
        d->relayout();
    }
    if (event->type() == QEvent::PaletteChange) viewport()->update();
    QAbstractScrollArea::changeEvent(event);
}

}  // namespace jollyrow
