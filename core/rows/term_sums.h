// SPDX-License-Identifier: MIT
#pragma once
// TermSums: what one aggregate has seen of every group of a tree and of all its records. Sums of innermost groups are
// made in one pass over the records and merged upwards, so that groups above look at no record; what can be taken out
// again exactly (counts, exact sums, extremes that stay) follows an edit in O(levels).

#include <memory>
#include <span>
#include <vector>

#include "core/rows/group_figures.h"
#include "core/rows/group_tree.h"
#include "core/rules/evaluator.h"
#include "core/rules/summary_list.h"

namespace jollyrow {

class TermSums : public Figures {
  public:
    virtual std::unique_ptr<TermSums> copy() const = 0;
    /// One record had `before` in the groups `from` and has `after` in the groups `to`; Empty counts for nothing. False
    /// when that cannot be told from the sums alone: they must be made anew.
    virtual bool change(std::span<const std::uint32_t> from, const EvaluatedCell& before,
                        std::span<const std::uint32_t> to, const EvaluatedCell& after) = 0;
};

/// The figures themselves, when there is nothing smaller to keep.
class KnownSums final : public TermSums {
  public:
    explicit KnownSums(std::vector<EvaluatedCell> cells) : cells_(std::move(cells)) {}
    EvaluatedCell at(std::size_t slot) const override { return cells_[slot]; }
    std::unique_ptr<TermSums> copy() const override { return std::make_unique<KnownSums>(*this); }
    bool change(std::span<const std::uint32_t>, const EvaluatedCell&, std::span<const std::uint32_t>,
                const EvaluatedCell&) override {
        return false;
    }

  private:
    std::vector<EvaluatedCell> cells_;
};

/// Fails when cancelled or when a column is not loaded. O(records); COUNT(DISTINCT) and percentiles O(records * levels
/// * log records).
Result<std::unique_ptr<TermSums>> sumsOf(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                                         const Cancel& cancel);

/// What a term counts of one record: its argument, Empty where its FILTER leaves the record out; true for COUNT(*).
Result<EvaluatedCell> countedOf(const SummaryTerm& term, const EvaluationInput& input, std::uint32_t row);

}  // namespace jollyrow
