// SPDX-License-Identifier: MIT
#include "workbench/popovers/sort_popover.h"

#include <fmt/format.h>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/condition.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/popovers/direction_words.h"
#include "workbench/popovers/sort_preview.h"
#include "workbench/popovers/stated_order.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

/// How a direction reads for a type.

bool hasOrder(const FieldSchema& field) { return field.type != Type::Binary && field.type != Type::NumberList; }

}  // namespace

SortPopover::SortPopover(QWidget* window, const Design& design, Grid& grid)
    : Popover(tr("Sort"), window), design_(design), grid_(grid), schema_(grid.session().schema()) {
    auto* hint = new QLabel(
        tr("Keys are tried from the top until two records differ; equal ones keep the order they came in."), this);
    hint->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(hint);
    cards_ = new QWidget(this);
    body()->addWidget(scrolling(cards_));
    auto* preview = new SortPreview(grid, this);
    body()->addWidget(preview);
    QHBoxLayout* foot = &addFoot();
    time_ = new QLabel(this);
    time_->setForegroundRole(QPalette::PlaceholderText);
    foot->addWidget(time_);
    foot->addStretch();
    auto* bypass = new CheckBox(tr("Bypass for a moment"), this);
    bypass->setChecked(grid.session().view().isBypassed(Stage::Sort));
    connect(bypass, &QCheckBox::toggled, this, &SortPopover::bypassed);
    foot->addWidget(bypass);
    auto* others = new QPushButton(tr("Other records"), this);
    others->setFlat(true);
    connect(others, &QPushButton::clicked, preview, &SortPreview::chooseOthers);
    foot->addWidget(others);
    connect(&grid, &Grid::snapshotChanged, this, &SortPopover::showTime);
    showTime();
    rebuild();
}

void SortPopover::showTime() {
    const auto& snapshot = grid_.snapshot();
    if (!snapshot || design_.sort.empty()) return time_->setText({});
    time_->setText(
        tr("%1 ms for %2 records").arg(snapshot->sort.milliseconds, 0, 'f', 1).arg(grouped(snapshot->sort.rowsOut)));
}

void SortPopover::setDesign(const Design& design) {
    if (design.sort == design_.sort && design.columns == design_.columns) return;
    design_ = design;
    if (typing_) return;
    rebuild();
}

Type SortPopover::typeOf(const SortDesign& key) const {
    if (!key.rule.empty()) {
        const auto program = compileRule(key.rule, schema_, vocabularyOf(design_, grid_.session().registered()));
        return program ? columnTypeOf((*program)->type().kind) : Type::Integer;
    }
    const auto field = schema_.find(testedField(design_, schema_, key.field));
    return field ? schema_.field(*field).type : Type::Text;
}

QString SortPopover::titleOf(const SortDesign& key) const {
    if (!key.by.empty()) return QString::fromStdString(key.by);
    if (!key.title.empty()) return QString::fromStdString(key.title);
    return key.rule.empty() ? headingOf(key.field) : tr("Rule");
}

/// A date's month and day when there is one, else the length of a text.
std::string SortPopover::firstRule() const {
    for (const FieldSchema& field : schema_.fields)
        if (field.type == Type::Date && field.join == 0) {
            const std::string name = fieldInRule(field.name);
            return fmt::format("EXTRACT(MONTH FROM {0}) * 100 + EXTRACT(DAY FROM {0})", name);
        }
    for (const FieldSchema& field : schema_.fields)
        if (field.type == Type::Text) return "CHAR_LENGTH(" + fieldInRule(field.name) + ")";
    return schema_.fields.empty() ? std::string("1") : fieldInRule(schema_.fields.front().name);
}

QString SortPopover::headingOf(const std::string& field) const { return headingOfField(design_, field); }

void SortPopover::setKeys(std::vector<SortDesign> keys, const QString& label) {
    Design next = design_;
    next.sort = std::move(keys);
    take(std::move(next), label);
}

namespace {
/// Keys and named rules, and the columns that sort by one that was forgotten.
DesignChange changeTo(const Design& next) {
    return [sort = next.sort, rules = next.sortRules, columns = next.columns](Design& d) {
        d.sort = sort;
        d.sortRules = rules;
        for (const ColumnDesign& known : columns)
            if (ColumnDesign* column = d.column(known.field)) column->sortBy = known.sortBy;
    };
}
}  // namespace

void SortPopover::take(Design next, const QString& label) {
    // Later: the widget that asked is still in its handler.
    QTimer::singleShot(0, this, [this, next = std::move(next), label] {
        design_ = next;
        rebuild();
        Q_EMIT changed(changeTo(next), label);
    });
}

/// The keys become a named rule, which the records then are sorted by. One of the same name is replaced.
void SortPopover::keepAsRule(const std::string& name) {
    if (name.empty()) return;
    Design next = design_;
    const auto known = std::find_if(next.sortRules.begin(), next.sortRules.end(),
                                    [&](const SortRuleDesign& rule) { return rule.name == name; });
    if (known != next.sortRules.end())
        known->keys = design_.sort;
    else
        next.sortRules.push_back({name, design_.sort});
    SortDesign key;
    key.by = name;
    next.sort = {key};
    take(std::move(next), tr("Keep the sort rule %1").arg(QString::fromStdString(name)));
}

/// A named rule's keys again, to be changed; and its end.
void SortPopover::addNamed(QHBoxLayout& row, std::size_t index) {
    const std::string name = design_.sort[index].by;
    auto* open = new QPushButton(tr("Change its keys"), cards_);
    open->setFlat(true);
    connect(open, &QPushButton::clicked, this, [this, index, name] {
        const SortRuleDesign* rule = design_.sortRule(name);
        if (!rule) return;
        Design next = design_;
        const std::vector<SortDesign> keys = rule->keys;
        next.sort.erase(next.sort.begin() + static_cast<std::ptrdiff_t>(index));
        next.sort.insert(next.sort.begin() + static_cast<std::ptrdiff_t>(index), keys.begin(), keys.end());
        take(std::move(next), tr("Change the sort rule %1").arg(QString::fromStdString(name)));
    });
    row.addWidget(open);
    auto* forget = new QPushButton(tr("Forget the rule"), cards_);
    forget->setFlat(true);
    connect(forget, &QPushButton::clicked, this, [this, name] {
        Design next = design_;
        std::erase_if(next.sortRules, [&](const SortRuleDesign& rule) { return rule.name == name; });
        std::erase_if(next.sort, [&](const SortDesign& key) { return key.by == name; });
        for (ColumnDesign& column : next.columns)
            if (column.sortBy == name) column.sortBy.clear();
        take(std::move(next), tr("Forget the sort rule %1").arg(QString::fromStdString(name)));
    });
    row.addWidget(forget);
}

QWidget* SortPopover::keyCard(std::size_t index) {
    const SortDesign key = design_.sort[index];
    const auto field = schema_.find(key.field);
    auto* card = new Card(cards_);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(10);
    column->addLayout(row);
    auto* rank = new QLabel(QString::number(index + 1), card);
    rank->setFont(sized(13, QFont::DemiBold));
    rank->setForegroundRole(QPalette::Link);
    row->addWidget(rank);
    auto* what = new QLabel(titleOf(key), card);
    what->setFont(sized(13, QFont::DemiBold));
    row->addWidget(what, 1);
    if (!key.by.empty()) addNamed(*row, index);
    if (field && key.rule.empty() && key.values.empty() && schema_.field(*field).type == Type::Text)
        addTextOrder(*row, index);
    addDirections(*row, index);
    addButtons(*row, index, card);
    if (!key.rule.empty() || (key.field.empty() && key.by.empty())) addRule(*column, index);
    if (!key.values.empty()) addValues(*column, index);
    return card;
}

/// Which way, and where empties go.
void SortPopover::addDirections(QHBoxLayout& row, std::size_t index) {
    const SortDesign& key = design_.sort[index];
    auto* direction = new SegmentedSwitch(
        key.values.empty() ? directionsFor(typeOf(key)) : QStringList{tr("as stated"), tr("turned around")}, cards_);
    direction->setCurrent(key.direction == Direction::Ascending ? 0 : 1);
    row.addWidget(direction);
    auto* emptiesLabel = new QLabel(tr("empties"), cards_);
    emptiesLabel->setForegroundRole(QPalette::PlaceholderText);
    row.addWidget(emptiesLabel);
    auto* empties = new SegmentedSwitch({tr("first"), tr("last")}, cards_);
    empties->setCurrent(key.empties == Empties::First ? 0 : 1);
    row.addWidget(empties);
    connect(direction, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        auto keys = design_.sort;
        keys[index].direction = chosen == 0 ? Direction::Ascending : Direction::Descending;
        const QString label = tr("Sort by %1").arg(headingOf(keys[index].field));
        setKeys(std::move(keys), label);
    });
    connect(empties, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        auto keys = design_.sort;
        keys[index].empties = chosen == 0 ? Empties::First : Empties::Last;
        setKeys(std::move(keys), tr("Empties of %1").arg(headingOf(design_.sort[index].field)));
    });
}

/// Earlier in the sort, and out of it.
void SortPopover::addButtons(QHBoxLayout& row, std::size_t index, QWidget* card) {
    const auto button = [&](Icon icon, const QString& words, bool enabled, auto act) {
        auto* tool = cardButton(icon, words, enabled, card);
        connect(tool, &QToolButton::clicked, this, act);
        row.addWidget(tool);
    };
    button(Icon::ArrowUp, tr("Sort by this earlier"), index > 0, [this, index] {
        auto keys = design_.sort;
        std::swap(keys[index], keys[index - 1]);
        setKeys(std::move(keys), tr("Reorder the sort"));
    });
    button(Icon::Cross, tr("Do not sort by this"), true, [this, index] {
        auto keys = design_.sort;
        const QString heading = headingOf(keys[index].field);
        keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(index));
        setKeys(std::move(keys), tr("Stop sorting by %1").arg(heading));
    });
}

void SortPopover::addTextOrder(QHBoxLayout& row, std::size_t index) {
    auto* natural = new CheckBox(tr("B2 before B10"), cards_);
    natural->setToolTip(tr("Digits are ordered by the number they make"));
    natural->setChecked(design_.sort[index].natural);
    connect(natural, &QCheckBox::toggled, this, [this, index](bool on) {
        auto keys = design_.sort;
        keys[index].natural = on;
        setKeys(std::move(keys), tr("Order of %1").arg(titleOf(design_.sort[index])));
    });
    row.addWidget(natural);
    addStrength(row, index);
    auto* stated = new QPushButton(tr("State the order…"), cards_);
    stated->setFlat(true);
    stated->setToolTip(tr("Put the values into an order of your own"));
    connect(stated, &QPushButton::clicked, this, [this, index] { askForValues(index); });
    row.addWidget(stated);
}

/// Whether case and accents tell texts apart; both are tried last where they do.
void SortPopover::addStrength(QHBoxLayout& row, std::size_t index) {
    const TextStrength now = design_.sort[index].strength;
    const auto add = [&](const QString& words, const QString& toolTip, bool isOn, TextStrength alone) {
        auto* box = new CheckBox(words, cards_);
        box->setToolTip(toolTip);
        box->setChecked(isOn);
        connect(box, &QCheckBox::toggled, this, [this, index, alone](bool on) {
            auto keys = design_.sort;
            // The other of the two stays as it is.
            const TextStrength other =
                alone == TextStrength::IgnoreCase ? TextStrength::IgnoreAccents : TextStrength::IgnoreCase;
            const bool isOtherOn = keys[index].strength == other || keys[index].strength == TextStrength::Letters;
            keys[index].strength =
                on ? (isOtherOn ? TextStrength::Letters : alone) : (isOtherOn ? other : TextStrength::Exact);
            setKeys(std::move(keys), tr("Order of %1").arg(titleOf(design_.sort[index])));
        });
        row.addWidget(box);
        return box;
    };
    add(tr("a = A"), tr("Small and capital letters are equal: the next key decides between them"),
        now == TextStrength::IgnoreCase || now == TextStrength::Letters, TextStrength::IgnoreCase)
        ->setObjectName(QStringLiteral("ignoreCase"));
    add(tr("e = é"), tr("Letters with and without accents are equal: the next key decides between them"),
        now == TextStrength::IgnoreAccents || now == TextStrength::Letters, TextStrength::IgnoreAccents)
        ->setObjectName(QStringLiteral("ignoreAccents"));
}

/// Begins a stated order with the values there are, as they stand now.
void SortPopover::askForValues(std::size_t index) {
    const std::string tested = testedField(design_, schema_, design_.sort[index].field);
    StatedOrder::begin(grid_.session(), tested, this, [this, index](std::vector<std::string> values) {
        if (index >= design_.sort.size()) return;
        auto keys = design_.sort;
        keys[index].values = std::move(values);
        setKeys(std::move(keys), tr("Order of %1").arg(titleOf(design_.sort[index])));
    });
}

void SortPopover::addValues(QVBoxLayout& card, std::size_t index) {
    card.addWidget(new StatedOrder(design_.sort[index].values, cards_, [this, index](std::vector<std::string> values) {
        auto keys = design_.sort;
        keys[index].values = std::move(values);
        setKeys(std::move(keys), tr("Order of %1").arg(titleOf(design_.sort[index])));
    }));
}

void SortPopover::addRule(QVBoxLayout& card, std::size_t index) {
    auto* entry = new RuleEntry(
        ruleNames(grid_.session(), design_),
        [this](const std::string& text) {
            return compileRule(text, grid_.session().schemaReading(text),
                               vocabularyOf(design_, grid_.session().registered()));
        },
        cards_);
    entry->setText(QString::fromStdString(design_.sort[index].rule));
    entry->setObjectName(QStringLiteral("sortRule"));
    connect(entry, &RuleEntry::changed, this, [this, index](const QString& text) {
        if (index >= design_.sort.size()) return;
        Design next = design_;
        next.sort[index].rule = text.toStdString();
        design_ = next;
        typing_ = true;
        Q_EMIT changed(changeTo(next), tr("Change a sort rule"));
        typing_ = false;
    });
    card.addWidget(entry);
    if (design_.sort[index].rule.empty()) QTimer::singleShot(0, entry, [entry] { entry->setFocus(); });
}

void SortPopover::rebuild() {
    auto* old = std::exchange(cards_, new QWidget(this));
    auto* list = new QVBoxLayout(cards_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(8);
    if (design_.sort.empty()) {
        auto* none = new QLabel(tr("The records stand in the order in which the database gives them."), cards_);
        none->setForegroundRole(QPalette::PlaceholderText);
        list->addWidget(none);
    }
    for (std::size_t i = 0; i < design_.sort.size(); ++i) list->addWidget(keyCard(i));
    auto* foot = new QHBoxLayout;
    foot->addWidget(keyBox());
    foot->addStretch();
    fillFoot(*foot);
    list->addLayout(foot);
    showFoot(!design_.sort.empty() || grid_.session().view().isBypassed(Stage::Sort));
    exchange(old, cards_);
}

/// What one can sort by, too.
QComboBox* SortPopover::keyBox() {
    auto* add = new PickBox(cards_);
    add->setAccessibleName(tr("Add a key"));
    add->setMinimumWidth(scaled(150));
    add->setPlaceholderText(design_.sort.empty() ? tr("Sort by…") : tr("Then by…"));
    add->addItem(tr("A rule…"));
    for (const SortRuleDesign& rule : design_.sortRules)
        add->addItem(tr("Rule: %1").arg(QString::fromStdString(rule.name)),
                     QStringLiteral("\x1f") + QString::fromStdString(rule.name));
    for (const FieldSchema& field : schema_.fields) {
        const bool used = std::any_of(design_.sort.begin(), design_.sort.end(),
                                      [&](const SortDesign& key) { return key.field == field.name; });
        if (!used && hasOrder(field)) add->addItem(headingOf(field.name), QString::fromStdString(field.name));
    }
    add->setCurrentIndex(-1);
    connect(add, &QComboBox::activated, this, [this, add](int index) {
        auto keys = design_.sort;
        const QString chosen = add->itemData(index).toString();
        if (index == 0) {
            // It sorts by something at once, so that one sees what a rule does.
            SortDesign key;
            key.rule = firstRule();
            keys.push_back(key);
            return setKeys(std::move(keys), tr("Sort by a rule"));
        }
        if (chosen.startsWith(QChar(0x1f))) {
            SortDesign key;
            key.by = chosen.mid(1).toStdString();
            keys.push_back(key);
            return setKeys(std::move(keys), tr("Sort by %1").arg(chosen.mid(1)));
        }
        const std::string field = chosen.toStdString();
        keys.push_back({field, Direction::Ascending, Empties::Last});
        setKeys(std::move(keys), tr("Sort by %1").arg(headingOf(field)));
    });
    return add;
}

/// What can be done with all keys.
void SortPopover::fillFoot(QHBoxLayout& foot) {
    const bool plain =
        std::none_of(design_.sort.begin(), design_.sort.end(), [](const SortDesign& key) { return !key.by.empty(); });
    if (!design_.sort.empty() && plain) {
        auto* name = new QLineEdit(cards_);
        name->setObjectName(QStringLiteral("ruleName"));
        name->setPlaceholderText(tr("keep as a rule called…"));
        name->setAccessibleName(tr("Keep these keys as a named rule"));
        name->setToolTip(
            tr("A named rule can be used again, and columns can sort by it when their heading is clicked"));
        name->setFixedWidth(scaled(170));
        connect(name, &QLineEdit::returnPressed, this,
                [this, name] { keepAsRule(name->text().trimmed().toStdString()); });
        foot.addWidget(name);
    }
    if (!design_.sort.empty()) {
        auto* clear = new QPushButton(tr("Bound order"), cards_);
        clear->setFlat(true);
        connect(clear, &QPushButton::clicked, this, [this] { setKeys({}, tr("Bound order")); });
        foot.addWidget(clear);
    }
}

}  // namespace jollyrow
