// SPDX-License-Identifier: MIT
#include "grid/groups/group_text.h"

#include <algorithm>

#include "core/design/short_text.h"

namespace jollyrow {

GroupText::GroupText(std::shared_ptr<const Snapshot> snapshot, std::shared_ptr<const ViewPlan> plan)
    : snapshot_(std::move(snapshot)), plan_(std::move(plan)), grouping_(groupingOf(*snapshot_)), styles_(snapshot_) {
    groups_ = placesFor(&SummaryDesign::onGroups);
    footers_ = placesFor(&SummaryDesign::onFooters);
    totals_ = placesFor(&SummaryDesign::onTotal);
    for (std::size_t i = 0; known(i); ++i)
        showsCount_ = showsCount_ || (countsRecords(i) && grouping_->summaries[i].design.onGroups);
}

bool GroupText::tellsCount(const Line& line) const {
    const auto level = static_cast<std::size_t>(snapshot_->grouped->tree().nodes[line.group].level);
    return showsCount_ || (grouping_ && level < grouping_->groups.size() &&
                           grouping_->groups[level].design.caption.find("{count") != std::string::npos);
}

bool GroupText::countsRecords(std::size_t summary) const {
    const SummaryDesign& design = grouping_->summaries[summary].design;
    return design.show == SummaryShow::Count && design.where.empty() && design.as == SummaryAs::Itself;
}

bool GroupText::known(std::size_t summary) const {
    return grouping_ && snapshot_->groups && summary < grouping_->summaries.size() &&
           summary < snapshot_->groups->figures.size();
}

GroupText::Places GroupText::placesFor(bool SummaryDesign::*where) const {
    Places places;
    places.ofColumn.resize(plan_->columns.size());
    for (std::size_t i = 0; known(i); ++i) {
        const SummaryDesign& summary = grouping_->summaries[i].design;
        if (!(summary.*where)) continue;
        for (std::size_t column = 0; column < plan_->columns.size(); ++column) {
            if (plan_->columns[column].design.field != summary.column) continue;
            // Columns that stand beneath each other in a record have one place for their figures: on one line of text
            // each, not over one another.
            const auto place = static_cast<std::size_t>(plan_->columns[column].place);
            const std::size_t at = place < plan_->places.size() && plan_->places[place] >= 0
                                       ? static_cast<std::size_t>(plan_->places[place])
                                       : column;
            places.ofColumn[at].push_back(i);
            places.lines = std::max(places.lines, static_cast<int>(places.ofColumn[at].size()));
            places.any = true;
        }
    }
    return places;
}

bool GroupText::hasIcons(int column) const {
    if (!grouping_) return false;
    const std::string& field = plan_->columns[static_cast<std::size_t>(column)].design.field;
    return std::any_of(grouping_->styles.begin(), grouping_->styles.end(), [&](const PlannedLineStyle& style) {
        const auto& columns = style.design.columns;
        return !style.design.icons.empty() && std::find(columns.begin(), columns.end(), field) != columns.end();
    });
}

const PlannedGroup* GroupText::groupOf(const Line& line) const {
    if (line.kind == LineKind::Record || !grouping_ || !snapshot_->grouped) return nullptr;
    const auto level = static_cast<std::size_t>(snapshot_->grouped->tree().nodes[line.group].level);
    return level < grouping_->groups.size() ? &grouping_->groups[level] : nullptr;
}

void GroupText::caption(const Line& line, std::string& out) const {
    const PlannedGroup* group = groupOf(line);
    if (!group) return;
    const GroupNode& node = snapshot_->grouped->tree().nodes[line.group];
    const auto& caption = line.kind == LineKind::GroupFooter ? group->footer : group->caption;
    const EvaluatedCell key = snapshot_->grouped->tree().key(node);
    if (!caption) return group->names->append(out, key);
    std::vector<CaptionValue> values(3);
    values[0].text = group->heading;
    values[0].value = group->heading;
    group->names->append(values[1].text, key);
    values[1].value = values[1].text;
    appendDisplay(values[2].text, Value(records(line)), {Type::Integer});
    values[2].value = records(line);
    for (std::size_t i = 0; i < grouping_->summaries.size(); ++i) {
        CaptionValue& value = values.emplace_back();
        if (!known(i)) continue;
        const EvaluatedCell cell = snapshot_->groups->figure(i, line.group);
        appendFigure(value.text, cell, *grouping_->summaries[i].formatter);
        shorten(value.text);
        value.value = plainValue(cell.value);
    }
    const std::size_t before = out.size();
    caption->append(out, values);
    if (out.size() == before) group->names->append(out, key);  // a value that it formats is empty
}

void GroupText::add(const EvaluatedCell& cell, std::size_t summary, bool several, std::vector<FigureText>& out) const {
    const PlannedSummary& planned = grouping_->summaries[summary];
    FigureText& figure = out.emplace_back();
    figure.summary = summary;
    figure.isError = isError(cell.state);
    std::string text;
    appendFigure(text, cell, *planned.formatter);
    shorten(text);
    if (planned.caption && !figure.isError) {
        planned.caption->append(figure.text, {{text, plainValue(cell.value)}});
        if (figure.text.empty()) figure.text = std::move(text);
        return;
    }
    figure.text = std::move(text);
    if (!several) return;
    const PlannedColumn* column = nullptr;
    for (const PlannedColumn& c : plan_->columns)
        if (c.design.field == planned.design.column) column = &c;
    figure.label = planned.design.show == SummaryShow::Rule
                       ? planned.design.name
                       : words(planned.design.show, column ? column->format.type : Type::Integer);
    // Beneath another column it says whose figure it is.
    if (column && static_cast<std::size_t>(column->place) < plan_->places.size() &&
        &plan_->columns[static_cast<std::size_t>(
            std::max(0, plan_->places[static_cast<std::size_t>(column->place)]))] != column)
        figure.label = column->design.heading + ", " + figure.label;
}

void GroupText::figures(const Line& line, int column, std::vector<FigureText>& out) const {
    out.clear();
    const Places& places = line.kind == LineKind::GroupFooter ? footers_ : groups_;
    if (line.kind == LineKind::Record || static_cast<std::size_t>(column) >= places.ofColumn.size()) return;
    const auto& here = places.ofColumn[static_cast<std::size_t>(column)];
    for (const std::size_t summary : here)
        add(snapshot_->groups->figure(summary, line.group), summary, here.size() > 1, out);
}

void GroupText::totals(TotalScope scope, int column, const std::vector<EvaluatedCell>& selected,
                       std::vector<FigureText>& out) const {
    out.clear();
    if (static_cast<std::size_t>(column) >= totals_.ofColumn.size()) return;
    const auto& here = totals_.ofColumn[static_cast<std::size_t>(column)];
    for (const std::size_t summary : here) {
        const std::vector<EvaluatedCell>& given = scope == TotalScope::All ? snapshot_->figuresOfAll : selected;
        if (scope == TotalScope::Filtered)
            add(snapshot_->groups->total(summary), summary, here.size() > 1, out);
        else if (summary < given.size())
            add(given[summary], summary, here.size() > 1, out);
    }
}

}  // namespace jollyrow
