// SPDX-License-Identifier: MIT
#include "grid/filter/filter_menus.h"

#include <QLineEdit>

#include "core/design/filter_entry.h"
#include "core/design/operators.h"

namespace jollyrow {

void FilterMenus::addBegun(QMenu& menu, const QString& field, const QString& words, const QString& before,
                           const QString& after) {
    menu.addAction(words, &context_.grid(), [this, field, before, after] {
        if (!filters_.focus(field)) return;
        QLineEdit* entry = filters_.row()->entry();
        entry->setText(before + after);
        entry->setCursorPosition(static_cast<int>(before.size()));
        entry->deselect();
    });
}

void FilterMenus::addWhole(QMenu& menu, const QString& field, const QString& words, const QString& entry) {
    menu.addAction(words, &context_.grid(), [this, field, entry] { filters_.enter(field, entry); });
}

void FilterMenus::addForType(QMenu& menu, const QString& field, Type type) {
    const bool day = hasDay(type);
    if (type == Type::Text) {
        addBegun(menu, field, Grid::tr("contains…"), QString());
        addBegun(menu, field, Grid::tr("begins with…"), QString(), QStringLiteral("*"));
        addBegun(menu, field, Grid::tr("ends with…"), QStringLiteral("*"));
        addBegun(menu, field, Grid::tr("is…"), QStringLiteral("= "));
        addBegun(menu, field, Grid::tr("does not contain…"), QStringLiteral("not "));
    }
    if (type == Type::Boolean) {
        addWhole(menu, field, Grid::tr("yes"), QStringLiteral("yes"));
        addWhole(menu, field, Grid::tr("no"), QStringLiteral("no"));
    }
    if (isNumber(type) || isCalendar(type)) {
        addBegun(menu, field, Grid::tr("is…"), QStringLiteral("= "));
        addBegun(menu, field, Grid::tr("is not…"), QStringLiteral("≠ "));
        addBegun(menu, field, day ? Grid::tr("after…") : Grid::tr("over…"), QStringLiteral("> "));
        addBegun(menu, field, day ? Grid::tr("before…") : Grid::tr("under…"), QStringLiteral("< "));
        addBegun(menu, field, Grid::tr("from … to …"), QString(), QStringLiteral(".."));
    }
    if (day) {
        QMenu* periods = menu.addMenu(Grid::tr("in a period"));
        for (const std::string& period : periodNames())
            addWhole(*periods, field, QString::fromStdString(period), QString::fromStdString(period));
    }
}

void FilterMenus::addOperators(QMenu& menu, const QString& field, Type type) {
    QMenu* own = nullptr;
    for (const OperatorDesign& op : operatorsFor(context_.design(), type)) {
        if (!own) own = menu.addMenu(Grid::tr("more"));
        const QString words =
            QString::fromStdString(op.title) + (op.arguments.empty() ? QString() : QStringLiteral("…"));
        QString entry = QString::fromStdString(op.name);
        entry.replace('_', ' ');
        if (op.arguments.empty())
            addWhole(*own, field, words, entry);
        else
            addBegun(*own, field, words, entry + QStringLiteral(" "));
    }
}

void FilterMenus::fill(QMenu& menu, const QString& field) {
    const std::string tested = testedField(context_.design(), context_.schema(), field.toStdString());
    const auto known = context_.schema().find(tested);
    if (!known) return;
    const Type type = context_.schema().field(*known).type;
    if (type != Type::Binary && type != Type::NumberList)
        menu.addAction(Grid::tr("Pick values…"), &context_.grid(), [this, field] { openPickList_(field); });
    menu.addSeparator();
    addForType(menu, field, type);
    addOperators(menu, field, type);
    menu.addSeparator();
    addWhole(menu, field, Grid::tr("is empty"), QStringLiteral("empty"));
    addWhole(menu, field, Grid::tr("is not empty"), QStringLiteral("not empty"));
    if (!filters_.hasEntry(field)) return;
    menu.addSeparator();
    addWhole(menu, field, Grid::tr("Clear"), QString());
}

void FilterMenus::open(const QString& field, const QPoint& global) {
    auto* menu = new QMenu(&context_.grid());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    fill(*menu, field);
    menu->popup(global);
}

void FilterMenus::openForRow(const QPoint& global) {
    auto* menu = new QMenu(&context_.grid());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    QAction* clear = menu->addAction(Grid::tr("Clear all filters"), &context_.grid(), [this] { filters_.clear(); });
    clear->setEnabled(filters_.hasAny());
    menu->addAction(Grid::tr("Hide the filter row"), &context_.grid(), [this] { filters_.hideRow(); });
    menu->popup(global);
}

}  // namespace jollyrow
