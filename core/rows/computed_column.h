// SPDX-License-Identifier: MIT
#pragma once
// The values of a rule for all records, as a column: to sort by, or to show. Failed records count as empty.

#include <memory>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/column.h"
#include "core/columns/column_chunk.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

/// Appends a boxed value to a chunk of its type; Empty and what does not fit count as empty.
void addValue(ColumnChunk& chunk, const Value& value);

/// What a record gets for which the rule fails.
enum class OnFailure {
    Empty,  ///< nothing, e.g. in a sort key
    Say,    ///< nothing, and the words of the error as its misfit, for a cell to show
};

/// Decimals whose scale varies get the largest scale at which all fit 64 bits, at most 18. Spans of time become their
/// length in microseconds (months of 30 days), which orders them. O(rows).
Result<std::shared_ptr<const Column>> computedColumn(const std::shared_ptr<const Program>& program,
                                                     const EvaluationInput& input, const Cancel& cancel,
                                                     OnFailure onFailure = OnFailure::Empty);

}  // namespace jollyrow
