// SPDX-License-Identifier: MIT
#include "core/design/cell_text.h"

#include <algorithm>

namespace jollyrow {
namespace {

/// A look-up shows the label of the record it points to; an edited one the label that came with the choice.
bool readLabel(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, const CellEdit* edit,
               CellText& out) {
    if (edit) {
        if (isEmpty(edit->value)) return false;
        const CellEdit* label = snapshot.edits->find(row, *column.label);  // read again after the save
        out.text = edit->label;
        if (out.text.empty() && label && edit->state == EditState::Saved)
            appendDisplay(out.text, label->value, {.zone = snapshot.table->schema.zone});
        return !out.text.empty();
    }
    const Column* labels = snapshot.table->column(*column.label);
    if (!labels) {
        out.isPending = true;
        return true;
    }
    if (labels->isEmpty(row)) return false;  // points to nothing that has a label: its key is shown
    appendDisplay(out.text, *labels, row,
                  {.type = labels->type(), .scale = labels->scale(), .zone = snapshot.table->schema.zone});
    return true;
}

}  // namespace

CellReader::CellReader(const Snapshot& snapshot, const PlannedColumn& column) : snapshot_(snapshot), column_(column) {
    if (column.face) face_ = std::make_unique<FaceReader>(snapshot, column.face);
}

void CellReader::read(SourceRow row, CellText& out) {
    readField(snapshot_, row, column_, out);
    // A value that cannot be what its column says is shown as stored, whatever stands around it.
    if (!face_ || out.isMisfit) return;
    out.isComposed = true;
    face_->read(row, out.face);
    out.text.clear();
    out.isPending = out.face.isPending;
    out.isEmpty = !out.isPending && (out.face.parts.empty() || !out.face.parts.front().isShown);
    face_->appendText(out.face, out.text);
}

void readCell(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, CellText& out) {
    if (column.face) return CellReader(snapshot, column).read(row, out);
    readField(snapshot, row, column, out);
}

CellMark markOf(EditState state) {
    switch (state) {
        case EditState::Draft: return CellMark::Draft;
        case EditState::Conflict: return CellMark::Conflict;
        case EditState::Saving: return CellMark::Saving;
        case EditState::Saved: return CellMark::Saved;
        case EditState::Refused: return CellMark::Refused;
    }
    return CellMark::None;
}

CellMark markOf(const RecordProblem& problem) {
    return !problem.blocks() ? CellMark::None : problem.isWaiting ? CellMark::Saving : CellMark::Invalid;
}

CellMark recordMarkOf(const RecordEdit& record) {
    CellMark gravest = CellMark::None;
    for (const auto& [field, edit] : record.cells()) gravest = std::max(gravest, markOf(edit.state));
    for (const RecordProblem& problem : record.problems()) gravest = std::max(gravest, markOf(problem));
    const RecordFate* fate = record.fate();
    if (!fate || fate->change == RecordChange::Update) return gravest;
    const bool isNew = fate->change == RecordChange::Insert;
    const CellMark own =
        fate->state == EditState::Draft ? isNew ? CellMark::New : CellMark::Deleted : markOf(fate->state);
    return isNew ? std::max(gravest, own) : own;
}

void readField(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, CellText& out) {
    out.text.clear();
    out.isComposed = false;
    out.isEmpty = out.isPending = out.isMisfit = out.isChecked = false;
    out.mark = CellMark::None;
    const CellEdit* edit = snapshot.edits ? snapshot.edits->find(row, column.field) : nullptr;
    const bool isComputed = !column.design.rule.empty();  // its edits only follow those of other cells
    if (edit && !isComputed) out.mark = markOf(edit->state);
    out.isDeleted = false;
    if (const RecordEdit* record = snapshot.edits ? snapshot.edits->record(row) : nullptr) {
        if (const RecordProblem* problem = problemAt(*record, column.field))
            out.mark = std::max(out.mark, markOf(*problem));
        out.isDeleted = record->change() == RecordChange::Delete;
    }
    if (column.formatter->isMessage()) {
        for (const FieldIndex field : column.formatter->fieldsRead())
            if (!snapshot.table->column(field)) {
                out.isPending = true;
                return;
            }
        column.formatter->appendMessage(out.text, [&](FieldIndex field) { return snapshot.value(row, field); });
        out.isEmpty = out.text.empty();
        return;
    }
    const Column* values = snapshot.table->column(column.field);
    if (column.label && (edit || (values && !values->isEmpty(row))) && readLabel(snapshot, row, column, edit, out))
        return;
    if (edit && isComputed && !edit->message.empty()) {
        out.isMisfit = true;
        out.text = edit->message;
        return;
    }
    if (edit) {
        out.isMisfit = std::holds_alternative<Unfit>(edit->value);
        out.isEmpty = isEmpty(edit->value);
        out.isChecked = edit->value == Value(true);
        return column.formatter->append(out.text, edit->value);
    }
    if (!values) {
        out.isPending = true;
        return;
    }
    out.isEmpty = values->isEmpty(row);
    if (out.isEmpty) {
        if (const auto misfit = values->misfit(row)) {
            out.isMisfit = true;
            out.isEmpty = false;
            out.text = *misfit;
        }
        return;
    }
    if (column.format.type == Type::Boolean) out.isChecked = values->integer(row) != 0;
    column.formatter->append(out.text, *values, row);
}

bool isShownAsEdited(const PlannedColumn& column) {
    const FormatSpec& spec = column.format.spec;
    return !column.face && spec.style == FormatStyle::Automatic && spec.prefix.empty() && spec.suffix.empty() &&
           column.format.locale.empty() && column.format.type != Type::Real;
}

std::string editedText(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column) {
    if (column.label || column.format.type == Type::Binary) {
        CellText cell;
        readField(snapshot, row, column, cell);
        return cell.text;
    }
    return column.formatter->editText(snapshot.value(row, column.field), snapshot.table->schema.field(column.field));
}

}  // namespace jollyrow
