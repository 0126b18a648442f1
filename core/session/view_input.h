// SPDX-License-Identifier: MIT
#pragma once
// What a view is computed from: the plan of a design, and what a person has set besides. One place for the session and
// the command line, so that both show the same. Pure.

#include <cstdint>
#include <map>
#include <memory>
#include <set>
#include <string>

#include "core/design/plan.h"
#include "core/rows/rowline.h"
#include "core/sources/source.h"

namespace jollyrow {

/// What besides design, records and edits decides which records are shown, and what rules give.
struct ViewState {
    std::map<std::string, RuleValue> parameters;  ///< one that is missing lifts the conditions that use it
    std::set<Stage> bypassed;                     ///< left out for a moment
    OpenGroups open;
    std::shared_ptr<const RecordSet> only = nullptr;  ///< shown besides the filter; null for all
    std::int64_t now = 0;                             ///< LOCALTIMESTAMP of rules: when the records were loaded
    double loadMilliseconds = 0;

    bool isBypassed(Stage stage) const { return bypassed.contains(stage); }
};

/// The conditions, keys, groups and figures of a plan as far as they can be had of `table`: a column that is still to
/// come filters and sorts when it is there. O(terms).
RowlineInput viewInput(const ViewPlan& plan, std::shared_ptr<const Table> table, std::shared_ptr<const Edits> edits,
                       const ViewState& state);
/// What single rules are evaluated with.
EvaluationInput evaluationInput(std::shared_ptr<const Table> table, std::shared_ptr<const Edits> edits,
                                const ViewState& state);
/// What is asked of the source: the binding, the values of its SELECT's parameters, the fields that are `wanted`.
LoadRequest loadRequest(const Design& design, const TableSchema& schema, std::vector<bool> wanted,
                        const ViewState& state);

}  // namespace jollyrow
