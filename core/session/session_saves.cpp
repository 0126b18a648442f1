// SPDX-License-Identifier: MIT
// What of the records goes to the store, and when. Covered by tests/session/records_test.cpp and joint_save_test.cpp.
#include <algorithm>

#include "core/editing/joint_save.h"
#include "core/session/session_records.h"

namespace jollyrow {

/// Those that break no check.
std::vector<SourceRow> SessionRecords::savable(const std::vector<SourceRow>& rows) const {
    std::vector<SourceRow> all;
    for (const SourceRow row : rows)
        if (const RecordEdit* record = bound_.edits()->record(row); record && !isBlocked(*record)) all.push_back(row);
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

std::size_t SessionRecords::save(const std::vector<SourceRow>& rows) { return save(rows, nullptr); }

std::size_t SessionRecords::save(const std::vector<SourceRow>& rows, const std::shared_ptr<JointSave>& joint) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    const std::vector<SourceRow> able = savable(rows);
    const auto before = bound_.edits();
    if (able.empty() || bound_.journal.save(*bound_.table, able, Atomicity::AllOrNothing, joint) == 0) return 0;
    const auto areOnTheirWay = std::count_if(able.begin(), able.end(), [&](SourceRow row) {
        return bound_.edits()->record(row) != before->record(row) && isSaving(*bound_.edits()->record(row));
    });
    view_.showEdits();
    return static_cast<std::size_t>(areOnTheirWay);
}

std::vector<SourceRow> SessionRecords::editedRows() const {
    std::vector<SourceRow> rows;
    bound_.edits()->forEachRecord([&](SourceRow row, const RecordEdit&) { rows.push_back(row); });
    return rows;
}

std::size_t SessionRecords::saveAll() { return save(editedRows()); }

Result<std::size_t> SessionRecords::saveTogether(std::span<SessionRecords* const> sessions) {
    for (const SessionRecords* session : sessions) {
        if (session->bound_.sourcePath.empty() || session->bound_.sourcePath != sessions.front()->bound_.sourcePath)
            return Error{ErrorCode::Unsupported, "Only grids on one database can be saved in one transaction."};
        if (session->saver_->isSet())
            return Error{ErrorCode::Unsupported, "An application decides about the saves of one of these grids."};
        if (session->bound_.edits()->count(EditState::Conflict) != 0)
            return Error{ErrorCode::Conflict, "A record is in conflict: decide about it first. Nothing was saved."};
        // What breaks a check holds all back, as it would hold back a record of its own.
        for (const SourceRow row : session->editedRows())
            if (isBlocked(*session->bound_.edits()->record(row)))
                return Error{ErrorCode::InvalidInput, "Something is to be put right first. Nothing was saved."};
    }
    auto joint = std::make_shared<JointSave>();
    std::size_t records = 0;
    for (SessionRecords* session : sessions) records += session->save(session->editedRows(), joint);
    joint->begin();
    return records;
}

void SessionRecords::saveAsDesigned(const std::vector<SourceRow>& rows) {
    if (bound_.design.grid.saving != Saving::EachCell) return;
    std::vector<SourceRow> able = savable(rows);
    std::erase_if(able, [this](SourceRow row) {
        const RecordFate* fate = bound_.edits()->fate(row);
        return fate && fate->change == RecordChange::Insert && fate->state != EditState::Saved &&
               fate->state != EditState::Saving;
    });
    if (!able.empty()) bound_.journal.save(*bound_.table, able, Atomicity::AllOrNothing);
}

void SessionRecords::leave(SourceRow row) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record || bound_.design.grid.saving == Saving::Together) return;
    const auto& problems = record->problems();
    if (std::any_of(problems.begin(), problems.end(), [](const RecordProblem& problem) { return problem.isWaiting; }))
        checks_.noteLeft(row);  // saved when the check has answered
    const bool isNew = record->change() == RecordChange::Insert;
    if (isNew && record->cells().empty() && record->fate()->state == EditState::Draft) return revert(row);
    if (bound_.design.grid.saving == Saving::EachRecord || isNew) save({row});
}

}  // namespace jollyrow
