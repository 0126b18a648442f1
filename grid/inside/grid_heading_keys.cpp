// SPDX-License-Identifier: MIT
// Headings by keys, their menus, and renaming them in place. The way in is Up from the first record, the way out Down
// or Escape; on the headings arrows walk, Alt with arrows moves, Ctrl with arrows makes wider and narrower.
#include <QKeyEvent>

#include "grid/headings/column_list.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {

void GridPrivate::focusHeading(std::optional<HeadingHit> hit) {
    if (!hit && !headingFocus) return;
    headingFocus = hit;
    if (hit && hit->column) setScrollX(columns.scrollToShow(*hit->column, scrollX));
    grid.viewport()->update();
    grid.announceFocus();
}

void GridPrivate::moveHeadingFocus(int across, int up) {
    HeadingHit next = *headingFocus;
    const ViewPlan& plan = session->plan();
    const int first = next.tier ? plannedTier(*next.tier).first : *next.column;
    if (across != 0 && next.column) {
        next.column = std::clamp(*next.column + across, 0, columns.count() - 1);
    } else if (across != 0) {
        // To the next tier of this level.
        const int level = plannedTier(*next.tier).level;
        const int to = *next.tier + across;
        if (to >= 0 && to < static_cast<int>(plan.tiers.size()) && plannedTier(to).level == level) next.tier = to;
    }
    if (up != 0) {
        const int from = next.tier ? plannedTier(*next.tier).level : planned(*next.column).levels;
        const int level = from - up;
        if (level < 0) return;
        std::optional<int> tier;
        for (int t = 0; t < static_cast<int>(plan.tiers.size()); ++t)
            if (plannedTier(t).level == level && plannedTier(t).first <= first && first < plannedTier(t).end) tier = t;
        if (!tier && up < 0 && next.column) return focusHeading(std::nullopt);  // down from a column: to the records
        next = tier ? HeadingHit{{}, tier, {}} : HeadingHit{first, {}, {}};
    }
    focusHeading(next);
}

/// Moves the focused column or tier past its neighbour, as a drag would.
void GridPrivate::moveByKey(int step) {
    pressedHeading = *headingFocus;
    const DraggedHeading what = dragged();
    const ViewPlan& plan = session->plan();
    const int first = headingFocus->tier ? plannedTier(*headingFocus->tier).first : *headingFocus->column;
    int end = headingFocus->tier ? plannedTier(*headingFocus->tier).end : first + 1;
    while (end < columns.count() && columns.line(end) > 0) ++end;
    int neighbour = step < 0 ? first - 1 : end;
    while (neighbour >= 0 && neighbour < columns.count() && columns.line(neighbour) > 0) --neighbour;
    if (neighbour < 0 || neighbour >= columns.count()) return;
    // Past the whole of what stands beside it on its level.
    const std::string parent =
        headingFocus->tier ? plannedTier(*headingFocus->tier).design.parent : planned(first).design.tier;
    const int level = static_cast<int>(tierPath(session->design(), parent).size());
    const HeadingLayout layout = headingLayout();
    QRect rect = layout.columnRect(neighbour);
    for (int t = 0; t < static_cast<int>(plan.tiers.size()); ++t)
        if (plannedTier(t).level <= level && plannedTier(t).first <= neighbour && neighbour < plannedTier(t).end &&
            (plannedTier(t).first > first || plannedTier(t).end <= first)) {
            rect = layout.tierRect(t);
            break;
        }
    const QPoint at(step < 0 ? rect.left() + 1 : rect.right() - 1, rect.center().y());
    Design design = session->design();
    const HeadingLanding to =
        landingAt(design, plan, layout, columns, what, at, designing ? Arranging::Design : Arranging::UserOnly);
    const QString label = carryOut(design, what, to);
    if (label.isEmpty()) return;
    const std::string field = planned(first).design.field;
    const std::string tier = what.tier;
    changeDesign(std::move(design), label);
    // The focus stays on what was moved.
    HeadingHit again;
    for (std::size_t t = 0; t < session->plan().tiers.size(); ++t)
        if (session->plan().tiers[t].design.name == tier) again.tier = static_cast<int>(t);
    if (!again.tier) again.column = columnOf(QString::fromStdString(field));
    if (again.tier || again.column) focusHeading(again);
}

bool GridPrivate::headingKey(QKeyEvent& event) {
    const bool control = event.modifiers() & Qt::ControlModifier, alt = event.modifiers() & Qt::AltModifier;
    const HeadingHit hit = *headingFocus;
    const HeadingLayout layout = headingLayout();
    const auto step = event.key() == Qt::Key_Left ? -1 : event.key() == Qt::Key_Right ? 1 : 0;
    if (step != 0 && alt) {
        moveByKey(step);
        return true;
    }
    if (step != 0 && control && hit.column) {
        const int now = columns.width(*hit.column);
        changeColumn(planned(*hit.column).design.field, step > 0 ? Grid::tr("Widen %1") : Grid::tr("Narrow %1"),
                     [&](ColumnDesign& c) {
                         c.width.mode = WidthMode::Fixed;
                         c.width.pixels = std::clamp(now + step * 8, std::max(c.width.minimum, Width::kLeastPixels),
                                                     Width::kMostPixels);
                     });
        return true;
    }
    switch (event.key()) {
        case Qt::Key_Left:
        case Qt::Key_Right: moveHeadingFocus(step, 0); return true;
        case Qt::Key_Up: moveHeadingFocus(0, 1); return true;
        case Qt::Key_Down: moveHeadingFocus(0, -1); return true;
        case Qt::Key_Escape: focusHeading(std::nullopt); return true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
        case Qt::Key_Space:
            if (hit.tier)
                clickTier(*hit.tier, event.key() == Qt::Key_Space ? HeadingHit::Part::Fold : HeadingHit::Part::Body);
            else {
                sortBy(*hit.column, control);
                Q_EMIT grid.headingClicked(QString::fromStdString(planned(*hit.column).design.field), Qt::NoModifier);
            }
            return true;
        case Qt::Key_Delete:
            if (hit.column)
                changeColumn(planned(*hit.column).design.field, Grid::tr("Hide %1"),
                             [](ColumnDesign& c) { c.shown = false; });
            return true;
        case Qt::Key_F2:
            if (designing) rename(hit);
            return true;
        case Qt::Key_Menu: {
            const QRect at = hit.tier ? layout.tierRect(*hit.tier) : layout.columnRect(*hit.column);
            openHeadingMenu(hit, grid.viewport()->mapToGlobal(at.bottomLeft()));
            return true;
        }
        default: return false;
    }
}

/// An entry over the heading; what is typed is the heading when Enter is pressed or another place is clicked.
void GridPrivate::rename(const HeadingHit& hit) {
    delete nameEntry;
    const HeadingLayout layout = headingLayout();
    const QRect rect = hit.tier ? layout.tierRect(*hit.tier) : layout.columnText(*hit.column);
    const std::string name = hit.tier ? plannedTier(*hit.tier).design.name : planned(*hit.column).design.field;
    const bool isTier = hit.tier.has_value();
    nameEntry = new QLineEdit(grid.viewport());
    nameEntry->setObjectName(QStringLiteral("headingEntry"));
    nameEntry->setAccessibleName(Grid::tr("Heading"));
    nameEntry->setText(isTier ? headingOfTier(session->design(), name) : headingOfField(session->design(), name));
    nameEntry->selectAll();
    const int width = std::max(rect.width(), 110);
    nameEntry->setGeometry(
        QRect(std::min(rect.left(), grid.viewport()->width() - width), rect.top(), width, std::max(24, rect.height())));
    nameEntry->show();
    nameEntry->setFocus();
    QObject::connect(nameEntry, &QLineEdit::editingFinished, &grid, [this, name, isTier] {
        if (!nameEntry) return;
        const QString text = nameEntry->text().trimmed();
        QLineEdit* closing = nameEntry;
        nameEntry = nullptr;
        closing->hide();
        closing->deleteLater();
        grid.setFocus();
        Design design = session->design();
        QString label;
        bool renamed = false;
        if (isTier) {
            TierDesign* tier = design.findTier(name);
            if (!tier || text.isEmpty()) return;
            label = Grid::tr("Rename %1").arg(QString::fromStdString(tier->heading));
            tier->heading = text.toStdString();
            // A tier made by hand gets its name with its first heading.
            renamed = QString::fromStdString(name).startsWith(Grid::tr("New heading")) &&
                      !design.findTier(text.toStdString());
            if (renamed) renameTier(design, name, text.toStdString());
        } else {
            ColumnDesign* column = design.column(name);
            if (!column) return;
            label = Grid::tr("Rename %1").arg(QString::fromStdString(column->field));
            column->heading = text.toStdString();
        }
        changeDesign(std::move(design), label);
        if (renamed) Q_EMIT grid.tierClicked(text);
    });
}

void GridPrivate::setFolded(const std::string& name, bool folded) {
    Design design = session->design();
    TierDesign* tier = design.findTier(name);
    if (!tier) return;
    tier->folded = folded;
    const QString heading = QString::fromStdString(tier->heading);
    changeDesign(std::move(design), folded ? Grid::tr("Fold %1").arg(heading) : Grid::tr("Unfold %1").arg(heading));
}

void GridPrivate::pinUpTo(std::optional<int> column, bool right) {
    Design design = session->design();
    const int place = column ? columns.place(*column) : 0;
    if (right)
        design.grid.pinnedRight = column ? columns.places() - place : 0;
    else
        design.grid.pinned = column ? place + 1 : 0;
    const QString heading = column ? QString::fromStdString(planned(*column).design.heading) : QString();
    changeDesign(std::move(design), !column ? Grid::tr("Unpin columns")
                                    : right ? Grid::tr("Pin from %1").arg(heading)
                                            : Grid::tr("Pin up to %1").arg(heading));
}

void GridPrivate::fillColumnMenu(QMenu& menu, int column) {
    const std::string field = planned(column).design.field;
    const auto sorted = [this, field](Direction direction) {
        Design design = session->design();
        design.sort.assign(1, {field, direction, Empties::Last});
        changeDesign(std::move(design), Grid::tr("Sort by %1").arg(headingOfField(session->design(), field)));
    };
    menu.addAction(Grid::tr("Sort up"), &grid, [sorted] { sorted(Direction::Ascending); });
    menu.addAction(Grid::tr("Sort down"), &grid, [sorted] { sorted(Direction::Descending); });
    if (!session->design().sort.empty())
        menu.addAction(Grid::tr("Do not sort"), &grid, [this] {
            Design design = session->design();
            design.sort.clear();
            changeDesign(std::move(design), Grid::tr("Stop sorting"));
        });
    menu.addSeparator();
    fillFilterMenu(*menu.addMenu(Grid::tr("Filter")), QString::fromStdString(field));
    if (!session->design().grid.filterRow)
        menu.addAction(Grid::tr("Show the filter row"), &grid,
                       [this, field] { focusFilter(QString::fromStdString(field)); });
    menu.addSeparator();
    fillGroupMenu(menu, field);
    menu.addSeparator();
    menu.addAction(Grid::tr("Fit width exactly"), &grid, [this, field] { fitExactly({field}); });
    menu.addAction(Grid::tr("Pin left up to here"), &grid, [this, column] { pinUpTo(column, false); });
    menu.addAction(Grid::tr("Pin right from here"), &grid, [this, column] { pinUpTo(column, true); });
    menu.addAction(Grid::tr("Merge equal neighbours"), &grid,
                   [this, field] {
                       changeColumn(field, Grid::tr("Merge equal neighbours in %1"),
                                    [](ColumnDesign& c) { c.merge = !c.merge; });
                   })
        ->setCheckable(true);
    menu.actions().last()->setChecked(planned(column).design.merge);
    menu.addAction(
            Grid::tr("Wrap text"), &grid,
            [this, field] { changeColumn(field, Grid::tr("Wrap %1"), [](ColumnDesign& c) { c.wrap = !c.wrap; }); })
        ->setCheckable(true);
    menu.actions().last()->setChecked(planned(column).design.wrap);
    menu.addAction(Grid::tr("Hide"), &grid, [this, field] {
        changeColumn(field, Grid::tr("Hide %1"), [](ColumnDesign& c) { c.shown = false; });
    });
    if (!designing) return;
    menu.addSeparator();
    menu.addAction(Grid::tr("Rename…"), &grid, [this, column] { rename(HeadingHit{column, {}, {}}); });
    menu.addAction(
        designFields.size() > 1 ? Grid::tr("New heading over the selected columns") : Grid::tr("New heading over it"),
        &grid, [this, field] {
            std::vector<std::string> fields;
            for (const QString& f : designFields) fields.push_back(f.toStdString());
            if (std::find(fields.begin(), fields.end(), field) == fields.end()) fields = {field};
            grid.makeTier(fields);
        });
    if (!planned(column).design.tier.empty())
        menu.addAction(
            Grid::tr("Take out of %1").arg(headingOfTier(session->design(), planned(column).design.tier)), &grid,
            [this, field] {
                Design design = session->design();
                const std::string tier = design.column(field)->tier;
                const std::string parent = design.findTier(tier)->parent;
                const QString label =
                    Grid::tr("Move %1 out of %2").arg(headingOfField(design, field), headingOfTier(design, tier));
                moveColumns(design, {field}, {parent, fieldsUnder(design, tier).front()});
                changeDesign(std::move(design), label);
            });
    if (!planned(column).design.under.empty())
        menu.addAction(Grid::tr("Give it a place of its own"), &grid, [this, field] {
            Design design = session->design();
            putUnder(design, field, {});
            changeDesign(std::move(design), Grid::tr("Place %1 on the first line").arg(headingOfField(design, field)));
        });
}

void GridPrivate::fillTierMenu(QMenu& menu, int index) {
    const PlannedTier tier = plannedTier(index);
    const std::string name = tier.design.name;
    menu.addAction(tier.design.folded ? Grid::tr("Unfold") : Grid::tr("Fold to one column"), &grid,
                   [this, name, folded = tier.design.folded] { setFolded(name, !folded); });
    menu.addAction(Grid::tr("Fit all columns under it"), &grid, [this, tier] {
        std::vector<std::string> fields;
        for (int i = tier.first; i < tier.end; ++i) fields.push_back(planned(i).design.field);
        fitExactly(std::move(fields));
    });
    menu.addAction(Grid::tr("Hide all columns under it"), &grid, [this, name] {
        Design design = session->design();
        showTier(design, name, false);
        changeDesign(std::move(design), Grid::tr("Hide %1").arg(headingOfTier(session->design(), name)));
    });
    if (!designing) return;
    menu.addSeparator();
    menu.addAction(Grid::tr("Rename…"), &grid, [this, index] { rename(HeadingHit{{}, index, {}}); });
    menu.addAction(Grid::tr("New heading over it"), &grid,
                   [this, name] { grid.makeTier(fieldsUnder(session->design(), name)); });
    menu.addAction(Grid::tr("Take this heading away"), &grid, [this, name] {
        Design design = session->design();
        const QString label = Grid::tr("Take %1 away").arg(headingOfTier(design, name));
        dissolveTier(design, name);
        changeDesign(std::move(design), label);
    });
}

void GridPrivate::fillCommonMenu(QMenu& menu) {
    menu.addSeparator();
    if (session->design().grid.pinned > 0 || session->design().grid.pinnedRight > 0)
        menu.addAction(Grid::tr("Unpin columns"), &grid, [this] {
            Design design = session->design();
            design.grid.pinned = design.grid.pinnedRight = 0;
            changeDesign(std::move(design), Grid::tr("Unpin columns"));
        });
    menu.addAction(Grid::tr("Fit all widths"), &grid, [this] { grid.fitAll(); });
    menu.addAction(Grid::tr("Columns…"), &grid, [this] { openColumnList(); });
}

void GridPrivate::openHeadingMenu(const HeadingHit& hit, const QPoint& global) {
    auto* menu = new QMenu(&grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("headingMenu"));
    hit.tier ? fillTierMenu(*menu, *hit.tier) : fillColumnMenu(*menu, *hit.column);
    fillCommonMenu(*menu);
    menu->popup(global);
}

void GridPrivate::openLineMenu(std::int64_t line, const QPoint& global) {
    groupOnLine(line) ? openGroupMenu(line, global) : openRecordMenu(line, global);
}

void GridPrivate::openRecordMenu(std::int64_t line, const QPoint& global) {
    const Record record = recordAt(line);
    if (!record.isValid() || record.key().empty()) return;
    std::vector<std::string> key;
    for (const Value& value : record.key()) {
        key.emplace_back();
        appendPlain(key.back(), value);
    }
    const auto& pinnedNow = session->design().grid.pinnedRecords;
    const bool isPinned =
        std::any_of(pinnedNow.begin(), pinnedNow.end(), [&](const PinnedRecord& r) { return r.key == key; });
    auto* menu = new QMenu(&grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("recordMenu"));
    menu->addAction(Grid::tr("Copy"), &grid, [this] { copySelection(); });
    menu->addSeparator();
    const auto pin = [this, key](std::optional<PinnedRecord::Edge> edge) {
        Design design = session->design();
        std::erase_if(design.grid.pinnedRecords, [&](const PinnedRecord& r) { return r.key == key; });
        if (edge) design.grid.pinnedRecords.push_back({key, *edge});
        changeDesign(std::move(design), edge ? Grid::tr("Pin a record") : Grid::tr("Unpin a record"));
    };
    if (isPinned)
        menu->addAction(Grid::tr("Unpin this record"), &grid, [pin] { pin(std::nullopt); });
    else {
        menu->addAction(Grid::tr("Pin this record at the top"), &grid, [pin] { pin(PinnedRecord::Edge::Top); });
        menu->addAction(Grid::tr("Pin this record at the bottom"), &grid, [pin] { pin(PinnedRecord::Edge::Bottom); });
    }
    menu->popup(global);
}

void GridPrivate::openColumnList() {
    delete columnList;
    auto* list = new ColumnList(session->design(), session->schema(), designing, &grid);
    columnList = list;
    QObject::connect(list, &ColumnList::changed, &grid, [this, list](const Design& design, const QString& label) {
        changeDesign(design, label);
        list->setDesign(session->design());
    });
    QObject::connect(list, &ColumnList::found, &grid, [this](const QString& field) {
        if (const auto column = columnOf(field)) {
            setScrollX(columns.scrollToShow(*column, scrollX));
            focusHeading(HeadingHit{*column, {}, {}});
        }
    });
    list->openOver(grid.viewport(), headerHeight());
}

}  // namespace jollyrow
