// SPDX-License-Identifier: MIT
#pragma once
// RecordChanges: what is not saved of one record, for change lists, questions at closing, and applications.

#include <QString>

#include <vector>

#include "core/columns/edits.h"
#include "grid/api/record.h"

namespace jollyrow {

class GridContext;

struct RecordChanges {
    Record record;
    QString name;                                ///< what names it to people: its key, or "new"
    RecordChange change = RecordChange::Update;  ///< as a whole
    EditState state = EditState::Draft;          ///< the gravest of it
    bool isBlocked = false;                      ///< it breaks a check
    QString message;                             ///< what is to be put right; empty when nothing is
    QString overridden;                          ///< the warnings that were overridden
    struct Cell {
        QString field, heading;
        QString before, after;  ///< as the column shows them
        EditState state = EditState::Draft;
        bool operator==(const Cell&) const = default;
    };
    std::vector<Cell> cells;
    bool isToPutRight() const { return isBlocked || state == EditState::Refused || state == EditState::Conflict; }
};

/// All records with something unsaved, in the order of their rows. O(edits). Used by Grid::changes().
std::vector<RecordChanges> changesOf(const GridContext& context);

}  // namespace jollyrow
