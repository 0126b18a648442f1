// SPDX-License-Identifier: MIT
#pragma once
// SessionRecords: what is done to the records of a session: edited, inserted, duplicated, deleted, saved, taken back,
// decided after a conflict. Everything shows at once; what goes to the store is written behind. Confined to the
// session's thread.

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/editing/saver.h"
#include "core/session/bound_records.h"
#include "core/session/cell_write.h"
#include "core/session/edited_view.h"
#include "core/session/enquiries.h"
#include "core/session/record_finder.h"
#include "core/session/session_checks.h"

namespace jollyrow {

class SessionRecords final {
  public:
    using Values = std::vector<std::pair<FieldIndex, Value>>;
    SessionRecords(BoundRecords& bound, RecordFinder& finder, EditedView& view, SessionChecks& checks,
                   Enquiries& enquiries);

    /// Shows the value at once, and saves it behind when the design says so (Saving) and the record breaks no check.
    /// Ignored when it is what the cell shows already, and on deleted records. `label` is what a look-up shows for the
    /// value until the related fields have been read again; may be empty.
    /// Requires: the plan says the column is editable.
    void edit(SourceRow row, FieldIndex field, Value value, std::string label = {});
    /// Many at once, as a paste makes them: shown in one step, and saved in one transaction. O(cells).
    void edit(const std::vector<CellWrite>& cells);
    /// Takes back what was typed into a cell and is not saved.
    void putBack(SourceRow row, FieldIndex field);
    /// Saves the record of a refused edit again; after a conflict what was typed here goes over what is there now.
    void retry(SourceRow row, FieldIndex field);

    /// A new record with these values, a draft until it is saved, behind all others. Fails in words while records are
    /// still being read, and where the source takes none. `bringsBack`: what went with it, when it was here before.
    Result<SourceRow> insert(const Values& values = {}, std::shared_ptr<const TakenAlong> bringsBack = nullptr);
    /// A new record with the values of another one, but for keys, unique fields and what the database makes. Binary
    /// data that was not read, e.g. pictures, follows a moment later.
    Result<SourceRow> duplicate(SourceRow row);
    /// Deletes records; those that are not saved yet are dropped. With Saving::Together they stay as drafts until
    /// saved.
    void remove(const std::vector<SourceRow>& rows);

    /// Hands what is typed, refused, inserted and deleted of these records to the database, in one transaction, but for
    /// records that break a check or are in conflict. Returns how many records are on their way.
    std::size_t save(const std::vector<SourceRow>& rows);
    std::size_t saveAll();
    /// Saves what is unsaved in all of them in one transaction, e.g. an order and its lines. Fails when they are not
    /// on one database, or an application decides about saves of one; else returns how many records are on their way.
    static Result<std::size_t> saveTogether(std::span<SessionRecords* const> sessions);
    /// The person has gone on to another record: it is saved when the design says so.
    void leave(SourceRow row);
    /// Edits not in the store: being saved, or refused.
    std::size_t unsaved() const { return bound_.journal.unsaved(); }
    /// An application that decides what becomes of each save (core/editing/saver.h); an empty one: the database alone.
    /// Saves that wait for its answer when the session ends stay drafts.
    void setSaver(Saver saver) { saver_->set(std::move(saver)); }

    /// What was typed into the record is taken back, a new one let go, a deleted one brought back; what is being saved
    /// stays.
    void revert(SourceRow row);
    void revertAll();
    enum class Keep { Mine, Theirs };
    /// Decides a conflict, field by field; fields that are not named keep what was typed here. Then the record is
    /// saved.
    void resolve(SourceRow row, const std::map<FieldIndex, Keep>& choices);
    /// A record that was deleted elsewhere while it was edited here is made again, with the values known of it.
    Result<SourceRow> makeAgain(SourceRow row);
    /// Overrides a warning; the record keeps it as overridden.
    void overrideWarning(SourceRow row, const std::string& check);

    /// Reads a binary value, wherever it is: typed, loaded or still in the database. The call may be made on any thread
    /// and blocks there; it fails when the record is gone. Requires: a row of the snapshot.
    std::function<Result<Value>()> bytesReader(SourceRow row, FieldIndex field) const;
    /// What was read of a value that stays in the database, in the snapshot of this epoch: an edit made on it will not
    /// overwrite another.
    void noteRead(std::uint32_t epoch, SourceRow row, FieldIndex field, std::uint64_t digest);

    // ---- For the session's parts
    /// Another source, whose store is opened so.
    void begin(StoreOpener store);
    /// Rows or fields are counted anew: what was read of them means nothing.
    void forgetRead() { digests_.clear(); }
    /// Waits for saves that were begun; those that wait for the application stay drafts.
    void finish();
    /// What was typed goes to the database as the design says; a new record only when it is left.
    void saveAsDesigned(const std::vector<SourceRow>& rows);

  private:
    bool take(const CellWrite& cell, Edits& next);
    Result<void> makeRoom();
    Values valuesToInsert(SourceRow row, bool withKeys) const;
    bool drop(SourceRow row, Edits& next, EditStep& step);
    void copyBytes(SourceRow from, FieldIndex field, SourceRow to);
    std::vector<SourceRow> savable(const std::vector<SourceRow>& rows) const;
    std::vector<SourceRow> editedRows() const;
    std::size_t save(const std::vector<SourceRow>& rows, const std::shared_ptr<JointSave>& joint);
    std::optional<RecordEdit> reverted(SourceRow row, const RecordEdit& record) const;

    BoundRecords& bound_;
    RecordFinder& finder_;
    EditedView& view_;
    SessionChecks& checks_;
    Enquiries& enquiries_;
    std::shared_ptr<SaverDesk> saver_;
    std::map<std::pair<SourceRow, FieldIndex>, std::uint64_t> digests_;  ///< of what was read beside the table
};

}  // namespace jollyrow
