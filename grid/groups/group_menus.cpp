// SPDX-License-Identifier: MIT
#include "grid/groups/group_menus.h"

namespace jollyrow {

void GroupMenus::stopGrouping(const QString& heading, const std::function<bool(const GroupDesign&)>& which) {
    Design design = context_.design();
    std::erase_if(design.groups, which);
    context_.changeDesign(std::move(design), Grid::tr("Stop grouping by %1").arg(heading));
}

void GroupMenus::open(std::int64_t line, const QPoint& global) {
    const auto group = rows_.groupOn(line);
    if (!group) return;
    const int level = rows_.groups()->tree().nodes[*group].level;
    const Grouping* grouping = groupingOf(context_.snapshot());
    Grid* grid = &context_.grid();
    Session* session = &context_.session();
    auto* menu = new QMenu(grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("groupMenu"));
    const bool open = rows_.groups()->isOpen(*group);
    menu->addAction(open ? Grid::tr("Close this group") : Grid::tr("Open this group"), grid,
                    [this, line] { hooks_.toggle(line); });
    if (rows_.groups()->tree().levels() > 1) {
        menu->addAction(Grid::tr("Open all of this level"), grid,
                        [session, level] { session->groups().setLevelOpen(level, true); });
        menu->addAction(Grid::tr("Close all of this level"), grid,
                        [session, level] { session->groups().setLevelOpen(level, false); });
    }
    menu->addAction(Grid::tr("Open all groups"), grid, [session] { session->groups().setAllOpen(true); });
    menu->addAction(Grid::tr("Close all groups"), grid, [session] { session->groups().setAllOpen(false); });
    menu->addSeparator();
    menu->addAction(Grid::tr("Select its records"), grid, [this, line] { hooks_.select(line); });
    menu->addAction(Grid::tr("Copy"), grid, [this] { hooks_.copy(); });
    if (grouping && static_cast<std::size_t>(level) < grouping->groups.size()) {
        const PlannedGroup& planned = grouping->groups[static_cast<std::size_t>(level)];
        const QString heading = QString::fromStdString(planned.heading);
        menu->addSeparator();
        menu->addAction(Grid::tr("Stop grouping by %1").arg(heading), grid, [this, key = planned.design.key, heading] {
            stopGrouping(heading, [&](const GroupDesign& g) { return g.key == key; });
        });
    }
    menu->popup(global);
}

Type GroupMenus::typeOf(const std::string& field) const {
    const auto index = context_.schema().find(field);
    return index ? context_.schema().field(*index).type : Type::Binary;
}

void GroupMenus::fill(QMenu& menu, const std::string& field) {
    fillGroupBy(menu, field);
    fillSumUp(*menu.addMenu(Grid::tr("Sum up")), field);
}

void GroupMenus::groupBy(const std::string& field, GroupBy by) {
    const QString heading = headingOfField(context_.design(), field);
    const auto isLevel = [&](const GroupDesign& g) { return g.key.field == field && g.by == by; };
    const auto& groups = context_.design().groups;
    if (std::any_of(groups.begin(), groups.end(), isLevel)) return stopGrouping(heading, isLevel);
    Design design = context_.design();
    GroupDesign made = newGroup(design, context_.schema(), field);
    made.by = by;
    addGroup(design, std::move(made));
    context_.changeDesign(std::move(design), Grid::tr("Group by %1").arg(heading));
}

void GroupMenus::fillGroupBy(QMenu& menu, const std::string& field) {
    Grid* grid = &context_.grid();
    const QString heading = headingOfField(context_.design(), field);
    const auto& groups = context_.design().groups;
    const auto isLevel = [&](std::optional<GroupBy> by) {
        return std::any_of(groups.begin(), groups.end(),
                           [&](const GroupDesign& g) { return g.key.field == field && (!by || g.by == *by); });
    };
    const std::vector<GroupBy> kinds = groupingsFor(typeOf(field));
    const bool isGrouped = isLevel(std::nullopt);
    if (kinds.size() == 1 && !isGrouped)
        menu.addAction(Grid::tr("Group by %1").arg(heading), grid,
                       [this, field, by = kinds.front()] { groupBy(field, by); });
    QMenu* by = kinds.size() > 1 ? menu.addMenu(Grid::tr("Group by %1").arg(heading)) : nullptr;
    for (const GroupBy kind : kinds) {
        // Ranges want cut points, which the Group editor offers.
        if (!by || (kind == GroupBy::Ranges && !isLevel(kind))) continue;
        QAction* level =
            by->addAction(kind == GroupBy::EachValue ? Grid::tr("each value") : QString::fromStdString(words(kind)),
                          grid, [this, field, kind] { groupBy(field, kind); });
        level->setCheckable(true);
        level->setChecked(isLevel(kind));
    }
    if (isGrouped)
        menu.addAction(Grid::tr("Stop grouping by %1").arg(heading), grid, [this, field, heading] {
            stopGrouping(heading, [&](const GroupDesign& g) { return g.key.field == field; });
        });
}

namespace {
const SummaryDesign* summaryOf(const Design& design, const std::string& field, SummaryShow show) {
    const auto known = std::find_if(design.summaries.begin(), design.summaries.end(), [&](const SummaryDesign& s) {
        return s.column == field && s.show == show && s.of.empty();
    });
    return known == design.summaries.end() ? nullptr : &*known;
}
}  // namespace

void GroupMenus::sumUp(const std::string& field, SummaryShow show) {
    Design design = context_.design();
    const QString heading = headingOfField(design, field);
    if (const SummaryDesign* known = summaryOf(context_.design(), field, show)) {
        removeSummary(design, known->name);
        return context_.changeDesign(std::move(design), Grid::tr("Do not sum up %1").arg(heading));
    }
    SummaryDesign made;
    made.column = field;
    made.show = show;
    made.name = newSummaryName(design, made);
    design.summaries.push_back(std::move(made));
    context_.changeDesign(std::move(design), Grid::tr("Sum up %1").arg(heading));
}

void GroupMenus::fillSumUp(QMenu& menu, const std::string& field) {
    const Type type = typeOf(field);
    for (const SummaryShow show : summariesFor(type)) {
        if (show == SummaryShow::WeightedMean || show == SummaryShow::Percentile) continue;
        QAction* action = menu.addAction(QString::fromStdString(words(show, type)), &context_.grid(),
                                         [this, field, show] { sumUp(field, show); });
        action->setCheckable(true);
        action->setChecked(summaryOf(context_.design(), field, show) != nullptr);
    }
}

}  // namespace jollyrow
