// SPDX-License-Identifier: MIT
#pragma once
// GridRecords: what an application does to the records of a grid: `grid.records().insert({{"vessel", 12}})`. All of it
// can be undone, is checked and saved as if it had been typed in the grid. A handle: a value, without a state of its
// own. Requires: the grid outlives it. Window's thread.

#include <QString>

#include <functional>
#include <map>
#include <vector>

#include "core/base/result.h"
#include "core/columns/value.h"
#include "core/design/design.h"
#include "grid/api/record.h"
#include "grid/api/record_changes.h"

namespace jollyrow {

class Grid;
class GridPrivate;

class GridRecords final {
  public:
    explicit GridRecords(GridPrivate& grid) : d_(&grid) {}

    /// Writes a value to the record as if it had been typed, also when the record was kept over reloads. False, and
    /// nothing is written, when the record is gone, has no such field, or the value is not of the field's type (a
    /// Timestamp is no Instant: TimeZone converts). Requires: the record is of this grid.
    bool setValue(const Record& record, const QString& field, const Value& value);
    /// A new record with these values, by field name; a draft until it is left or saved. Fails in words while records
    /// are still being read, and where the source takes none.
    Result<Record> insert(const std::map<QString, Value>& values = {});
    /// One like it, but for keys and unique fields.
    Result<Record> duplicate(const Record& record);
    /// Deletes them without asking; false when none of them is there any more.
    bool remove(const std::vector<Record>& records);
    /// Begins a new record in the grid, as Insert does: it is shown, and its first cell edited.
    bool begin();
    // ---- Read and put in order
    /// Calls visit(record) for each that there is in bound order, whatever is filtered, sorted or folded; or for those
    /// shown, in their order, also in closed groups. Until it says false. Records whose deletion is not saved are among
    /// them. O(records), on this thread.
    void forEach(const std::function<bool(const Record&)>& visit) const;
    void forEachShown(const std::function<bool(const Record&)>& visit) const;
    /// The record with this key; invalid when there is none. O(1) once an index is made.
    Record find(const RecordKey& key) const;
    /// Edited records that stand where they no longer belong go there (GridDesign::resortAtOnce does it at once).
    void resort();
    /// Keeps a record in sight at an edge; false when it has no key. In the design, and an undo step of the workbench's
    /// only when a person does it.
    bool pin(const Record& record, PinnedRecord::Edge edge = PinnedRecord::Edge::Top);
    void unpin(const Record& record);
    bool isPinned(const Record& record) const;

    /// Opens the editor of the current cell; false when it cannot be edited.
    bool editCurrentCell();

    /// Edits not in the database yet: being saved or refused.
    std::size_t unsaved() const;
    /// What is not saved, record by record, in words and values.
    std::vector<RecordChanges> changes() const;
    /// Hands what is unsaved to the database in one transaction: of one record, or of all. Returns how many records are
    /// on their way; those that break a check, or are in conflict, are not.
    int save(const Record& record);
    int saveAll();
    /// What is unsaved in several grids on one database, in one transaction: an order and its lines. Fails when
    /// something is to be put right first.
    static Result<int> saveTogether(const std::vector<Grid*>& grids);
    /// Takes back what is not saved.
    void revert(const Record& record);
    void revertAll();
    /// Takes the last change of records back, also when it is saved; false when there is none, or it has been changed
    /// elsewhere since.
    bool undo();
    bool redo();
    bool canUndo() const;
    bool canRedo() const;

    /// Where drafts are kept from crashes, and earlier filters; "" = nowhere. Default: $XDG_STATE_HOME/jollyrow. Call
    /// before open().
    void setDraftFolder(const QString& folder);
    /// What an earlier session has left unsaved (draftsLeft) is put into the records, or dropped. Returns how many
    /// records have drafts now.
    int takeUpDrafts();
    void dropDrafts();

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
