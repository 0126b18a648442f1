// SPDX-License-Identifier: MIT
#pragma once
// Groups records by levels of keys and sums them up: a tree of groups in the order of their keys, the records in it in
// the order they came, and the values of each summary for each group and for all.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rows/row_order.h"
#include "core/rules/evaluator.h"
#include "core/rules/sort_term.h"
#include "core/rules/summary_list.h"

namespace jollyrow {

struct GroupNode {
    int level = 0;             ///< 0 = the outermost
    std::uint32_t parent = 0;  ///< a node, of level > 0
    EvaluatedCell key;         ///< Filled, Empty, or the error that its records' keys have in common
    std::int64_t first = 0;    ///< its records in GroupedRows::order
    std::int64_t count = 0;
    std::uint32_t firstChild = 0, endChild = 0;  ///< nodes of the next level
};

/// Immutable once made.
struct GroupedRows {
    std::vector<GroupNode> nodes;                       ///< level by level, each in display order
    std::vector<std::uint32_t> levelBegin;              ///< by level its first node; one more at the end
    std::shared_ptr<const RowOrder> order;              ///< the records, those of each group together
    std::vector<std::vector<EvaluatedCell>> summaries;  ///< by summary, by node
    std::vector<EvaluatedCell> totals;                  ///< by summary
    int levels() const { return static_cast<int>(levelBegin.size()) - 1; }
};

/// `order`: the records to group, in the order they keep within their group; null for all in bound order. Keys take
/// their direction, place of empties, text order and stated values from the terms; records whose key fails make a group
/// at the end. Equal values make one group: 1.5 and 1.50, but not "a" and "A".
/// Fails when cancelled or when a column is not loaded. O(records * (levels + summaries) + groups log groups).
Result<std::shared_ptr<const GroupedRows>> groupRows(const std::vector<SortTerm>& levels,
                                                     const std::vector<SummaryTerm>& summaries, const RowOrder* order,
                                                     const EvaluationInput& input, const Cancel& cancel);

}  // namespace jollyrow
