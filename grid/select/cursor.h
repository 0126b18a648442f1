// SPDX-License-Identifier: MIT
#pragma once
// Cursor: the current cell and what is selected, by record: what is current is found again after a sort, a filter, an
// edit or a reload has put other records on the lines. Window-free.

#include <cstdint>
#include <optional>
#include <string>

#include "core/editing/carried_edits.h"
#include "grid/layout/shown_rows.h"
#include "grid/select/selection.h"
#include "grid/select/visited_records.h"

namespace jollyrow {

class Cursor final {
  public:
    explicit Cursor(const ShownRows& rows) : rows_(rows) {}

    const Selection& selection() const { return selection_; }
    std::optional<CellPlace> current() const { return selection_.current(); }
    /// The current cell's column; 0 before anything is current.
    int column() const { return current() ? current()->column : 0; }
    /// The current record; nullopt on other lines.
    std::optional<SourceRow> row() const { return row_; }

    struct Moved {
        bool otherRecord = false;     ///< another line is current
        bool otherSelection = false;  ///< another number of records is selected
    };
    enum class Way { Onwards, Revisit };  ///< Revisit: back and forward go the way, they do not lengthen it
    /// `field`: of the place's column. Requires: rows has place.line.
    Moved choose(CellPlace place, SelectHow how, const std::string& field, Way way = Way::Onwards);
    /// Notes which record is current now.
    void noteCurrent(const std::string& field);
    void setMode(SelectionMode mode) { selection_.setMode(mode); }
    void selectAll(const Snapshot& snapshot, int columns);
    void clear();

    /// An edited record: when it moves to another line it is followed there.
    void follow(SourceRow row) { followed_ = row; }
    std::optional<SourceRow> followed() const { return followed_; }
    /// The record before or after on the way the person has come; nullopt at its ends.
    std::optional<SourceRow> visited(bool forward) { return forward ? visited_.forward() : visited_.back(); }

    /// A reload: rows are renumbered. True when fewer records are selected than before. O(selected + visited).
    bool moveRows(const RowMoves& moves);
    /// Deleted records leave the selection. True when there were some in it. O(edited records).
    bool dropGone(const Edits& edits);
    enum class Arrival {
        Stays,
        Moved,        ///< what is current wants to be shown: the followed record, or the line of its closed group
        WantsGroups,  ///< it stands in a closed group, which is to be opened; the next snapshot comes here again
    };
    /// Other records may stand on the lines. Requires: `rows` shows `snapshot`. O(records) when the current one moved.
    Arrival arrived(const Snapshot& snapshot, bool isLoading);
    /// True when the current line now has another record, as the one that was current is gone.
    bool lostItsRecord() const { return current() && !row_ && rows_.isRecord(current()->line); }
    /// After a layout: the column that the current cell's field has, and the edges of what there is.
    void fit(std::optional<int> column, std::int64_t lines, int columns);
    const std::string& field() const { return field_; }

  private:
    Arrival followRecord(const Snapshot& snapshot);
    std::optional<std::int64_t> lineOfClosedGroup(const Snapshot& snapshot);

    const ShownRows& rows_;
    Selection selection_;
    VisitedRecords visited_;
    std::optional<SourceRow> row_;        ///< of the current cell
    std::optional<std::uint64_t> group_;  ///< the path of the group whose line is current
    std::optional<SourceRow> followed_;
    std::string field_;  ///< of the current cell
};

}  // namespace jollyrow
