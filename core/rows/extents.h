// SPDX-License-Identifier: MIT
#pragma once
// Extents: between which ends the numbers of columns lie, for bars: of one column, or of the sums of several.

#include <list>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/columns/edits.h"
#include "core/columns/table.h"
#include "core/rows/row_order.h"

namespace jollyrow {

/// Whose ends are asked for.
struct ExtentTerm {
    std::vector<FieldIndex> fields;  ///< numbers; several are stacked
    bool filtered = false;           ///< only of the records shown
    bool isSpread = false;           ///< the least and greatest themselves, 0 among them or not
    bool operator==(const ExtentTerm&) const = default;
};

/// The least sum of what is below zero and the greatest of what is above it; 0 is always within.
struct Extent {
    double low = 0;
    double high = 0;
    bool operator==(const Extent&) const = default;
};

/// The number in a cell, edited or not; NaN where there is none or it is none.
double numberIn(const Table& table, const Edits* edits, SourceRow row, FieldIndex field);
/// An exact or inexact number as the nearest double; NaN for what is no number.
double numberOf(const Value& value);

/// Not finite numbers count for nothing. `order` null: all records. O(records * fields).
Extent extentOf(const Table& table, const Edits* edits, const RowOrder* order, std::span<const FieldIndex> fields,
                const Cancel& cancel);
/// The least and greatest number of a column; both 0 where there is none. O(records).
Extent spreadOf(const Table& table, const Edits* edits, const RowOrder* order, FieldIndex field, const Cancel& cancel);

/// Keeps the last ones. Confined to one thread.
class ExtentStage final {
  public:
    Extent of(const ExtentTerm& term, const std::shared_ptr<const Table>& table,
              const std::shared_ptr<const Edits>& edits, const std::shared_ptr<const RowOrder>& order,
              const Cancel& cancel);

  private:
    struct Kept {
        ExtentTerm term;
        std::vector<std::uint64_t> columns;
        std::size_t rows = 0;
        std::shared_ptr<const Edits> edits;
        std::vector<SourceRow> gone;
        std::shared_ptr<const RowOrder> order;
        Extent extent;
    };
    static constexpr std::size_t kKept = 24;
    std::list<Kept> kept_;  ///< the latest used first
};

}  // namespace jollyrow
