// SPDX-License-Identifier: MIT
#pragma once
// FigureOrigin: what made a figure: how many records, how many of them had no value or could not be computed, and which
// held the extremes.

#include <memory>
#include <optional>
#include <vector>

#include "core/rows/group_tree.h"
#include "core/rows/record_set.h"
#include "core/rules/summary_list.h"

namespace jollyrow {

/// Of one aggregate of a figure.
struct TermOrigin {
    std::int64_t counted = 0;      ///< records whose value went in
    std::int64_t empties = 0;      ///< records without a value
    std::int64_t failed = 0;       ///< records on which its rule fails
    std::int64_t misfits = 0;      ///< records that hold what fits no type, left out
    std::int64_t filteredOut = 0;  ///< records that its FILTER leaves out
    struct At {
        RuleValue value;
        SourceRow row{};
    };
    std::optional<At> smallest, largest;  ///< of values that have an order; the first of equal ones
    std::optional<SourceRow> firstEmpty, firstFailed, firstMisfit;
};

struct FigureOrigin {
    std::int64_t records = 0;       ///< that count
    std::int64_t leaving = 0;       ///< to be deleted, left out
    std::vector<TermOrigin> terms;  ///< in the order of the rule's aggregates
    EvaluatedCell figure;           ///< before shares and running totals
    std::vector<EvaluatedCell> aggregates;
    std::shared_ptr<const RecordSet> made;  ///< the records that are counted in some aggregate
};

/// Of some records, in the order they are in. O(records of the table).
Result<FigureOrigin> originOf(const SummaryRule& rule, RowOrder order, const EvaluationInput& records,
                              const Cancel& cancel);
/// Of a node, or of all records of the tree for nodes.size(). O(records of the table).
Result<FigureOrigin> originOf(const SummaryRule& rule, const GroupTree& tree, std::uint32_t node,
                              const EvaluationInput& records, const Cancel& cancel);

}  // namespace jollyrow
