// SPDX-License-Identifier: MIT
#include "grid/api/grid.h"

#include <QComboBox>
#include <QElapsedTimer>
#include <QHelpEvent>
#include <QToolTip>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/design/tier_tree.h"
#include "core/session/objects_link.h"
#include "grid/access/grid_accessible.h"

#include "core/design/filter_entry.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_private.h"
#include "grid/inside/tool_tips.h"

namespace jollyrow {

Grid::Grid(QWidget* parent) : QAbstractScrollArea(parent), d(std::make_unique<GridPrivate>(*this)) {
    installGridAccessibility();  // before anything asks for this widget's face
    setFocusPolicy(Qt::StrongFocus);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Records"));
    viewport()->setMouseTracking(true);
    setAcceptDrops(true);
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    viewport()->setAttribute(Qt::WA_AcceptTouchEvents);
    d->context.session().drafts().setFolder(stateFolder());
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
    d->editors.end();
    if (auto opened = d->context.session().open(design, databasePath.toStdString()); !opened) return opened;
    d->objects.reset();
    d->begun();
    return {};
}

Result<void> Grid::open(const Design& design, std::shared_ptr<const Source> source, StoreOpener store,
                        const QString& path) {
    d->editors.end();
    if (auto opened = d->context.session().open(design, std::move(source), std::move(store), path.toStdString());
        !opened)
        return opened;
    d->objects.reset();
    d->begun();
    return {};
}

Result<void> Grid::open(const Design& design, std::shared_ptr<const Table> table) {
    d->editors.end();
    if (auto opened = d->context.session().open(design, std::move(table)); !opened) return opened;
    d->objects.reset();
    d->begun();
    return {};
}

Result<void> Grid::open(Objects& objects) { return open(designFor(objects.schema(), {}), objects); }

Result<void> Grid::open(Design design, Objects& objects) {
    design.source = SourceDesign{};
    design.source.table = objects.schema().name;
    d->editors.end();
    auto link = std::make_unique<ObjectsLink>(d->context.session(), objects, postTo(*this));
    if (auto opened = link->open(std::move(design)); !opened) return opened;
    d->objects = std::move(link);
    d->begun();
    return {};
}

std::vector<Finding> Grid::findings() const {
    std::vector<Finding> all = d->fileFindings;
    all.insert(all.end(), d->context.session().plan().findings.begin(), d->context.session().plan().findings.end());
    return all;
}

void Grid::reload() { d->context.session().reload(); }
void Grid::cancelLoad() { d->context.session().cancelLoad(); }
bool Grid::isLoading() const { return d->context.session().isLoading(); }
const Design& Grid::design() const { return d->context.session().design(); }

void Grid::setDesign(const Design& design) {
    if (design == d->context.session().design()) return;
    d->editors.end();
    d->context.session().setDesign(design);
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
        const auto program = compileRule(rule.toStdString(), d->context.session().schema(),
                                         vocabularyOf(next, d->context.session().registered()), condition);
        if (!program) return program.error();
        next.filter.push_back({rule.toStdString(), field, {}, true});
    }
    setDesign(next);
    return {};
}

Result<void> Grid::setFilterEntry(const QString& field, const QString& entry) {
    const auto condition =
        conditionFromEntry(entry.toStdString(), design(), d->context.session().schema(), field.toStdString());
    if (!condition) return condition.error();
    Design next = design();
    std::erase_if(next.filter, [&](const FilterDesign& part) { return part.field == field.toStdString(); });
    const std::string rule = ruleOf(*condition, d->context.session().schema());
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

void Grid::openAllGroups() { d->context.session().groups().setAllOpen(true); }
void Grid::closeAllGroups() { d->context.session().groups().setAllOpen(false); }

std::optional<GroupLine> Grid::groupAt(std::int64_t line) const {
    const auto group = d->rows.groupOn(line);
    if (!group) return std::nullopt;
    const Snapshot& snapshot = *d->context.session().snapshot();
    const Line at = snapshot.line(static_cast<ViewLine>(line));
    const GroupNode& node = snapshot.grouped->tree().nodes[*group];
    GroupLine out;
    out.level = node.level;
    out.records = node.count;
    out.isOpen = snapshot.grouped->isOpen(*group);
    std::string caption;
    d->rows.groupText()->caption(at, caption);
    out.caption = QString::fromStdString(caption);
    const EvaluatedCell key = snapshot.grouped->tree().key(node);
    if (!isError(key.state)) out.key = plainValue(key.value);
    return out;
}

void Grid::setGroupOpen(std::int64_t line, bool open) {
    if (const auto group = d->rows.groupOn(line)) d->context.session().groups().setOpen(*group, open);
}

Value Grid::figure(const QString& summary, std::optional<std::int64_t> line) const {
    const Snapshot& snapshot = *d->context.session().snapshot();
    const Grouping* grouping = groupingOf(snapshot);
    const auto group = line ? d->rows.groupOn(*line) : std::nullopt;
    if (!grouping || !snapshot.groups || (line && !group)) return Empty{};
    for (std::size_t i = 0; i < std::min(grouping->summaries.size(), snapshot.groups->figures.size()); ++i) {
        if (grouping->summaries[i].design.name != summary.toStdString()) continue;
        const EvaluatedCell cell = group ? snapshot.groups->figure(i, *group) : snapshot.groups->total(i);
        return cell.state == CellState::Filled ? plainValue(cell.value) : Value(Empty{});
    }
    return Empty{};
}

QRect Grid::figureRect(const QString& summary, std::optional<std::int64_t> line) const {
    const Grouping* grouping = groupingOf(*d->context.session().snapshot());
    const GroupText* text = d->rows.groupText();
    if (!grouping || !text) return {};
    std::vector<FigureText> figures;
    for (int column = 0; column < d->body.columns().count(); ++column) {
        QRect row;
        if (line) {
            if (*line < 0 || *line >= lineCount()) return {};
            text->figures(d->rows.at(*line), column, figures);
            row = QRect(0, d->body.places().top(*line), 1, d->body.places().height(*line));
        } else {
            text->totals(TotalScope::Filtered, column, {}, figures);
            for (const TotalRow& total : d->totals.rows(viewport()->height()))
                if (total.scope == TotalScope::Filtered) row = QRect(0, total.y, 1, total.height);
        }
        for (std::size_t i = 0; i < figures.size(); ++i) {
            if (grouping->summaries[figures[i].summary].design.name != summary.toStdString()) continue;
            const int height = d->painters.cells().groups().lineHeight();
            const int top = row.y() + (row.height() - 1 - static_cast<int>(figures.size()) * height) / 2;
            return QRect(d->body.columns().x(column, d->body.scrollX()), top + static_cast<int>(i) * height,
                         d->body.columns().width(column), height) &
                   d->body.roomOf(column);
        }
    }
    return {};
}

QRect Grid::lineRect(std::int64_t line) const {
    if (line < 0 || line >= lineCount()) return {};
    for (const PinnedLine& sticky : d->body.stickyLines())
        if (sticky.line == line) return {0, sticky.y, viewport()->width(), sticky.height};
    return QRect(0, d->body.places().top(line), viewport()->width(), d->body.places().height(line)) &
           QRect(0, d->body.top(), viewport()->width(), d->body.bottom() - d->body.top());
}

void Grid::clearFilters() { d->filters.clear(); }
bool Grid::focusFilter(const QString& field) { return d->filters.focus(field); }
void Grid::openPickList(const QString& field) { d->picks.open(field); }
void Grid::openFind(const QString& text) { d->find.open(text); }
bool Grid::isTypingFilter() const { return d->filters.isTyping(); }
void Grid::setParameter(const QString& name, const Value& value) {
    d->context.session().setParameter(name.toStdString(), value);
}
QRect Grid::filterRect(const QString& field) const {
    return d->filters.row() && d->filters.row()->isVisibleTo(this) ? d->filters.row()->cellRect(field) : QRect();
}

GridColumn Grid::column(const QString& field) { return {*this, field.toStdString()}; }
GridTier Grid::tier(const QString& name) { return {*this, name.toStdString()}; }

void Grid::fitAll() { d->exactFits.beginAll(); }
void Grid::makeTier(const std::vector<std::string>& fields) { d->headings.makeTier(fields); }

void Grid::setDesigning(bool designing) { d->context.setDesigning(designing); }
bool Grid::isDesigning() const { return d->context.isDesigning(); }

void Grid::setDesignSelection(const std::vector<QString>& fields, const std::optional<QString>& tier) {
    if (d->headings.setDesigned(fields, tier)) viewport()->update();
}

std::vector<QString> Grid::designSelection() const { return d->headings.designed(); }
std::vector<std::string> Grid::selectedColumns() const { return d->headings.chosen(); }
void Grid::openColumnList() { d->menus.headings.openColumnList(); }
std::int64_t Grid::lineCount() const { return d->rows.count(); }
Record Grid::recordAt(std::int64_t line) const { return d->recordAt(line); }
Record Grid::currentRecord() const { return d->cursor.current() ? d->recordAt(d->cursor.current()->line) : Record(); }
std::optional<CellPlace> Grid::currentCell() const { return d->cursor.current(); }

void Grid::setCurrentCell(std::int64_t line, int column) {
    if (line < 0 || line >= lineCount() || column < 0 || column >= d->body.columns().count()) return;
    d->navigator.choose({line, column}, SelectHow::Replace);
}

std::vector<Record> Grid::selectedRecords(std::size_t most) const {
    std::vector<Record> records;
    for (const SourceRow row : d->cursor.selection().rows().rows(most))
        records.emplace_back(snapshot(), d->context.session().refOf(row), d->context.session().sharedPlan());
    return records;
}

std::int64_t Grid::selectedCount() const { return d->cursor.selection().rows().count(); }

QString Grid::selectionFigures() const { return d->figures.words(); }

void Grid::copySelection(bool withHeadings) { d->copySelection(withHeadings ? Headings::With : Headings::Without); }

void Grid::setSelectionMode(SelectionMode mode) {
    d->cursor.setMode(mode);
    viewport()->update();
}

SelectionMode Grid::selectionMode() const { return d->cursor.selection().mode(); }
bool Grid::goBack() { return d->navigator.revisit(false); }
bool Grid::goForward() { return d->navigator.revisit(true); }
void Grid::openGoTo() { d->navigator.openGoTo(); }
bool Grid::showRecord(const Record& record) {
    const auto row = record.isValid() ? d->context.session().now(record.ref()) : std::nullopt;
    if (!row || d->body.columns().count() == 0) return false;
    // One that has just been made is shown as soon as it is among the lines.
    if (const RecordFate* fate = snapshot()->edits->fate(*row);
        fate && fate->change == RecordChange::Insert && !snapshot()->placeOf(*row)) {
        d->records.showWhenThere(*row);
        return true;
    }
    if (!d->context.session().groups().openAround(*row)) return false;
    const auto line = snapshot()->lineOf(*row);
    if (!line) return false;
    d->navigator.choose({raw(*line), d->cursor.current() ? d->cursor.current()->column : 0}, SelectHow::Replace);
    return true;
}

void Grid::showLine(std::int64_t line) {
    if (d->body.columns().count() == 0) return;
    const int column = std::clamp(
        d->body.columns().columnAt(d->body.columns().extent(Zone::Scrolled).first + 1, d->body.scrollX()).value_or(0),
        0, d->body.columns().count() - 1);
    const int x = d->body.scrollX();
    d->scroller.show({line, column});
    d->scroller.setX(x);
}

void Grid::showColumn(const QString& field) {
    if (const auto column = d->context.columnOf(field)) d->scroller.showColumn(*column);
}

void Grid::setEditable(bool editable) {
    d->context.setEditable(editable);
    if (!editable) d->editors.end();
}

bool Grid::isEditable() const { return d->context.isEditable(); }
bool Grid::beginRecord() { return d->records.insert(); }

void Grid::write(SourceRow row, FieldIndex field, const Value& value, const std::string& label) {
    d->editors.write(row, field, {value, label});
}

bool Grid::editCurrentCell() { return d->editors.begin({}); }
std::size_t Grid::unsavedEdits() const { return d->context.session().records().unsaved(); }

bool Grid::setValue(const Record& record, const QString& field, const Value& value) {
    const auto index = d->context.session().schema().find(field.toStdString());
    const auto row = record.isValid() ? d->context.session().now(record.ref()) : std::nullopt;
    if (!index || !row || !isOfType(value, d->context.session().schema().field(*index).type)) return false;
    d->context.session().records().edit(*row, *index, value);
    return true;
}

namespace {
std::optional<SourceRow> rowNow(const Session& session, const Record& record) {
    return record.isValid() ? session.now(record.ref()) : std::nullopt;
}
}  // namespace

Result<Record> Grid::insertRecord(const std::map<QString, Value>& values) {
    Session& session = d->context.session();
    std::vector<std::pair<FieldIndex, Value>> given;
    for (const auto& [name, value] : values) {
        const auto field = session.schema().find(name.toStdString());
        if (!field || !isOfType(value, session.schema().field(*field).type))
            return Error{ErrorCode::InvalidInput,
                         (field ? tr("The value for %1 is not of its type.") : tr("There is no field %1."))
                             .arg(name)
                             .toStdString()};
        given.emplace_back(*field, value);
    }
    const auto row = session.records().insert(given);
    if (!row) return row.error();
    return d->context.record(*row);
}

Result<Record> Grid::duplicateRecord(const Record& record) {
    const auto row = rowNow(d->context.session(), record);
    if (!row) return Error{ErrorCode::NotFound, tr("The record is no longer there.").toStdString()};
    const auto made = d->context.session().records().duplicate(*row);
    if (!made) return made.error();
    return d->context.record(*made);
}

bool Grid::deleteRecords(const std::vector<Record>& records) {
    std::vector<SourceRow> rows;
    for (const Record& record : records)
        if (const auto row = rowNow(d->context.session(), record)) rows.push_back(*row);
    if (!rows.empty()) d->context.session().records().remove(rows);
    return !rows.empty();
}

int Grid::save(const Record& record) {
    const auto row = rowNow(d->context.session(), record);
    return row ? static_cast<int>(d->context.session().records().save({*row})) : 0;
}

int Grid::saveAll() {
    if (!d->editors.mayLeave()) return 0;
    return static_cast<int>(d->context.session().records().saveAll());
}

void Grid::revert(const Record& record) {
    if (const auto row = rowNow(d->context.session(), record)) d->context.session().records().revert(*row);
    d->editors.showRefusal();
}

void Grid::revertAll() {
    d->editors.end();
    d->context.session().records().revertAll();
}

std::vector<RecordChanges> Grid::changes() const { return changesOf(d->context); }
bool Grid::undo() { return d->records.undo(false); }
bool Grid::redo() { return d->records.undo(true); }
bool Grid::canUndo() const { return d->context.session().steps().history().canUndo(); }
bool Grid::canRedo() const { return d->context.session().steps().history().canRedo(); }
void Grid::setDraftFolder(const QString& folder) { d->context.session().drafts().setFolder(folder.toStdString()); }
int Grid::takeUpDrafts() { return static_cast<int>(d->context.session().drafts().takeUp()); }
void Grid::dropDrafts() { d->context.session().drafts().drop(); }

QString Grid::message() const { return d->editors.message(); }
const Tokens& Grid::look() const { return d->context.look(); }
PictureShelf& Grid::pictures() { return d->shelf; }
Session& Grid::session() { return d->context.session(); }
const std::shared_ptr<const Snapshot>& Grid::snapshot() const { return d->context.session().snapshot(); }

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
    const auto column = d->context.columnOf(field);
    if (!column) return {};
    return d->headings.layout().columnRect(*column) & d->body.roomOf(*column);
}

QRect Grid::tierRect(const QString& name) const {
    const auto& tiers = d->context.session().plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d->headings.layout().tierRect(static_cast<int>(i)) & viewport()->rect();
    return {};
}

QRect Grid::foldRect(const QString& name) const {
    const auto& tiers = d->context.session().plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d->headings.layout().foldRect(static_cast<int>(i));
    return {};
}

QRect Grid::cellRect(std::int64_t line, const QString& field) const {
    const auto column = d->context.columnOf(field);
    if (!column || line < 0 || line >= lineCount()) return {};
    const QRect room =
        d->body.roomOf(*column) & QRect(0, d->body.top(), viewport()->width(), d->body.bottom() - d->body.top());
    return d->body.cellRect({line, *column}) & room;
}

QSize Grid::sizeHint() const { return {760, 480}; }

void Grid::paintEvent(QPaintEvent* event) {
    QPainter painter(viewport());
    d->paint(painter, event->rect());
}

void Grid::resizeEvent(QResizeEvent*) { d->relayout(); }
void Grid::scrollContentsBy(int, int) { d->scroller.followBars(); }

bool Grid::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::Leave) {
        d->gestures.leave();
        d->pictures.hideCard();
    }
    if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const auto place = d->body.placeAt(help->pos()); place && d->pictures.enlarge(*place, help->pos(), d->presses))
        return QToolTip::hideText(), true;
    const Tip tip = tipAt(help->pos(), d->context, d->rows, d->body, d->headings, d->painters, d->presses);
    if (tip.text.isEmpty()) {
        QToolTip::hideText();
        event->ignore();
    } else {
        QToolTip::showText(help->globalPos(), QStringLiteral("<qt>%1</qt>").arg(tip.text.toHtmlEscaped()), viewport(),
                           tip.area);
    }
    return true;
}

void Grid::mousePressEvent(QMouseEvent* event) {
    setFocus(Qt::MouseFocusReason);
    d->pictures.close();
    d->gestures.press(*event);
}
void Grid::mouseMoveEvent(QMouseEvent* event) {
    d->gestures.move(*event);
    d->pictures.pointerAt(event->pos());
}
void Grid::mouseReleaseEvent(QMouseEvent* event) { d->gestures.release(*event); }
void Grid::mouseDoubleClickEvent(QMouseEvent* event) { d->gestures.doubleClick(*event); }
void Grid::wheelEvent(QWheelEvent* event) { d->scroller.wheel(*event); }

/// Pictures are taken where they can be put; all else is left to those around the grid.
void Grid::dragEnterEvent(QDragEnterEvent* event) {
    d->pictures.mayTake(*event->mimeData()) ? event->acceptProposedAction() : event->ignore();
}

void Grid::dragMoveEvent(QDragMoveEvent* event) {
    const auto place = d->body.placeAt(event->position().toPoint());
    if (!d->pictures.accepts(*event->mimeData(), place)) return event->ignore();
    event->setDropAction(Qt::CopyAction);
    event->accept(QRect(event->position().toPoint(), QSize(1, 1)));
}

void Grid::dropEvent(QDropEvent* event) {
    const auto place = d->body.placeAt(event->position().toPoint());
    if (!d->pictures.accepts(*event->mimeData(), place)) return event->ignore();
    event->setDropAction(Qt::CopyAction);
    event->accept();
    setCurrentCell(place->line, place->column);
    d->pictures.drop(*place, *event->mimeData());
}

void Grid::keyPressEvent(QKeyEvent* event) {
    if (!d->keys.key(*event)) QAbstractScrollArea::keyPressEvent(event);
}

void Grid::focusInEvent(QFocusEvent* event) {
    if (!d->cursor.current() && lineCount() > 0 && d->body.columns().count() > 0 &&
        event->reason() == Qt::TabFocusReason)
        setCurrentCell(0, 0);
    viewport()->update();
}

void Grid::focusOutEvent(QFocusEvent*) { viewport()->update(); }

void Grid::contextMenuEvent(QContextMenuEvent* event) {
    if (event->reason() == QContextMenuEvent::Keyboard) return;  // the keys have said where already
    d->openMenuAt(viewport()->mapFromGlobal(event->globalPos()), event->globalPos());
}

void Grid::changeEvent(QEvent* event) {
    if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange) {
        d->makeFonts();
        d->relayout();
    }
    if (event->type() == QEvent::PaletteChange) {
        d->context.refreshLook();
        viewport()->update();
    }
    QAbstractScrollArea::changeEvent(event);
}

}  // namespace jollyrow
