// SPDX-License-Identifier: MIT
// Records as wholes. Covered by tests/session/records_test.cpp and deleting_test.cpp.
#include "core/session/session_records.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/columns/room.h"
#include "core/editing/joint_save.h"
#include "core/editing/taken_back.h"
#include "core/session/whole_record.h"

namespace jollyrow {

SessionRecords::SessionRecords(BoundRecords& bound, RecordFinder& finder, EditedView& view, SessionChecks& checks,
                               Enquiries& enquiries)
    : bound_(bound),
      finder_(finder),
      view_(view),
      checks_(checks),
      enquiries_(enquiries),
      saver_(std::make_shared<SaverDesk>(bound.post)) {}

void SessionRecords::begin(StoreOpener store) {
    bound_.openStore = store;
    bound_.journal.begin(SaverDesk::before(saver_, std::move(store)));
    bound_.history.clear();
    forgetRead();
}

void SessionRecords::finish() {
    saver_->close();
    bound_.journal.finish();
}

/// A spare row for one more record.
Result<void> SessionRecords::makeRoom() {
    if (!bound_.schema.writable) return Error{ErrorCode::ReadOnly, bound_.schema.whyNotWritable};
    if (!bound_.table->hasKeys())
        return Error{ErrorCode::Unsupported, "These records have no key, so none can be added, changed or deleted."};
    if (!bound_.table->complete)
        return Error{ErrorCode::Unsupported, "Records are still being read. New ones can be added when all are there."};
    view_.makeRoom();
    return {};
}

Result<SourceRow> SessionRecords::insert(const Values& values, std::shared_ptr<const TakenAlong> bringsBack) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    if (auto room = makeRoom(); !room) return room.error();
    const SourceRow row = *freeRow(*bound_.table, *bound_.edits());
    RecordEdit record;
    record.setFate(RecordFate{RecordChange::Insert, EditState::Draft, {}, {}, 0, std::move(bringsBack)});
    for (const auto& [field, value] : values)
        record.set(field, {value, Empty{}, EditState::Draft, {}, {}});  // one that is empty is meant so: no default
    view_.standAsMade(row, *record.fate());
    EditStep step;
    step.inserted.push_back({row, values});
    bound_.history.note(std::move(step));
    view_.setEdits(bound_.edits()->withRecord(row, std::move(record)), row);
    view_.showEdits(EditedView::Lines::Changed);
    return row;
}

/// What is written to have a record again, or one like it.
SessionRecords::Values SessionRecords::valuesToInsert(SourceRow row, bool withKeys) const {
    Values values;
    const bool isStored = bound_.journal.isStored(row);
    for (std::size_t i = 0; i < bound_.schema.storedFields(); ++i) {
        const auto index = static_cast<FieldIndex>(i);
        const FieldSchema& field = bound_.schema.fields[i];
        const Column* column = bound_.table->column(index);
        if (field.join != 0 || field.generated || !column) continue;
        if (!withKeys && (field.unique || field.primaryKeyRank != 0)) continue;
        const CellEdit* edit = bound_.edits()->find(row, index);
        if (!edit && !isStored) continue;  // of a draft what nobody has typed into is the database's to give
        Value value = edit ? edit->value : column->value(row);
        // Empty ones, too: left out they would get the database's default. Of what fits no type the text as it stands.
        const auto* odd = std::get_if<Unfit>(&value);
        if (std::holds_alternative<Unread>(value) || (odd && (!withKeys || odd->stored == Stored::Blob))) continue;
        if (isEmpty(value) && (field.required || field.primaryKeyRank != 0)) continue;
        values.emplace_back(index, std::move(value));
    }
    return values;
}

Result<SourceRow> SessionRecords::duplicate(SourceRow row) {
    auto made = insert(valuesToInsert(row, false));
    for (std::size_t i = 0; made && i < bound_.schema.storedFields(); ++i) {
        const auto field = static_cast<FieldIndex>(i);
        const FieldSchema& of = bound_.schema.fields[i];
        const Column* column = bound_.table->column(field);
        if (of.join != 0 || of.generated || of.type != Type::Binary || of.unique || of.primaryKeyRank != 0) continue;
        if (!bound_.edits()->find(row, field) && (!column || std::holds_alternative<Unread>(column->value(row))))
            copyBytes(row, field, *made);
    }
    return made;
}

/// What stays in the database of a record, e.g. its picture, is read behind and stands in its double a moment later.
void SessionRecords::copyBytes(SourceRow from, FieldIndex field, SourceRow to) {
    if (!bound_.source || raw(from) >= bound_.table->loaded()) return;
    enquiries_.ask(
        [request = bound_.request(from, {field}), source = bound_.source] { return source->valuesOf(request); },
        [this, ref = finder_.refOf(to),
         name = bound_.schema.field(field).name](const Result<std::vector<Value>>& bytes) {
            if (bytes && isEmpty(bytes->front())) return;
            const auto row = finder_.now(ref);
            const auto at = bound_.schema.find(name);
            if (bytes && row && at && !bound_.edits()->find(*row, *at)) return edit(*row, *at, bytes->front());
            if (bytes && row) return;
            const std::string why = bytes ? "The records were read again meanwhile." : bytes.error().message;
            bound_.fail({ErrorCode::NotFound, fmt::format("{} was not copied. {}", name, why)});
        });
}

/// Marks the record as deleted, or lets go a draft of one; false when there is nothing to delete, or it is on its way.
bool SessionRecords::drop(SourceRow row, Edits& next, EditStep& step) {
    const RecordEdit* known = next.record(row);
    const RecordFate* fate = known ? known->fate() : nullptr;
    if (fate && (fate->change == RecordChange::Delete || fate->state == EditState::Saving)) return false;
    if (!fate && raw(row) >= bound_.table->loaded()) return false;  // no record
    // What is not known whole is not made again in part.
    const bool isStored = bound_.journal.isStored(row);
    const bool comesBack = !isStored || isKnownWhole(*bound_.table, bound_.edits().get(), row);
    step.removed.push_back({row, comesBack ? valuesToInsert(row, true) : Values{}, isStored});
    if (!isStored) {
        next.setRecord(row, {});
        bound_.history.noteGone({&row, 1});
        return true;
    }
    RecordEdit record = known ? *known : RecordEdit();
    RecordFate gone{RecordChange::Delete, EditState::Draft, {}, {}, 0};
    if (fate) gone.key = fate->key;
    record.setFate(std::move(gone));
    next.setRecord(row, std::move(record));
    return true;
}

void SessionRecords::remove(const std::vector<SourceRow>& rows) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    auto next = std::make_shared<Edits>(*bound_.edits());
    std::vector<SourceRow> changed;
    EditStep step;
    bool linesChanged = false;  // a stored one stays in sight until the store has let it go
    for (const SourceRow row : rows) {
        if (!drop(row, *next, step)) continue;
        changed.push_back(row);
        linesChanged = linesChanged || !bound_.journal.isStored(row);
    }
    if (changed.empty()) return;
    bound_.history.note(std::move(step));
    view_.setEdits(std::move(next), changed);
    if (bound_.design.grid.saving != Saving::Together)
        bound_.journal.save(*bound_.table, changed, Atomicity::AllOrNothing);
    view_.showEdits(linesChanged ? EditedView::Lines::Changed : EditedView::Lines::Same);
}

/// The record without what is not saved of it; nullopt when something of it is on its way.
std::optional<RecordEdit> SessionRecords::reverted(SourceRow row, const RecordEdit& record) const {
    RecordEdit left;
    if (isLostElsewhere(record)) {  // nothing is left that what was typed could go back to
        left.setFate(RecordFate{
            RecordChange::Delete, EditState::Saved, {}, record.fate() ? record.fate()->key : RecordKey{}, 0});
        return left;
    }
    if (const RecordFate* fate = record.fate()) {
        if (fate->state == EditState::Saving) return std::nullopt;
        if (fate->change == RecordChange::Insert && fate->state != EditState::Saved) return left;
        if (fate->state == EditState::Saved) left.setFate(*fate);
        // One that was inserted here, and then deleted in a draft, is an inserted one again.
        if (fate->change == RecordChange::Delete && fate->state != EditState::Saved &&
            raw(row) >= bound_.table->loaded())
            left.setFate(RecordFate{RecordChange::Insert, EditState::Saved, {}, fate->key, bound_.journal.keyMoves()});
    }
    for (const auto& [field, edit] : record.cells()) {
        if (edit.state == EditState::Saved || edit.state == EditState::Saving) {
            left.set(field, edit);
            continue;
        }
        if (auto way = onItsWayStill(edit)) {
            left.set(field, std::move(*way));
            continue;
        }
        const Column* column = bound_.table->column(field);
        const Value stored = edit.theirs ? *edit.theirs : edit.original;
        if (!column || !(column->value(row) == stored)) left.set(field, {stored, stored, EditState::Saved, {}, {}});
    }
    return left;
}

void SessionRecords::revert(SourceRow row) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record) return;
    auto left = reverted(row, *record);
    if (!left) return;
    if (isLostElsewhere(*record)) bound_.journal.noteLost(*bound_.table, row);
    const bool linesChanged = record->change() != left->change();
    view_.setEdits(bound_.edits()->withRecord(row, std::move(*left)), row);
    view_.showEdits(linesChanged ? EditedView::Lines::Changed : EditedView::Lines::Same);
}

void SessionRecords::revertAll() {
    auto next = std::make_shared<Edits>(*bound_.edits());
    std::vector<SourceRow> rows;
    bound_.edits()->forEachRecord([&](SourceRow row, const RecordEdit& record) {
        if (auto left = reverted(row, record)) {
            if (isLostElsewhere(record)) bound_.journal.noteLost(*bound_.table, row);
            next->setRecord(row, std::move(*left));
            rows.push_back(row);
        }
    });
    view_.setEdits(std::move(next), rows);
    view_.showEdits(EditedView::Lines::Changed);
}

void SessionRecords::resolve(SourceRow row, const std::map<FieldIndex, Keep>& choices) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record) return;
    RecordEdit next = *record;
    for (const auto& [field, edit] : record->cells()) {
        if (edit.state != EditState::Conflict || !edit.theirs) continue;
        const auto choice = choices.find(field);
        CellEdit decided = edit;
        decided.original = *edit.theirs;
        decided.theirs = nullptr;
        decided.message.clear();
        decided.state = EditState::Draft;
        if (choice != choices.end() && choice->second == Keep::Theirs) {
            decided.value = decided.original;
            decided.label.clear();
            decided.state = EditState::Saved;
        }
        next.set(field, std::move(decided));
    }
    if (const RecordFate* fate = record->fate(); fate && fate->state == EditState::Conflict) {
        RecordFate again = *fate;
        again.state = EditState::Draft;
        again.message.clear();
        next.setFate(std::move(again));
    }
    view_.setEdits(bound_.edits()->withRecord(row, std::move(next)), row);
    if (save({row}) == 0) view_.showEdits();
}

Result<SourceRow> SessionRecords::makeAgain(SourceRow row) {
    bound_.journal.noteLost(*bound_.table, row);
    auto made = insert(valuesToInsert(row, true));
    if (!made) return made;
    // The one that is gone is let go here, too.
    RecordEdit gone;
    gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, {}, 0});
    view_.setEdits(bound_.edits()->withRecord(row, std::move(gone)), row);
    bound_.history.moved(row, *made);
    if (save({*made}) == 0) view_.showEdits(EditedView::Lines::Changed);
    return made;
}

void SessionRecords::overrideWarning(SourceRow row, const std::string& check) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record) return;
    std::vector<RecordProblem> problems = record->problems();
    for (RecordProblem& problem : problems)
        if (problem.isWarning && problem.check == check) problem.isOverridden = true;
    if (problems == record->problems()) return;
    RecordEdit next = *record;
    next.setProblems(std::move(problems));
    bound_.journal.setEdits(bound_.edits()->withRecord(row, std::move(next)));
    saveAsDesigned({row});
    view_.showEdits();
}

}  // namespace jollyrow
