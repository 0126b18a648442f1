// SPDX-License-Identifier: MIT
#pragma once
// KeyIndex: finds a record of a table by its key. Immutable once made, so any thread may ask; made on a worker.

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/columns/table.h"

namespace jollyrow {

/// Equal keys have equal ones.
std::size_t hashOf(const RecordKey& key);

class KeyIndex final {
  public:
    /// O(rows), and nothing but a look when the keys are whole numbers in rising order, as SQLite's row ids come.
    explicit KeyIndex(std::shared_ptr<const Table> table);
    /// nullopt for a key that no record has, that is empty in part, or that several records have. O(1), in rising order
    /// O(log rows).
    std::optional<SourceRow> find(const RecordKey& key) const;
    const std::shared_ptr<const Table>& table() const { return table_; }

  private:
    friend std::vector<std::uint32_t> movesBetween(const KeyIndex& from, const KeyIndex& to);
    const Column* numbers() const;
    std::optional<SourceRow> findNumber(std::int64_t key, std::size_t from) const;

    std::shared_ptr<const Table> table_;
    bool rising_ = false;
    std::vector<std::uint32_t> slots_;  ///< open addressing: row + 1, 0 = free
};

/// By row of `from`'s table the row of `to`'s that has the same key; kNoRow's number where there is none. O(rows).
std::vector<std::uint32_t> movesBetween(const KeyIndex& from, const KeyIndex& to);

}  // namespace jollyrow
