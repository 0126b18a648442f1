// SPDX-License-Identifier: MIT
#pragma once
// What a reload does to edits: those without an answer, drafts, refused ones and those saved behind the load's back
// move to their record's new row; so do records that were inserted and deleted here. Pure.

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <unordered_map>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/key_index.h"

namespace jollyrow {

/// Where the records of one table stand in the next.
struct RowMoves {
    std::shared_ptr<const std::vector<std::uint32_t>> byKey;  ///< by old row: as loaded, by equal keys
    /// Of records whose key was edited since, and of those inserted here.
    std::map<SourceRow, SourceRow> byEditedKey;

    /// O(1), after edited keys O(log of them); nullopt for a record that is gone.
    std::optional<SourceRow> now(SourceRow before) const;
};

/// What was saved while a load was under way, which it may have read before.
struct SavedMeanwhile {
    std::map<Edits::Place, std::vector<Value>> cells;  ///< and the values that the load may have read instead
    std::set<SourceRow> inserted, deleted;
    /// What a record held that was deleted, at any time since the load was begun: it may have read that of one which
    /// has its key by now.
    struct Held {
        RecordKey key;
        std::map<FieldIndex, std::vector<Value>> values;
    };
    std::unordered_multimap<std::size_t, Held> held;  ///< by hashOf(key)
};

/// By cell of a key the values that saves without an answer may have left there.
using KeysOnTheirWay = std::map<Edits::Place, std::vector<Value>>;

struct CarriedEdits {
    std::shared_ptr<const Edits> edits;
    std::map<Edits::Place, Edits::Place> places;  ///< from old to new
    std::vector<Edits::Place> lost;               ///< unsaved ones whose record or column is gone
};

/// The key that the store has for a record: as loaded, with the edits of it that were saved. All empty of one that is
/// not there yet. O(key).
RecordKey storedKey(const Table& table, const Edits& edits, SourceRow row);
/// Completes moves by key with the records whose key was edited, and those inserted here: what the load did not read
/// goes to the spare row of the same number. O(edits).
RowMoves movesOf(std::shared_ptr<const std::vector<std::uint32_t>> byKey, const Table& from, const Edits& edits,
                 const KeysOnTheirWay& onTheirWay, const SavedMeanwhile& meanwhile, const KeyIndex& to);
/// O(edits). Requires: `to` has as many spare rows as `from`, when records were inserted in it.
CarriedEdits carried(const Edits& edits, const Table& from, const Table& to, const RowMoves& moves,
                     const SavedMeanwhile& meanwhile);

}  // namespace jollyrow
