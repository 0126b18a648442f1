// SPDX-License-Identifier: MIT
#pragma once
// RecordSet: for which records a condition holds, as bits; the Filter stage's product, one for each condition so that
// one can be switched off, and counts can be taken of all but one. Only records for which the condition is true belong
// to it: empty and failed ones do not, as in WHERE.

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rows/row_order.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

struct RecordSet {
    std::vector<std::uint64_t> bits;  ///< one a record, 1 = it holds
    std::size_t rows = 0;
    std::size_t count = 0;
    std::size_t failed = 0;  ///< records for which the rule gave an error
    std::optional<SourceRow> firstFailed = std::nullopt;
    CellState failure = CellState::Filled;  ///< of the first failed one

    /// False for records that were not there when the set was made.
    bool contains(std::uint32_t row) const { return row < rows && ((bits[row >> 6] >> (row & 63)) & 1) != 0; }
};

/// Evaluates a Boolean program for all records, on up to four threads. O(rows).
Result<std::shared_ptr<const RecordSet>> rowsWhere(const std::shared_ptr<const Program>& condition,
                                                   const EvaluationInput& input, const Cancel& cancel);
/// The same set with the given records evaluated anew. Requires: the rule sums up no records (Program::windows empty).
Result<std::shared_ptr<const RecordSet>> rowsWhereAgain(const RecordSet& before, std::span<const std::uint32_t> changed,
                                                        const std::shared_ptr<const Program>& condition,
                                                        const EvaluationInput& input);
/// Records of all sets; all records when there is none. O(rows / 64).
std::shared_ptr<const RecordSet> intersection(std::span<const std::shared_ptr<const RecordSet>> sets, std::size_t rows);
/// All of `rows` records but these. O(rows / 64).
std::shared_ptr<const RecordSet> allBut(std::span<const std::uint32_t> absent, std::size_t rows);
/// The set with these records, and without them. O(rows / 64).
std::shared_ptr<const RecordSet> with(const RecordSet& set, std::span<const std::uint32_t> records);
std::shared_ptr<const RecordSet> without(const RecordSet& set, std::span<const std::uint32_t> records);
/// The records of `order` (null: bound order) that are in the set, in that order. O(rows), on up to four threads.
std::shared_ptr<const RowOrder> chosen(const RowOrder* order, const RecordSet& set);

}  // namespace jollyrow
