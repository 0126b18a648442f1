// SPDX-License-Identifier: MIT
#pragma once
// RecordFinder: which row of the table a record has, by reference or by key, whatever was edited, inserted, deleted and
// read again since. Confined to the session's thread.

#include <memory>
#include <optional>
#include <utility>

#include "core/columns/key_index.h"
#include "core/columns/row_ref.h"
#include "core/session/bound_records.h"

namespace jollyrow {

class RecordFinder final {
  public:
    explicit RecordFinder(const BoundRecords& bound) : bound_(bound) {}
    /// A record as it can be kept over reloads. Requires: a row of the table.
    RowRef refOf(SourceRow row) const;
    /// The row that the record has now; nullopt when it is gone. O(log rows), or O(1).
    std::optional<SourceRow> now(const RowRef& ref) const;
    /// The record that has this key in the store, as far as is known.
    std::optional<SourceRow> rowOf(const RecordKey& key) const;

    /// Of the records that were loaded. O(records) where it has not come from a worker yet.
    const KeyIndex& index() const;
    /// The same when it is there; else null.
    const std::shared_ptr<const KeyIndex>& known() const { return keys_; }
    void take(std::shared_ptr<const KeyIndex> keys) { keys_ = std::move(keys); }
    void forget() { keys_.reset(); }

  private:
    const BoundRecords& bound_;
    mutable std::shared_ptr<const KeyIndex> keys_;
};

}  // namespace jollyrow
