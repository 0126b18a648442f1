// SPDX-License-Identifier: MIT
// What others do to records meets what was typed here. Covered by tests/sources/objects_test.cpp.
#include <algorithm>

#include "core/editing/record_journal.h"

namespace jollyrow {
namespace {

bool hasTyped(const RecordEdit& record) {
    return std::any_of(record.cells().begin(), record.cells().end(),
                       [](const RecordEdit::Cell& cell) { return isUnsaved(cell.second.state); });
}

bool isSaving(const RecordEdit& record) {
    return (record.fate() && record.fate()->state == EditState::Saving) ||
           std::any_of(record.cells().begin(), record.cells().end(), [](const RecordEdit::Cell& cell) {
               return cell.second.state == EditState::Saving || cell.second.sent;
           });
}

/// What was typed into a record that is gone must be decided.
void loseRecord(RecordEdit& record, const std::string& message) {
    for (const auto& [field, edit] : std::vector<RecordEdit::Cell>(record.cells())) {
        if (!isUnsaved(edit.state)) continue;
        CellEdit lost = edit;
        lost.state = EditState::Conflict;
        lost.theirs = nullptr;
        lost.message = message;
        record.set(field, std::move(lost));
    }
}

}  // namespace

bool RecordJournal::noteElsewhere(const Table& table, SourceRow row, const ElsewhereChange& change, Edits& next) {
    const RecordEdit* known = next.record(row);
    RecordEdit record = known ? *known : RecordEdit();
    if (isSaving(record)) return false;
    const RecordFate* fate = record.fate();
    if (change.isGone) {
        if (hasTyped(record)) {
            loseRecord(record, conflictWords_ ? conflictWords_(Conflict{}) : words(Conflict{}, table.schema));
        } else {
            if (loading_) noteDeleted(table, row);
            RecordEdit gone;
            gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, fate ? fate->key : RecordKey{}, 0});
            record = std::move(gone);
        }
        next.setRecord(row, std::move(record));
        return true;
    }
    for (const auto& [field, now] : change.values) {
        const CellEdit* cell = record.find(field);
        const Column* column = table.column(field);
        if (!cell && !column) continue;
        const Value held = !cell ? column->value(row) : cell->state == EditState::Saved ? cell->value : cell->original;
        const bool isDecided = cell && cell->state == EditState::Conflict && cell->theirs && *cell->theirs == now;
        if ((held == now && !(cell && cell->state == EditState::Conflict)) || isDecided) continue;
        if (loading_) savedMeanwhile_.cells[{row, field}].push_back(held);
        if (!cell || cell->state == EditState::Saved || cell->value == now) {
            record.set(field, {now, now, EditState::Saved, {}, {}});
            continue;
        }
        CellEdit typed = *cell;
        if (held == now) {  // they took it back: what is typed here is the only change again
            typed.state = EditState::Draft;
            typed.theirs = nullptr;
            typed.message.clear();
        } else {
            const Conflict conflict{{{field, cell->original, now}}, {}};
            typed.state = EditState::Conflict;
            typed.theirs = std::make_shared<const Value>(now);
            typed.message = conflictWords_ ? conflictWords_(conflict) : words(conflict, table.schema);
        }
        record.set(field, std::move(typed));
    }
    next.setRecord(row, std::move(record));
    return true;
}

void RecordJournal::addElsewhere(SourceRow row, const ElsewhereChange& change, Edits& next) {
    RecordEdit record;
    record.setFate(RecordFate{RecordChange::Insert, EditState::Saved, {}, change.key, keyMoves_.size()});
    for (const auto& [field, value] : change.values) record.set(field, {value, value, EditState::Saved, {}, {}});
    if (loading_) savedMeanwhile_.inserted.insert(row);
    next.setRecord(row, std::move(record));
}

}  // namespace jollyrow
