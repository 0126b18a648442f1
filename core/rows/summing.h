// SPDX-License-Identifier: MIT
#pragma once
// Summing: what one summary has seen of one group, for what does not fit the small accumulators of tallies.h: decimals
// of changing scales, extremes of texts and yes/no, variances of whole numbers and decimals from exact sums and sums of
// squares. Doubles never come here. Sums of groups merge, so that a group above is put together from those below it.

#include "core/rules/evaluator.h"
#include "core/rules/summary_list.h"
#include "core/rules/vector.h"

namespace jollyrow {

/// Of every kind but COUNT(DISTINCT) and percentiles, which need all values.
struct Summing {
    Int128 narrow = 0;      ///< sum of 64-bit values, at the scale of the vectors they came in
    WideDecimal exact{};    ///< sum of the others
    WideDecimal squares{};  ///< for variances of decimals
    RuleValue extreme = Empty{};
    std::int64_t count = 0;  ///< values, or records of COUNT(*)
    int narrowScale = 0;
    CellState failed = CellState::Filled;  ///< of the first record whose argument failed
};

/// Adds value i of `v`; empties count for nothing.
void add(Summing& into, const SummaryTerm& term, const Vector& v, std::size_t i);
void merge(Summing& into, const SummaryTerm& term, const Summing& from);
EvaluatedCell settled(const Summing& sum, const SummaryTerm& term);

}  // namespace jollyrow
