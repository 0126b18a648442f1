// SPDX-License-Identifier: MIT
#pragma once
// ComputeStage: fills the computed fields of a table, before anything else looks at it. A column is made for all
// records once; what edits change since then is an overlay of single cells, like the edits themselves.

#include <list>
#include <memory>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/edits.h"
#include "core/columns/table.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

/// One computed field. Those it reads stand before it.
struct ComputedTerm {
    FieldIndex field{};
    std::shared_ptr<const Program> program;  ///< never null
    bool operator==(const ComputedTerm& other) const {
        return field == other.field && sameMeaning(program, other.program);
    }
};

/// `edits` with the computed cells of these records as the edited records give them. Fields that sum up other records
/// are left as they are. Requires: input.table has the terms' columns. O(records * terms).
std::shared_ptr<const Edits> withComputedCells(const std::vector<ComputedTerm>& terms, const EvaluationInput& input,
                                               std::span<const std::uint32_t> records);
/// Only the cells of stored fields.
std::shared_ptr<const Edits> withoutComputedCells(const Edits& edits, const TableSchema& schema);
/// The fields whose values change with one of `field`, itself included.
std::vector<FieldIndex> fieldsTouched(const std::vector<ComputedTerm>& terms, FieldIndex field);

/// Confined to one thread at a time.
class ComputeStage final {
  public:
    struct Product {
        std::shared_ptr<const Table> table;  ///< with the computed columns
        std::shared_ptr<const Edits> edits;  ///< with the computed cells of edited records
    };
    /// Fields are filled in the order of the terms. Fails only when cancelled or when a field is not loaded. O(rows)
    /// for a field whose rule, inputs or parameters have changed, else O(edits).
    Result<Product> run(const std::vector<ComputedTerm>& terms, const EvaluationInput& input, const Cancel& cancel);
    bool didWork() const { return didWork_; }

  private:
    struct Kept {
        ComputedTerm term;
        std::vector<std::uint64_t> columns;  ///< ids of those it reads
        std::map<std::string, RuleValue> parameters;
        std::int32_t today = 0;
        std::size_t rows = 0;
        std::uint64_t presence = 0;
        std::shared_ptr<const Edits> edits;  ///< those the column has in it
        std::shared_ptr<const Column> column;
    };
    Kept* keptFor(const ComputedTerm& term, const EvaluationInput& input);

    static constexpr std::size_t kMostKept = 64;
    std::list<Kept> kept_;  ///< the latest used first
    bool didWork_ = false;
};

}  // namespace jollyrow
