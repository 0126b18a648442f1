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
    /// `answered`: on the owner's thread, once for each save(), with its number.
    RecordJournal(Post post, std::function<void(std::uint64_t serial, const Result<StoredRecord>&)> answered)
        : post_(std::move(post)), answered_(std::move(answered)) {}

    /// Another source: nothing of the last one is left but saves that were begun.
    void begin(StoreOpener store);
    /// Waits for the saves that were begun.
    void finish() { worker_.finish(); }

    const std::shared_ptr<const Edits>& edits() const { return edits_; }
    void setEdits(std::shared_ptr<const Edits> edits) { edits_ = std::move(edits); }
    std::size_t unsaved() const { return edits_->count(EditState::Saving) + edits_->count(EditState::Refused); }
    /// What the store holds in a cell, as far as is known.
    Value stored(const Table& table, SourceRow row, FieldIndex field) const;
    RecordKey keyOf(const Table& table, SourceRow row) const { return storedKey(table, *edits_, row); }

    /// Hands an edit to the store.
    void save(const Table& table, const TableSchema& schema, Edits::Place place);
    /// What an answer means for the cell that was saved.
    struct Answer {
        Edits::Place place;
        CellEdit edit;          ///< as it is now
        bool isNewest = false;  ///< nothing was typed into the cell since
    };
    /// nullopt when the cell is gone, with its record or by a reload.
    std::optional<Answer> take(std::uint64_t serial, const Result<StoredRecord>& answer, const Table& table);

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
        std::vector<std::string> lost;  ///< what was typed and refused, and has no record any more, in words
    };
    ChangedOver changeOver(const Table& from, const Table& to,
                           const std::shared_ptr<const std::vector<std::uint32_t>>& byKey, const KeyIndex& keys);

    /// How many edits of keys have been saved; later ones are followed by keyNow().
    std::size_t keyMoves() const { return keyMoves_.size(); }
    RecordKey keyNow(RecordKey key, std::size_t since) const;
    /// The record whose edited key is this one, where some key has been edited. O(edits) then.
    std::optional<SourceRow> editedTo(const Table& table, const RecordKey& key) const;

  private:
    KeysOnTheirWay keysOnTheirWay(const Table& table) const;
    void noteSaved(const Table& table, Edits::Place place, const CellEdit& before, const Value& stored);
    std::vector<std::string> wordsOf(const std::vector<Edits::Place>& lost, const TableSchema& schema) const;

    Post post_;
    std::function<void(std::uint64_t serial, const Result<StoredRecord>&)> answered_;
    std::shared_ptr<const Edits> edits_ = std::make_shared<Edits>();
    std::map<Edits::Place, std::uint64_t> newest_;  ///< the newest save of each cell that has no answer
    struct OnItsWay {
        Edits::Place place;
        Value value;
    };
    std::map<std::uint64_t, OnItsWay> onTheirWay_;  ///< all saves that have none
    std::uint64_t nextSerial_ = 1;
    bool loading_ = false;
    SavedMeanwhile savedMeanwhile_;                          ///< since the load under way was begun
    std::vector<std::pair<RecordKey, RecordKey>> keyMoves_;  ///< saved edits of keys, in their order
    std::shared_ptr<SaveQueue> saves_;                       ///< used on the worker only
    Worker worker_;
};

}  // namespace jollyrow
