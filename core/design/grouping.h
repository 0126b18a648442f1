// SPDX-License-Identifier: MIT
#pragma once
// Grouping: a design's groups and summaries met with a schema: the rule behind each way to group, the aggregates behind
// each figure, formats and captions made ready.

#include <memory>
#include <string>
#include <vector>

#include "core/design/captions.h"
#include "core/design/design.h"
#include "core/design/operators.h"
#include "core/rows/group_stage.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

struct PlannedGroup {
    GroupDesign design;
    std::string heading;  ///< of the column or rule
    GroupTerm term;
    std::shared_ptr<const GroupNames> names;  ///< never null
    std::shared_ptr<const Caption> caption;   ///< null: the value alone
    std::shared_ptr<const Caption> footer;
};

struct PlannedSummary {
    SummaryDesign design;
    SummarySpec spec;
    std::string words;                           ///< "sum of Hours"
    std::shared_ptr<const Formatter> formatter;  ///< never null
    std::shared_ptr<const Caption> caption;      ///< null: the figure alone
};

/// A style of group lines or totals. Its condition is a figure of each group that nobody sees.
struct PlannedLineStyle {
    StyleDesign design;
    std::optional<SummarySpec> having;  ///< yes or no; nullopt: always
};

/// What a design groups and sums up by, as far as it can be had. Immutable.
struct Grouping {
    std::vector<PlannedGroup> groups;  ///< outermost first
    std::vector<PlannedSummary> summaries;
    std::vector<PlannedLineStyle> styles;  ///< in the order in which they apply; theirs are the figures after `summaries`
    bool empty() const { return groups.empty() && summaries.empty(); }
};
/// What the groups and figures of a snapshot were planned as; null for one without. A design changed since may say
/// otherwise.
inline const Grouping* groupingOf(const Snapshot& snapshot) {
    return static_cast<const Grouping*>(snapshot.grouping.get());
}

/// The rule whose value makes the groups; "" for the field itself. Fails when the kind of group does not suit the
/// values, and for cut points that are not values of the field or do not rise.
Result<std::string> groupRuleOf(const GroupDesign& group, const TableSchema& schema, const RuleVocabulary& vocabulary);
/// The rule of a figure: "AVG(hours) FILTER (WHERE paid)".
std::string summaryRuleOf(const SummaryDesign& summary);
/// The field a figure is about; "" for those of all records and rules.
const std::string& fieldOf(const SummaryDesign& summary);

Result<PlannedGroup> plannedGroup(const Design& design, std::size_t index, const TableSchema& schema,
                                  const Registered* registered);
Result<PlannedSummary> plannedSummary(const Design& design, std::size_t index, const TableSchema& schema,
                                      const Registered* registered);

/// What makes sense for a type, the most usual first.
std::vector<SummaryShow> summariesFor(Type type);
std::vector<GroupBy> groupingsFor(Type type);
/// "sum", "mean"; dates have an earliest and a latest.
std::string words(SummaryShow show, Type type);
std::string words(GroupBy by);
/// A level by a field as one would begin: months of dates, each value of the rest; where levels of the field are there,
/// the next finer part of it: days in months, each value in ranges.
GroupDesign newGroup(const Design& design, const TableSchema& schema, const std::string& field);
/// Adds a level as the innermost, or above those that group the same field by finer parts; takes the place of one that
/// groups it by the same.
void addGroup(Design& design, GroupDesign group);
/// A figure for a column as one would begin: the sum of numbers, the earliest day, the count of the rest; another one
/// when it has that already. Its name is free.
SummaryDesign newSummary(const Design& design, const TableSchema& schema, const std::string& column);
/// A name that no summary has yet: "hours_sum".
std::string newSummaryName(const Design& design, const SummaryDesign& summary);

}  // namespace jollyrow
