// SPDX-License-Identifier: MIT
#pragma once
// RecordJournal: the edits of a session, on their way to the store and back: which saves have no answer yet, what was
// saved while a load was under way, how keys were edited. Rows are those of the table that the owner shows; it hands
// the table in. Confined to the owner's thread but for the store's own.

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/columns/row_ref.h"
#include "core/editing/carried_edits.h"
#include "core/editing/save_queue.h"

namespace jollyrow {

class RecordJournal final {
  public:
    using Answers = Result<std::vector<Outcome>>;
    /// `answered`: on the owner's thread, once for each save(), with its number.
    RecordJournal(Post post, std::function<void(std::uint64_t serial, const Answers&)> answered)
        : post_(std::move(post)), answered_(std::move(answered)) {}

    /// Another source: nothing of the last one is left but saves that were begun.
    void begin(StoreOpener store);
    /// What keeps a save elsewhere: called on the owner's thread with the rows of the save, when their edits are as
    /// they are sent; what it returns is called on the store's.
    using Preparing = std::function<SaveNotes(std::span<const SourceRow>)>;
    void setPreparing(Preparing preparing) { preparing_ = std::move(preparing); }
    /// How a conflict is said to people, `changedBy` being who has saved the record last, "" when that is not known;
    /// else by the names that the store has for fields.
    using ConflictWords = std::function<std::string(const Conflict&, const std::string& changedBy)>;
    void setConflictWords(ConflictWords words) { conflictWords_ = std::move(words); }
    /// Waits for the saves that were begun.
    void finish() { worker_.finish(); }
    /// Field of the table that counts versions of records; "" = none.
    void setVersionField(std::string field) { versionField_ = std::move(field); }
    /// Field of the table that holds who has changed a record last; "" = none.
    void setChangedByField(std::string field) { changedByField_ = std::move(field); }

    const std::shared_ptr<const Edits>& edits() const { return edits_; }
    void setEdits(std::shared_ptr<const Edits> edits) { edits_ = std::move(edits); }
    std::size_t unsaved() const { return edits_->unsaved(); }
    /// What the store holds in a cell, as far as is known.
    Value stored(const Table& table, SourceRow row, FieldIndex field) const;
    RecordKey keyOf(const Table& table, SourceRow row) const { return storedKey(table, *edits_, row); }
    /// The record has a key in the store, as far as is known.
    bool isStored(SourceRow row) const;

    /// Hands what is not saved of these records to the store: typed and refused cells, insertions and deletions. Those
    /// that are in conflict stay. Returns the save's number, 0 when there is nothing to save. O(records * fields).
    /// `joint`: in one transaction with saves of other sessions.
    std::uint64_t save(const Table& table, std::span<const SourceRow> rows, Atomicity atomicity,
                       std::shared_ptr<JointSave> joint = nullptr);
    /// What became of one record of a save.
    struct Answered {
        SourceRow row{};
        RecordChange change = RecordChange::Update;
        bool isStored = false;
        std::vector<FieldIndex> fields;          ///< answered, and nothing was typed into them since
        std::map<FieldIndex, Value> given = {};  ///< to an inserted one, where it was sent nothing
        std::string message;  ///< why not; "" when stored, or when another record of the save was to blame
        std::shared_ptr<const TakenAlong> takenAlong = nullptr;  ///< with a deleted one, or brought back with a new one
    };
    /// Puts an answer into the edits. Records that are gone by now, by a reload, are left out, but for those that are
    /// deleted here: they have a number of the history instead of a row (EditHistory::isLost).
    std::vector<Answered> take(std::uint64_t serial, const Answers& answers, const Table& table);

    /// What somebody else has made of a record goes into `next`, which has this journal's edits: shown as stored, and
    /// where it was typed over here it is a conflict. False, and nothing done, while the record is being saved: whether
    /// the change came before or after that is not known. O(fields).
    bool noteElsewhere(const Table& table, SourceRow row, const ElsewhereChange& change, Edits& next);
    /// A record made here has no key yet: one that is not known may be that.
    bool isInserting() const { return !inserting_.empty(); }
    /// The record is gone from the store, and let go here: a load under way may have read it before.
    void noteLost(const Table& table, SourceRow row) {
        if (loading_) noteDeleted(table, row);
    }
    /// A record that somebody else has added, in a spare row.
    void addElsewhere(SourceRow row, const ElsewhereChange& change, Edits& next);

    /// Store::seenElsewhere() of the table, on the store's thread; `seen` on the owner's.
    void look(const Table& table, std::function<void(const Result<SeenElsewhere>&)> seen);
    /// A load begins: what is saved from now on, it may have read before.
    void loadBegun();
    void loadEnded() { loading_ = false; }
    /// What a worker needs to carry the edits over to the table of a reload.
    struct Carriage {
        SavedMeanwhile savedMeanwhile;
        KeysOnTheirWay keysOnTheirWay;
    };
    Carriage carriage(const Table& table) const { return {savedMeanwhile_, keysOnTheirWay(table)}; }
    /// The rows of `from` are now those of `to`: all that names a row is carried over, in one step.
    struct ChangedOver {
        RowMoves moves;
        std::vector<std::string> lost;  ///< what was typed and not saved, and has no record any more, in words
    };
    ChangedOver changeOver(const Table& from, const Table& to,
                           const std::shared_ptr<const std::vector<std::uint32_t>>& byKey, const KeyIndex& keys);

    /// What the history calls the rows that a change-over has just lost: a deletion that is still on its way answers
    /// under that name.
    void nameLost(const std::map<SourceRow, SourceRow>& names);

    /// A record that the history calls so is being deleted.
    bool isOnItsWay(SourceRow lost) const;

    /// How many edits of keys have been saved; later ones are followed by keyNow().
    std::size_t keyMoves() const { return keyMoves_.size(); }
    RecordKey keyNow(RecordKey key, std::size_t since) const;
    /// The record whose edited key is this one, or that was inserted here with it. O(edits) where there are such.
    std::optional<SourceRow> editedTo(const Table& table, const RecordKey& key) const;

  private:
    struct OnItsWay {
        SourceRow row{};
        /// A reload was shown before the answer, and has it no longer: what the history calls it.
        std::optional<SourceRow> lost = std::nullopt;
        RecordChange change = RecordChange::Update;
        std::uint64_t id = 0;
        struct Cell {
            FieldIndex field{};
            Value value;
            std::uint64_t id = 0;
        };
        std::vector<Cell> cells;
        std::vector<std::optional<FieldIndex>> readBack;  ///< nullopt: the table has it no longer
    };
    KeysOnTheirWay keysOnTheirWay(const Table& table) const;
    void noteSaved(const Table& table, Edits::Place place, const CellEdit& before, const Value& stored);
    void noteDeleted(const Table& table, SourceRow row);
    void noteInserted(SourceRow row, const RecordKey& key);
    std::optional<RecordSave> saveOf(const Table& table, SourceRow row, RecordEdit& edit, OnItsWay& way);
    void nameRecord(const Table& table, SourceRow row, RecordSave& save) const;
    void takeReadBack(const OnItsWay& way, const std::vector<Value>& readBack, const Table& table, RecordEdit& edit);
    void takeStored(const OnItsWay& way, const StoredRecord& stored, const Table& table, Edits& next, Answered& answer);
    void takeRefusal(const OnItsWay& way, const Outcome& outcome, const Table& table, Edits& next, Answered& answer);
    /// `now`: values as they stand in the store, among them perhaps who has written them.
    std::string conflictSaid(const Conflict& conflict, const Table& table,
                             const std::vector<std::pair<FieldIndex, Value>>& now) const;
    bool isNewest(const OnItsWay& way, const OnItsWay::Cell& cell) const;
    void forget(const OnItsWay& way);

    Post post_;
    std::function<void(std::uint64_t serial, const Answers&)> answered_;
    std::shared_ptr<const Edits> edits_ = std::make_shared<Edits>();
    std::map<Edits::Place, std::uint64_t> newest_;  ///< the newest save of each cell that has no answer
    std::string versionField_, changedByField_;
    std::map<SourceRow, std::uint64_t> newestOf_;                ///< the newest save of each record that has no answer
    std::map<SourceRow, std::uint64_t> inserting_;               ///< the save that inserts a record and has no answer
    std::map<std::uint64_t, std::vector<OnItsWay>> onTheirWay_;  ///< by serial, all saves that have none
    std::uint64_t nextSerial_ = 1;                               ///< of saves, their records and their cells
    std::shared_ptr<const TableSchema> sharedSchema_;            ///< of the table that was saved to last
    bool loading_ = false;
    SavedMeanwhile savedMeanwhile_;                          ///< since the load under way was begun
    std::vector<std::pair<RecordKey, RecordKey>> keyMoves_;  ///< saved edits of keys, in their order
    Preparing preparing_;
    ConflictWords conflictWords_;
    std::shared_ptr<SaveQueue> saves_;  ///< used on the worker only
    Worker worker_;
};

}  // namespace jollyrow
