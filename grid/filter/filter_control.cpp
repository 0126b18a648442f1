// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_filters.cpp.
#include "grid/filter/filter_control.h"

#include "core/design/condition.h"
#include "core/design/filter_entry.h"

namespace jollyrow {

int FilterControl::height() const {
    return context_.design().grid.filterRow ? FilterRow::heightFor(context_.grid().font()) : 0;
}

void FilterControl::makeRow() {
    row_ = new FilterRow(&context_.viewport());
    Grid* grid = &context_.grid();
    QObject::connect(row_, &FilterRow::typed, grid,
                     [this](const QString& field, const QString& text) { enter(field, text); });
    QObject::connect(row_, &FilterRow::menuWanted, grid,
                     [this](const QString& field, const QPoint& at) { hooks_.openMenu(field, at); });
    QObject::connect(row_, &FilterRow::pickWanted, grid, [this](const QString& field) { hooks_.openPickList(field); });
    QObject::connect(row_, &FilterRow::neighbourWanted, grid,
                     [this](const QString& field, int step) { moveFocus(field, step); });
    QObject::connect(row_, &FilterRow::rowMenuWanted, grid, [this](const QPoint& at) { hooks_.openRowMenu(at); });
    QObject::connect(row_, &FilterRow::left, grid, [this, grid](bool upwards) {
        const auto field = row_->focusedField();
        grid->setFocus(Qt::OtherFocusReason);
        if (const auto column = field ? context_.columnOf(*field) : std::nullopt) hooks_.leave(*column, upwards);
    });
}

void FilterControl::layout() {
    if (!context_.design().grid.filterRow) {
        if (row_) row_->hide();
    } else {
        if (!row_) makeRow();
        row_->setLook(&context_.look());
        row_->setFont(context_.grid().font());
        row_->setGeometry(0, hooks_.headings().height(), body_.viewport().width(), height());
        std::vector<FilterCell> cells;
        for (int column = 0; column < body_.columns().count(); ++column)
            if (body_.columns().line(column) == 0) cells.push_back(cellOf(column));
        row_->setCells(std::move(cells));
        row_->show();
    }
    showProblem();
}

FilterCell FilterControl::cellOf(int index) const {
    const Design& design = context_.design();
    const TableSchema& schema = context_.schema();
    const PlannedColumn& column = context_.planned(index);
    const QRect room = hooks_.headings().columnRect(index) & body_.roomOf(index);
    FilterCell cell;
    cell.field = QString::fromStdString(column.design.field);
    cell.heading = QString::fromStdString(column.design.heading);
    cell.left = room.left();
    cell.width = room.isEmpty() ? 0 : room.width();
    if (const auto known = schema.find(testedField(design, schema, column.design.field)))
        cell.mark = QString::fromStdString(idleMark(schema.field(*known).type, schema.field(*known).use));
    if (const FilterDesign* part = design.filterAt(column.design.field)) {
        cell.filtered = true;
        cell.on = part->on;
        cell.typed = !part->entry.empty();
        cell.text = QString::fromStdString(
            cell.typed ? part->entry : sentenceOf(conditionFrom(part->rule, schema, design), schema, design));
    }
    if (const auto wrong = wrong_.find(column.design.field); wrong != wrong_.end()) {
        cell.text = wrong->second.text;
        cell.problem = wrong->second.problem;
        cell.typed = true;
    }
    return cell;
}

void FilterControl::enter(const QString& field, const QString& text) {
    const std::string name = field.toStdString();
    const auto condition = conditionFromEntry(text.toStdString(), context_.design(), context_.schema(), name);
    if (condition) {
        wrong_.erase(name);
        setRule(field, ruleOf(*condition, context_.schema()), text.trimmed().toStdString());
    } else {
        wrong_[name] = {text, QString::fromStdString(condition.error().message)};
    }
    layout();
}

void FilterControl::setRule(const QString& field, const std::string& rule, const std::string& entry) {
    Design design = context_.design();
    const std::string name = field.toStdString();
    if (rule.empty())
        std::erase_if(design.filter, [&](const FilterDesign& f) { return f.field == name; });
    else if (FilterDesign* part = design.filterAt(name))
        *part = {rule, name, entry, true};
    else
        design.filter.push_back({rule, name, entry, true});
    typing_ = true;
    context_.changeDesign(std::move(design), Grid::tr("Filter %1").arg(headingOfField(context_.design(), name)));
    typing_ = false;
}

/// Under the cell that has the keys, else under the first wrong one.
void FilterControl::showProblem() {
    QRect cell;
    auto wrong = wrong_.begin();
    if (!wrong_.empty() && row_) {
        if (const auto focused = row_->focusedField())
            if (const auto own = wrong_.find(focused->toStdString()); own != wrong_.end()) wrong = own;
        cell = row_->cellRect(QString::fromStdString(wrong->first));
    }
    if (cell.isEmpty()) {
        if (problem_) problem_->hide();
        return;
    }
    if (!problem_) problem_ = new MessageStrip(&context_.viewport());
    const QString field = QString::fromStdString(wrong->first);
    const bool hasGood = context_.design().filterAt(wrong->first) != nullptr;
    problem_->showUnder(cell, context_.viewport().rect().adjusted(0, body_.headerHeight() - 4, 0, 0),
                        wrong->second.problem + (hasGood ? Grid::tr(" The last condition stays.") : QString()),
                        {{Grid::tr("Clear"), [this, field] {
                              enter(field, {});
                              row_->focusCell(field);
                          }}});
}

void FilterControl::moveFocus(const QString& field, int step) {
    const ColumnLayout& columns = body_.columns();
    const auto column = context_.columnOf(field);
    for (int next = column ? *column + step : 0; next >= 0 && next < columns.count(); next += step) {
        if (columns.line(next) != 0) continue;
        scroller_.showColumn(next);
        layout();
        if (row_->focusCell(QString::fromStdString(context_.planned(next).design.field))) return;
    }
    context_.grid().setFocus(Qt::OtherFocusReason);
}

bool FilterControl::focus(const QString& field) {
    if (!context_.design().grid.filterRow) {
        Design design = context_.design();
        design.grid.filterRow = true;
        context_.changeDesign(std::move(design), Grid::tr("Show the filter row"));
    }
    if (const auto column = context_.columnOf(field)) scroller_.showColumn(*column);
    layout();
    return row_ && row_->focusCell(field);
}

void FilterControl::focusAgain(const QString& field) {
    if (row_ && row_->focusedField())
        row_->focusCell(field);
    else
        context_.grid().setFocus(Qt::OtherFocusReason);
}

void FilterControl::hideRow() {
    Design design = context_.design();
    design.grid.filterRow = false;
    context_.changeDesign(std::move(design), Grid::tr("Hide the filter row"));
}

bool FilterControl::hasEntry(const QString& field) const {
    const std::string name = field.toStdString();
    return context_.design().filterAt(name) || wrong_.contains(name);
}

void FilterControl::clear() {
    wrong_.clear();
    Design design = context_.design();
    design.filter.clear();
    context_.changeDesign(std::move(design), Grid::tr("Clear all filters"));
    layout();
}

}  // namespace jollyrow
