// SPDX-License-Identifier: MIT
#pragma once
// SessionListener: what a session tells its owner. Called on the owner's thread.

#include <cstddef>
#include <functional>
#include <vector>

#include "core/columns/row_ref.h"
#include "core/editing/edit_history.h"
#include "core/editing/record_journal.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Told, on the owner's thread, what has happened. All default to nothing.
struct SessionListener {
    std::function<void()> onSnapshot;                     ///< snapshot() is a new one
    std::function<void()> onSchemas;                      ///< schemaOf() and schemaReading() know more
    std::function<void(const LoadProgress&)> onProgress;  ///< while loading
    std::function<void(const Result<void>&)> onLoaded;    ///< loading ended: whole, cancelled or failed
    std::function<void(SourceRow, FieldIndex, const CellEdit&)> onEditAnswered;  ///< saved or refused
    /// A record was saved, inserted, deleted, or not; after the snapshot shows it.
    std::function<void(const RecordJournal::Answered&)> onRecordAnswered;
    /// An earlier session on the same records ended without saving these: takeUpDrafts() or dropDrafts().
    std::function<void()> onDraftsLeft;
    /// What is unsaved is on disk (setDraftFolder), or is not any more for the reason that onFailure has said.
    std::function<void()> onDraftsKept;
    /// A step that undo() can take back was made: cells edited, records inserted or deleted.
    std::function<void(const EditStep&)> onStep;
    std::function<void(const Error&)> onFailure;  ///< a stage could not run, or an edit lost its record
    /// Others have saved so many records (lookElsewhere()); the rows of those that are still there.
    std::function<void(const std::vector<SourceRow>&, std::size_t records)> onElsewhere;
    /// The next snapshot's rows are those of another table: where the records of the last one stand in it.
    std::function<void(const RowMoves&)> onRowsMoved;
};

}  // namespace jollyrow
