// SPDX-License-Identifier: MIT
#pragma once
// The Sort stage: makes the columns that terms sort by (a field with its edits, a rule's values, codes of a stated
// order or of an application's comparator) and the order of all records. Confined to one thread; keeps what it made
// until an input changes, and moves single records when only they changed.

#include <memory>
#include <span>
#include <vector>

#include "core/rows/row_order.h"
#include "core/rules/evaluator.h"
#include "core/rules/sort_term.h"

namespace jollyrow {

class SortStage final {
  public:
    /// All records in the order of the terms. Requires: terms is not empty.
    Result<std::shared_ptr<const RowOrder>> run(const std::vector<SortTerm>& terms, const EvaluationInput& input,
                                                const Cancel& cancel);
    /// False when the last run() gave what it had kept.
    bool didWork() const { return didWork_; }
    /// Ranks of texts, shared with whatever else orders values.
    RankCache& ranks() { return ranks_; }

  private:
    struct Key {
        SortColumn column;                            ///< without edits made since
        std::shared_ptr<const TextRanks> ranks;       ///< of a text column
        std::shared_ptr<const TextComparator> texts;  ///< for values not among its texts
        int compare(const EvaluatedCell& mine, SourceRow other) const;
    };
    Result<Key> keyOf(const SortTerm& term, const EvaluationInput& input, const Cancel& cancel);
    static std::optional<std::vector<EvaluatedCell>> valuesNow(const SortTerm& term, const EvaluationInput& input,
                                                               std::span<const std::uint32_t> rows);
    bool replace(const EvaluationInput& input);

    RankCache ranks_;
    std::vector<SortTerm> terms_;
    std::vector<std::uint64_t> columns_;  ///< ids of all columns that were read
    std::map<std::string, RuleValue> parameters_;
    std::int32_t today_ = 0;
    std::shared_ptr<const Edits> edits_;  ///< that the kept keys were made with
    std::vector<Key> keys_;
    std::shared_ptr<const RowOrder> base_;  ///< by the kept keys
    std::shared_ptr<const Edits> shownEdits_;
    std::shared_ptr<const RowOrder> order_;  ///< base_ with the records changed since put where they belong
    bool didWork_ = false;
};

/// The records whose cell in one of the fields differs between two sets of edits. O(edits).
std::vector<std::uint32_t> changedRecords(const Edits* before, const Edits* after, std::span<const FieldIndex> fields);
/// The fields a term reads.
std::vector<FieldIndex> fieldsOf(const SortTerm& term);

}  // namespace jollyrow
