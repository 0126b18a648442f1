// SPDX-License-Identifier: MIT
#pragma once
// What a reload does to edits: those without an answer, refused or saved behind the load's back move to their record's
// new row. Pure.

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/key_index.h"

namespace jollyrow {

/// Where the records of one table stand in the next.
struct RowMoves {
    std::shared_ptr<const std::vector<std::uint32_t>> byKey;  ///< by old row: as loaded, by equal keys
    std::map<SourceRow, SourceRow> byEditedKey;               ///< of records whose key was edited since

    /// O(1), after edited keys O(log of them); nullopt for a record that is gone.
    std::optional<SourceRow> now(SourceRow before) const;
};

/// A cell saved while a load was under way, and the values that the load may have read instead.
using SavedMeanwhile = std::map<Edits::Place, std::vector<Value>>;

/// By cell of a key the values that saves without an answer may have left there.
using KeysOnTheirWay = std::map<Edits::Place, std::vector<Value>>;

struct CarriedEdits {
    std::shared_ptr<const Edits> edits;
    std::map<Edits::Place, Edits::Place> places;  ///< from old to new
    std::vector<Edits::Place> lost;               ///< refused ones whose record or column is gone
};

/// The key that the store has for a record: as loaded, with the edits of it that were saved. O(key).
RecordKey storedKey(const Table& table, const Edits& edits, SourceRow row);
/// Completes moves by key with the records whose key was edited. O(edits).
RowMoves movesOf(std::shared_ptr<const std::vector<std::uint32_t>> byKey, const Table& from, const Edits& edits,
                 const KeysOnTheirWay& onTheirWay, const KeyIndex& to);
/// O(edits).
CarriedEdits carried(const Edits& edits, const Table& from, const Table& to, const RowMoves& moves,
                     const SavedMeanwhile& meanwhile);

}  // namespace jollyrow
