// SPDX-License-Identifier: MIT
#pragma once
// What an editor of a column is made with: the same in the grid and in a record sheet. Inside of the grid.

#include "core/session/session.h"
#include "grid/editors/editor.h"

namespace jollyrow {

EditorTask editorTaskFor(Session& session, const PlannedColumn& column);
/// A yes or no turned over: yes, no, and empty where that is allowed.
Value turnedOver(const Value& now, const FieldSchema& field);
/// What a cell of the snapshot holds when its editor opens.
EditedCell editedCellAt(const Session& session, const PlannedColumn& column, SourceRow row);

}  // namespace jollyrow
