// SPDX-License-Identifier: MIT
#pragma once
// ValueSpread: how the values of a field or rule lie: a histogram of equal bins over where most of them are, and cut
// points that suggest themselves.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

/// Values as doubles in their own unit: 12.5 hours; days since 1970-01-01 of a date; seconds of a time or timestamp.
struct ValueSpread {
    RuleKind kind = RuleKind::Integer;
    double least = 0, greatest = 0;
    /// What the bins go over: all values, but for the outermost hundredth on a side where it lies far from the rest.
    double from = 0, to = 0;
    std::vector<std::int64_t> bins;     ///< records by bin, from `from` to `to`
    std::int64_t below = 0, above = 0;  ///< records outside of it
    std::vector<double> fifths;         ///< the four values that part them into five parts alike in number
    std::int64_t counted = 0;
    std::int64_t empties = 0;
};

/// Of all records of the input's table. Fails when cancelled, or for values that have no distance (texts, yes/no).
/// O(records).
Result<std::shared_ptr<const ValueSpread>> spreadOf(const std::shared_ptr<const Program>& program,
                                                    const EvaluationInput& records, std::size_t bins,
                                                    const Cancel& cancel);
/// Up to eight round numbers that part the values: 1, 2 or 5 times a power of ten apart, whole days for dates; where
/// most numbers would lie between two of these, round numbers near the fifths instead.
std::vector<double> roundCuts(const ValueSpread& spread);
/// A value of the spread as the language's plain form has it: "250", "12.5", "2026-11-23".
std::string plainCut(double value, RuleKind kind);

}  // namespace jollyrow
