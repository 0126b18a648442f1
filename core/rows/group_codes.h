// SPDX-License-Identifier: MIT
#pragma once
// Codes: the values of a key as small numbers, one for each distinct value, and the order of those values. The grouping
// above them (group_stage.h) works on numbers only, as LIMITS.md 5 found fastest.

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rows/coded_values.h"
#include "core/rows/collation.h"
#include "core/rows/row_order.h"
#include "core/rules/evaluator.h"
#include "core/rules/sort_term.h"

namespace jollyrow {

/// More different values than this are no groups that anybody could look at.
inline constexpr std::size_t kMostGroups = 1'000'000;

/// Immutable once made.
struct Codes {
    const std::uint32_t* byRow() const { return lent.data() ? lent.data() : own.data(); }
    RowOrder own;                    ///< of all records of the table, unless the column's are `lent`
    SharedSpan<std::uint32_t> lent;  ///< those of a text column's dictionary
    CodedValues values;              ///< by code
    /// So many of the values, from the first, are whole numbers, days or times and rise; none for other kinds.
    std::size_t rising = 0;
};

/// The program that reads one field.
std::shared_ptr<const Program> programOf(FieldIndex field, const TableSchema& schema);

/// Equal values have one code: 1.5 and 1.50, 0.0 and -0.0, but not "a" and "A". Fails when cancelled, when a column is
/// not loaded, or with more than `most` different values. O(records), in parallel but for values that are hashed.
Result<Codes> codesOf(const std::shared_ptr<const Program>& program, const EvaluationInput& input, std::size_t most,
                      const Cancel& cancel);

/// The codes with those of some records made anew. O(records + values * rows).
Result<Codes> patchedCodes(const Codes& codes, const std::shared_ptr<const Program>& program,
                           const EvaluationInput& input, std::span<const std::uint32_t> rows);

/// The place of each value in the order of a term: its direction, empties, text order and stated values; failures last.
/// `ranks` keeps the order of text columns; may be null.
Result<std::vector<std::uint32_t>> ranksOf(const Codes& codes, const SortTerm& term, const Column* column,
                                           RankCache* ranks, const Cancel& cancel);

/// Calls visit(thread, begin, count, vector) for all records, batch by batch, threads on ranges of their own in rising
/// order. Fails when cancelled or when a column is not loaded.
template <class Visit>
Result<void> forBatches(const std::shared_ptr<const Program>& program, const EvaluationInput& input,
                        std::size_t threads, const Cancel& cancel, const Visit& visit);

}  // namespace jollyrow

#include "core/rows/parallel.h"
#include "core/rules/vector.h"

namespace jollyrow {

template <class Visit>
Result<void> forBatches(const std::shared_ptr<const Program>& program, const EvaluationInput& input,
                        std::size_t threads, const Cancel& cancel, const Visit& visit) {
    auto evaluation = Evaluation::prepare(program, input, cancel);
    if (!evaluation) return evaluation.error();
    const std::size_t rows = input.table->rows, batches = (rows + kBatch - 1) / kBatch;
    inParallel(threads, [&](std::size_t thread) {
        Runner runner(*evaluation);
        for (std::size_t batch = batches * thread / threads; batch < batches * (thread + 1) / threads; ++batch) {
            if (cancel.requested()) return;
            const std::size_t begin = batch * kBatch, count = std::min(kBatch, rows - begin);
            visit(thread, begin, count, runner.run(begin, count));
        }
    });
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Grouping was cancelled."};
    return {};
}

}  // namespace jollyrow
