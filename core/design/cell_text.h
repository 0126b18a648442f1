// SPDX-License-Identifier: MIT
#pragma once
// CellText: one cell of a snapshot as people see it: what the grid paints, exports write and applications read.

#include <string>

#include "core/design/face_reader.h"
#include "core/design/plan.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

/// How a cell stands towards the store; of a record as a whole besides that it is new or being deleted. In rising order
/// of what a person must know.
enum class CellMark { None, Saved, Draft, New, Deleted, Saving, Invalid, Conflict, Refused };

/// Reused from cell to cell so that painting allocates nothing.
struct CellText {
    std::string text;  ///< UTF-8, display form; what is stored when it is a misfit
    bool isEmpty = false;
    bool isPending = false;  ///< not there yet
    bool isMisfit = false;   ///< stored value that does not fit the column's type
    bool isChecked = false;  ///< Boolean columns
    bool isDeleted = false;  ///< its record is being deleted
    CellMark mark = CellMark::None;
    bool isComposed = false;  ///< `face` says what is shown; `text` has its texts
    FaceContent face;
};

CellMark markOf(EditState state);
CellMark markOf(const RecordProblem& problem);
/// The gravest mark of a record: of any of its cells, of the checks it fails, or of itself as a whole.
CellMark recordMarkOf(const RecordEdit& record);
/// Reads the cells of one column, one after the other. Confined to one thread; borrows the snapshot and the column.
class CellReader final {
  public:
    CellReader(const Snapshot& snapshot, const PlannedColumn& column);
    void read(SourceRow row, CellText& out);
    /// Null for a column shown by its type.
    FaceReader* face() { return face_.get(); }

  private:
    const Snapshot& snapshot_;
    const PlannedColumn& column_;
    std::unique_ptr<FaceReader> face_;
};

/// One cell alone; of a composed face its rules are made ready for it. Any thread, as long as nobody else writes `out`.
void readCell(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, CellText& out);
/// The column's own field in its format, whatever face stands around it: what a name of a record or a box of a form
/// shows.
void readField(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column, CellText& out);
/// The own field as an entry shows it, which reads back as the same value: what is edited, replaced and pasted again.
/// Of a look-up its label, of a misfit what is stored, of a message the field that it stands in for.
std::string editedText(const Snapshot& snapshot, SourceRow row, const PlannedColumn& column);
/// What such a column shows reads back as the same value.
bool isShownAsEdited(const PlannedColumn& column);

}  // namespace jollyrow
