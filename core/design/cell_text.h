// SPDX-License-Identifier: MIT
#pragma once
// CellText: one cell of a snapshot as people see it: what the grid paints, exports write and applications read.

#include <string>

#include "core/design/plan.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

enum class CellMark { None, Saving, Saved, Refused };

/// Reused from cell to cell so that painting allocates nothing.
struct CellText {
    std::string text;  ///< UTF-8, display form; what is stored when it is a misfit
    bool isEmpty = false;
    bool isPending = false;  ///< not there yet
    bool isMisfit = false;   ///< stored value that does not fit the column's type
    bool isChecked = false;  ///< Boolean columns
    CellMark mark = CellMark::None;
};

CellMark markOf(EditState state);
/// Any thread, as long as nobody else writes `out`.
void readCell(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, CellText& out);

}  // namespace jollyrow
