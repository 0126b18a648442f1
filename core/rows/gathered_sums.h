// SPDX-License-Identifier: MIT
#pragma once
// BOOL_AND, BOOL_OR, STRING_AGG and the figures of pairs (CORR, REGR_…): each group's records side by side, their values
// read once. Inside of the rows room.

#include "core/rows/term_sums.h"

namespace jollyrow {

/// O(records * levels); STRING_AGG with an order O(records * levels * log records).
Result<std::unique_ptr<TermSums>> gatheredSums(const SummaryTerm& term, const GroupTree& tree,
                                               const EvaluationInput& input, const Cancel& cancel);

}  // namespace jollyrow
