// SPDX-License-Identifier: MIT
#pragma once
// Edits: the journal of what differs from the frozen Table: typed and not yet saved, refused, or saved since it was
// loaded; by record, and in it by cell. An immutable overlay: with() makes the next one and shares all other records
// with it, so that a snapshot keeps the edits it was made with and n edits cost n steps.

#include <algorithm>
#include <array>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/base/indexes.h"
#include "core/base/row_map.h"
#include "core/columns/value.h"

namespace jollyrow {

enum class EditState {
    Saving,   ///< handed to the store, no answer yet
    Saved,    ///< the store said yes; the table still holds the older value
    Refused,  ///< the store said no; the value is kept and the message says why
};
inline constexpr std::size_t kEditStates = 3;

struct CellEdit {
    Value value;     ///< what the cell shows
    Value original;  ///< what the store holds, as far as is known
    EditState state = EditState::Saving;
    std::string message;
    std::string label = {};  ///< of a look-up: what stands for the record that the value points to
};

/// The edited cells of one record, by field in rising order.
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

  private:
    static bool before(const Cell& cell, FieldIndex field) { return cell.first < field; }
    std::vector<Cell> cells_;
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
    std::size_t count(EditState state) const { return states_[static_cast<std::size_t>(state)]; }
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
        records_ = records_.with(raw(row), std::move(next));
    }
    std::shared_ptr<const Edits> without(SourceRow row, FieldIndex field) const {
        auto next = std::make_shared<Edits>(*this);
        const CellEdit* before = find(row, field);
        if (!before) return next;
        next->count(field, *before, -1);
        RecordEdit left = *record(row);
        left.erase(field);
        next->records_ = left.cells().empty() ? records_.without(raw(row)) : records_.with(raw(row), std::move(left));
        return next;
    }
    /// Those of one record alone, for what is computed of it. O(1).
    std::shared_ptr<const Edits> of(SourceRow row) const {
        auto one = std::make_shared<Edits>();
        if (const RecordEdit* edited = record(row))
            for (const auto& [field, edit] : edited->cells()) one->set(row, field, edit);
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
    RowMap<RecordEdit> records_;
    std::array<std::size_t, kEditStates> states_{};
    std::map<FieldIndex, std::size_t> fields_;  ///< how many cells of each
};

}  // namespace jollyrow
