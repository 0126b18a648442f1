// SPDX-License-Identifier: MIT
// What others do to the records that a session shows, while it shows them: in place, without reading all again.
// Covered by tests/sources/objects_test.cpp.
#include <unordered_map>

#include "core/columns/room.h"
#include "core/session/session.h"

namespace jollyrow {
namespace {

/// Past so many edits reading all again costs less than carrying them along.
constexpr std::size_t kMostElsewhere = 100'000;

/// Records that are here and not in the table as it was loaded, by their key. O(edits).
class MadeHere {
  public:
    MadeHere(const Table& table, const RecordJournal& journal) : table_(table), journal_(journal) {
        if (!journal.edits()->hasFates()) return;
        journal.edits()->forEachRecord([&](SourceRow row, const RecordEdit& record) {
            if (raw(row) >= table.loaded() && record.fate() && !record.fate()->key.empty())
                rows_.emplace(hashOf(journal.keyOf(table, row)), row);
        });
    }
    std::optional<SourceRow> find(const RecordKey& key) const {
        const auto [first, last] = rows_.equal_range(hashOf(key));
        for (auto at = first; at != last; ++at)
            if (journal_.keyOf(table_, at->second) == key) return at->second;
        return std::nullopt;
    }
    void add(const RecordKey& key, SourceRow row) { rows_.emplace(hashOf(key), row); }

  private:
    const Table& table_;
    const RecordJournal& journal_;
    std::unordered_multimap<std::size_t, SourceRow> rows_;
};

}  // namespace

// NOLINTNEXTLINE(performance-unnecessary-value-param): handed over, as callbacks are; each record that waits keeps it.
bool Session::takeElsewhere(std::span<const ElsewhereChange> changes, std::function<void(const RecordKey&)> later) {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (!table_->hasKeys() || !table_->complete || !snapshot_ || tableLoad_ == 0) return false;
    bool isAllShown = true;
    MadeHere made(*table_, journal_);
    auto next = std::make_shared<Edits>(*edits());
    std::vector<SourceRow> changed;
    std::size_t free = table_->loaded();
    const bool hasMovedKeys = !table_->rowIds && std::any_of(table_->keyFields.begin(), table_->keyFields.end(),
                                                             [&](FieldIndex f) { return edits()->touches(f); });
    for (const ElsewhereChange& change : changes) {
        auto row = made.find(change.key);
        if (!row && hasMovedKeys) row = rowOf(change.key);
        if (!row) {
            if (!keys_) keys_ = std::make_shared<const KeyIndex>(table_);
            row = keys_->find(change.key);
            if (row && hasMovedKeys && journal_.keyOf(*table_, *row) != change.key) row.reset();
        }
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
            made.add(change.key, place);
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
