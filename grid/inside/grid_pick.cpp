// SPDX-License-Identifier: MIT
// Pick lists: the values of a column after the other conditions, and what is picked as a condition: the shorter of "is
// one of" and "is none of", runs of dates and numbers as ranges.
#include <QLineEdit>

#include "core/design/condition.h"
#include "core/rules/conversion.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostTests = 2000;  ///< values or ranges one condition names

std::string plain(const Value& value) { return textOf(ruleValue(value)); }

/// Values [i] for which wanted(i), as one condition; ordered ones by runs of neighbours in the list.
template <class Wanted>
Condition conditionOn(const std::string& field, const PickList& list, bool ordered, std::size_t& tests,
                      const Wanted& wanted) {
    Condition values = Condition::of(Test::OneOf, field);
    Condition any;
    any.kind = ConditionKind::Any;
    const std::size_t count = list.entries.size();
    tests = 0;
    for (std::size_t i = 0; i < count;) {
        if (!wanted(i)) {
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < count && wanted(end)) ++end;
        if (ordered && end - i > 2) {
            any.children.push_back(Condition::of(Test::Between, field,
                                                 {plain(list.entries[i].value), plain(list.entries[end - 1].value)}));
            ++tests;
        } else {
            for (std::size_t k = i; k < end; ++k) values.values.push_back(plain(list.entries[k].value));
            tests += end - i;
        }
        i = end;
        if (tests > kMostTests) return any;
    }
    if (values.values.size() == 1)
        any.children.push_back(Condition::of(Test::Equal, field, values.values));
    else if (!values.values.empty())
        any.children.push_back(std::move(values));
    return any.children.size() == 1 ? any.children.front() : any;
}

/// nullopt when it would name too many values.
std::optional<Condition> pickedCondition(const std::string& field, Type type, const PickRows& rows) {
    const PickList& list = *rows.list();
    const bool ordered = isNumber(type) || isCalendar(type);
    if (type == Type::Boolean) {
        Condition any;
        any.kind = ConditionKind::Any;
        for (std::size_t i = 0; i < list.entries.size(); ++i)
            if (rows.isChecked(i))
                any.children.push_back(
                    Condition::of(std::get<bool>(list.entries[i].value) ? Test::IsTrue : Test::IsFalse, field));
        if (list.empties > 0 && rows.emptiesChecked()) any.children.push_back(Condition::of(Test::IsEmpty, field));
        if (any.children.empty()) return Condition::of(Test::OneOf, field);
        return any.children.size() == 1 ? any.children.front() : any;
    }
    std::size_t inTests = 0, outTests = 0;
    Condition in = conditionOn(field, list, ordered, inTests, [&](std::size_t i) { return rows.isChecked(i); });
    Condition out = conditionOn(field, list, ordered, outTests, [&](std::size_t i) { return !rows.isChecked(i); });
    if (std::min(inTests, outTests) > kMostTests) return std::nullopt;
    const bool empties = list.empties > 0 && rows.emptiesChecked();
    if (inTests == 0) return empties ? Condition::of(Test::IsEmpty, field) : Condition::of(Test::OneOf, field);
    Condition chosen;
    if (outTests == 0) {
        chosen = Condition::of(Test::IsEmpty, field);  // all values: only the empties are left out
        chosen.negated = true;
    } else if (inTests <= outTests) {
        chosen = std::move(in);
    } else if (out.kind == ConditionKind::Test) {
        chosen = std::move(out);
        if (chosen.test == Test::Equal)
            chosen.test = Test::NotEqual;
        else
            chosen.negated = true;
    } else {
        chosen.kind = ConditionKind::None;
        chosen.children = std::move(out.children);
    }
    if (!empties) return chosen;
    Condition any;
    any.kind = ConditionKind::Any;
    if (chosen.kind == ConditionKind::Any)
        any.children = std::move(chosen.children);
    else
        any.children.push_back(std::move(chosen));
    any.children.push_back(Condition::of(Test::IsEmpty, field));
    return any;
}

}  // namespace

void GridPrivate::openPickList(const QString& field) {
    if (pickPopup) pickPopup->close();
    const auto column = columnOf(field);
    if (!column) return;
    const std::string name = field.toStdString();
    const std::string tested = testedField(session->design(), session->schema(), name);
    const auto at = session->schema().find(tested);
    if (!at) return;
    setScrollX(columns.scrollToShow(*column, scrollX));
    const QRect under = filterRow && !filterRow->cellRect(field).isEmpty() ? filterRow->cellRect(field)
                                                                           : headingLayout().columnRect(*column);
    pickPopup = new PickPopup(QString::fromStdString(planned(*column).design.heading), grid.viewport(), look());
    pickPopup->setFont(grid.font());
    pickPopup->openUnder(under);
    QObject::connect(pickPopup, &PickPopup::closed, &grid, [this, field] {
        if (filterRow && filterRow->focusedField())
            filterRow->focusCell(field);
        else
            grid.setFocus(Qt::OtherFocusReason);
    });
    std::optional<std::size_t> own;
    for (std::size_t i = 0; i < session->design().filter.size(); ++i)
        if (session->design().filter[i].field == name && session->design().filter[i].on) own = i;
    const auto words = [this, tested, plan = session->sharedPlan(), column = *column,
                        schemaField = session->schema().field(*at), isLabel = tested != name](const Value& value) {
        std::string out;
        if (isLabel)
            appendDisplay(out, value, defaultFormat(schemaField, false));
        else if (plan->columns[static_cast<std::size_t>(column)].formatter->isMessage())
            appendDisplay(out, value, plan->columns[static_cast<std::size_t>(column)].format);
        else
            plan->columns[static_cast<std::size_t>(column)].formatter->append(out, value);
        return out;
    };
    const Type type = session->schema().field(*at).type;
    const auto show = [this, words, name, field, tested, type, target = pickPopup](
                          const std::shared_ptr<const PickList>& list, const PickList* chosen) {
        if (!target) return;
        target->rows().setList(list, words, chosen, &look(), TimeZone::named(session->schema().zone));
        const auto foot = [list, target] {
            const auto picked = static_cast<qlonglong>(target->rows().checkedRecords());
            target->setFoot(Grid::tr("%L1 of %L2 values, %L3 of %L4 records")
                                .arg(target->rows().checkedCount())
                                .arg(list->entries.size())
                                .arg(picked)
                                .arg(list->records));
        };
        foot();
        QObject::connect(target, &PickPopup::picked, &grid, [this, target, name, field, tested, type, foot] {
            wrongEntries.erase(name);
            if (target->rows().isEverythingChecked()) {
                setFilterAt(field, {}, {});
                return foot();
            }
            const auto condition = pickedCondition(tested, type, target->rows());
            if (!condition)
                return target->setFoot(
                    Grid::tr("These are too many values to name. Type a condition, or pick fewer than %L1.")
                        .arg(kMostTests),
                    true);
            setFilterAt(field, ruleOf(*condition, session->schema()), {});
            foot();
        });
    };
    session->pickList(
        *at, own, [this, own, at, show, target = pickPopup](const Result<std::shared_ptr<const PickList>>& list) {
            if (!target) return;
            if (!list) return target->setFoot(QString::fromStdString(list.error().message), true);
            if (!own) return show(*list, nullptr);
            // What its own condition leaves is what is checked.
            session->pickList(*at, std::nullopt,
                              [show, all = *list, target](const Result<std::shared_ptr<const PickList>>& chosen) {
                                  if (target && chosen) show(all, chosen->get());
                              });
        });
}

}  // namespace jollyrow
