// SPDX-License-Identifier: MIT
#pragma once
// SessionDrafts: what a session's user typed and did not save, kept from crashes, and taken up again by a later session
// on the same records. Confined to the session's thread.

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/editing/draft_keeper.h"
#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/record_finder.h"
#include "core/session/record_loading.h"
#include "core/session/session_records.h"

namespace jollyrow {

/// What has become of a record whose edits an earlier session has left.
enum class LeftState {
    Ready,    ///< the record stands as it did when this was typed
    Changed,  ///< somebody has written the same cells since
    Stored,   ///< the database has it already
    Gone,     ///< the record is no longer there
};
struct LeftDraft {
    KeptRecord record;
    std::optional<SourceRow> row;
    LeftState state = LeftState::Ready;
};

class SessionDrafts final {
  public:
    SessionDrafts(BoundRecords& bound, RecordFinder& finder, EditedView& view, const RecordLoading& loading,
                  SessionRecords& records);
    /// Keeps what is typed and not saved in files in this folder, flushed to disk before onDraftsKept; "" = not. Call
    /// before the session's open(). Sources without a path are not kept.
    void setFolder(std::string folder) { folder_ = std::move(folder); }
    /// What earlier sessions have left, with what has become of each. Meant when all records are there. O(drafts).
    std::vector<LeftDraft> left() const;
    /// Puts them into the records, as drafts; those whose cells somebody has changed are in conflict. Those whose
    /// record is gone stay where they are. Returns how many records have drafts now.
    std::size_t takeUp();
    void drop();
    /// Everything typed until now is on disk.
    bool isKept() const { return keeper_.isReady() && keeper_.keptNumber() == number_; }

    // ---- For the session's parts
    /// Another source, or its schema is there.
    void begin();
    /// The edits are as they are now.
    void sync() { number_ = keeper_.sync(*bound_.table, bound_.edits()); }
    void moveRows(const RowMoves& moves) { keeper_.moveRows(moves); }
    /// Tells of those left when all records are there, for only then can be said what has become of each.
    void tellLeft();
    void finish() { keeper_.finish(); }

  private:
    DraftKeeper::Hooks hooks();
    bool isMade(const KeptRecord& record, SourceRow row) const;
    LeftState stateOf(const KeptRecord& record, SourceRow row) const;
    RecordEdit takenUp(const LeftDraft& left, RecordEdit edit) const;
    void takeUpNew(const std::vector<LeftDraft>& news, std::vector<std::string>& ids, std::vector<SourceRow>& rows);

    BoundRecords& bound_;
    RecordFinder& finder_;
    EditedView& view_;
    const RecordLoading& loading_;
    SessionRecords& records_;
    std::string folder_;
    std::uint64_t number_ = 0;
    DraftKeeper keeper_;
};

}  // namespace jollyrow
