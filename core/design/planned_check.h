// SPDX-License-Identifier: MIT
#pragma once
// PlannedCheck: a check met with a schema: the design's own, and what the database itself demands (NOT NULL, lengths,
// permitted values, CHECK). Immutable.

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/columns/edits.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/design/operators.h"
#include "core/formats/entry_pattern.h"
#include "core/formats/formatter.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

struct PlannedCheck {
    CheckDesign design;
    std::shared_ptr<const Program> rule;       ///< null: `demand` alone
    std::shared_ptr<const Formatter> message;  ///< null: design.message as it stands
    std::optional<FieldIndex> field;           ///< of design.field
    std::vector<FieldIndex> fields;            ///< that it reads
    /// What is demanded of one field, besides rules: by the database, and by a column's pattern.
    enum class Demand { None, Filled, Length, Permitted, Pattern } demand = Demand::None;
    std::shared_ptr<const EntryPattern> pattern = nullptr;
    bool whereEdited = false;  ///< looked at where its fields were edited: older values may be as they are
};

/// The patterns of columns, the design's checks that are on and can be had, in their order, then the database's; others become findings. A CHECK
/// that is no rule of ours is left to the database. O(checks + fields).
std::vector<PlannedCheck> plannedChecks(const Design& design, const TableSchema& schema, const Registered* registered,
                                        std::vector<Finding>& findings);
/// The names of fields that checks read.
std::vector<std::string> fieldNamesOf(const std::vector<CheckDesign>& checks);

/// What is wrong with records as they are edited; of each field, and of the record, the first check that it fails.
/// Warnings that were overridden stay so. O(records * checks).
std::vector<std::vector<RecordProblem>> problemsOf(const std::vector<PlannedCheck>& checks,
                                                   const EvaluationInput& input, std::span<const SourceRow> rows);
/// The record may not be saved as it stands. What the database is expected to refuse, it decides itself.
bool isBlocked(const RecordEdit& record);
/// It may not, but only because a check has not answered yet.
bool onlyWaits(const RecordEdit& record);
/// The first problem that is a field's; null when it has none.
const RecordProblem* problemAt(const RecordEdit& record, FieldIndex field);

/// A check as the condition under which records fail it: to count them, and to go to them.
std::string failingRule(const CheckDesign& check);

}  // namespace jollyrow
