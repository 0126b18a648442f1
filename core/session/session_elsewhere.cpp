// SPDX-License-Identifier: MIT
// What others do to the records that a session shows, while it shows them: in place, without reading all again.
// Covered by tests/sources/objects_test.cpp.
#include "core/columns/room.h"
#include "core/session/rows_by_key.h"
#include "core/session/session.h"

namespace jollyrow {
namespace {

/// Past so many edits reading all again costs less than carrying them along.
constexpr std::size_t kMostElsewhere = 100'000;

}  // namespace

// NOLINTNEXTLINE(performance-unnecessary-value-param): handed over, as callbacks are; each record that waits keeps it.
bool Session::takeElsewhere(std::span<const ElsewhereChange> changes, std::function<void(const RecordKey&)> later) {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (!table_->hasKeys() || !table_->complete || !snapshot_ || tableLoad_ == 0) return false;
    bool isAllShown = true;
    if (!keys_) keys_ = std::make_shared<const KeyIndex>(table_);
    const std::shared_ptr<const Table> table = table_;  // a roomier one may take its place
    RowsByKey known(*table, journal_, *keys_);
    auto next = std::make_shared<Edits>(*edits());
    std::vector<SourceRow> changed;
    std::size_t free = table_->loaded();
    for (const ElsewhereChange& change : changes) {
        auto row = known.find(change.key);
        const RecordFate* fate = row ? next->fate(*row) : nullptr;
        if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved) row.reset();
        // A record that is being inserted here may be this one, whether it was read meanwhile or not.
        if (journal_.isInserting() && later) askedLater_.emplace_back(change.key, later);
        if (!row && journal_.isInserting()) continue;
        if (row) {
            if (journal_.noteElsewhere(*table_, *row, change, *next))
                changed.push_back(*row);
            else if (later)
                askedLater_.emplace_back(change.key, later);
        } else if (!change.isGone) {
            while (free < table_->rows && next->record(static_cast<SourceRow>(free))) ++free;
            if (free >= table_->rows && table_->spare == 0 && table_->roomy) {
                table_ = table_->roomy;
                if (incoming_ && incoming_->spare < table_->spare) incoming_ = withRoom(*incoming_, table_->spare);
            }
            if (free >= table_->rows || next->unsaved() + changed.size() > kMostElsewhere) {
                isAllShown = false;  // the next load has them
                continue;
            }
            const auto place = static_cast<SourceRow>(free++);
            journal_.addElsewhere(place, change, *next);
            known.add(change.key, place);
            changed.push_back(place);
        }
    }
    if (changed.empty()) return isAllShown;
    setEdits(std::move(next), changed);
    // What was edited here and stays on its line does so still; all else goes where it belongs now.
    const bool isHeld = !outOfPlace_.empty();
    if (isHeld) outOfPlace_.insert(changed.begin(), changed.end());
    auto shown = std::make_shared<Snapshot>(*snapshot_);
    shown->edits = edits();
    show(std::move(shown));
    recompute(isHeld ? Order::Kept : Order::Anew);
    return isAllShown;
}

/// Saves were answered: what others have done to their records can be told from what was done here.
void Session::askLater() {
    for (auto& [key, later] : std::exchange(askedLater_, {})) later(key);
}

}  // namespace jollyrow
