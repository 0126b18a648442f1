// SPDX-License-Identifier: MIT
#pragma once
// EditHistory: what was changed in records, step by step, so that it can be taken back and done again. It does nothing
// itself: the session does, by further changes. Rows are those of the table that the owner shows. Confined to the
// owner's thread.

#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/editing/carried_edits.h"

namespace jollyrow {

struct EditStep {
    struct Cell {
        SourceRow row{};
        FieldIndex field{};
        Value before, after;
        std::string labelBefore = {}, labelAfter = {};  ///< of a look-up
        /// Nothing was said there of a record that is not stored yet: the database gives the value, unless one is
        /// typed.
        bool isUntyped = false;
    };
    struct Removed {
        SourceRow row{};
        std::vector<std::pair<FieldIndex, Value>> values;   ///< to insert it again, keys with them
        bool wasStored = false;                             ///< made again it is saved at once; a draft is one again
        std::shared_ptr<const TakenAlong> takenAlong = {};  ///< comes back with it
        bool isTooMuch = false;                             ///< that cannot, so it is not made again, either
    };
    std::string label;  ///< for an undo list; "" = none
    std::vector<Cell> cells;
    std::vector<Removed> inserted;  ///< their values are what they were inserted with
    std::vector<Removed> removed;
    bool empty() const { return cells.empty() && inserted.empty() && removed.empty(); }
};

class EditHistory final {
  public:
    static constexpr std::size_t kMost = 500;
    /// Told of each step that can be taken back, when it is whole; not of those taken back or done again.
    void setNoted(std::function<void(const EditStep&)> noted) { noted_ = std::move(noted); }
    void clear();
    /// Everything noted until end() is one step. Nests: the outermost names it.
    void begin(std::string label);
    void end();
    /// Ignored while a step is being taken back or done again.
    void note(EditStep step);

    bool canUndo() const { return !done_.empty(); }
    /// The step that undo() or redo() would return; null when there is none.
    const EditStep* last() const { return done_.empty() ? nullptr : &done_.back(); }
    const EditStep* next() const { return undone_.empty() ? nullptr : &undone_.back(); }
    /// How many steps can be taken back.
    std::size_t steps() const { return done_.size(); }
    std::size_t stepsUndone() const { return undone_.size(); }
    bool canRedo() const { return !undone_.empty(); }
    /// Of the step that would be taken back or done again; "" when there is none, or it has none.
    std::string undoLabel() const { return done_.empty() ? std::string() : done_.back().label; }
    std::string redoLabel() const { return undone_.empty() ? std::string() : undone_.back().label; }
    /// The step to take back, moved to those that can be done again.
    std::optional<EditStep> undo();
    std::optional<EditStep> redo();
    /// Between undo() or redo() and done(), note() is deaf.
    void setReplaying(bool replaying) { replaying_ = replaying; }
    /// A record that was made here is stored by now: fields that nobody had typed into before were given these values;
    /// those that were typed into count as empty before.
    void given(SourceRow row, const std::map<FieldIndex, Value>& values);
    /// A record stands on another row: it was inserted again.
    void moved(SourceRow from, SourceRow to);
    /// The deletion of these records was stored, or they were drafts and are dropped: they may be made again. What is
    /// gone for another reason was deleted by somebody else, or has another key by now.
    void noteGone(std::span<const SourceRow> rows);
    /// What the store deleted with a record, to be brought back with it; where that cannot be, nor is the record.
    void noteTakenAlong(SourceRow row, const std::shared_ptr<const TakenAlong>& taken);
    bool isGoneByUs(SourceRow row) const { return gone_.contains(row); }
    /// A reload has not brought the record again; it keeps a number of its own, which is no row.
    static bool isLost(SourceRow row) { return raw(row) >= kFirstLost; }
    /// A reload. Returns which number each row has from now on that is lost. O(history).
    std::map<SourceRow, SourceRow> moveRows(const RowMoves& moves, const TableSchema& from, const TableSchema& to);

  private:
    std::function<void(const EditStep&)> noted_;
    std::deque<EditStep> done_, undone_;
    std::optional<EditStep> open_;
    int depth_ = 0;
    bool replaying_ = false;
    static constexpr std::uint32_t kFirstLost = 0xc0000000;
    std::uint32_t nextLost_ = kFirstLost;
    std::set<SourceRow> gone_;
};

}  // namespace jollyrow
