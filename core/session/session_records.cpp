// SPDX-License-Identifier: MIT
// A session's records as wholes: inserted, duplicated, deleted, saved, taken back, decided after a conflict; and the
// undoing of all of it. Covered by tests/session/records_test.cpp.
#include <fmt/format.h>

#include <algorithm>

#include "core/columns/room.h"
#include "core/editing/taken_back.h"
#include "core/session/session.h"
#include "core/session/whole_record.h"

namespace jollyrow {

/// A spare row for one more record.
Result<void> Session::makeRoom() {
    if (!schema_.writable) return Error{ErrorCode::ReadOnly, schema_.whyNotWritable};
    if (!table_->hasKeys())
        return Error{ErrorCode::Unsupported, "These records have no key, so none can be added, changed or deleted."};
    if (!table_->complete)
        return Error{ErrorCode::Unsupported, "Records are still being read. New ones can be added when all are there."};
    if (!freeRow(*table_, *edits())) table_ = withRoom(*table_);  // an index of the loaded keys stays one
    // A reload's rows that came while nothing was new here have no room yet.
    if (incoming_ && incoming_->spare < table_->spare) incoming_ = withRoom(*incoming_, table_->spare);
    return {};
}

Result<SourceRow> Session::insert(const std::vector<std::pair<FieldIndex, Value>>& values) {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (auto room = makeRoom(); !room) return room.error();
    const SourceRow row = *freeRow(*table_, *edits());
    RecordEdit record;
    record.setFate(RecordFate{RecordChange::Insert, EditState::Draft, {}, {}, 0});
    for (const auto& [field, value] : values)
        record.set(field, {value, Empty{}, EditState::Draft, {}, {}});  // one that is empty is meant so: no default
    // It stands at the end as it is made, whatever is typed into it.
    RecordEdit isThere;
    isThere.setFate(*record.fate());
    orderEdits_ = orderEdits_->withRecord(row, std::move(isThere));
    EditStep step;
    step.inserted.push_back({row, values});
    history_.note(std::move(step));
    setEdits(edits()->withRecord(row, std::move(record)), row);
    showEdits(Lines::Changed);
    return row;
}

/// What is written to have a record again, or one like it.
std::vector<std::pair<FieldIndex, Value>> Session::valuesToInsert(SourceRow row, bool withKeys) const {
    std::vector<std::pair<FieldIndex, Value>> values;
    const bool isStored = journal_.isStored(row);
    for (std::size_t i = 0; i < schema_.storedFields(); ++i) {
        const auto index = static_cast<FieldIndex>(i);
        const FieldSchema& field = schema_.fields[i];
        const Column* column = table_->column(index);
        if (field.join != 0 || field.generated || !column) continue;
        if (!withKeys && (field.unique || field.primaryKeyRank != 0)) continue;
        const CellEdit* edit = edits()->find(row, index);
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

Result<SourceRow> Session::duplicate(SourceRow row) {
    auto made = insert(valuesToInsert(row, false));
    for (std::size_t i = 0; made && i < schema_.storedFields(); ++i) {
        const auto field = static_cast<FieldIndex>(i);
        const FieldSchema& of = schema_.fields[i];
        const Column* column = table_->column(field);
        if (of.join != 0 || of.generated || of.type != Type::Binary || of.unique || of.primaryKeyRank != 0) continue;
        if (!edits()->find(row, field) && (!column || std::holds_alternative<Unread>(column->value(row))))
            copyBytes(row, field, *made);
    }
    return made;
}

/// What stays in the database of a record, e.g. its picture, is read behind and stands in its double a moment later.
void Session::copyBytes(SourceRow from, FieldIndex field, SourceRow to) {
    if (!source_ || raw(from) >= table_->loaded()) return;
    RecordRequest request{
        schema_, journal_.keyOf(*table_, from), table_->rowIds != nullptr, table_->keyFields, {field}};
    enquiries_.ask([request = std::move(request), source = source_] { return source->valuesOf(request); },
                   [this, ref = refOf(to), name = schema_.field(field).name](const Result<std::vector<Value>>& bytes) {
                       if (bytes && isEmpty(bytes->front())) return;
                       const auto row = now(ref);
                       const auto at = schema_.find(name);
                       if (bytes && row && at && !edits()->find(*row, *at)) return edit(*row, *at, bytes->front());
                       if (!listener_.onFailure || (bytes && row)) return;
                       const std::string why = bytes ? "The records were read again meanwhile." : bytes.error().message;
                       listener_.onFailure({ErrorCode::NotFound, fmt::format("{} was not copied. {}", name, why)});
                   });
}

void Session::remove(const std::vector<SourceRow>& rows) {
    JOLLYROW_REQUIRE(owner_.isHere());
    auto next = std::make_shared<Edits>(*edits());
    std::vector<SourceRow> changed;
    EditStep step;
    for (const SourceRow row : rows) {
        const RecordEdit* known = next->record(row);
        const RecordFate* fate = known ? known->fate() : nullptr;
        if (fate && (fate->change == RecordChange::Delete || fate->state == EditState::Saving)) continue;
        if (!fate && raw(row) >= table_->loaded()) continue;  // no record
        // What is not known whole is not made again in part.
        const bool isStored = journal_.isStored(row);
        const bool comesBack = !isStored || isKnownWhole(*table_, edits().get(), row);
        step.removed.push_back(
            {row, comesBack ? valuesToInsert(row, true) : decltype(EditStep::Removed::values){}, isStored});
        changed.push_back(row);
        if (!isStored) {
            next->setRecord(row, {});
            history_.noteGone({&row, 1});
            continue;
        }
        RecordEdit record = known ? *known : RecordEdit();
        RecordFate gone{RecordChange::Delete, EditState::Draft, {}, {}, 0};
        if (fate) gone.key = fate->key;
        record.setFate(std::move(gone));
        next->setRecord(row, std::move(record));
    }
    if (changed.empty()) return;
    history_.note(std::move(step));
    setEdits(std::move(next), changed);
    if (design_.grid.saving != Saving::Together) journal_.save(*table_, changed, Atomicity::AllOrNothing);
    showEdits(Lines::Changed);
}

/// Those that break no check.
std::vector<SourceRow> Session::savable(const std::vector<SourceRow>& rows) const {
    std::vector<SourceRow> all;
    for (const SourceRow row : rows)
        if (const RecordEdit* record = edits()->record(row); record && !isBlocked(*record)) all.push_back(row);
    return all;
}

namespace {
bool isSaving(const RecordEdit& record) {
    const auto& cells = record.cells();
    return (record.fate() && record.fate()->state == EditState::Saving) ||
           std::any_of(cells.begin(), cells.end(),
                       [](const RecordEdit::Cell& cell) { return cell.second.state == EditState::Saving; });
}
}  // namespace

std::size_t Session::save(const std::vector<SourceRow>& rows) { return save(rows, nullptr); }

std::size_t Session::save(const std::vector<SourceRow>& rows, const std::shared_ptr<JointSave>& joint) {
    JOLLYROW_REQUIRE(owner_.isHere());
    const std::vector<SourceRow> able = savable(rows);
    const auto before = edits();
    if (able.empty() || journal_.save(*table_, able, Atomicity::AllOrNothing, joint) == 0) return 0;
    const auto areOnTheirWay = std::count_if(able.begin(), able.end(), [&](SourceRow row) {
        return edits()->record(row) != before->record(row) && isSaving(*edits()->record(row));
    });
    showEdits();
    return static_cast<std::size_t>(areOnTheirWay);
}

std::vector<SourceRow> Session::editedRows() const {
    std::vector<SourceRow> rows;
    edits()->forEachRecord([&](SourceRow row, const RecordEdit&) { rows.push_back(row); });
    return rows;
}

std::size_t Session::saveAll() { return save(editedRows()); }

Result<std::size_t> Session::saveTogether(std::span<Session* const> sessions) {
    for (const Session* session : sessions) {
        if (session->sourcePath_.empty() || session->sourcePath_ != sessions.front()->sourcePath_)
            return Error{ErrorCode::Unsupported, "Only grids on one database can be saved in one transaction."};
        if (session->saver_->isSet())
            return Error{ErrorCode::Unsupported, "An application decides about the saves of one of these grids."};
        if (session->edits()->count(EditState::Conflict) != 0)
            return Error{ErrorCode::Conflict, "A record is in conflict: decide about it first. Nothing was saved."};
        // What breaks a check holds all back, as it would hold back a record of its own.
        for (const SourceRow row : session->editedRows())
            if (isBlocked(*session->edits()->record(row)))
                return Error{ErrorCode::InvalidInput, "Something is to be put right first. Nothing was saved."};
    }
    auto joint = std::make_shared<JointSave>();
    std::size_t records = 0;
    for (Session* session : sessions) records += session->save(session->editedRows(), joint);
    joint->begin();
    return records;
}

/// What was typed goes to the database as the design says; a new record only when it is left.
void Session::saveAsDesigned(const std::vector<SourceRow>& rows) {
    if (design_.grid.saving != Saving::EachCell) return;
    std::vector<SourceRow> able = savable(rows);
    std::erase_if(able, [this](SourceRow row) {
        const RecordFate* fate = edits()->fate(row);
        return fate && fate->change == RecordChange::Insert && fate->state != EditState::Saved &&
               fate->state != EditState::Saving;
    });
    if (!able.empty()) journal_.save(*table_, able, Atomicity::AllOrNothing);
}

void Session::leave(SourceRow row) {
    const RecordEdit* record = edits()->record(row);
    if (!record || design_.grid.saving == Saving::Together) return;
    const auto& problems = record->problems();
    if (std::any_of(problems.begin(), problems.end(), [](const RecordProblem& problem) { return problem.isWaiting; }))
        leftWaiting_.insert(row);  // saved when the check has answered
    const bool isNew = record->change() == RecordChange::Insert;
    if (isNew && record->cells().empty() && record->fate()->state == EditState::Draft) return revert(row);
    if (design_.grid.saving == Saving::EachRecord || isNew) save({row});
}

/// The record without what is not saved of it; nullopt when something of it is on its way.
std::optional<RecordEdit> Session::reverted(SourceRow row, const RecordEdit& record) const {
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
        if (fate->change == RecordChange::Delete && fate->state != EditState::Saved && raw(row) >= table_->loaded())
            left.setFate(RecordFate{RecordChange::Insert, EditState::Saved, {}, fate->key, journal_.keyMoves()});
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
        const Column* column = table_->column(field);
        const Value stored = edit.theirs ? *edit.theirs : edit.original;
        if (!column || !(column->value(row) == stored)) left.set(field, {stored, stored, EditState::Saved, {}, {}});
    }
    return left;
}

void Session::revert(SourceRow row) {
    const RecordEdit* record = edits()->record(row);
    if (!record) return;
    auto left = reverted(row, *record);
    if (!left) return;
    if (isLostElsewhere(*record)) journal_.noteLost(*table_, row);
    const bool linesChanged = record->change() != left->change();
    setEdits(edits()->withRecord(row, std::move(*left)), row);
    showEdits(linesChanged ? Lines::Changed : Lines::Same);
}

void Session::revertAll() {
    auto next = std::make_shared<Edits>(*edits());
    std::vector<SourceRow> rows;
    edits()->forEachRecord([&](SourceRow row, const RecordEdit& record) {
        if (auto left = reverted(row, record)) {
            if (isLostElsewhere(record)) journal_.noteLost(*table_, row);
            next->setRecord(row, std::move(*left));
            rows.push_back(row);
        }
    });
    setEdits(std::move(next), rows);
    showEdits(Lines::Changed);
}

void Session::resolve(SourceRow row, const std::map<FieldIndex, Keep>& choices) {
    const RecordEdit* record = edits()->record(row);
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
    setEdits(edits()->withRecord(row, std::move(next)), row);
    if (save({row}) == 0) showEdits();
}

Result<SourceRow> Session::makeAgain(SourceRow row) {
    journal_.noteLost(*table_, row);
    auto made = insert(valuesToInsert(row, true));
    if (!made) return made;
    // The one that is gone is let go here, too.
    RecordEdit gone;
    gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, {}, 0});
    setEdits(edits()->withRecord(row, std::move(gone)), row);
    history_.moved(row, *made);
    if (save({*made}) == 0) showEdits(Lines::Changed);
    return made;
}

void Session::overrideWarning(SourceRow row, const std::string& check) {
    const RecordEdit* record = edits()->record(row);
    if (!record) return;
    std::vector<RecordProblem> problems = record->problems();
    for (RecordProblem& problem : problems)
        if (problem.isWarning && problem.check == check) problem.isOverridden = true;
    if (problems == record->problems()) return;
    RecordEdit next = *record;
    next.setProblems(std::move(problems));
    journal_.setEdits(edits()->withRecord(row, std::move(next)));
    saveAsDesigned({row});
    showEdits();
}

void Session::dependentsOf(const std::vector<SourceRow>& rows,
                           std::function<void(const Result<std::vector<Dependents>>&)> done) {
    std::vector<RecordRequest> records;
    for (const SourceRow row : rows) {
        if (!journal_.isStored(row) || !table_->hasKeys()) continue;
        RecordRequest request;
        request.schema = records.empty() ? schema_ : TableSchema();
        request.key = journal_.keyOf(*table_, row);
        request.keyIsRowId = table_->rowIds != nullptr;
        request.keyFields = table_->keyFields;
        records.push_back(std::move(request));
    }
    enquiries_.ask(
        Enquiries::Kind::Dependents,
        [records = std::move(records), source = source_](const Cancel& cancel) {
            return source->dependentsOf(records, cancel);
        },
        std::move(done));
}

/// False when nothing of it could be done: somebody has changed it since.
bool Session::apply(const EditStep& step, bool back) {
    bool done = false;
    std::vector<CellWrite> cells;
    std::vector<Edits::Place> untyped;
    const auto addCell = [&](const EditStep::Cell& cell) {
        if (EditHistory::isLost(cell.row)) return;
        const CellEdit* edited = edits()->find(cell.row, cell.field);
        const Column* column = table_->column(cell.field);
        const Value now = edited ? edited->value : column ? column->value(cell.row) : Value(Empty{});
        if (!(now == (back ? cell.after : cell.before))) return;
        if (back && cell.isUntyped) return untyped.push_back({cell.row, cell.field});
        cells.push_back(
            {cell.row, cell.field, back ? cell.before : cell.after, back ? cell.labelBefore : cell.labelAfter});
    };
    back ? std::for_each(step.cells.rbegin(), step.cells.rend(), addCell)
         : std::for_each(step.cells.begin(), step.cells.end(), addCell);
    std::vector<SourceRow> gone;
    for (const auto& record : back ? step.inserted : step.removed)
        if (!EditHistory::isLost(record.row)) gone.push_back(record.row);
    if (!cells.empty()) edit(cells);
    for (const auto& [row, field] : untyped) putBack(row, field);
    if (!gone.empty()) remove(gone);
    done = !cells.empty() || !untyped.empty() || !gone.empty();
    std::vector<SourceRow> made;
    for (const auto& record : back ? step.removed : step.inserted) {
        const bool isLost = EditHistory::isLost(record.row);
        const RecordFate* fate = isLost ? nullptr : edits()->fate(record.row);
        // It may be there still: what was on its way could not be taken back.
        const bool isThere =
            fate ? fate->change == RecordChange::Insert : !isLost && raw(record.row) < table_->loaded();
        if (isThere) continue;
        if (fate && fate->change == RecordChange::Delete && fate->state != EditState::Saved) {
            revert(record.row);
            done = true;
        } else if ((back && record.wasStored && record.values.empty()) || !history_.isGoneByUs(record.row)) {
            continue;  // it cannot be made again as it was; or somebody else has deleted it, or given it another key
        } else if (auto again = insert(record.values)) {
            history_.moved(record.row, *again);
            if (record.wasStored) made.push_back(*again);
            done = true;
        }
    }
    if (design_.grid.saving != Saving::Together && !made.empty()) save(made);
    return done;
}

namespace {
/// Some record of the step is being inserted or deleted just now: what it becomes is not known yet.
bool isOnItsWay(const EditStep& step, const Edits& edits) {
    const auto any = [&](const auto& records) {
        return std::any_of(records.begin(), records.end(), [&](const auto& record) {
            const RecordFate* fate = EditHistory::isLost(record.row) ? nullptr : edits.fate(record.row);
            return fate && fate->state == EditState::Saving;
        });
    };
    return any(step.inserted) || any(step.removed) || any(step.cells);
}
}  // namespace

bool Session::undo() {
    const auto step = history_.undo();
    if (!step) return false;
    if (isOnItsWay(*step, *edits())) {
        history_.redo();  // it stays where it was
        return false;
    }
    history_.setReplaying(true);
    const bool done = apply(*step, true);
    history_.setReplaying(false);
    return done;
}

bool Session::redo() {
    const auto step = history_.redo();
    if (!step) return false;
    if (isOnItsWay(*step, *edits())) {
        history_.undo();
        return false;
    }
    history_.setReplaying(true);
    const bool done = apply(*step, false);
    history_.setReplaying(false);
    return done;
}

}  // namespace jollyrow
