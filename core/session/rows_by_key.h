// SPDX-License-Identifier: MIT
#pragma once
// RowsByKey: finds many records of a session by the keys that they have in the store, those among them that were made
// here or elsewhere since the table was loaded. Borrows all it is given.

#include <optional>
#include <unordered_map>
#include <utility>

#include "core/columns/key_index.h"
#include "core/editing/record_journal.h"

namespace jollyrow {

class RowsByKey final {
  public:
    /// `keys`: of the records that were loaded. O(edits).
    RowsByKey(const Table& table, const RecordJournal& journal, const KeyIndex& keys)
        : table_(table), journal_(journal), keys_(keys) {
        const Edits& edits = *journal.edits();
        for (const FieldIndex field : table.keyFields)
            hasMovedKeys_ = hasMovedKeys_ || (!table.rowIds && edits.touches(field));
        if (!edits.hasFates() && !hasMovedKeys_) return;
        edits.forEachRecord([&](SourceRow row, const RecordEdit& record) {
            const RecordFate* fate = record.fate();
            if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved) return;
            const bool isMadeHere = raw(row) >= table.loaded() && fate && !fate->key.empty();
            if (isMadeHere || (hasMovedKeys_ && raw(row) < table.loaded() && movesKey(record)))
                add(journal.keyOf(table, row), row);
        });
    }
    /// One that was loaded is found whatever became of it. O(1).
    std::optional<SourceRow> find(const RecordKey& key) const {
        const auto [first, last] = rows_.equal_range(hashOf(key));
        for (auto at = first; at != last; ++at)
            if (at->second.first == key) return at->second.second;
        const auto row = keys_.find(key);
        return row && (!hasMovedKeys_ || journal_.keyOf(table_, *row) == key) ? row : std::nullopt;
    }
    void add(const RecordKey& key, SourceRow row) { rows_.emplace(hashOf(key), std::pair(key, row)); }

  private:
    bool movesKey(const RecordEdit& record) const {
        for (const FieldIndex field : table_.keyFields)
            if (record.find(field)) return true;
        return false;
    }

    const Table& table_;
    const RecordJournal& journal_;
    const KeyIndex& keys_;
    bool hasMovedKeys_ = false;
    std::unordered_multimap<std::size_t, std::pair<RecordKey, SourceRow>> rows_;  ///< by hash of the key
};

}  // namespace jollyrow
