// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid_groups.cpp.
#include "grid/api/grid_groups.h"

#include "grid/api/grid.h"
#include "grid/inside/bound_order.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {

void GridGroups::set(const std::vector<GroupDesign>& groups) {
    Design next = d_->grid.design();
    next.groups = groups;
    d_->grid.setDesign(next);
}

void GridGroups::add(const QString& field, GroupBy by) {
    GroupDesign group;
    group.key.field = field.toStdString();
    group.by = by;
    Design next = d_->grid.design();
    next.groups.push_back(std::move(group));
    d_->grid.setDesign(next);
}

void GridGroups::setSummaries(const std::vector<SummaryDesign>& summaries) {
    Design next = d_->grid.design();
    next.summaries = summaries;
    d_->grid.setDesign(next);
}

void GridGroups::openAll() { d_->context.session().groups().setAllOpen(true); }

void GridGroups::closeAll() { d_->context.session().groups().setAllOpen(false); }

void GridGroups::setOpen(std::int64_t line, bool open) {
    if (const auto group = d_->rows.groupOn(line)) d_->context.session().groups().setOpen(*group, open);
}

void GridGroups::setLevelOpen(int level, bool open) { d_->context.session().groups().setLevelOpen(level, open); }

void GridGroups::figures(Over over, std::function<void(const std::map<QString, Value>&)> done) const {
    const Snapshot& snapshot = *d_->context.session().snapshot();
    std::vector<SourceRow> rows;
    const auto take = [&](SourceRow row) {
        if (raw(row) < snapshot.table->rows) rows.push_back(row);
    };
    if (over == Over::Selected) {
        d_->cursor.selection().rows().forEach(take);
    } else if (over == Over::Shown) {
        for (std::int64_t i = 0; i < snapshot.recordCount(); ++i) take(snapshot.record(i));
    } else {
        forEachBound(snapshot, take);
    }
    std::vector<QString> names;
    if (const Grouping* grouping = d_->context.session().plan().grouping.get())
        for (const PlannedSummary& summary : grouping->summaries)
            names.push_back(QString::fromStdString(summary.design.name));
    d_->context.session().questions().figuresOf(
        std::move(rows),
        [names, done = std::move(done)](const Result<std::vector<EvaluatedCell>>& cells) {
            std::map<QString, Value> all;
            for (std::size_t i = 0; cells && i < std::min(names.size(), cells->size()); ++i)
                all[names[i]] = (*cells)[i].state == CellState::Filled ? plainValue((*cells)[i].value) : Value(Empty{});
            done(all);
        },
        SessionQuestions::Answers::EachCall);
}

void GridGroups::summaryTable(std::function<void(const Result<SummaryTable>&)> done) const {
    const Grouping* grouping = groupingOf(*d_->context.session().snapshot());
    summaryTable(grouping ? summaryTableOf(*grouping, d_->context.design()) : SummaryTableWanted{}, std::move(done));
}

void GridGroups::summaryTable(const SummaryTableWanted& wanted,
                              std::function<void(const Result<SummaryTable>&)> done) const {
    d_->context.session().questions().summaryTable(wanted, std::move(done), SessionQuestions::Answers::EachCall);
}

std::optional<GroupLine> GridGroups::at(std::int64_t line) const {
    const auto group = d_->rows.groupOn(line);
    if (!group) return std::nullopt;
    const Snapshot& snapshot = *d_->context.session().snapshot();
    const Line at = snapshot.line(static_cast<ViewLine>(line));
    const GroupNode& node = snapshot.grouped->tree().nodes[*group];
    GroupLine out;
    out.level = node.level;
    out.records = snapshot.groups->records(*group);
    out.isOpen = snapshot.grouped->isOpen(*group);
    std::string caption;
    d_->rows.groupText()->caption(at, caption);
    out.caption = QString::fromStdString(caption);
    const EvaluatedCell key = snapshot.grouped->tree().key(node);
    if (!isError(key.state)) out.key = plainValue(key.value);
    return out;
}

Value GridGroups::figure(const QString& summary, std::optional<std::int64_t> line) const {
    const Snapshot& snapshot = *d_->context.session().snapshot();
    const Grouping* grouping = groupingOf(snapshot);
    const auto group = line ? d_->rows.groupOn(*line) : std::nullopt;
    if (!grouping || !snapshot.groups || (line && !group)) return Empty{};
    for (std::size_t i = 0; i < std::min(grouping->summaries.size(), snapshot.groups->figures.size()); ++i) {
        if (grouping->summaries[i].design.name != summary.toStdString()) continue;
        const EvaluatedCell cell = group ? snapshot.groups->figure(i, *group) : snapshot.groups->total(i);
        return cell.state == CellState::Filled ? plainValue(cell.value) : Value(Empty{});
    }
    return Empty{};
}

}  // namespace jollyrow
