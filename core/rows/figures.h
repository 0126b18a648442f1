// SPDX-License-Identifier: MIT
#pragma once
// Figures: from the aggregates of groups to what is shown of them: rules over aggregates, shares, running totals, and
// the order of groups by a figure. Inside of the rows room.

#include "core/rows/group_stage.h"

namespace jollyrow {

/// A rule's value for each node and, behind them, for all. O(nodes).
Result<std::vector<EvaluatedCell>> outerFigures(const SummaryRule& rule,
                                                const std::vector<std::vector<EvaluatedCell>>& aggregates,
                                                const EvaluationInput& records, const Cancel& cancel);
/// Shares and running totals instead of values. O(nodes).
std::vector<EvaluatedCell> measured(const Figures& figures, SummaryMeasure measure, const GroupTree& tree);
/// Numbers by which groups that stand by a figure are sorted (reordered()); others keep their place.
std::vector<std::uint32_t> ranksByFigures(const GroupTree& tree, const std::vector<GroupTerm>& levels,
                                          const std::vector<std::shared_ptr<const Figures>>& figures);
/// All figures of a tree, and that of all records behind them. O(nodes).
std::vector<EvaluatedCell> cellsOf(const Figures& figures, std::size_t slots);

}  // namespace jollyrow
