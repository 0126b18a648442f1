// SPDX-License-Identifier: MIT
#include "core/session/view_computer.h"

#include <cmath>

namespace jollyrow {

std::shared_ptr<const KeyIndex> TableKeys::of(const std::shared_ptr<const Table>& table) {
    for (const auto& index : known_)
        if (index->table()->rows == table->rows && index->table()->rowsIdentity() == table->rowsIdentity())
            return index;
    known_.push_back(std::make_shared<const KeyIndex>(table));
    if (known_.size() > 2) known_.erase(known_.begin());
    return known_.back();
}

std::shared_ptr<const std::vector<std::uint32_t>> TableKeys::moves(const std::shared_ptr<const KeyIndex>& from,
                                                                   const std::shared_ptr<const KeyIndex>& to) {
    if (!moves_ || from != from_ || to != to_)
        moves_ = std::make_shared<const std::vector<std::uint32_t>>(movesBetween(*from, *to));
    from_ = from;
    to_ = to;
    return moves_;
}

namespace {

struct ShownTable {
    const Table& table;
    const Edits& edits;
};

/// The numbers of a field that are others in the next table. O(records).
void addChanges(FieldIndex field, const ShownTable& from, const ShownTable& to, const RowMoves& moves,
                std::vector<RecordedChange>& changes) {
    const auto now = to.table.schema.find(from.table.schema.field(field).name);
    if (!now || !from.table.column(field) || !to.table.column(*now)) return;
    for (std::size_t i = 0; i < from.table.rows && changes.size() < RecordedValues::kMostCells; ++i) {
        const auto row = static_cast<SourceRow>(i);
        const auto next = moves.now(row);
        if (!next || raw(*next) >= to.table.rows) continue;
        const double was = numberIn(from.table, &from.edits, row, field);
        const double is = numberIn(to.table, &to.edits, *next, *now);
        if (!(was == is) && !(std::isnan(was) && std::isnan(is))) changes.push_back({{row, field}, was});
    }
}

}  // namespace

void ViewComputer::stop() {
    newest_.cancel();
    pick_.cancel();
    worker_.stop();
}

MadeView ViewComputer::made(RowlineInput input, const std::optional<Reload>& reload, const Cancel& cancel) {
    MadeView made;
    RowMoves moves;
    std::shared_ptr<const Edits> shownEdits;
    if (reload) {
        made.keys = keys_.of(input.table);
        made.byKey = keys_.moves(keys_.of(reload->before), made.keys);
        moves = movesOf(made.byKey, *reload->before, *input.edits, reload->carriage.keysOnTheirWay,
                        reload->carriage.savedMeanwhile, *made.keys);
        shownEdits = input.edits;
        input.edits =
            carried(*input.edits, *reload->before, *input.table, moves, reload->carriage.savedMeanwhile).edits;
    }
    made.snapshot = rowline_.run(input, cancel);
    if (reload && reload->shown && made.snapshot)
        for (const FieldIndex field : reload->recorded)
            addChanges(field, {*reload->shown, *shownEdits}, {*(*made.snapshot)->table, *(*made.snapshot)->edits},
                       moves, made.changes);
    return made;
}

void ViewComputer::compute(RowlineInput input, std::optional<Reload> reload,
                           std::function<void(const MadeView&)> done) {
    worker_.run([this, input = std::move(input), reload = std::move(reload), turn = newest_.next(),
                 done = std::move(done)] {
        if (turn.cancel.requested()) return;
        post_([this, turn, done, view = made(input, reload, turn.cancel)] {
            if (newest_.isNewest(turn)) done(view);  // else a newer one is on its way
        });
        // For finding records by their key.
        if (!reload && input.table->complete && input.table->hasKeys())
            post_([this, keys = keys_.of(input.table), generation = input.generation] { keysMade_(keys, generation); });
    });
}

void ViewComputer::pickList(RowlineInput input, FieldIndex field, std::optional<std::size_t> leftOut, TextOrder order,
                            PickDone done) {
    worker_.run([this, input = std::move(input), field, leftOut, order = std::move(order), turn = pick_.next(),
                 done = std::move(done)] {
        if (turn.cancel.requested()) return;
        post_([this, turn, done, list = rowline_.pickList(input, field, leftOut, order, turn.cancel)] {
            if (pick_.isNewest(turn)) done(list);
        });
    });
}

}  // namespace jollyrow
