// SPDX-License-Identifier: MIT
// Filters made on the grid: the filter row and its menus. What is typed becomes a condition of the design at once; what
// cannot be read is said under its cell, and the last good condition stays.
#include <QMenu>

#include "core/design/filter_entry.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {

int GridPrivate::filterRowHeight() const {
    return session->design().grid.filterRow ? FilterRow::heightFor(grid.font()) : 0;
}

void GridPrivate::layoutFilterRow() {
    if (!session->design().grid.filterRow) {
        if (filterRow) filterRow->hide();
        return;
    }
    if (!filterRow) {
        filterRow = new FilterRow(grid.viewport());
        QObject::connect(filterRow, &FilterRow::typed, &grid,
                         [this](const QString& field, const QString& text) { takeFilterEntry(field, text); });
        QObject::connect(filterRow, &FilterRow::menuWanted, &grid,
                         [this](const QString& field, const QPoint& at) { openFilterMenu(field, at); });
        QObject::connect(filterRow, &FilterRow::pickWanted, &grid,
                         [this](const QString& field) { openPickList(field); });
        QObject::connect(filterRow, &FilterRow::neighbourWanted, &grid,
                         [this](const QString& field, int step) { moveFilterFocus(field, step); });
        QObject::connect(filterRow, &FilterRow::rowMenuWanted, &grid,
                         [this](const QPoint& at) { openFilterRowMenu(at); });
        QObject::connect(filterRow, &FilterRow::left, &grid, [this](bool upwards) {
            const auto field = filterRow->focusedField();
            grid.setFocus(Qt::OtherFocusReason);
            const auto column = field ? columnOf(*field) : std::nullopt;
            if (upwards && column) return focusHeading(HeadingHit{*column, {}, {}});
            if (column && lines && lines->lineCount() != 0)
                choose({selection.current() ? selection.current()->line : 0, *column}, SelectHow::Replace);
        });
    }
    filterRow->setLook(&look());
    filterRow->setFont(grid.font());
    filterRow->setGeometry(0, headingLayout().height(), grid.viewport()->width(), filterRowHeight());
    std::vector<FilterCell> cells;
    const ViewPlan& plan = session->plan();
    const Design& design = session->design();
    for (int i = 0; i < static_cast<int>(plan.columns.size()); ++i) {
        if (columns.line(i) != 0) continue;
        const QRect room = headingLayout().columnRect(i) & roomOf(i);
        const PlannedColumn& column = planned(i);
        FilterCell cell;
        cell.field = QString::fromStdString(column.design.field);
        cell.heading = QString::fromStdString(column.design.heading);
        cell.left = room.left();
        cell.width = room.isEmpty() ? 0 : room.width();
        const std::string tested = testedField(design, session->schema(), column.design.field);
        const auto known = session->schema().find(tested);
        if (known)
            cell.mark = QString::fromStdString(
                idleMark(session->schema().field(*known).type, session->schema().field(*known).use));
        if (const FilterDesign* part = design.filterAt(column.design.field)) {
            cell.filtered = true;
            cell.on = part->on;
            cell.typed = !part->entry.empty();
            cell.text =
                QString::fromStdString(cell.typed ? part->entry
                                                  : sentenceOf(conditionFrom(part->rule, session->schema(), design),
                                                               session->schema(), design));
        }
        if (const auto wrong = wrongEntries.find(column.design.field); wrong != wrongEntries.end()) {
            cell.text = wrong->second.text;
            cell.problem = wrong->second.problem;
            cell.typed = true;
        }
        cells.push_back(std::move(cell));
    }
    filterRow->setCells(std::move(cells));
    filterRow->show();
}

void GridPrivate::takeFilterEntry(const QString& field, const QString& text) {
    const std::string name = field.toStdString();
    const auto condition = conditionFromEntry(text.toStdString(), session->design(), session->schema(), name);
    if (!condition) {
        wrongEntries[name] = {text, QString::fromStdString(condition.error().message)};
        layoutFilterRow();
        showFilterProblem();
        return;
    }
    wrongEntries.erase(name);
    setFilterAt(field, ruleOf(*condition, session->schema()), text.trimmed().toStdString());
    layoutFilterRow();
    showFilterProblem();
}

void GridPrivate::setFilterAt(const QString& field, const std::string& rule, const std::string& entry) {
    Design design = session->design();
    const std::string name = field.toStdString();
    FilterDesign* part = design.filterAt(name);
    if (rule.empty()) {
        std::erase_if(design.filter, [&](const FilterDesign& f) { return f.field == name; });
    } else if (part) {
        *part = {rule, name, entry, true};
    } else {
        design.filter.push_back({rule, name, entry, true});
    }
    typingFilter = true;
    changeDesign(std::move(design), Grid::tr("Filter %1").arg(headingOfField(session->design(), name)));
    typingFilter = false;
}

/// Under the cell that has the keys, else under the first wrong one.
void GridPrivate::showFilterProblem() {
    if (wrongEntries.empty() || !filterRow) {
        if (filterProblem) filterProblem->hide();
        return;
    }
    auto wrong = wrongEntries.begin();
    if (const auto focused = filterRow->focusedField())
        if (const auto own = wrongEntries.find(focused->toStdString()); own != wrongEntries.end()) wrong = own;
    const QString field = QString::fromStdString(wrong->first);
    const QRect cell = filterRow->cellRect(field);
    if (cell.isEmpty()) {
        if (filterProblem) filterProblem->hide();
        return;
    }
    if (!filterProblem) filterProblem = new MessageStrip(grid.viewport());
    const bool hasGood = session->design().filterAt(wrong->first) != nullptr;
    filterProblem->showUnder(cell, grid.viewport()->rect().adjusted(0, headerHeight() - 4, 0, 0),
                             wrong->second.problem + (hasGood ? Grid::tr(" The last condition stays.") : QString()),
                             {{Grid::tr("Clear"), [this, field] {
                                   takeFilterEntry(field, {});
                                   filterRow->focusCell(field);
                               }}});
}

void GridPrivate::moveFilterFocus(const QString& field, int step) {
    const auto column = columnOf(field);
    for (int next = column ? *column + step : 0; next >= 0 && next < columns.count(); next += step) {
        if (columns.line(next) != 0) continue;
        setScrollX(columns.scrollToShow(next, scrollX));
        layoutFilterRow();
        if (filterRow->focusCell(QString::fromStdString(planned(next).design.field))) return;
    }
    grid.setFocus(Qt::OtherFocusReason);
}

bool GridPrivate::focusFilter(const QString& field) {
    if (!session->design().grid.filterRow) {
        Design design = session->design();
        design.grid.filterRow = true;
        changeDesign(std::move(design), Grid::tr("Show the filter row"));
    }
    if (const auto column = columnOf(field)) setScrollX(columns.scrollToShow(*column, scrollX));
    layoutFilterRow();
    return filterRow && filterRow->focusCell(field);
}

void GridPrivate::fillFilterMenu(QMenu& menu, const QString& field) {
    const std::string tested = testedField(session->design(), session->schema(), field.toStdString());
    const auto known = session->schema().find(tested);
    if (!known) return;
    const FieldSchema& at = session->schema().field(*known);
    const auto begin = [&](const QString& words, const QString& before, const QString& after = {}) {
        menu.addAction(words, &grid, [this, field, before, after] {
            if (!focusFilter(field)) return;
            QLineEdit* entry = filterRow->entry();
            entry->setText(before + after);
            entry->setCursorPosition(static_cast<int>(before.size()));
            entry->deselect();
        });
    };
    const auto whole = [&](QMenu& into, const QString& words, const QString& entry) {
        into.addAction(words, &grid, [this, field, entry] { takeFilterEntry(field, entry); });
    };
    const bool ordered = isNumber(at.type) || isCalendar(at.type);
    const bool day = hasDay(at.type);
    if (at.type != Type::Binary && at.type != Type::NumberList)
        menu.addAction(Grid::tr("Pick values…"), &grid, [this, field] { openPickList(field); });
    menu.addSeparator();
    if (at.type == Type::Text) {
        begin(Grid::tr("contains…"), QString());
        begin(Grid::tr("begins with…"), QString(), QStringLiteral("*"));
        begin(Grid::tr("ends with…"), QStringLiteral("*"));
        begin(Grid::tr("is…"), QStringLiteral("= "));
        begin(Grid::tr("does not contain…"), QStringLiteral("not "));
    }
    if (at.type == Type::Boolean) {
        whole(menu, Grid::tr("yes"), QStringLiteral("yes"));
        whole(menu, Grid::tr("no"), QStringLiteral("no"));
    }
    if (ordered) {
        begin(Grid::tr("is…"), QStringLiteral("= "));
        begin(Grid::tr("is not…"), QStringLiteral("≠ "));
        begin(day ? Grid::tr("after…") : Grid::tr("over…"), QStringLiteral("> "));
        begin(day ? Grid::tr("before…") : Grid::tr("under…"), QStringLiteral("< "));
        begin(Grid::tr("from … to …"), QString(), QStringLiteral(".."));
    }
    if (day) {
        QMenu* periods = menu.addMenu(Grid::tr("in a period"));
        for (const std::string& period : periodNames())
            whole(*periods, QString::fromStdString(period), QString::fromStdString(period));
    }
    QMenu* own = nullptr;
    for (const OperatorDesign& op : operatorsFor(session->design(), at.type)) {
        if (!own) own = menu.addMenu(Grid::tr("more"));
        const QString words =
            QString::fromStdString(op.title) + (op.arguments.empty() ? QString() : QStringLiteral("…"));
        QString entry = QString::fromStdString(op.name);
        entry.replace('_', ' ');
        if (op.arguments.empty()) {
            whole(*own, words, entry);
        } else {
            own->addAction(words, &grid, [this, field, entry] {
                if (!focusFilter(field)) return;
                filterRow->entry()->setText(entry + QStringLiteral(" "));
            });
        }
    }
    menu.addSeparator();
    whole(menu, Grid::tr("is empty"), QStringLiteral("empty"));
    whole(menu, Grid::tr("is not empty"), QStringLiteral("not empty"));
    if (session->design().filterAt(field.toStdString()) || wrongEntries.contains(field.toStdString())) {
        menu.addSeparator();
        whole(menu, Grid::tr("Clear"), QString());
    }
}

void GridPrivate::openFilterMenu(const QString& field, const QPoint& global) {
    auto* menu = new QMenu(&grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    fillFilterMenu(*menu, field);
    menu->popup(global);
}

void GridPrivate::openFilterRowMenu(const QPoint& global) {
    auto* menu = new QMenu(&grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    QAction* clear = menu->addAction(Grid::tr("Clear all filters"), &grid, [this] { clearFilters(); });
    clear->setEnabled(!session->design().filter.empty() || !wrongEntries.empty());
    menu->addAction(Grid::tr("Hide the filter row"), &grid, [this] {
        Design design = session->design();
        design.grid.filterRow = false;
        changeDesign(std::move(design), Grid::tr("Hide the filter row"));
    });
    menu->popup(global);
}

void GridPrivate::clearFilters() {
    wrongEntries.clear();
    Design design = session->design();
    design.filter.clear();
    changeDesign(std::move(design), Grid::tr("Clear all filters"));
    layoutFilterRow();
    showFilterProblem();
}

}  // namespace jollyrow
