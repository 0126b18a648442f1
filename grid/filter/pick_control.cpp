// SPDX-License-Identifier: MIT
// Pick lists: the values of a column after the other conditions, and what is picked as a condition: the shorter of "is
// one of" and "is none of", runs of dates and numbers as ranges.
#include "grid/filter/pick_control.h"

#include "grid/paint/grouped.h"

#include "core/design/condition.h"
#include "core/design/filter_entry.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"

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

void PickControl::open(const QString& field) {
    if (popup_) popup_->close();
    const auto column = context_.columnOf(field);
    if (!column) return;
    Picking what;
    what.field = field;
    what.tested = testedField(context_.design(), context_.schema(), field.toStdString());
    what.column = *column;
    const auto at = context_.schema().find(what.tested);
    if (!at) return;
    what.type = context_.schema().field(*at).type;
    scroller_.showColumn(*column);
    const QRect cell = filters_.row() ? filters_.row()->cellRect(field) : QRect();
    popup_ = new PickPopup(QString::fromStdString(context_.planned(*column).design.heading), &context_.viewport(),
                           context_.look());
    popup_->setFont(context_.grid().font());
    popup_->openUnder(cell.isEmpty() ? headingOf_(field) : cell);
    QObject::connect(popup_, &PickPopup::closed, &context_.grid(), [this, field] { filters_.focusAgain(field); });
    ask(what, *at);
}

/// Two lists when the column has a condition: what all others leave, and what its own leaves of that, which is what is
/// checked.
void PickControl::ask(const Picking& what, FieldIndex tested) {
    std::optional<std::size_t> own;
    const auto& filter = context_.design().filter;
    for (std::size_t i = 0; i < filter.size(); ++i)
        if (filter[i].field == what.field.toStdString() && filter[i].on) own = i;
    context_.session().questions().pickList(tested, own, [this, what, own, tested, target = popup_](const Result<List>& list) {
        if (!target || target != popup_) return;
        if (!list) return target->setFoot(QString::fromStdString(list.error().message), true);
        if (!own) return show(what, *list, nullptr);
        context_.session().questions().pickList(tested, std::nullopt,
                                    [this, what, all = *list, target](const Result<List>& chosen) {
                                        if (target && target == popup_ && chosen) show(what, all, chosen->get());
                                    });
    });
}

std::function<std::string(const Value&)> PickControl::wordsFor(const Picking& what) const {
    const bool isLabel = what.tested != what.field.toStdString();
    const auto at = context_.schema().find(what.tested);
    return [isLabel, schemaField = context_.schema().field(*at), plan = context_.session().sharedPlan(),
            index = static_cast<std::size_t>(what.column)](const Value& value) {
        const PlannedColumn& column = plan->columns[index];
        std::string out;
        if (isLabel)
            appendDisplay(out, value, defaultFormat(schemaField, false));
        else if (column.formatter->isMessage())
            appendDisplay(out, value, column.format);
        else
            column.formatter->append(out, value);
        return out;
    };
}

void PickControl::show(const Picking& what, const List& list, const PickList* chosen) {
    popup_->rows().setList(list, wordsFor(what), chosen, &context_.look(), TimeZone::named(context_.schema().zone));
    showFoot(list);
    QObject::connect(popup_, &PickPopup::picked, &context_.grid(), [this, what, list] { take(what, list); });
}

void PickControl::showFoot(const List& list) {
    popup_->setFoot(Grid::tr("%1 of %2 values, %3 of %4 records")
                        .arg(grouped(popup_->rows().checkedCount()))
                        .arg(grouped(list->entries.size()))
                        .arg(grouped(popup_->rows().checkedRecords()))
                        .arg(grouped(list->records)));
}

void PickControl::take(const Picking& what, const List& list) {
    filters_.forgetWrong(what.field);
    if (popup_->rows().isEverythingChecked()) {
        filters_.setRule(what.field, {}, {});
        return showFoot(list);
    }
    const auto condition = pickedCondition(what.tested, what.type, popup_->rows());
    if (!condition)
        return popup_->setFoot(Grid::tr("These are too many values to name. Type a condition, or pick fewer than %1.")
                                   .arg(grouped(kMostTests)),
                               true);
    filters_.setRule(what.field, ruleOf(*condition, context_.schema()), {});
    showFoot(list);
}

}  // namespace jollyrow
