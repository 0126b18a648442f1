// SPDX-License-Identifier: MIT
// Editing a cell in place: open, convert, hand over, and what is said when a value is refused here or by the database.
#include <QClipboard>

#include "core/formats/text_format.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {

bool GridPrivate::canEdit(int column) const { return editable && planned(column).editable; }

bool GridPrivate::beginEdit(const QString& typed) {
    if (editor && !commitEdit()) return false;
    stripKeepsTyped = false;
    const auto current = selection.current();
    if (!current || !lines || !isRecordLine(current->line) || !canEdit(current->column) ||
        planned(current->column).format.type == Type::Boolean)
        return false;
    showPlace(*current);
    editorPlace = *current;
    editorRow = lines->rowAt(static_cast<ViewLine>(current->line));
    editorField = planned(current->column).field;
    editorFieldName = planned(current->column).design.field;
    editorRecordGone = false;
    const FieldSchema& field = session->schema().field(editorField);
    editor = new CellEditor(field, planned(current->column).alignment, grid.viewport());
    editor->setFont(grid.font());
    editor->setAccessibleName(QString::fromStdString(planned(current->column).design.heading));
    QObject::connect(editor, &CellEditor::committed, &grid, [this](int byLines, int byColumns) {
        const bool moves = std::any_of(
            session->design().groups.begin(), session->design().groups.end(),
            [&](const GroupDesign& group) { return group.key.field == session->schema().field(editorField).name; });
        if (!commitEdit()) return;
        if (moves && followed) return;  // the record goes to another group, and the current cell with it
        if (byLines != 0 || byColumns != 0) moveCurrent(byLines, byColumns, SelectHow::Replace);
    });
    editor->setHint(QString::fromStdString(planned(current->column).design.hint));
    const bool isLookUp = planned(current->column).label.has_value();
    if (isLookUp) {
        editor->useLookUp();
        QObject::connect(editor, &CellEditor::searchWanted, &grid, [this, index = editorField](const QString& text) {
            session->lookUp(index, text.toStdString(),
                            [this, target = editor](const Result<std::vector<LookUpEntry>>& found) {
                                if (!target || target != editor) return;
                                if (!found) return refuse(QString::fromStdString(found.error().message));
                                target->showEntries(*found);
                            });
        });
    }
    QObject::connect(editor, &CellEditor::abandoned, &grid, [this] { endEdit(); });
    QObject::connect(editor, &CellEditor::edited, &grid, [this] {
        if (strip) strip->hide();
    });
    if (strip) strip->hide();
    placeEditor();
    editor->show();
    editor->setFocus();
    if (typed.isEmpty()) {
        const CellEdit* refused = session->snapshot()->edits->find(editorRow, editorField);
        const auto misfit = session->snapshot()->table->column(editorField)
                                ? session->snapshot()->table->column(editorField)->misfit(editorRow)
                                : std::nullopt;
        std::string text =
            planned(current->column).formatter->editText(session->snapshot()->value(editorRow, editorField), field);
        if (text.empty() && misfit && !refused) text = *misfit;
        if (isLookUp) {
            CellText cell;
            lines->cell(static_cast<ViewLine>(current->line), current->column, cell);
            text = cell.text;
            editorLabel = QString::fromStdString(text);
        }
        editor->setText(QString::fromStdString(text));
        editor->beginWithAll();
    } else {
        editor->beginWith(typed);
    }
    return true;
}

void GridPrivate::placeEditor() {
    if (!editor) return;
    QRect rect = frame().cellRect(editorPlace);
    const Type type = planned(editorPlace.column).format.type;
    const int width = std::max(rect.width(), type == Type::Date ? 124 : isMoment(type) ? 150 : 90);
    if (rect.right() >= grid.viewport()->width() && width > rect.width()) rect.setLeft(rect.right() - width + 1);
    rect.setWidth(width);
    editor->setGeometry(rect.adjusted(-1, -1, 1, 0));
    // Under the headings or the pinned columns it must not float.
    const auto [from, to] = columns.extent(columns.zoneOf(editorPlace.column));
    editor->setVisible(rect.top() >= bodyTop() - rowHeight() / 2 && rect.left() >= from - rect.width() / 2 &&
                       rect.left() < to);
}

bool GridPrivate::commitEdit() {
    if (!editor) return true;
    const FieldSchema& field = session->schema().field(editorField);
    if (planned(editorPlace.column).label) return commitLookUp();
    const Result<Value> parsed = planned(editorPlace.column).formatter->parse(editor->text().toStdString(), field);
    if (!parsed) {
        refuse(QString::fromStdString(parsed.error().message));
        return false;
    }
    const SourceRow row = editorRow;
    const FieldIndex index = editorField;
    const auto place = session->snapshot()->lineOf(row);
    const Record record = place ? recordAt(raw(*place)) : Record();
    endEdit();
    const Value before = session->snapshot()->value(row, index);
    if (before == *parsed) return true;
    followed = row;
    session->edit(row, index, *parsed);
    Q_EMIT grid.cellEdited(record, QString::fromStdString(field.name), before, *parsed);
    return true;
}

/// The record that was chosen or named; a search under way is waited for.
bool GridPrivate::commitLookUp() {
    const FieldSchema& field = session->schema().field(editorField);
    const QString typed = editor->text().trimmed();
    if (typed == editorLabel && !editor->chosenEntry()) return endEdit(), true;
    if (editor->isSearching() && !typed.isEmpty()) {
        editor->commitWhenFound();
        return false;
    }
    LookUpEntry chosen{Empty{}, {}};
    if (const auto entry = editor->chosenEntry(); entry && !typed.isEmpty()) {
        chosen = *entry;
    } else if (!typed.isEmpty() || field.required) {
        const auto& link = session->schema().foreignKeys[*planned(editorPlace.column).foreignKey];
        refuse(typed.isEmpty()
                   ? Grid::tr("This must not be empty: choose a record of %1.").arg(QString::fromStdString(link.table))
                   : Grid::tr("No one record of %1 is called \"%2\". Choose from the list.")
                         .arg(QString::fromStdString(link.table), typed));
        return false;
    }
    const SourceRow row = editorRow;
    const FieldIndex index = editorField;
    const auto line = session->snapshot()->lineOf(row);
    const Record record = line ? recordAt(raw(*line)) : Record();
    const Value before = session->snapshot()->value(row, index);
    endEdit();
    if (before == chosen.key) return true;
    followed = row;
    session->edit(row, index, chosen.key, chosen.label);
    Q_EMIT grid.cellEdited(record, QString::fromStdString(field.name), before, chosen.key);
    return true;
}

void GridPrivate::endEdit() {
    if (!editor) return;
    const bool hadFocus = editor->isAncestorOf(QApplication::focusWidget()) || !QApplication::focusWidget();
    CellEditor* closing = editor;
    editor = nullptr;
    closing->hide();
    closing->deleteLater();
    if (strip) strip->hide();
    if (hadFocus) grid.setFocus();
    showRefusal();
    grid.viewport()->update();
}

void GridPrivate::followEdit() {
    if (!editor) return;
    const auto field = session->schema().find(editorFieldName);
    const auto column = columnOf(QString::fromStdString(editorFieldName));
    if (editorRecordGone) return loseEdit(Grid::tr("The record is no longer there."));
    if (!field || !column) return loseEdit(Grid::tr("The column is no longer there."));
    editorField = *field;
    editorPlace.column = *column;
    const bool inPlace =
        editorPlace.line < lines->lineCount() && lines->rowAt(static_cast<ViewLine>(editorPlace.line)) == editorRow;
    if (inPlace) return;
    const auto line = session->snapshot()->lineOf(editorRow);
    if (!line) return loseEdit(Grid::tr("The record is not shown any more."));
    editorPlace.line = raw(*line);
}

/// Ends the editing of what cannot be edited any more; what was typed stays in sight, to be copied.
void GridPrivate::loseEdit(const QString& why) {
    const QString typed = editor->text();
    const QRect cell = editor->geometry();
    endEdit();
    if (!strip) strip = new MessageStrip(grid.viewport());
    const QString message = typed.isEmpty() ? why : Grid::tr("%1 You had typed \"%2\".").arg(why, typed);
    strip->showUnder(
        cell, grid.viewport()->rect().adjusted(0, headerHeight(), 0, 0), message,
        {{Grid::tr("Copy it"), [typed] { QApplication::clipboard()->setText(typed); }}, {Grid::tr("Close"), [this] {
                                                                                             stripKeepsTyped = false;
                                                                                             strip->hide();
                                                                                         }}});
    stripKeepsTyped = true;
    Q_EMIT grid.failed(message);
}

void GridPrivate::refuse(const QString& message) {
    editor->setRefused(true);
    editor->setFocus();
    if (!strip) strip = new MessageStrip(grid.viewport());
    const Value before = session->snapshot()->value(editorRow, editorField);
    std::string was;
    planned(editorPlace.column).formatter->append(was, before);
    std::vector<MessageStrip::Link> links;
    links.push_back(
        {was.empty() ? Grid::tr("Leave it empty") : Grid::tr("Put back %1").arg(QString::fromStdString(was)),
         [this] { endEdit(); }});
    strip->showUnder(frame().cellRect(editorPlace), grid.viewport()->rect().adjusted(0, headerHeight(), 0, 0), message,
                     links);
}

void GridPrivate::toggleCheck(CellPlace place) {
    if (!canEdit(place.column) || !isRecordLine(place.line)) return;
    const SourceRow row = lines->rowAt(static_cast<ViewLine>(place.line));
    const FieldIndex field = planned(place.column).field;
    const Value before = session->snapshot()->value(row, field);
    const Value after = before == Value(true) ? Value(false) : Value(true);
    const Record record = recordAt(place.line);
    followed = row;
    session->edit(row, field, after);
    Q_EMIT grid.cellEdited(record, QString::fromStdString(session->schema().field(field).name), before, after);
}

/// What the database refused in the current record is said beneath its cell, with the ways out.
void GridPrivate::showRefusal() {
    if (editor || stripKeepsTyped) return;
    const auto current = selection.current();
    if (!current || !lines || current->line >= lines->lineCount()) {
        if (strip) strip->hide();
        return;
    }
    const SourceRow row = lines->rowAt(static_cast<ViewLine>(current->line));
    const Edits& edits = *session->snapshot()->edits;
    for (std::size_t i = 0; i < session->plan().columns.size(); ++i) {
        const FieldIndex field = session->plan().columns[i].field;
        const CellEdit* edit = edits.find(row, field);
        if (!edit || edit->state != EditState::Refused) continue;
        const QRect cell = frame().cellRect({current->line, static_cast<int>(i)});
        if (cell.top() < headerHeight() - rowHeight() || cell.top() > grid.viewport()->height()) break;
        if (!strip) strip = new MessageStrip(grid.viewport());
        std::string was;
        session->plan().columns[i].formatter->append(was, edit->original);
        const QString back =
            was.empty() ? Grid::tr("Make it empty again") : Grid::tr("Put back %1").arg(QString::fromStdString(was));
        strip->showUnder(cell, grid.viewport()->rect().adjusted(0, headerHeight(), 0, 0),
                         QString::fromStdString(edit->message),
                         {{back, [this, row, field] { session->putBack(row, field); }},
                          {Grid::tr("Try again"), [this, row, field] { session->retry(row, field); }}});
        return;
    }
    if (strip) strip->hide();
}

void GridPrivate::answered(SourceRow, FieldIndex, const CellEdit& edit) {
    showRefusal();
    Q_EMIT grid.editAnswered(edit.state == EditState::Saved, QString::fromStdString(edit.message));
}

}  // namespace jollyrow
