// SPDX-License-Identifier: MIT
#include "core/design/finding.h"

#include <fmt/format.h>

#include "core/design/design.h"
#include "core/design/field_names.h"
#include "core/design/make_design.h"
#include "core/design/tier_tree.h"

namespace jollyrow {

std::string_view name(Severity severity) {
    switch (severity) {
        case Severity::Note: return "note";
        case Severity::Warning: return "warning";
        case Severity::Problem: return "problem";
    }
    return {};
}

std::string mendingWords(const Finding& finding) {
    switch (finding.mending) {
        case Mending::None: return {};
        case Mending::RenameField: return fmt::format("Use {}", finding.fix);
        case Mending::RemoveColumn: return fmt::format("Take {} out", finding.subject);
        case Mending::RemoveSort: return fmt::format("Stop sorting by {}", finding.subject);
        case Mending::DropFormat: return fmt::format("Show {} by type", finding.subject);
        case Mending::RemoveFilter: return "Take the condition away";
        case Mending::RemoveTier: return fmt::format("Take {} away", finding.subject);
        case Mending::RemoveGroup: return fmt::format("Stop grouping by {}", finding.subject);
        case Mending::RemoveSummary: return fmt::format("Take {} away", finding.subject);
        case Mending::AddParameter: return fmt::format("Add the parameter {}", finding.subject);
    }
    return {};
}

void removeSummary(Design& design, const std::string& name) {
    std::erase_if(design.summaries, [&](const SummaryDesign& summary) { return summary.name == name; });
    for (GroupDesign& group : design.groups)
        if (group.orderBy == name) group.orderBy.clear();
}

bool mend(Design& design, const Finding& finding) {
    const Design before = design;
    const std::string& subject = finding.subject;
    switch (finding.mending) {
        case Mending::None: return false;
        case Mending::RenameField: renameField(design, subject, finding.fix); break;
        case Mending::RemoveColumn:
            for (ColumnDesign& column : design.columns)
                if (column.under == subject) column.under.clear();
            removeColumns(design, {subject});
            break;
        case Mending::RemoveSort:
            std::erase_if(design.sort, [&](const SortDesign& key) {
                return key.field == subject || (!key.rule.empty() && key.rule == subject) ||
                       (!key.by.empty() && key.by == subject);
            });
            break;
        case Mending::DropFormat:
            if (ColumnDesign* column = design.column(subject)) {
                column->format.style = FormatStyle::Automatic;
                column->format.pattern.clear();
            }
            break;
        case Mending::RemoveFilter:
            std::erase_if(design.filter, [&](const FilterDesign& part) { return part.rule == subject; });
            break;
        case Mending::RemoveTier: dissolveTier(design, subject); break;
        case Mending::RemoveGroup:
            std::erase_if(design.groups, [&](const GroupDesign& group) {
                return (group.key.field.empty() ? group.key.rule : group.key.field) == subject;
            });
            break;
        case Mending::RemoveSummary: removeSummary(design, subject); break;
        case Mending::AddParameter:
            design.parameters.push_back({subject, headingFor(subject, false), Type::Text, {}});
            break;
    }
    return !(design == before);
}

}  // namespace jollyrow
