// SPDX-License-Identifier: MIT
#pragma once
// EditedView: the view of a session's records with what is edited in them. Edits show at once; order, groups and
// figures are computed behind; a reload's rows take the place of the older ones in one step, with all that names a row.
// Confined to the session's thread.

#include <cstddef>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <utility>
#include <vector>

#include "core/rows/recorded_values.h"
#include "core/session/bound_records.h"
#include "core/session/record_finder.h"
#include "core/session/view_computer.h"

namespace jollyrow {

class EditedView final {
  public:
    /// Those who keep what hangs on records, rows or fields.
    struct Hooks {
        std::function<void(std::span<const SourceRow>)> edited;  ///< edits of these records are the present ones
        std::function<void()> recordsChanged;                    ///< the table has others, or more
        std::function<void()> fieldsChanged;
        std::function<void()> moving;                ///< a reload's rows are about to take the place of the older ones
        std::function<void(const RowMoves&)> moved;  ///< they have
        std::function<void()> showing;               ///< the snapshot is a new one, and is told when this is done
        std::function<void()> computed;              ///< what was asked for is shown, or failed
    };
    enum class Order {
        Anew,
        Kept,  ///< records stay on their lines whatever has been edited
    };
    enum class Lines { Same, Changed };

    EditedView(BoundRecords& bound, RecordFinder& finder, Hooks hooks);
    void stop() { computer_.stop(); }

    /// Another source: nothing of the last one is left.
    void forget();
    /// No records yet, of the present schema.
    void begin();
    /// Records of the load with this number.
    void take(std::shared_ptr<const Table> table, std::uint64_t load);
    /// Another list of fields behind the same ones of the table: what is loaded and computed of them stays. The caller
    /// makes the plan again, and recomputes.
    void refit(TableSchema schema);
    /// One more free row for a new record.
    void makeRoom();
    /// Uses the room that was made behind, when there is any.
    void takeRoom();
    void recompute(Order order = Order::Anew);
    void show(std::shared_ptr<Snapshot> snapshot);

    /// Makes the computed cells and the problems of records again, and their edits the present ones; shown by
    /// showEdits().
    void setEdits(std::shared_ptr<const Edits> edits, std::span<const SourceRow> changed);
    void setEdits(std::shared_ptr<const Edits> edits, SourceRow changed) { setEdits(std::move(edits), {&changed, 1}); }
    void showEdits(Lines lines = Lines::Same);
    /// What others have made of these records: they go where they belong now, unless edits hold all on their lines.
    void showElsewhere(std::span<const SourceRow> changed);

    /// Records that edits have moved out of the sort order or the filter; they stay until recompute().
    const std::set<SourceRow>& outOfPlace() const { return outOfPlace_; }
    void hold(SourceRow row) { outOfPlace_.insert(row); }
    void release(SourceRow row) { outOfPlace_.erase(row); }
    /// Notes records that edits of these fields move so.
    void noteOutOfPlace(const std::map<SourceRow, std::set<FieldIndex>>& edited);
    /// A new record stands as it was made, whatever is typed into it.
    void standAsMade(SourceRow row, const RecordFate& fate);

    /// Runs an edit of records and notes which of the numbers whose earlier values are kept it changes.
    void recording(std::span<const SourceRow> rows, bool takesBack, const std::function<void()>& edit);
    /// Computed columns have other rules: what they were tells nothing.
    void forgetComputedBefore();

    void pickList(FieldIndex field, std::optional<std::size_t> leftOut, ViewComputer::PickDone done);

  private:
    void computed(const MadeView& made);
    void changeOver(const MadeView& made);
    void moveRecorded(const MadeView& made, const RowMoves& moves);
    std::shared_ptr<const Edits> withComputedOf(const Snapshot& made) const;
    void holdOutsideFilter(const std::map<SourceRow, std::vector<FieldIndex>>& touched, const EvaluationInput& input);

    BoundRecords& bound_;
    RecordFinder& finder_;
    Hooks hooks_;
    std::shared_ptr<const ViewPlan> incomingPlan_;  ///< the plan, or another when the table's fields have changed
    std::uint64_t incomingLoad_ = 0;
    std::uint64_t generation_ = 0;
    std::uint64_t rowsSince_ = 0;              ///< the generation up to which views were of other rows
    std::shared_ptr<const Edits> orderEdits_;  ///< those that records were filtered and sorted with
    std::set<SourceRow> outOfPlace_;
    std::shared_ptr<RecordedValues> recorded_ = std::make_shared<RecordedValues>();
    ViewComputer computer_;
};

}  // namespace jollyrow
