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

/// Without boxing the value, which would take most of the time when thousands are told at once.
bool holds(const Column& column, SourceRow row, const Value& value) {
    if (!column.isEmpty(row)) {
        if (const auto* number = std::get_if<std::int64_t>(&value);
            number && column.type() == Type::Integer && !column.isWide())
            return column.integer(row) == *number;
        if (const auto* text = std::get_if<std::string>(&value); text && column.type() == Type::Text)
            return column.text(row) == *text;
        if (const auto* date = std::get_if<Date>(&value); date && column.type() == Type::Date)
            return column.integer(row) == date->days;
        if (const auto* truth = std::get_if<bool>(&value); truth && column.type() == Type::Boolean)
            return (column.integer(row) != 0) == *truth;
    }
    return column.value(row) == value;
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
            loseRecord(record, conflictSaid(Conflict{}, table, {}));
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
        if (!cell && (!column || holds(*column, row, now))) continue;
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
            typed.message = conflictSaid(conflict, table, change.values);
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
