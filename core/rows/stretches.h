// SPDX-License-Identifier: MIT
#pragma once
// COUNT(DISTINCT), percentiles, first and last: each group's records side by side, as ranks of their values. Inside of
// the rows room.

#include "core/rows/term_sums.h"

namespace jollyrow {

/// O(records * levels * log records).
Result<std::unique_ptr<TermSums>> stretchSums(const SummaryTerm& term, const GroupTree& tree,
                                              const EvaluationInput& input, const Cancel& cancel);

}  // namespace jollyrow
