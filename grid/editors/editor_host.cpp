// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_records.cpp and tst_grid.cpp.
#include "grid/editors/editor_host.h"

#include <QApplication>
#include <QClipboard>

#include "grid/faces/cell_face.h"

namespace jollyrow {
namespace {
constexpr int kCaptionWidth = 320;  // of the editor of what a banner says
}

bool EditorHost::begin(const QString& typed) {
    if (!mayLeave()) return false;
    keepsTyped_ = false;
    const auto current = cursor_.current();
    if (!current || !rows_.isRecord(current->line) || !context_.canEdit(current->column) ||
        faceOf(context_.planned(current->column)).press() == FacePress::Toggles)
        return false;
    scroller_.show(*current);
    if (context_.schema().field(context_.planned(current->column).field).type == Type::Binary)
        return typed.isEmpty() && openPicture_ && openPicture_(*current);
    open(*current);
    if (typed.isEmpty())
        editor_->begin(cellAt(place_));
    else
        editor_->beginWith(typed);
    return true;
}

void EditorHost::open(CellPlace place) {
    const PlannedColumn& column = context_.planned(place.column);
    place_ = place;
    row_ = rows_.rowAt(place.line);
    field_ = column.field;
    fieldName_ = column.design.field;
    recordGone_ = false;
    editor_ = makeEditor(taskFor(place), &context_.viewport());
    editor_->setFont(context_.grid().font());
    Grid* grid = &context_.grid();
    QObject::connect(editor_, &Editor::committed, grid, [this](int byLines, int byColumns) {
        const auto& groups = context_.design().groups;
        const bool regroups = std::any_of(groups.begin(), groups.end(),
                                          [&](const GroupDesign& group) { return group.key.field == fieldName_; });
        if (!commit()) return;
        if (regroups && cursor_.followed()) return;  // the record goes to another group, the current cell with it
        if (byLines != 0 || byColumns != 0) moveOn_(byLines, byColumns);
    });
    QObject::connect(editor_, &Editor::abandoned, grid, [this] { end(); });
    QObject::connect(editor_, &Editor::failed, grid, [this](const QString& message) { refuse(message); });
    QObject::connect(editor_, &Editor::edited, grid, [this] {
        if (strip_) strip_->hide();
    });
    if (strip_) strip_->hide();
    this->place();
    editor_->show();
    editor_->setFocus();
}

EditorTask EditorHost::taskFor(CellPlace place) const {
    const PlannedColumn& column = context_.planned(place.column);
    EditorTask task;
    task.field = context_.schema().field(column.field);
    task.formatter = column.formatter;
    task.alignment = column.alignment;
    task.heading = QString::fromStdString(column.design.heading);
    task.hint = QString::fromStdString(column.design.hint);
    if (!column.label || !column.foreignKey) return task;
    task.linkedTable = context_.schema().foreignKeys[*column.foreignKey].table;
    task.search = [&session = context_.session(), field = column.field](const QString& contains,
                                                                        const EditorTask::Found& found) {
        session.lookUp(field, contains.toStdString(), found);
    };
    return task;
}

EditedCell EditorHost::cellAt(CellPlace place) const {
    const Snapshot& snapshot = context_.snapshot();
    const PlannedColumn& column = context_.planned(place.column);
    EditedCell edited;
    edited.value = snapshot.value(row_, column.field);
    CellText cell;
    rows_.cell(place.line, place.column, cell);
    edited.shown = QString::fromStdString(cell.text);
    const Column* stored = snapshot.table->column(column.field);
    const auto misfit = stored ? stored->misfit(row_) : std::nullopt;
    if (misfit && !snapshot.edits->find(row_, column.field)) edited.misfit = QString::fromUtf8(*misfit);
    return edited;
}

void EditorHost::place() {
    if (!editor_) return;
    QRect rect = body_.cellRect(place_);
    const PlannedBanner* banner = rows_.banner(place_.line);
    const bool isCaption = banner && banner->column == place_.column;
    if (isCaption) rect = QRect(measure::kGutter, rect.top(), std::max(rect.width(), kCaptionWidth), rect.height());
    const int width = std::max(rect.width(), editor_->leastWidth());
    if (rect.right() >= body_.viewport().width() && width > rect.width()) rect.setLeft(rect.right() - width + 1);
    rect.setWidth(width);
    editor_->setGeometry(rect.adjusted(-1, -1, 1, 0));
    // Under the headings or the pinned columns it must not float.
    const auto [from, to] = body_.columns().extent(body_.columns().zoneOf(place_.column));
    editor_->setVisible(rect.top() >= body_.top() - body_.rowHeight() / 2 &&
                        (isCaption || (rect.left() >= from - rect.width() / 2 && rect.left() < to)));
}

bool EditorHost::commit() {
    if (!editor_) return true;
    if (editor_->isUnchanged()) return end(), true;
    if (editor_->commitsLater()) return false;
    const Result<Entered> entered = editor_->entered();
    if (!entered) {
        refuse(QString::fromStdString(entered.error().message));
        return false;
    }
    end();
    write(row_, field_, *entered);
    return true;
}

void EditorHost::write(std::vector<CellWrite> cells, const std::optional<Value>& known) {
    const Snapshot& snapshot = context_.snapshot();
    std::erase_if(cells, [&](const CellWrite& cell) { return snapshot.value(cell.row, cell.field) == cell.value; });
    if (cells.empty()) return;
    std::vector<Record> records;
    std::vector<Value> before;
    for (const CellWrite& cell : cells) {
        records.push_back(context_.record(cell.row));
        before.push_back(known ? *known : snapshot.value(cell.row, cell.field));
    }
    cursor_.follow(cells.front().row);
    context_.session().edit(cells);
    for (std::size_t i = 0; i < cells.size(); ++i)
        Q_EMIT context_.grid().cellEdited(records[i],
                                          QString::fromStdString(context_.schema().field(cells[i].field).name),
                                          before[i], cells[i].value);
}

void EditorHost::toggle(CellPlace place) {
    if (!context_.canEdit(place.column) || !rows_.isRecord(place.line)) return;
    const SourceRow row = rows_.rowAt(place.line);
    const FieldIndex field = context_.planned(place.column).field;
    write(row, field, {Value(context_.snapshot().value(row, field) != Value(true))});
}

void EditorHost::end() {
    if (!editor_) return;
    const bool hadFocus = editor_->isAncestorOf(QApplication::focusWidget()) || !QApplication::focusWidget();
    Editor* closing = editor_;
    editor_ = nullptr;
    closing->hide();
    closing->deleteLater();
    if (strip_) strip_->hide();
    if (hadFocus) context_.grid().setFocus();
    showRefusal();
    context_.update();
}

void EditorHost::moveRows(const RowMoves& moves) {
    if (editor_) {
        const auto row = moves.now(row_);
        recordGone_ = !row;
        row_ = row.value_or(row_);
    } else if (strip_) {
        strip_->hide();
    }
}

void EditorHost::follow() {
    if (!editor_) return;
    const auto field = context_.schema().find(fieldName_);
    const auto column = context_.columnOf(QString::fromStdString(fieldName_));
    if (recordGone_) return lose(Grid::tr("The record is no longer there."));
    if (!field || !column) return lose(Grid::tr("The column is no longer there."));
    field_ = *field;
    place_.column = *column;
    if (rows_.rowAt(place_.line) == row_) return;
    const auto line = context_.snapshot().lineOf(row_);
    if (!line) return lose(Grid::tr("The record is not shown any more."));
    place_.line = raw(*line);
}

/// Ends the editing of what cannot be edited any more; what was typed stays in sight, to be copied.
void EditorHost::lose(const QString& why) {
    const QString typed = editor_->typed();
    const QRect cell = editor_->geometry();
    end();
    const QString message = typed.isEmpty() ? why : Grid::tr("%1 You had typed \"%2\".").arg(why, typed);
    say(cell, message,
        {{Grid::tr("Copy it"), [typed] { QApplication::clipboard()->setText(typed); }}, {Grid::tr("Close"), [this] {
                                                                                             keepsTyped_ = false;
                                                                                             strip_->hide();
                                                                                         }}});
    keepsTyped_ = true;
    context_.say(message);
}

void EditorHost::say(const QRect& cell, const QString& message, const std::vector<MessageStrip::Link>& links) {
    if (!strip_) strip_ = new MessageStrip(&context_.viewport());
    strip_->showUnder(cell, messageRoom(), message, links);
}

void EditorHost::refuse(const QString& message) {
    editor_->setRefused(true);
    editor_->setFocus();
    std::string was;
    context_.planned(place_.column).formatter->append(was, context_.snapshot().value(row_, field_));
    say(body_.cellRect(place_), message,
        {{was.empty() ? Grid::tr("Leave it empty") : Grid::tr("Put back %1").arg(QString::fromStdString(was)),
          [this] { end(); }}});
}

void EditorHost::chosen() {
    keepsTyped_ = false;
    showRefusal();
}

void EditorHost::showRefusal() {
    if (editor_ || keepsTyped_) return;
    const auto current = cursor_.current();
    const SourceRow row = current ? rows_.rowAt(current->line) : kNoRow;
    for (int i = 0; row != kNoRow && i < static_cast<int>(context_.plan().columns.size()); ++i) {
        const PlannedColumn& column = context_.planned(i);
        const CellEdit* edit = context_.snapshot().edits->find(row, column.field);
        if (!edit || edit->state != EditState::Refused) continue;
        const QRect cell = body_.cellRect({current->line, i});
        if (cell.top() < body_.headerHeight() - body_.rowHeight() || cell.top() > body_.viewport().height()) break;
        std::string was;
        column.formatter->append(was, edit->original);
        const QString back =
            was.empty() ? Grid::tr("Make it empty again") : Grid::tr("Put back %1").arg(QString::fromStdString(was));
        Session& session = context_.session();
        return say(cell, QString::fromStdString(edit->message),
                   {{back, [&session, row, field = column.field] { session.putBack(row, field); }},
                    {Grid::tr("Try again"), [&session, row, field = column.field] { session.retry(row, field); }}});
    }
    if (strip_) strip_->hide();
}

QString EditorHost::message() const {
    return strip_ && strip_->isVisibleTo(&context_.grid()) ? strip_->message() : QString();
}

}  // namespace jollyrow
