// SPDX-License-Identifier: MIT
// Covered by tests/session/records_test.cpp and deleting_test.cpp.
#include "core/session/session_steps.h"

#include <algorithm>
#include <vector>

namespace jollyrow {

SessionSteps::SessionSteps(BoundRecords& bound, SessionRecords& records) : bound_(bound), records_(records) {
    bound_.history.setNoted([this](const EditStep& step) {
        if (bound_.listener.onStep) bound_.listener.onStep(step);
    });
}

/// What cells held goes back where they still hold what the step made of them.
bool SessionSteps::applyCells(const EditStep& step, bool back) {
    std::vector<CellWrite> cells;
    std::vector<Edits::Place> untyped;
    const auto addCell = [&](const EditStep::Cell& cell) {
        if (EditHistory::isLost(cell.row)) return;
        if (!(bound_.shown(cell.row, cell.field) == (back ? cell.after : cell.before))) return;
        if (back && cell.isUntyped) return untyped.push_back({cell.row, cell.field});
        cells.push_back(
            {cell.row, cell.field, back ? cell.before : cell.after, back ? cell.labelBefore : cell.labelAfter});
    };
    back ? std::for_each(step.cells.rbegin(), step.cells.rend(), addCell)
         : std::for_each(step.cells.begin(), step.cells.end(), addCell);
    if (!cells.empty()) records_.edit(cells);
    for (const auto& [row, field] : untyped) records_.putBack(row, field);
    return !cells.empty() || !untyped.empty();
}

/// Records that the step took away, or had made before it was taken back.
bool SessionSteps::makeAgain(const EditStep& step, bool back) {
    bool done = false;
    std::vector<SourceRow> made;
    for (const auto& record : back ? step.removed : step.inserted) {
        const bool isLost = EditHistory::isLost(record.row);
        const RecordFate* fate = isLost ? nullptr : bound_.edits()->fate(record.row);
        // It may be there still: what was on its way could not be taken back.
        const bool isThere =
            fate ? fate->change == RecordChange::Insert : !isLost && raw(record.row) < bound_.table->loaded();
        if (isThere) continue;
        if (fate && fate->change == RecordChange::Delete && fate->state != EditState::Saved) {
            records_.revert(record.row);
            done = true;
        } else if (record.isTooMuch || (back && record.wasStored && record.values.empty()) ||
                   !bound_.history.isGoneByUs(record.row)) {
            continue;  // it cannot be made again as it was; or somebody else has deleted it, or given it another key
        } else if (auto again = records_.insert(record.values, record.takenAlong)) {
            bound_.history.moved(record.row, *again);
            if (record.wasStored) made.push_back(*again);
            done = true;
        }
    }
    if (bound_.design.grid.saving != Saving::Together && !made.empty()) records_.save(made);
    return done;
}

/// False when nothing of it could be done: somebody has changed it since.
bool SessionSteps::apply(const EditStep& step, bool back) {
    std::vector<SourceRow> gone;
    for (const auto& record : back ? step.inserted : step.removed)
        if (!EditHistory::isLost(record.row)) gone.push_back(record.row);
    bound_.history.setReplaying(true);
    const bool cellsDone = applyCells(step, back);
    if (!gone.empty()) records_.remove(gone);
    const bool recordsDone = makeAgain(step, back);
    bound_.history.setReplaying(false);
    return cellsDone || !gone.empty() || recordsDone;
}

namespace {
/// Some record of the step is being inserted or deleted just now: what it becomes is not known yet.
bool isOnItsWay(const EditStep& step, const RecordJournal& journal) {
    const auto any = [&](const auto& records) {
        return std::any_of(records.begin(), records.end(), [&](const auto& record) {
            if (EditHistory::isLost(record.row)) return journal.isOnItsWay(record.row);
            const RecordFate* fate = journal.edits()->fate(record.row);
            return fate && fate->state == EditState::Saving;
        });
    };
    return any(step.inserted) || any(step.removed) || any(step.cells);
}
}  // namespace

bool SessionSteps::undo() {
    const auto step = bound_.history.undo();
    if (!step) return false;
    if (isOnItsWay(*step, bound_.journal)) {
        bound_.history.redo();  // it stays where it was
        return false;
    }
    return apply(*step, true);
}

bool SessionSteps::redo() {
    const auto step = bound_.history.redo();
    if (!step) return false;
    if (isOnItsWay(*step, bound_.journal)) {
        bound_.history.undo();
        return false;
    }
    return apply(*step, false);
}

}  // namespace jollyrow
