// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_filters.cpp.
#include "grid/api/grid_filters.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPointer>

#include "core/design/filter_entry.h"
#include "grid/api/grid.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {
namespace {
/// What a control holds; where it makes no sense as a condition the grid says so.
void applyEntry(Grid& grid, const QString& field, const QString& entry) {
    if (const auto done = grid.filters().setEntry(field, entry); !done)
        Q_EMIT grid.failed(QString::fromStdString(done.error().message));
}
}  // namespace

Result<void> GridFilters::set(const QString& name, const QString& rule) {
    const std::string field = (QLatin1Char(':') + name).toStdString();  // no column is called so
    Design next = d_->grid.design();
    std::erase_if(next.filter, [&](const FilterDesign& part) { return part.field == field; });
    if (!rule.trimmed().isEmpty()) {
        BindOptions condition;
        condition.expected = RuleKind::Boolean;
        const auto program = compileRule(rule.toStdString(), d_->context.session().schema(),
                                         vocabularyOf(next, d_->context.session().registered()), condition);
        if (!program) return program.error();
        next.filter.push_back({rule.toStdString(), field, {}, true});
    }
    d_->grid.setDesign(next);
    return {};
}

Result<void> GridFilters::setEntry(const QString& field, const QString& entry) {
    const auto condition =
        conditionFromEntry(entry.toStdString(), d_->grid.design(), d_->context.session().schema(), field.toStdString());
    if (!condition) return condition.error();
    Design next = d_->grid.design();
    std::erase_if(next.filter, [&](const FilterDesign& part) { return part.field == field.toStdString(); });
    const std::string rule = ruleOf(*condition, d_->context.session().schema());
    if (!rule.empty()) next.filter.push_back({rule, field.toStdString(), entry.trimmed().toStdString(), true});
    d_->grid.setDesign(next);
    return {};
}

void GridFilters::follow(QComboBox* box, const QString& field) {
    const auto apply = [grid = &d_->grid, field, control = QPointer<QComboBox>(box)] {
        if (!control) return;
        const QString value = control->currentIndex() <= 0 ? QString() : control->currentText();
        applyEntry(*grid, field, value.isEmpty() ? value : QStringLiteral("= ") + value);
    };
    QObject::connect(box, &QComboBox::currentIndexChanged, &d_->grid, apply);
    apply();
}

void GridFilters::follow(QLineEdit* entry, const QString& field) {
    const auto apply = [grid = &d_->grid, field, control = QPointer<QLineEdit>(entry)] {
        if (control) applyEntry(*grid, field, control->text());
    };
    QObject::connect(entry, &QLineEdit::textChanged, &d_->grid, apply);
    apply();
}

void GridFilters::clear() { d_->search.filters.clear(); }

const std::vector<std::vector<FilterDesign>>& GridFilters::earlier() const { return d_->search.earlier.all(); }

void GridFilters::noteEdited() { d_->noteFilter(); }

bool GridFilters::hasTakenAway() const { return d_->search.earlier.isFresh(); }

bool GridFilters::bringBack(std::size_t index) {
    if (index >= earlier().size()) return false;
    const std::vector<FilterDesign> filter = earlier()[index];
    if (filter == d_->grid.design().filter) return false;
    d_->grid.changeDesign([&](Design& design) { design.filter = filter; });
    Q_EMIT d_->grid.designEdited(Grid::tr("Filter as before"));
    return true;
}

bool GridFilters::focus(const QString& field) { return d_->search.filters.focus(field); }

void GridFilters::openPickList(const QString& field) { d_->search.picks.open(field); }

bool GridFilters::isTyping() const { return d_->search.filters.isTyping(); }

}  // namespace jollyrow
