// SPDX-License-Identifier: MIT
// Covered by tests/design/line_style_test.cpp.
#include "core/design/planned_line_style.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/rows/extents.h"
#include "core/rules/summary_list.h"

namespace jollyrow {
namespace {

void say(const StyleDesign& style, const std::string& why, std::vector<Finding>& findings) {
    findings.push_back({Severity::Warning,
                        "styles/" + style.name,
                        fmt::format("The style {} is left out there: {}.", style.name, why),
                        {}});
}

/// Why a style cannot be had; "" when it can.
std::string planOne(const StyleDesign& style, const Design& design, const TableSchema& schema,
                    const Registered* registered, PlannedLineStyle& out, std::vector<Finding>& findings) {
    out.design = style;
    if (style.lines == StyledLines::Totals && style.isByPlace())
        return "a total has nothing to lie between: scales are of records and groups";
    if (style.columns.empty() && (style.isByPlace() || !style.icons.empty()))
        return "a scale or an icon is of columns, and it names none";
    std::string missing;
    std::erase_if(out.design.columns, [&](const std::string& name) {
        const bool isThere = schema.find(name).has_value();
        if (!isThere) missing = fmt::format("{} has no column {}", schema.name, name);
        return !isThere;
    });
    if (out.design.columns.empty() && !style.columns.empty()) return missing;
    if (!missing.empty()) say(style, missing, findings);
    if (style.where.empty()) return {};
    auto rule = parseSummary(style.where, schema, vocabularyOf(design, registered));
    if (!rule) {
        std::string why = rule.error().message;
        while (!why.empty() && why.back() == '.') why.pop_back();
        return why;
    }
    if (rule->type.kind != RuleKind::Boolean)
        return fmt::format("its condition {} is {}, not yes or no", style.where, article(rule->type.kind));
    out.having = SummarySpec{std::move(*rule)};
    return {};
}

/// NaN for what is no number.
double figureNumber(const EvaluatedCell& cell) {
    return cell.state == CellState::Filled ? numberOf(plainValue(cell.value))
                                           : std::numeric_limits<double>::quiet_NaN();
}

}  // namespace

std::vector<PlannedLineStyle> plannedLineStyles(const Design& design, const TableSchema& schema,
                                                const Registered* registered, std::vector<Finding>& findings) {
    std::vector<PlannedLineStyle> planned;
    for (const StyleDesign& style : design.styles) {
        if (!style.on || style.lines == StyledLines::Records) continue;
        PlannedLineStyle one;
        const std::string why = planOne(style, design, schema, registered, one, findings);
        if (why.empty())
            planned.push_back(std::move(one));
        else
            say(style, why, findings);
    }
    return planned;
}

LineStyleReader::LineStyleReader(std::shared_ptr<const Snapshot> snapshot)
    : snapshot_(std::move(snapshot)), grouping_(groupingOf(*snapshot_)) {
    if (isEmpty()) return;
    std::size_t next = grouping_->summaries.size();
    for (const PlannedLineStyle& style : grouping_->styles)
        conditions_.push_back(style.having ? std::optional(next++) : std::nullopt);
}

/// Of the figures of one level's groups, empties and errors left out.
const Extent& LineStyleReader::endsOf(std::size_t summary, int level) const {
    const auto [known, isNew] = ends_.emplace(std::pair(summary, level), Extent{});
    if (!isNew) return known->second;
    const GroupTree& tree = *snapshot_->groups->tree;
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (std::uint32_t node = tree.levelBegin[static_cast<std::size_t>(level)];
         node < tree.levelBegin[static_cast<std::size_t>(level) + 1]; ++node) {
        const double number = figureNumber(snapshot_->groups->figure(summary, node));
        if (std::isnan(number)) continue;
        low = std::min(low, number);
        high = std::max(high, number);
    }
    if (low <= high) known->second = {low, high};
    return known->second;
}

template <class At>
CellStyle LineStyleReader::styleOf(StyledLines lines, std::optional<std::size_t> summary, int level,
                                   const At& at) const {
    CellStyle out;
    for (std::size_t i = 0; i < grouping_->styles.size(); ++i) {
        const StyleDesign& style = grouping_->styles[i].design;
        if (style.lines != lines) continue;
        const auto isOn = [&](const std::string& column) {
            return summary && grouping_->summaries[*summary].design.column == column;
        };
        if (!style.columns.empty() && std::none_of(style.columns.begin(), style.columns.end(), isOn)) continue;
        if (conditions_[i]) {
            const EvaluatedCell holds = at(*conditions_[i]);
            const bool* is = holds.state == CellState::Filled ? std::get_if<bool>(&holds.value) : nullptr;
            if (!is || !*is) continue;
        }
        std::optional<double> place;
        if (style.isByPlace() && summary) {
            const Extent& ends = endsOf(*summary, level);
            const double number = figureNumber(at(*summary));
            if (!std::isnan(number))
                place = ends.low < ends.high ? std::clamp((number - ends.low) / (ends.high - ends.low), 0.0, 1.0) : 0.5;
        }
        out.add(style, place);
        if (style.last) break;
    }
    return out;
}

CellStyle LineStyleReader::ofGroup(std::uint32_t node, std::optional<std::size_t> summary) const {
    if (isEmpty() || !snapshot_->groups) return {};
    return styleOf(StyledLines::Groups, summary, snapshot_->groups->tree->nodes[node].level,
                   [&](std::size_t figure) -> EvaluatedCell {
                       return figure < snapshot_->groups->figures.size() ? snapshot_->groups->figure(figure, node)
                                                                         : EvaluatedCell{};
                   });
}

CellStyle LineStyleReader::ofTotal(const std::vector<EvaluatedCell>& figures,
                                   std::optional<std::size_t> summary) const {
    if (isEmpty() || !snapshot_->groups) return {};
    return styleOf(StyledLines::Totals, summary, 0, [&](std::size_t figure) -> EvaluatedCell {
        if (!figures.empty()) return figure < figures.size() ? figures[figure] : EvaluatedCell{};
        return figure < snapshot_->groups->figures.size() ? snapshot_->groups->total(figure) : EvaluatedCell{};
    });
}

}  // namespace jollyrow
