// SPDX-License-Identifier: MIT
// Cells of records: typed, put back, read. Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include <algorithm>
#include <memory>

#include "core/editing/taken_back.h"
#include "core/session/session_records.h"

namespace jollyrow {

/// False when it is what the cell shows already, or the record is being deleted.
bool SessionRecords::take(const CellWrite& cell, Edits& next) {
    const auto [row, field, value, label] = cell;
    if (const RecordFate* fate = next.fate(row); fate && fate->change == RecordChange::Delete) return false;
    if (raw(row) >= bound_.table->loaded() && !next.fate(row)) return false;  // no record
    const CellEdit* existing = next.find(row, field);
    const Column* column = bound_.table->column(field);
    const Value shown = existing ? existing->value : column ? column->value(row) : Value(Empty{});
    const bool isSettled =
        !existing || (existing->state != EditState::Refused && existing->state != EditState::Conflict);
    if (shown == value && isSettled) return false;
    if (!existing && column && column->misfit(row) && isEmpty(value)) return false;
    CellEdit typed{value, {}, EditState::Draft, {}, label};
    typed.original = existing ? existing->state == EditState::Saved ? existing->value : existing->original : shown;
    if (existing) typed.sent = existing->sent;
    if (existing && existing->state == EditState::Conflict) {  // typed over, it is still to be decided
        typed.state = EditState::Conflict;
        typed.theirs = existing->theirs;
        typed.message = existing->message;
    }
    if (auto* unread = std::get_if<Unread>(&typed.original))
        if (const auto known = digests_.find({row, field}); known != digests_.end()) unread->digest = known->second;
    next.set(row, field, std::move(typed));
    return true;
}

void SessionRecords::edit(SourceRow row, FieldIndex field, Value value, std::string label) {
    edit({{row, field, std::move(value), std::move(label)}});
}

void SessionRecords::edit(const std::vector<CellWrite>& cells) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    auto next = std::make_shared<Edits>(*bound_.edits());
    std::map<SourceRow, std::set<FieldIndex>> taken;
    EditStep step;
    for (const CellWrite& cell : cells) {
        const CellEdit* before = next->find(cell.row, cell.field);
        const Column* column = bound_.table->column(cell.field);
        EditStep::Cell undone{cell.row,
                              cell.field,
                              before   ? before->value
                              : column ? column->value(cell.row)
                                       : Value(Empty{}),
                              cell.value,
                              before ? before->label : std::string(),
                              cell.label,
                              !before && !bound_.journal.isStored(cell.row)};
        if (!take(cell, *next)) continue;
        taken[cell.row].insert(cell.field);
        step.cells.push_back(std::move(undone));
    }
    if (taken.empty()) return;
    std::vector<SourceRow> rows;
    for (const auto& [row, fields] : taken) rows.push_back(row);
    view_.recording(rows, false, [&] { view_.setEdits(std::move(next), rows); });
    view_.noteOutOfPlace(taken);
    bound_.history.note(std::move(step));
    saveAsDesigned(rows);
    view_.showEdits();
}

void SessionRecords::retry(SourceRow row, FieldIndex field) {
    const CellEdit* existing = bound_.edits()->find(row, field);
    if (!existing || (existing->state != EditState::Refused && existing->state != EditState::Conflict)) return;
    if (existing->state == EditState::Conflict && existing->theirs) return resolve(row, {});
    CellEdit again = *existing;
    again.state = EditState::Draft;
    view_.setEdits(bound_.edits()->with(row, field, std::move(again)), row);
    save({row});
}

void SessionRecords::putBack(SourceRow row, FieldIndex field) {
    const CellEdit* existing = bound_.edits()->find(row, field);
    if (!existing || existing->state == EditState::Saved || existing->state == EditState::Saving) return;
    if (isLostElsewhere(*bound_.edits()->record(row))) return revert(row);
    const Column* column = bound_.table->column(field);
    const Value stored = existing->theirs ? *existing->theirs : existing->original;
    const bool asLoaded = column && column->value(row) == stored;
    const bool isNew = !bound_.journal.isStored(row);
    view_.recording({&row, 1}, true, [&] {
        if (auto left = onItsWayStill(*existing))
            view_.setEdits(bound_.edits()->with(row, field, std::move(*left)), row);
        else if (asLoaded || isNew)
            view_.setEdits(bound_.edits()->without(row, field), row);
        else
            view_.setEdits(bound_.edits()->with(row, field, {stored, stored, EditState::Saved, {}, {}}), row);
    });
    view_.showEdits();
}

std::function<Result<Value>()> SessionRecords::bytesReader(SourceRow row, FieldIndex field) const {
    Value known = bound_.shown(row, field);
    if (!std::holds_alternative<Unread>(known)) return [known = std::move(known)]() -> Result<Value> { return known; };
    return [request = bound_.request(row, {field}), source = bound_.source]() -> Result<Value> {
        auto values = source->valuesOf(request);
        if (!values) return values.error();
        return std::move(values->front());
    };
}

void SessionRecords::noteRead(std::uint32_t epoch, SourceRow row, FieldIndex field, std::uint64_t digest) {
    if (epoch == bound_.epoch) digests_[{row, field}] = digest;
}

}  // namespace jollyrow
