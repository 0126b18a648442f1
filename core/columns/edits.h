// SPDX-License-Identifier: MIT
#pragma once
// Edits: the journal of what differs from the frozen Table: typed and not yet saved, refused, or saved since it was
// loaded; by record, and in it by cell; and the records that were inserted and deleted here. An immutable overlay:
// with() makes the next one and shares all other records with it, so that a snapshot keeps the edits it was made with
// and n edits cost n steps.

#include <algorithm>
#include <array>
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/base/indexes.h"
#include "core/base/row_map.h"
#include "core/columns/value.h"

namespace jollyrow {

enum class EditState {
    Draft,     ///< typed and kept, not handed to the store yet
    Saving,    ///< handed to the store, no answer yet
    Saved,     ///< the store said yes; the table still holds the older value
    Refused,   ///< the store said no; the value is kept and the message says why
    Conflict,  ///< somebody else has written the cell meanwhile; both values are kept
};
inline constexpr std::size_t kEditStates = 5;
/// Not in the store, whatever becomes of it.
inline constexpr bool isUnsaved(EditState state) { return state != EditState::Saved; }

struct CellEdit {
    Value value;     ///< what the cell shows
    Value original;  ///< what the store holds, as far as is known
    EditState state = EditState::Saving;
    std::string message;
    std::string label = {};  ///< of a look-up: what stands for the record that the value points to
    /// What was handed to the store and has no answer: it may hold any of them. Null for none.
    std::shared_ptr<const std::vector<Value>> sent = nullptr;
    std::shared_ptr<const Value> theirs = nullptr;  ///< of a Conflict: what the store holds now
};

enum class RecordChange : std::uint8_t {
    Update,  ///< some cells
    Insert,  ///< a record made here; its values are its edited cells
    Delete,
};

class TakenAlong;

/// What happens to a record as a whole, and how far it has come.
struct RecordFate {
    RecordChange change = RecordChange::Update;
    EditState state = EditState::Draft;
    std::string message = {};     ///< why it was refused
    std::vector<Value> key = {};  ///< of one that was inserted and saved: what names it at its source
    std::size_t sinceMoves = 0;   ///< of such a one: how many edits of keys had been saved by then
    std::shared_ptr<const TakenAlong> bringsBack = nullptr;  ///< of one that is made again (sources/source.h)
    /// To be deleted, and still in the store.
    bool isLeaving() const { return change == RecordChange::Delete && state != EditState::Saved; }
    bool operator==(const RecordFate&) const = default;
};

/// A check that a record fails, or what the store said about it as a whole.
struct RecordProblem {
    std::vector<FieldIndex> fields;  ///< at fault; none: the record
    std::string check;               ///< name of the check
    std::string message;             ///< for the form user
    bool isWarning = false;          ///< may be overridden
    bool isOverridden = false;       ///< and was
    bool isWaiting = false;          ///< the check has not answered yet; it blocks until then
    bool isForeseen = false;         ///< the database would refuse it as it stands now; it decides when it is asked
    bool operator==(const RecordProblem&) const = default;
    bool blocks() const { return isWaiting || !isWarning || !isOverridden; }
};

/// The edited cells of one record, by field in rising order, and what happens to it as a whole.
class RecordEdit final {
  public:
    using Cell = std::pair<FieldIndex, CellEdit>;
    const std::vector<Cell>& cells() const { return cells_; }
    const CellEdit* find(FieldIndex field) const {
        const auto at = std::lower_bound(cells_.begin(), cells_.end(), field, before);
        return at == cells_.end() || at->first != field ? nullptr : &at->second;
    }
    void set(FieldIndex field, CellEdit edit) {
        const auto at = std::lower_bound(cells_.begin(), cells_.end(), field, before);
        if (at != cells_.end() && at->first == field)
            at->second = std::move(edit);
        else
            cells_.emplace(at, field, std::move(edit));
    }
    void erase(FieldIndex field) {
        std::erase_if(cells_, [field](const Cell& cell) { return cell.first == field; });
    }
    /// Null: only cells are changed.
    const RecordFate* fate() const { return fate_.get(); }
    void setFate(std::optional<RecordFate> fate) {
        fate_ = fate ? std::make_shared<const RecordFate>(std::move(*fate)) : nullptr;
    }
    RecordChange change() const { return fate_ ? fate_->change : RecordChange::Update; }
    const std::vector<RecordProblem>& problems() const {
        static const std::vector<RecordProblem> kNone;
        return problems_ ? *problems_ : kNone;
    }
    void setProblems(std::vector<RecordProblem> problems) {
        problems_ =
            problems.empty() ? nullptr : std::make_shared<const std::vector<RecordProblem>>(std::move(problems));
    }
    bool isEmpty() const { return cells_.empty() && !fate_ && !problems_; }

  private:
    static bool before(const Cell& cell, FieldIndex field) { return cell.first < field; }
    std::vector<Cell> cells_;
    std::shared_ptr<const RecordFate> fate_;
    std::shared_ptr<const std::vector<RecordProblem>> problems_;
};

class Edits final {
  public:
    using Place = std::pair<SourceRow, FieldIndex>;
    /// One edited cell; borrowed from the edits.
    struct Cell {
        Place place;
        const CellEdit& edit;
    };

    /// nullptr when the table's own values stand. O(1).
    const RecordEdit* record(SourceRow row) const { return records_.empty() ? nullptr : records_.find(raw(row)); }
    /// nullptr when the table's own value stands. O(log edited cells of the record).
    const CellEdit* find(SourceRow row, FieldIndex field) const {
        const RecordEdit* edited = record(row);
        return edited ? edited->find(field) : nullptr;
    }
    bool empty() const { return records_.empty(); }
    /// All edited cells, by record and field in rising order. O(edits).
    std::vector<Cell> cells() const {
        std::vector<Cell> all;
        forEach([&](Place place, const CellEdit& edit) { all.push_back({place, edit}); });
        return all;
    }
    /// Calls visit(place, edit) for each, in the same order.
    template <class Visit>
    void forEach(const Visit& visit) const {
        records_.forEach([&](std::uint32_t row, const RecordEdit& record) {
            for (const auto& [field, edit] : record.cells()) visit(Place{static_cast<SourceRow>(row), field}, edit);
        });
    }
    /// Calls visit(row, record edit) for each, in rising order.
    template <class Visit>
    void forEachRecord(const Visit& visit) const {
        records_.forEach(
            [&](std::uint32_t row, const RecordEdit& record) { visit(static_cast<SourceRow>(row), record); });
    }
    /// Cells in a state, and records that are inserted or deleted as a whole and are in it.
    std::size_t count(EditState state) const { return states_[static_cast<std::size_t>(state)]; }
    std::size_t unsaved() const {
        std::size_t all = 0;
        for (std::size_t i = 0; i < kEditStates; ++i) all += isUnsaved(static_cast<EditState>(i)) ? states_[i] : 0;
        return all;
    }
    /// Is any record inserted or deleted here? O(1).
    bool hasFates() const { return fates_ != 0; }
    const RecordFate* fate(SourceRow row) const {
        const RecordEdit* edited = record(row);
        return edited ? edited->fate() : nullptr;
    }
    /// The records that were deleted here and are in the store no more, in rising order. O(edited records) where there
    /// are inserted or deleted ones, else O(1).
    std::vector<SourceRow> gone() const {
        std::vector<SourceRow> rows;
        if (hasFates())
            forEachRecord([&](SourceRow row, const RecordEdit& record) {
                const RecordFate* fate = record.fate();
                if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved)
                    rows.push_back(row);
            });
        return rows;
    }
    /// The records that are to be deleted and still are in the store, in rising order; as gone().
    std::vector<std::uint32_t> leaving() const {
        std::vector<std::uint32_t> rows;
        if (hasFates())
            forEachRecord([&](SourceRow row, const RecordEdit& record) {
                if (record.fate() && record.fate()->isLeaving()) rows.push_back(raw(row));
            });
        return rows;
    }
    /// Has any record an edit of this field? O(log edited fields).
    bool touches(FieldIndex field) const { return fields_.contains(field); }

    /// The same with one cell set. O(1).
    std::shared_ptr<const Edits> with(SourceRow row, FieldIndex field, CellEdit edit) const {
        auto next = std::make_shared<Edits>(*this);
        next->set(row, field, std::move(edit));
        return next;
    }
    /// The same in edits that nobody else holds yet.
    void set(SourceRow row, FieldIndex field, CellEdit edit) {
        const RecordEdit* known = record(row);
        RecordEdit next = known ? *known : RecordEdit();
        if (const CellEdit* before = next.find(field)) count(field, *before, -1);
        count(field, edit, 1);
        next.set(field, std::move(edit));
        records_.put(raw(row), std::move(next));
    }
    std::shared_ptr<const Edits> without(SourceRow row, FieldIndex field) const {
        auto next = std::make_shared<Edits>(*this);
        const CellEdit* before = find(row, field);
        if (!before) return next;
        next->count(field, *before, -1);
        RecordEdit left = *record(row);
        left.erase(field);
        left.isEmpty() ? next->records_.take(raw(row)) : next->records_.put(raw(row), std::move(left));
        return next;
    }
    /// One record's edits in the place of its present ones; empty ones end them. In edits that nobody else holds yet.
    void setRecord(SourceRow row, RecordEdit edit) {
        if (const RecordEdit* before = record(row)) tally(*before, -1);
        tally(edit, 1);
        edit.isEmpty() ? records_.take(raw(row)) : records_.put(raw(row), std::move(edit));
    }
    std::shared_ptr<const Edits> withRecord(SourceRow row, RecordEdit edit) const {
        auto next = std::make_shared<Edits>(*this);
        next->setRecord(row, std::move(edit));
        return next;
    }
    /// Those of one record alone, for what is computed of it. O(1).
    std::shared_ptr<const Edits> of(SourceRow row) const {
        auto one = std::make_shared<Edits>();
        if (const RecordEdit* edited = record(row)) one->setRecord(row, *edited);
        return one;
    }
    /// Calls visit(row, edits of the record here or null, there or null) where the two do not share them. O(what
    /// differs).
    template <class Visit>
    static void forEachDifference(const Edits& a, const Edits& b, const Visit& visit) {
        RowMap<RecordEdit>::forEachDifference(a.records_, b.records_, visit);
    }

  private:
    void count(FieldIndex field, const CellEdit& edit, int by) {
        states_[static_cast<std::size_t>(edit.state)] += static_cast<std::size_t>(by);
        const auto at = fields_.try_emplace(field, 0).first;
        at->second += static_cast<std::size_t>(by);
        if (at->second == 0) fields_.erase(at);
    }
    void tally(const RecordEdit& record, int by) {
        for (const auto& [field, edit] : record.cells()) count(field, edit, by);
        if (const RecordFate* fate = record.fate()) {
            states_[static_cast<std::size_t>(fate->state)] += static_cast<std::size_t>(by);
            fates_ += static_cast<std::size_t>(by);
        }
    }
    RowMap<RecordEdit> records_;
    std::array<std::size_t, kEditStates> states_{};
    std::size_t fates_ = 0;
    std::map<FieldIndex, std::size_t> fields_;  ///< how many cells of each
};

}  // namespace jollyrow
