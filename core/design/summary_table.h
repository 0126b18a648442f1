// SPDX-License-Identifier: MIT
#pragma once
// The summary table: groups and their figures as records of their own, with a design to show them; with one level of
// groups across under header tiers (a cross-tab); or turned around, figures as rows.

#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/design/grouping.h"
#include "core/rows/rowline.h"

namespace jollyrow {

struct SummaryTableWanted {
    std::vector<std::size_t> across = {};  ///< the levels whose groups stand side by side, the outermost first
    bool turned = false;                   ///< rows become columns; of few rows only
};

struct SummaryTable {
    std::shared_ptr<const Table> table;
    Design design;  ///< its source names no file
};

/// As the design has it, of the groups that are there (GroupDesign::across, GridDesign::turnedSummary).
SummaryTableWanted summaryTableOf(const Grouping& grouping, const Design& design);

inline constexpr std::size_t kMostTableColumns = 200;

/// A record for each innermost group (of the levels that do not stand across) in display order: a column a level, then
/// one a figure, rounded as it is shown. With `across`, a tier a group there, of several levels within each other, and
/// one of all. `order`: the records that are shown. Fails when there is nothing to show, or with more than
/// kMostTableColumns columns. O(records + groups).
Result<SummaryTable> summaryTable(const Grouping& grouping, const Design& from, std::shared_ptr<const RowOrder> order,
                                  const EvaluationInput& records, const SummaryTableWanted& wanted,
                                  const Cancel& cancel);

}  // namespace jollyrow
