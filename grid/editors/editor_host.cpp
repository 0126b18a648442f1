// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_records.cpp and tst_grid.cpp.
#include "grid/editors/editor_host.h"

#include <QApplication>
#include <QClipboard>

#include "core/columns/civil.h"
#include "core/formats/loose_date.h"
#include "grid/editors/editor_task.h"
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
        editor_->begin(editedCellAt(context_.session(), context_.planned(place_.column), row_));
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
    editor_ = context_.makeEditor(column, &context_.viewport());
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
    QObject::connect(editor_, &Editor::resized, grid, [this] { this->place(); });
    QObject::connect(editor_, &Editor::abandoned, grid, [this] { end(); });
    QObject::connect(editor_, &Editor::failed, grid, [this](const QString& message) { refuse(message); });
    QObject::connect(editor_, &Editor::edited, grid, [this] {
        overridden_.clear();
        if (strip_) strip_->hide();
    });
    overridden_.clear();
    if (strip_) strip_->hide();
    this->place();
    editor_->show();
    editor_->setFocus();
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
    // Several lines drop down over the records below; where there is no room, they reach up.
    rect.setHeight(std::max(rect.height(), editor_->wantedHeight(rect.height())));
    if (rect.bottom() >= body_.viewport().height())
        rect.moveBottom(std::max(body_.viewport().height() - 1, body_.top() + rect.height() - 1));
    editor_->setGeometry(rect.adjusted(-1, -1, 1, 0));
    // Under the headings or the pinned columns it must not float.
    const auto [from, to] = body_.columns().extent(body_.columns().zoneOf(place_.column));
    const int top = body_.cellRect(place_).top();
    editor_->setVisible(top >= body_.top() - body_.rowHeight() / 2 &&
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
    if (isForbidden(*entered)) return false;
    const std::string overridden = std::exchange(overridden_, {});
    end();
    write(row_, field_, *entered);
    if (!overridden.empty()) context_.session().records().overrideWarning(row_, overridden);
    return true;
}

/// What a check forbids is said before the cell is left; a warning is passed over the second time.
bool EditorHost::isForbidden(const Entered& entered) {
    const auto problem = context_.session().checks().problemWith(row_, field_, entered.value);
    if (!problem || (!problem->isWarning && context_.design().grid.keepsDrafts)) return false;
    if (problem->isWarning && overridden_ == problem->check) return false;
    refuse(QString::fromStdString(problem->message));
    if (problem->isWarning) {
        overridden_ = problem->check;
        say(body_.cellRect(place_),
            Grid::tr("%1 Enter keeps it all the same.").arg(QString::fromStdString(problem->message)),
            {{Grid::tr("Keep it"), [this] { commit(); }}, {Grid::tr("Put it back"), [this] { end(); }}});
    }
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
    context_.session().records().edit(cells);
    for (std::size_t i = 0; i < cells.size(); ++i)
        Q_EMIT context_.grid().cellEdited(records[i],
                                          QString::fromStdString(context_.schema().field(cells[i].field).name),
                                          before[i], cells[i].value);
}

void EditorHost::toggle(CellPlace place) {
    if (!context_.canEdit(place.column) || !rows_.isRecord(place.line)) return;
    const SourceRow row = rows_.rowAt(place.line);
    const FieldIndex field = context_.planned(place.column).field;
    write(row, field, {turnedOver(context_.snapshot().value(row, field), context_.schema().field(field))});
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
    const Formatter& formatter = *context_.planned(place_.column).formatter;
    formatter.append(was, context_.snapshot().value(row_, field_));
    std::vector<MessageStrip::Link> links;
    // A day that there is not: the nearest that there are.
    if (context_.schema().field(field_).type == Type::Date)
        for (const std::int32_t days : datesNear(editor_->typed().toStdString(), today())) {
            std::string near;
            formatter.append(near, Value(Date{days}));
            links.push_back({Grid::tr("Use %1").arg(QString::fromStdString(near)), [this, days] {
                                 const SourceRow row = row_;
                                 const FieldIndex field = field_;
                                 end();
                                 write(row, field, {Value(Date{days})});
                             }});
        }
    links.push_back(
        {was.empty() ? Grid::tr("Leave it empty") : Grid::tr("Put back %1").arg(QString::fromStdString(was)),
         [this] { end(); }});
    say(body_.cellRect(place_), message, links);
}

void EditorHost::chosen() {
    keepsTyped_ = false;
    showRefusal();
}

void EditorHost::showRefusal() {
    if (editor_ || keepsTyped_) return;
    const auto current = cursor_.current();
    const SourceRow row = current ? rows_.rowAt(current->line) : kNoRow;
    const RecordEdit* record = row == kNoRow ? nullptr : context_.snapshot().edits->record(row);
    if (record && sayOf(*record, row, current->line)) return;
    if (strip_) strip_->hide();
}

/// What is to be put right in a record, the gravest first: what the database said, then what checks say.
bool EditorHost::sayOf(const RecordEdit& record, SourceRow row, std::int64_t line) {
    for (int i = 0; i < static_cast<int>(context_.plan().columns.size()); ++i)
        if (sayCell(record, row, {line, i})) return true;
    if (record.fate() && sayWhole(*record.fate(), row, line)) return true;
    if (record.change() == RecordChange::Delete) return false;
    return std::any_of(record.problems().begin(), record.problems().end(), [&](const RecordProblem& problem) {
        return problem.blocks() && sayProblem(problem, row, line);
    });
}

bool EditorHost::isInSight(const QRect& cell) const {
    return cell.top() >= body_.headerHeight() - body_.rowHeight() && cell.top() <= body_.viewport().height();
}

QString EditorHost::putBackWords(int column, const Value& value) const {
    std::string was;
    context_.planned(column).formatter->append(was, value);
    return was.empty() ? Grid::tr("Make it empty again") : Grid::tr("Put back %1").arg(QString::fromStdString(was));
}

bool EditorHost::sayCell(const RecordEdit& record, SourceRow row, CellPlace place) {
    const FieldIndex field = context_.planned(place.column).field;
    const CellEdit* edit = record.find(field);
    const bool isConflict = edit && edit->state == EditState::Conflict;
    if (!edit || (!isConflict && edit->state != EditState::Refused) || !isInSight(body_.cellRect(place))) return false;
    Session& session = context_.session();
    std::vector<MessageStrip::Link> links;
    if (isConflict && edit->theirs) {
        if (decide_) links.push_back({Grid::tr("Compare"), [this] { decide_(); }});
        std::string theirs;
        context_.planned(place.column).formatter->append(theirs, *edit->theirs);
        links.push_back({theirs.empty() ? Grid::tr("Leave it empty") : Grid::tr("Take %1").arg(theirs.c_str()),
                         [&session, row, field] { session.records().putBack(row, field); }});
        links.push_back({Grid::tr("Keep mine"), [&session, row] { session.records().resolve(row, {}); }});
    } else if (isConflict) {
        links.push_back({Grid::tr("Make it again"), [this, row] {
                             const auto made = context_.session().records().makeAgain(row);
                             if (!made) context_.say(QString::fromStdString(made.error().message));
                         }});
        links.push_back({Grid::tr("Let it go"), [&session, row] { session.records().revert(row); }});
    } else {
        links.push_back(
            {putBackWords(place.column, edit->original), [&session, row, field] { session.records().putBack(row, field); }});
        links.push_back({Grid::tr("Try again"), [&session, row, field] { session.records().retry(row, field); }});
    }
    say(body_.cellRect(place), QString::fromStdString(edit->message), links);
    return true;
}

/// A record that could not be inserted or deleted.
bool EditorHost::sayWhole(const RecordFate& fate, SourceRow row, std::int64_t line) {
    const QRect cell = body_.cellRect({line, 0});
    if ((fate.state != EditState::Refused && fate.state != EditState::Conflict) || !isInSight(cell)) return false;
    Session& session = context_.session();
    const bool isNew = fate.change == RecordChange::Insert;
    say(cell, QString::fromStdString(fate.message),
        {{isNew ? Grid::tr("Leave it out") : Grid::tr("Keep the record"), [&session, row] { session.records().revert(row); }},
         {isNew ? Grid::tr("Try again") : Grid::tr("Delete it all the same"), [&session, row, state = fate.state] {
              state == EditState::Conflict ? session.records().resolve(row, {}) : void(session.records().save({row}));
          }}});
    return true;
}

bool EditorHost::sayProblem(const RecordProblem& problem, SourceRow row, std::int64_t line) {
    int column = 0;
    if (!problem.fields.empty())
        column =
            context_.columnOf(QString::fromStdString(context_.schema().field(problem.fields.front()).name)).value_or(0);
    const QRect cell = body_.cellRect({line, column});
    if (!isInSight(cell)) return false;
    Session& session = context_.session();
    std::vector<MessageStrip::Link> links;
    const CellEdit* edit =
        problem.fields.empty() ? nullptr : context_.snapshot().edits->find(row, problem.fields.front());
    if (problem.isWarning)
        links.push_back({Grid::tr("Keep it all the same"),
                         [&session, row, check = problem.check] { session.records().overrideWarning(row, check); }});
    if (edit && isUnsaved(edit->state))
        links.push_back({putBackWords(column, edit->original),
                         [&session, row, field = problem.fields.front()] { session.records().putBack(row, field); }});
    else
        links.push_back({Grid::tr("Put the record back"), [&session, row] { session.records().revert(row); }});
    say(cell, QString::fromStdString(problem.message), links);
    return true;
}

QString EditorHost::message() const {
    return strip_ && strip_->isVisibleTo(&context_.grid()) ? strip_->message() : QString();
}

}  // namespace jollyrow
