// SPDX-License-Identifier: MIT
#include "grid/editors/editor_task.h"

#include "core/design/cell_text.h"

namespace jollyrow {

EditorTask editorTaskFor(Session& session, const PlannedColumn& column) {
    EditorTask task;
    task.field = session.schema().field(column.field);
    task.formatter = column.formatter;
    task.alignment = column.alignment;
    task.heading = QString::fromStdString(column.design.heading);
    task.hint = QString::fromStdString(column.design.hint);
    task.kind = column.design.entry.kind;
    task.most = column.design.entry.most;
    task.wraps = column.design.wrap;
    for (const PlannedCheck& check : session.plan().checks)  // a label is chosen, not typed to a pattern
        if (!column.label && check.demand == PlannedCheck::Demand::Pattern && check.field == column.field)
            task.pattern = check.pattern;
    if (!column.label || !column.foreignKey) return task;
    task.linkedTable = session.schema().foreignKeys[*column.foreignKey].table;
    task.search = [&session, field = column.field](const QString& contains, const EditorTask::Found& found) {
        session.questions().lookUp(field, contains.toStdString(), found);
    };
    if (column.design.entry.adds)
        task.add = [&session, field = column.field](const QString& label, const EditorTask::Added& added) {
            session.questions().addLinked(field, label.toStdString(), added);
        };
    return task;
}

Value turnedOver(const Value& now, const FieldSchema& field) {
    if (now == Value(true)) return Value(false);
    return now == Value(false) && !field.required ? Value(Empty{}) : Value(true);
}

EditedCell editedCellAt(const Session& session, const PlannedColumn& column, SourceRow row) {
    const Snapshot& snapshot = *session.snapshot();
    EditedCell edited;
    edited.value = snapshot.value(row, column.field);
    edited.shown = QString::fromStdString(editedText(snapshot, row, column));
    const Column* stored = snapshot.table->column(column.field);
    const auto misfit = stored ? stored->misfit(row) : std::nullopt;
    if (misfit && !snapshot.edits->find(row, column.field)) edited.misfit = QString::fromUtf8(*misfit);
    return edited;
}

}  // namespace jollyrow
