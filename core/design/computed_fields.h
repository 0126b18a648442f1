// SPDX-License-Identifier: MIT
#pragma once
// Computed columns: a design's columns whose values come from a rule over other columns. They become fields of the
// schema behind those of the source, so that everything that takes a field takes them.

#include <string>
#include <vector>

#include "core/columns/schema.h"
#include "core/design/operators.h"
#include "core/rows/compute_stage.h"

namespace jollyrow {

/// A source's schema with the design's computed fields behind, each after those it reads; computed fields that were
/// there are made anew. One whose rule makes no sense, whose name is taken, or that reads itself is left out
/// (whyNotComputed says it). Decimals without a fixed scale get kComputedScale. O(columns) compiled rules,
/// its square for chains written back to front.
TableSchema withComputedFields(TableSchema schema, const Design& design, const Registered* registered = nullptr);
inline constexpr int kComputedScale = 6;

/// The programs of the schema's computed fields.
std::vector<ComputedTerm> computedTerms(const Design& design, const TableSchema& schema,
                                        const Registered* registered = nullptr);
/// In words, for a finding. Requires: the column has a rule and is not among the schema's computed fields.
std::string whyNotComputed(const Design& design, const ColumnDesign& column, const TableSchema& schema,
                           const Registered* registered = nullptr);
/// What a rule gives as a column, or why it cannot be one. `fields` are those it may read.
Result<std::shared_ptr<const Program>> compileColumn(const std::string& rule, const TableSchema& fields,
                                                     const RuleVocabulary& vocabulary);
/// Whether a computed column may have this name: letters, digits and underscores, and no field of the source has it.
Result<void> checkComputedName(const std::string& name, const TableSchema& schema);

}  // namespace jollyrow
