// SPDX-License-Identifier: MIT
#include "grid/headings/heading_menus.h"

#include "grid/headings/column_list.h"

namespace jollyrow {

QAction* HeadingMenus::add(QMenu& menu, const QString& words, const std::function<void()>& act) {
    return menu.addAction(words, &context_.grid(), act);
}

void HeadingMenus::addSwitch(QMenu& menu, const QString& words, bool isOn, const std::function<void()>& turn) {
    QAction* action = add(menu, words, turn);
    action->setCheckable(true);
    action->setChecked(isOn);
}

void HeadingMenus::open(const HeadingHit& hit, const QPoint& global) {
    auto* menu = new QMenu(&context_.grid());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("headingMenu"));
    hit.tier ? fillTier(*menu, *hit.tier) : fillColumn(*menu, *hit.column);
    fillCommon(*menu);
    menu->popup(global);
}

void HeadingMenus::fillColumn(QMenu& menu, int column) {
    const std::string field = context_.planned(column).design.field;
    const QString name = QString::fromStdString(field);
    addSorting(menu, field);
    menu.addSeparator();
    filters_.fill(*menu.addMenu(Grid::tr("Filter")), name);
    if (!context_.design().grid.filterRow)
        add(menu, Grid::tr("Show the filter row"), [this, name] { focusFilter_(name); });
    menu.addSeparator();
    groups_.fill(menu, field);
    menu.addSeparator();
    addLooks(menu, column);
    if (context_.isDesigning()) addDesigning(menu, column);
}

void HeadingMenus::addSorting(QMenu& menu, const std::string& field) {
    const auto sortBy = [this, field](Direction direction) {
        Design design = context_.design();
        design.sort.assign(1, {field, direction, Empties::Last});
        context_.changeDesign(std::move(design), Grid::tr("Sort by %1").arg(headingOfField(context_.design(), field)));
    };
    add(menu, Grid::tr("Sort up"), [sortBy] { sortBy(Direction::Ascending); });
    add(menu, Grid::tr("Sort down"), [sortBy] { sortBy(Direction::Descending); });
    if (context_.design().sort.empty()) return;
    add(menu, Grid::tr("Do not sort"), [this] {
        Design design = context_.design();
        design.sort.clear();
        context_.changeDesign(std::move(design), Grid::tr("Stop sorting"));
    });
}

void HeadingMenus::addLooks(QMenu& menu, int column) {
    const ColumnDesign& design = context_.planned(column).design;
    const std::string field = design.field;
    add(menu, Grid::tr("Fit width exactly"), [this, field] { fits_.begin({field}); });
    add(menu, Grid::tr("Pin left up to here"), [this, column] { pinUpTo(column, false); });
    add(menu, Grid::tr("Pin right from here"), [this, column] { pinUpTo(column, true); });
    addSwitch(menu, Grid::tr("Merge equal neighbours"), design.merge, [this, field] {
        context_.changeColumn(field, Grid::tr("Merge equal neighbours in %1"),
                              [](ColumnDesign& c) { c.merge = !c.merge; });
    });
    addSwitch(menu, Grid::tr("Wrap text"), design.wrap, [this, field] {
        context_.changeColumn(field, Grid::tr("Wrap %1"), [](ColumnDesign& c) { c.wrap = !c.wrap; });
    });
    add(menu, Grid::tr("Hide"), [this, column] { headings_.hide(column); });
}

void HeadingMenus::addDesigning(QMenu& menu, int column) {
    const ColumnDesign& design = context_.planned(column).design;
    const std::string field = design.field;
    menu.addSeparator();
    add(menu, Grid::tr("Rename…"), [this, column] { headings_.rename(HeadingHit{column, {}, {}}); });
    const bool several = headings_.designed().size() > 1;
    add(menu, several ? Grid::tr("New heading over the selected columns") : Grid::tr("New heading over it"),
        [this, field] {
            std::vector<std::string> fields;
            for (const QString& f : headings_.designed()) fields.push_back(f.toStdString());
            if (std::find(fields.begin(), fields.end(), field) == fields.end()) fields = {field};
            headings_.makeTier(fields);
        });
    if (!design.tier.empty())
        add(menu, Grid::tr("Take out of %1").arg(headingOfTier(context_.design(), design.tier)),
            [this, field] { takeOutOfTier(field); });
    if (!design.under.empty())
        add(menu, Grid::tr("Give it a place of its own"), [this, field] {
            Design next = context_.design();
            putUnder(next, field, {});
            context_.changeDesign(std::move(next),
                                  Grid::tr("Place %1 on the first line").arg(headingOfField(context_.design(), field)));
        });
}

void HeadingMenus::takeOutOfTier(const std::string& field) {
    Design design = context_.design();
    const std::string tier = design.column(field)->tier;
    const std::string parent = design.findTier(tier)->parent;
    const QString label = Grid::tr("Move %1 out of %2").arg(headingOfField(design, field), headingOfTier(design, tier));
    moveColumns(design, {field}, {parent, fieldsUnder(design, tier).front()});
    context_.changeDesign(std::move(design), label);
}

void HeadingMenus::fillTier(QMenu& menu, int index) {
    const PlannedTier& tier = context_.plannedTier(index);
    const std::string name = tier.design.name;
    add(menu, tier.design.folded ? Grid::tr("Unfold") : Grid::tr("Fold to one column"),
        [this, name, folded = tier.design.folded] { headings_.setFolded(name, !folded); });
    std::vector<std::string> fields;
    for (int i = tier.first; i < tier.end; ++i) fields.push_back(context_.planned(i).design.field);
    add(menu, Grid::tr("Fit all columns under it"), [this, fields] { fits_.begin(fields); });
    add(menu, Grid::tr("Hide all columns under it"), [this, name] {
        Design design = context_.design();
        showTier(design, name, false);
        context_.changeDesign(std::move(design), Grid::tr("Hide %1").arg(headingOfTier(context_.design(), name)));
    });
    if (!context_.isDesigning()) return;
    menu.addSeparator();
    add(menu, Grid::tr("Rename…"), [this, index] { headings_.rename(HeadingHit{{}, index, {}}); });
    add(menu, Grid::tr("New heading over it"),
        [this, name] { headings_.makeTier(fieldsUnder(context_.design(), name)); });
    add(menu, Grid::tr("Take this heading away"), [this, name] {
        Design design = context_.design();
        const QString label = Grid::tr("Take %1 away").arg(headingOfTier(design, name));
        dissolveTier(design, name);
        context_.changeDesign(std::move(design), label);
    });
}

void HeadingMenus::pinUpTo(int column, bool right) {
    Design design = context_.design();
    const int place = body_.columns().place(column);
    if (right)
        design.grid.pinnedRight = body_.columns().places() - place;
    else
        design.grid.pinned = place + 1;
    const QString heading = QString::fromStdString(context_.planned(column).design.heading);
    context_.changeDesign(std::move(design),
                          right ? Grid::tr("Pin from %1").arg(heading) : Grid::tr("Pin up to %1").arg(heading));
}

void HeadingMenus::unpin() {
    Design design = context_.design();
    design.grid.pinned = design.grid.pinnedRight = 0;
    context_.changeDesign(std::move(design), Grid::tr("Unpin columns"));
}

void HeadingMenus::fillCommon(QMenu& menu) {
    menu.addSeparator();
    const GridDesign& grid = context_.design().grid;
    if (grid.pinned > 0 || grid.pinnedRight > 0) add(menu, Grid::tr("Unpin columns"), [this] { unpin(); });
    add(menu, Grid::tr("Fit all widths"), [this] { fits_.beginAll(); });
    add(menu, Grid::tr("Columns…"), [this] { openColumnList(); });
}

void HeadingMenus::openColumnList() {
    delete columnList_;
    auto* list = new ColumnList(context_.design(), context_.schema(), context_.isDesigning(), &context_.grid());
    columnList_ = list;
    QObject::connect(list, &ColumnList::changed, &context_.grid(),
                     [this, list](const Design& design, const QString& label) {
                         context_.changeDesign(design, label);
                         list->setDesign(context_.design());
                     });
    QObject::connect(list, &ColumnList::found, &context_.grid(), [this](const QString& field) {
        const auto column = context_.columnOf(field);
        if (!column) return;
        scroller_.showColumn(*column);
        headings_.setFocus(HeadingHit{*column, {}, {}});
    });
    list->openOver(&context_.viewport(), body_.headerHeight());
}

}  // namespace jollyrow
