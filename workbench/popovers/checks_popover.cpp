// SPDX-License-Identifier: MIT
#include "workbench/popovers/checks_popover.h"

#include <fmt/format.h>

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/condition.h"
#include "core/design/plan.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

Result<std::shared_ptr<const Program>> checkRule(const std::string& rule, const Session& session,
                                                 const Design& design) {
    BindOptions options;
    options.expected = RuleKind::Boolean;
    return compileRule(rule.empty() ? "TRUE" : rule, session.schemaReading(rule),
                       vocabularyOf(design, session.registered()), options);
}

std::string freeName(const Design& design) {
    for (int n = 1;; ++n) {
        std::string name = fmt::format("check {}", n);
        if (std::none_of(design.checks.begin(), design.checks.end(),
                         [&](const CheckDesign& check) { return check.name == name; }))
            return name;
    }
}

}  // namespace

ChecksPopover::ChecksPopover(QWidget* window, const Design& design, Grid& grid)
    : NamedPopover(tr("Checks"),
                   tr("Rules that an edited record must keep before it is saved. A rule whose value is empty is kept. "
                      "What the database itself demands is checked, too."),
                   window, design, grid.session()),
      grid_(grid) {
    rebuild();
}

std::size_t ChecksPopover::count(const Design& design) const {
    std::size_t shape = design.checks.size();
    for (const CheckDesign& check : design.checks)
        shape = shape * 31 + std::hash<std::string>()(check.field) + (check.warning ? 7 : 0) + (check.on ? 3 : 0);
    return shape;
}

void ChecksPopover::fill(QVBoxLayout& list) {
    for (std::size_t i = 0; i < design_.checks.size(); ++i) addCard(list, i);
    auto* more = new QPushButton(tr("+ Check"), cards());
    more->setObjectName(QStringLiteral("addCheck"));
    connect(more, &QPushButton::clicked, this, [this] {
        Design next = design_;
        CheckDesign check;
        check.name = freeName(next);
        check.rule = "TRUE";
        next.checks.push_back(std::move(check));
        takeLater(next, tr("Add a check"));
    });
    auto* row = new QHBoxLayout;
    row->addWidget(more);
    row->addStretch();
    list.addLayout(row);
    addDatabases(list);
}

void ChecksPopover::change(std::size_t index, const std::function<void(CheckDesign&)>& act, const QString& label) {
    Design next = design_;
    if (index >= next.checks.size()) return;
    act(next.checks[index]);
    take(next, label);
}

void ChecksPopover::addCard(QVBoxLayout& list, std::size_t index) {
    auto* card = new Card(cards());
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(6);
    addHead(*column, index);
    addRule(*column, index);
    addMessage(*column, index);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    addWhere(*row, index);
    column->addLayout(row);
    list.addWidget(card);
}

void ChecksPopover::addHead(QVBoxLayout& card, std::size_t index) {
    auto* head = new QHBoxLayout;
    auto* on = new CheckBox(tr("Must hold"), cards());
    on->setChecked(design_.checks[index].on);
    on->setAccessibleName(tr("Check %1 is on").arg(index + 1));
    connect(on, &QCheckBox::clicked, this, [this, index](bool isOn) {
        change(
            index, [isOn](CheckDesign& c) { c.on = isOn; }, isOn ? tr("Check on") : tr("Check off"));
    });
    head->addWidget(on);
    head->addStretch();
    auto* away = cardButton(Icon::Cross, tr("Take check %1 away").arg(index + 1), true, cards());
    connect(away, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        next.checks.erase(next.checks.begin() + static_cast<std::ptrdiff_t>(index));
        takeLater(next, tr("Take a check away"));
    });
    head->addWidget(away);
    card.addLayout(head);
}

void ChecksPopover::addRule(QVBoxLayout& card, std::size_t index) {
    auto* entry = new RuleEntry(
        ruleNames(session_, design_), [this](const std::string& text) { return checkRule(text, session_, design_); },
        cards());
    entry->edit().setAccessibleName(tr("Rule of check %1").arg(index + 1));
    entry->edit().setObjectName(QStringLiteral("checkRule%1").arg(index));
    entry->setText(QString::fromStdString(design_.checks[index].rule));
    entry->setNote(failing(index).words);
    auto* show = new QPushButton(tr("Show the records that break it"), cards());
    show->setObjectName(QStringLiteral("showFailing%1").arg(index));
    show->setEnabled(failing(index).hasSome);
    connect(entry, &RuleEntry::changed, this, [this, index, entry, show](const QString& text) {
        const std::string rule = text.trimmed().toStdString();
        change(
            index, [rule](CheckDesign& c) { c.rule = rule.empty() ? "TRUE" : rule; }, tr("Rule of a check"));
        const Failing now = failing(index);
        entry->setNote(now.words);
        show->setEnabled(now.hasSome);
    });
    connect(show, &QPushButton::clicked, this, [this, index] {
        FilterDesign filter;
        filter.rule = failingRule(design_.checks[index]);
        Q_EMIT changed([filter](Design& d) { d.filter.push_back(filter); }, tr("Show records that break a check"));
    });
    card.addWidget(entry);
    auto* row = new QHBoxLayout;
    row->addWidget(show);
    row->addStretch();
    card.addLayout(row);
}

/// Of some records spread over those shown; of all where they are few.
ChecksPopover::Failing ChecksPopover::failing(std::size_t index) const {
    constexpr std::int64_t kLookedAt = 5000;  // some milliseconds
    const auto& snapshot = grid_.snapshot();
    if (!snapshot || snapshot->recordCount() == 0 || index >= design_.checks.size()) return {};
    const auto program = checkRule(failingRule(design_.checks[index]), session_, design_);
    const auto condition = program ? RecordCondition::make(*program, *snapshot) : nullptr;
    if (!condition) return {};
    const std::int64_t step = std::max<std::int64_t>(1, snapshot->recordCount() / kLookedAt);
    qint64 met = 0, seen = 0;
    for (std::int64_t place = 0; place < snapshot->recordCount(); place += step, ++seen)
        met += condition->holds(snapshot->record(place)) ? 1 : 0;
    if (met == 0) return {step == 1 ? tr("no record breaks it") : tr("none of %1 looked at").arg(grouped(seen)), false};
    return {step == 1 ? tr("%1 of %2 break it today").arg(grouped(met), grouped(seen))
                      : tr("%1 of %2 looked at break it").arg(grouped(met), grouped(seen)),
            true};
}

void ChecksPopover::addMessage(QVBoxLayout& card, std::size_t index) {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(quietLabel(tr("says"), cards()));
    auto* message = smallEntry(tr("What check %1 says").arg(index + 1), 0, cards());
    message->setText(QString::fromStdString(design_.checks[index].message));
    message->setPlaceholderText(tr("that the rule is broken; or a message such as {work} takes a vessel."));
    auto* problem = problemLabel(cards());
    const auto check = [this, problem](const QString& text) {
        TextFormat format;
        format.spec.style = FormatStyle::Message;
        format.spec.pattern = text.toStdString();
        const auto made = formatterFor(format, session_.schemaReading(text.toStdString()), design_);
        problem->setVisible(text.contains(u'{') && !made);
        problem->setText(made ? QString() : QString::fromStdString(made.error().message));
    };
    check(message->text());
    connect(message, &QLineEdit::textEdited, this, [this, index, check](const QString& text) {
        change(
            index, [text = text.toStdString()](CheckDesign& c) { c.message = text; }, tr("What a check says"));
        check(text);
    });
    row->addWidget(message, 1);
    card.addLayout(row);
    card.addWidget(problem);
}

void ChecksPopover::addWhere(QHBoxLayout& row, std::size_t index) {
    const CheckDesign& check = design_.checks[index];
    row.addWidget(quietLabel(tr("said at"), cards()));
    auto* where = new PickBox(cards());
    where->setAccessibleName(tr("Where check %1 is said").arg(index + 1));
    where->addItem(tr("the record"), QString());
    for (const ColumnDesign& column : design_.columns)
        where->addItem(QString::fromStdString(column.heading.empty() ? column.field : column.heading),
                       QString::fromStdString(column.field));
    where->setCurrentIndex(std::max(0, where->findData(QString::fromStdString(check.field))));
    connect(where, &QComboBox::activated, this, [this, index, where](int chosen) {
        change(
            index, [field = where->itemData(chosen).toString().toStdString()](CheckDesign& c) { c.field = field; },
            tr("Where a check is said"));
    });
    row.addWidget(where);
    auto* warning = new CheckBox(tr("may be overridden"), cards());
    warning->setToolTip(tr("A warning: who enters it may keep it all the same, which the change list says"));
    warning->setChecked(check.warning);
    connect(warning, &QCheckBox::clicked, this, [this, index](bool on) {
        change(
            index, [on](CheckDesign& c) { c.warning = on; },
            on ? tr("Make a check a warning") : tr("Make a check firm"));
    });
    row.addWidget(warning);
    row.addStretch(1);
}

/// What the database demands, to be read.
void ChecksPopover::addDatabases(QVBoxLayout& list) {
    QStringList demands;
    for (const PlannedCheck& check : session_.plan().checks)
        if (check.whereEdited && check.demand != PlannedCheck::Demand::Pattern)
            demands << QString::fromStdString(check.design.message);
    if (demands.isEmpty()) return;
    list.addWidget(quietLabel(tr("Demanded by the database"), cards()));
    auto* all = new QLabel(demands.join(u'\n'), cards());
    all->setTextFormat(Qt::PlainText);
    all->setWordWrap(true);
    list.addWidget(all);
}

}  // namespace jollyrow
