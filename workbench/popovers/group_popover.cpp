// SPDX-License-Identifier: MIT
#include "workbench/popovers/group_popover.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>
#include <QSpinBox>
#include <QTimer>
#include <QVBoxLayout>

#include "core/design/condition.h"
#include "core/design/make_design.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/order_chips.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/line_look_controls.h"
#include "workbench/popovers/cut_histogram.h"
#include "workbench/popovers/direction_words.h"
#include "workbench/popovers/stated_order.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

constexpr std::size_t kBins = 64;

QString kindWords(GroupBy by, Type type) {
    switch (by) {
        case GroupBy::EachValue: return GroupPopover::tr("each value");
        case GroupBy::Ranges:
            return type == Type::Date ? GroupPopover::tr("ranges of days") : GroupPopover::tr("ranges");
        default: return QString::fromStdString(words(by));
    }
}

/// A cut point on the scale of a histogram.
std::optional<double> numberOf(const std::string& cut, RuleKind kind, const TimeZone& zone) {
    const auto value = convertedConstant(RuleValue(cut), isNumber(kind) ? RuleKind::Real : kind, zone);
    if (!value) return std::nullopt;
    if (const auto* real = std::get_if<double>(&*value)) return *real;
    if (const auto* date = std::get_if<Date>(&*value)) return date->days;
    if (const auto* time = std::get_if<Time>(&*value)) return static_cast<double>(time->micros) / 1e6;
    if (const auto* stamp = std::get_if<Timestamp>(&*value)) return static_cast<double>(stamp->micros) / 1e6;
    if (const auto* instant = std::get_if<Instant>(&*value)) return static_cast<double>(instant->micros) / 1e6;
    return std::nullopt;
}

std::vector<double> numbersOf(const std::vector<std::string>& cuts, RuleKind kind, const TimeZone& zone) {
    std::vector<double> numbers;
    for (const std::string& cut : cuts)
        if (const auto number = numberOf(cut, kind, zone)) numbers.push_back(*number);
    return numbers;
}

QString joined(const std::vector<std::string>& cuts) {
    QStringList list;
    for (const std::string& cut : cuts) list << QString::fromStdString(cut);
    return list.join(QStringLiteral(", "));
}

}  // namespace

GroupPopover::GroupPopover(QWidget* window, const Design& design, Grid& grid)
    : Popover(tr("Group"), window), design_(design), grid_(grid), schema_(grid.session().schema()) {
    auto* hint = new QLabel(tr("Records that are alike stand together under a line of their own. The first level is "
                               "the outermost."),
                            this);
    hint->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(hint);
    cards_ = new QWidget(this);
    body()->addWidget(scrolling(cards_));
    problem_ = problemLabel(this);
    body()->addWidget(problem_);
    QHBoxLayout* foot = &addFoot();
    facts_ = new QLabel(this);
    facts_->setForegroundRole(QPalette::PlaceholderText);
    foot->addWidget(facts_);
    foot->addStretch();
    auto* bypass = new CheckBox(tr("Bypass for a moment"), this);
    bypass->setChecked(grid.session().view().isBypassed(Stage::Group));
    connect(bypass, &QCheckBox::toggled, this, &GroupPopover::bypassed);
    foot->addWidget(bypass);
    for (const bool open : {true, false}) {
        auto* all = new QPushButton(open ? tr("Open all") : tr("Close all"), this);
        all->setFlat(true);
        connect(all, &QPushButton::clicked, this,
                [this, open] { open ? grid_.groups().openAll() : grid_.groups().closeAll(); });
        foot->addWidget(all);
    }
    connect(&grid, &Grid::snapshotChanged, this, &GroupPopover::showFacts);
    showFacts();
    rebuild();
}

void GroupPopover::showFacts() {
    const auto& snapshot = grid_.snapshot();
    QString problem;
    for (const Finding& finding : grid_.session().plan().findings)
        if (finding.where.starts_with("groups/") && problem.isEmpty())
            problem = QString::fromStdString(finding.message);
    if (problem.isEmpty() && snapshot) problem = QString::fromStdString(snapshot->groupProblem);
    const bool changes = problem_->text() != problem;
    problem_->setText(problem);
    problem_->setVisible(!problem.isEmpty());
    if (changes && isVisible()) fitHeight();
    if (!snapshot || !snapshot->grouped) return facts_->setText({});
    const GroupTree& tree = snapshot->grouped->tree();
    QStringList counts;
    constexpr int kMostCounts = 4;
    if (tree.levels() > kMostCounts)
        return facts_->setText(tr("%1 groups on %2 levels, in %3 ms")
                                   .arg(grouped(static_cast<qint64>(tree.nodes.size())))
                                   .arg(tree.levels())
                                   .arg(snapshot->group.milliseconds, 0, 'f', 1));
    for (int level = 0; level < tree.levels(); ++level)
        counts << grouped(tree.levelBegin[static_cast<std::size_t>(level) + 1] -
                          tree.levelBegin[static_cast<std::size_t>(level)]);
    counts.front() = counts.front() == QStringLiteral("1") ? tr("1 group") : tr("%1 groups").arg(counts.front());
    facts_->setText(tr("%1, in %2 ms").arg(counts.join(tr(", in them "))).arg(snapshot->group.milliseconds, 0, 'f', 1));
}

void GroupPopover::setDesign(const Design& design) {
    if (design.groups == design_.groups && design.columns == design_.columns && design.summaries == design_.summaries &&
        design.grid == design_.grid)
        return;
    if (design.groups.size() > design_.groups.size())  // one was dropped on the station
        chosen_ = static_cast<std::size_t>(
            std::mismatch(design_.groups.begin(), design_.groups.end(), design.groups.begin()).first -
            design_.groups.begin());
    design_ = design;
    schema_ = grid_.session().schema();
    if (typing_) return;
    rebuild();
}

Type GroupPopover::typeOf(const GroupDesign& group) const {
    if (!group.key.rule.empty()) {
        const auto program = compileRule(group.key.rule, schema_, vocabularyOf(design_, grid_.session().registered()));
        return program && (*program)->type().kind != RuleKind::Null && (*program)->type().kind != RuleKind::Interval
                   ? columnTypeOf((*program)->type().kind)
                   : Type::Integer;
    }
    const auto field = schema_.find(testedField(design_, schema_, group.key.field));
    return field ? schema_.field(*field).type : Type::Text;
}

QString GroupPopover::titleOf(const GroupDesign& group) const {
    if (!group.key.title.empty()) return QString::fromStdString(group.key.title);
    return group.key.rule.empty() ? headingOf(group.key.field) : tr("Rule");
}

QString GroupPopover::headingOf(const std::string& field) const { return headingOfField(design_, field); }

void GroupPopover::setGroups(std::vector<GroupDesign> groups, const QString& label) {
    // Later: the widget that asked is still in its handler.
    QTimer::singleShot(0, this, [this, groups = std::move(groups), label] {
        design_.groups = groups;
        rebuild();
        Q_EMIT changed(groupingOf(design_), label);
    });
}

void GroupPopover::typeGroups(std::vector<GroupDesign> groups, const QString& label) {
    design_.groups = std::move(groups);
    typing_ = true;
    Q_EMIT changed(groupingOf(design_), label);
    typing_ = false;
    showFacts();
}

void GroupPopover::addKind(QHBoxLayout& row, std::size_t index) {
    const GroupDesign& group = design_.groups[index];
    const Type type = typeOf(group);
    std::vector<GroupBy> kinds = groupingsFor(type);
    if (!group.key.rule.empty() && std::find(kinds.begin(), kinds.end(), GroupBy::EachValue) == kinds.end()) return;
    if (kinds.size() < 2) return;
    row.addWidget(quietLabel(tr("by"), cards_));
    auto* kind = new PickBox(cards_);
    kind->setObjectName(QStringLiteral("groupBy"));
    kind->setAccessibleName(tr("What of %1 makes a group").arg(titleOf(group)));
    for (const GroupBy by : kinds) {
        kind->addItem(kindWords(by, type));
        if (by == group.by) kind->setCurrentIndex(kind->count() - 1);
    }
    kind->setMinimumWidth(scaled(130));
    connect(kind, &QComboBox::activated, this, [this, index, kinds](int chosen) {
        auto groups = design_.groups;
        GroupDesign& changing = groups[index];
        changing.by = kinds[static_cast<std::size_t>(chosen)];
        const QString label = tr("Group %1 by %2").arg(titleOf(changing), kindWords(changing.by, typeOf(changing)));
        if (changing.by != GroupBy::Ranges || !changing.cuts.empty()) return setGroups(std::move(groups), label);
        // Round cut points of the values there are, so that ranges show something at once.
        grid_.session().questions().spread(changing.key.field, changing.key.rule, kBins,
                                           [this, groups, index, label, target = QPointer<GroupPopover>(this)](
                                               const Result<std::shared_ptr<const ValueSpread>>& spread) mutable {
                                               if (!target || !spread || index >= groups.size()) return;
                                               for (const double cut : roundCuts(**spread))
                                                   groups[index].cuts.push_back(plainCut(cut, (*spread)->kind));
                                               setGroups(std::move(groups), label);
                                           });
    });
    row.addWidget(kind);
    if (group.by == GroupBy::FirstLetters) {
        auto* letters = pixelsBox(1, 20, cards_);
        letters->setSuffix({});
        letters->setAccessibleName(tr("How many letters"));
        letters->setValue(group.letters);
        connect(letters, &QSpinBox::valueChanged, this, [this, index](int value) {
            auto groups = design_.groups;
            groups[index].letters = value;
            typeGroups(std::move(groups), tr("Letters of %1").arg(titleOf(design_.groups[index])));
        });
        row.addWidget(letters);
    }
}

void GroupPopover::addOrder(QHBoxLayout& row, std::size_t index) {
    const GroupDesign& group = design_.groups[index];
    auto* order = new PickBox(cards_);
    order->setObjectName(QStringLiteral("groupOrder"));
    order->setAccessibleName(tr("Order of the groups"));
    order->setMinimumWidth(scaled(165));
    order->addItem(group.key.values.empty() ? tr("in their order") : tr("in the stated order"));
    const Grouping* grouping = grid_.session().plan().grouping.get();
    for (const SummaryDesign& summary : design_.summaries) {
        QString words = QString::fromStdString(summary.name);
        for (const PlannedSummary& planned : grouping->summaries)
            if (planned.design.name == summary.name) words = QString::fromStdString(planned.words);
        order->addItem(tr("by %1").arg(words), QString::fromStdString(summary.name));
        if (summary.name == group.orderBy) order->setCurrentIndex(order->count() - 1);
    }
    connect(order, &QComboBox::activated, this, [this, index, order](int chosen) {
        auto groups = design_.groups;
        groups[index].orderBy = order->itemData(chosen).toString().toStdString();
        // Who asks for "by sum" wants the largest first.
        groups[index].key.direction = groups[index].orderBy.empty() ? Direction::Ascending : Direction::Descending;
        setGroups(std::move(groups), tr("Order of groups by %1").arg(titleOf(design_.groups[index])));
    });
    row.addWidget(order);
    const bool isPart = group.by != GroupBy::EachValue && group.by != GroupBy::FirstLetters;
    const Type type = !group.orderBy.empty() ? Type::Integer : isPart ? Type::Date : typeOf(group);
    QStringList ways = directionsFor(type);
    if (group.by == GroupBy::Ranges && group.orderBy.empty()) ways = directionsFor(typeOf(group));
    if (!group.key.values.empty() && group.orderBy.empty()) ways = {tr("as stated"), tr("turned around")};
    auto* direction = new SegmentedSwitch(ways, cards_);
    direction->setCurrent(group.key.direction == Direction::Ascending ? 0 : 1);
    connect(direction, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        auto groups = design_.groups;
        groups[index].key.direction = chosen == 0 ? Direction::Ascending : Direction::Descending;
        setGroups(std::move(groups), tr("Order of groups by %1").arg(titleOf(design_.groups[index])));
    });
    row.addWidget(direction);
}

void GroupPopover::addCuts(QVBoxLayout& card, std::size_t index) {
    const GroupDesign& group = design_.groups[index];
    auto* row = new QHBoxLayout;
    row->addWidget(quietLabel(tr("cut at"), cards_));
    auto* entry = smallEntry(tr("Cut points"), 0, cards_);
    entry->setObjectName(QStringLiteral("cuts"));
    entry->setPlaceholderText(QStringLiteral("0, 250, 500"));
    entry->setText(joined(group.cuts));
    row->addWidget(entry, 1);
    card.addLayout(row);
    auto* histogram = new CutHistogram(cards_);
    histogram->setObjectName(QStringLiteral("histogram"));
    card.addWidget(histogram);
    const Type type = typeOf(group);
    const RuleKind kind = ruleKindOf(type);
    histogram->setCuts(numbersOf(group.cuts, kind, zoneOf(schema_)));
    grid_.session().questions().spread(
        group.key.field, group.key.rule, kBins,
        [target = QPointer<CutHistogram>(histogram)](const Result<std::shared_ptr<const ValueSpread>>& spread) {
            if (target && spread) target->setSpread(*spread);
        });
    const auto label = [this, index] { return tr("Cut points of %1").arg(titleOf(design_.groups[index])); };
    connect(entry, &QLineEdit::textEdited, this, [this, index, histogram, kind, label](const QString& text) {
        if (index >= design_.groups.size()) return;
        auto groups = design_.groups;
        groups[index].cuts.clear();
        for (const QString& part : text.split(u',', Qt::SkipEmptyParts))
            if (const QString cut = part.trimmed(); !cut.isEmpty()) groups[index].cuts.push_back(cut.toStdString());
        histogram->setCuts(numbersOf(groups[index].cuts, kind, zoneOf(schema_)));
        typeGroups(std::move(groups), label());
    });
    connect(histogram, &CutHistogram::cutsChanged, this, [this, index, histogram, entry, label] {
        if (index >= design_.groups.size()) return;
        auto groups = design_.groups;
        groups[index].cuts.clear();
        for (const double cut : histogram->cuts()) groups[index].cuts.push_back(histogram->textOf(cut).toStdString());
        entry->setText(joined(groups[index].cuts));
        typeGroups(std::move(groups), label());
    });
}

void GroupPopover::addRule(QVBoxLayout& card, std::size_t index) {
    auto* entry = new RuleEntry(
        ruleNames(grid_.session(), design_),
        [this](const std::string& text) {
            return compileRule(text, grid_.session().schemaReading(text),
                               vocabularyOf(design_, grid_.session().registered()));
        },
        cards_);
    entry->setText(QString::fromStdString(design_.groups[index].key.rule));
    entry->setObjectName(QStringLiteral("groupRule"));
    connect(entry, &RuleEntry::changed, this, [this, index](const QString& text) {
        if (index >= design_.groups.size() || text.trimmed().isEmpty()) return;
        auto groups = design_.groups;
        groups[index].key.rule = text.toStdString();
        typeGroups(std::move(groups), tr("Change a rule to group by"));
    });
    card.addWidget(entry);
}

/// What a line of the level looks like: the group's own or its footer.
void GroupPopover::addLineLook(QHBoxLayout& row, std::size_t index, bool footer) {
    const auto height = footer ? &GroupDesign::footerHeight : &GroupDesign::height;
    const auto colour = footer ? &GroupDesign::footerColour : &GroupDesign::colour;
    const auto ink = footer ? &GroupDesign::footerTextColour : &GroupDesign::textColour;
    const auto weight = footer ? &GroupDesign::footerWeight : &GroupDesign::weight;
    const GroupDesign& group = design_.groups[index];
    auto* tall = pixelsBox(0, 400, cards_);
    tall->setObjectName(footer ? QStringLiteral("footerHeight") : QStringLiteral("groupHeight"));
    tall->setAccessibleName(footer ? tr("Height of the footers of this level")
                                   : tr("Height of the lines of this level"));
    tall->setSpecialValueText(tr("as rows"));
    tall->setValue(group.*height);
    connect(tall, &QSpinBox::valueChanged, this, [this, index, height](int value) {
        auto groups = design_.groups;
        groups[index].*height = value;
        typeGroups(std::move(groups), tr("Height of groups by %1").arg(titleOf(design_.groups[index])));
    });
    row.addWidget(quietLabel(tr("height"), cards_));
    row.addWidget(tall);
    const auto colours = [&](const QString& name, const QString& object, std::string GroupDesign::*setting) {
        auto* entry = colourEntry(name, group.*setting, cards_, [this, index, setting](std::string text) {
            auto groups = design_.groups;
            groups[index].*setting = std::move(text);
            typeGroups(std::move(groups), tr("Colour of groups by %1").arg(titleOf(design_.groups[index])));
        });
        entry->setObjectName(object);
        row.addWidget(entry);
    };
    row.addWidget(quietLabel(tr("behind"), cards_));
    colours(footer ? tr("Colour behind the footers of this level") : tr("Colour behind the lines of this level"),
            footer ? QStringLiteral("footerColour") : QStringLiteral("groupColour"), colour);
    row.addWidget(quietLabel(tr("text"), cards_));
    colours(footer ? tr("Colour of the text of the footers") : tr("Colour of the text of the lines"),
            footer ? QStringLiteral("footerTextColour") : QStringLiteral("groupTextColour"), ink);
    auto* pick =
        weightPick(footer ? tr("Text of the footers of this level") : tr("Text of the lines of this level"),
                   group.*weight, cards_, [this, index, weight](LineWeight chosen) {
                       auto groups = design_.groups;
                       groups[index].*weight = chosen;
                       typeGroups(std::move(groups), tr("Text of groups by %1").arg(titleOf(design_.groups[index])));
                   });
    pick->setObjectName(footer ? QStringLiteral("footerWeight") : QStringLiteral("groupWeight"));
    row.addWidget(pick);
}

/// What the group's own line says.
void GroupPopover::addLine(QVBoxLayout& card, std::size_t index) {
    const GroupDesign& group = design_.groups[index];
    auto* row = new QHBoxLayout;
    auto* end = new QHBoxLayout;
    for (QHBoxLayout* line : {row, end}) line->setSpacing(8);
    const auto caption = [&](const QString& name, const QString& object, std::string GroupDesign::*setting) {
        auto* entry = smallEntry(name, 0, cards_);
        entry->setObjectName(object);
        entry->setPlaceholderText(QStringLiteral("{value}"));
        entry->setToolTip(
            tr("A message pattern over heading, value, count and summaries by their name, such as\n"
               "{value}: {count, plural, one{# job} other{# jobs}}"));
        entry->setText(QString::fromStdString(group.*setting));
        connect(entry, &QLineEdit::textEdited, this, [this, index, setting](const QString& text) {
            auto groups = design_.groups;
            groups[index].*setting = text.toStdString();
            typeGroups(std::move(groups), tr("Caption of groups by %1").arg(titleOf(design_.groups[index])));
        });
        return entry;
    };
    const auto check = [&](const QString& words, bool GroupDesign::*setting) {
        auto* box = new CheckBox(words, cards_);
        box->setChecked(group.*setting);
        connect(box, &QCheckBox::toggled, this, [this, index, setting, words](bool on) {
            auto groups = design_.groups;
            groups[index].*setting = on;
            setGroups(std::move(groups), words);
        });
        return box;
    };
    row->addWidget(quietLabel(tr("says"), cards_));
    row->addWidget(caption(tr("Caption"), QStringLiteral("caption"), &GroupDesign::caption), 2);
    row->addWidget(check(tr("opens with the grid"), &GroupDesign::open));
    card.addLayout(row);
    addLook(card, index);
    end->addWidget(check(tr("ends with a footer"), &GroupDesign::footer));
    if (group.footer) {
        end->addWidget(quietLabel(tr("that says"), cards_));
        end->addWidget(
            caption(tr("Caption of the footer"), QStringLiteral("footerCaption"), &GroupDesign::footerCaption), 2);
    } else {
        end->addStretch(1);
    }
    card.addLayout(end);
    if (!group.footer) return;
    auto* look = new QHBoxLayout;
    look->setSpacing(8);
    addLineLook(*look, index, true);
    look->addStretch(1);
    card.addLayout(look);
}

/// How the level's lines look, and whether its groups stand in a stated order.
void GroupPopover::addLook(QVBoxLayout& card, std::size_t index) {
    const GroupDesign& group = design_.groups[index];
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    addLineLook(*row, index, false);
    row->addStretch(1);
    const bool canState = group.by == GroupBy::EachValue && group.key.rule.empty() && group.key.values.empty() &&
                          typeOf(group) == Type::Text;
    if (canState) {
        auto* stated = new QPushButton(tr("State the order…"), cards_);
        stated->setFlat(true);
        stated->setToolTip(tr("Put the groups into an order of your own"));
        connect(stated, &QPushButton::clicked, this, [this, index] {
            StatedOrder::begin(grid_.session(), testedField(design_, schema_, design_.groups[index].key.field), this,
                               [this, index](std::vector<std::string> values) {
                                   if (index >= design_.groups.size()) return;
                                   auto groups = design_.groups;
                                   groups[index].key.values = std::move(values);
                                   setGroups(std::move(groups),
                                             tr("Order of groups by %1").arg(titleOf(design_.groups[index])));
                               });
        });
        row->addWidget(stated);
    }
    card.addLayout(row);
}

QWidget* GroupPopover::levelCard(std::size_t index) {
    const GroupDesign group = design_.groups[index];
    auto* card = new Card(cards_);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    column->addLayout(row);
    auto* what = new QLabel(titleOf(group), card);
    what->setFont(sized(13, QFont::DemiBold));
    row->addWidget(what);
    addKind(*row, index);
    row->addStretch(1);
    addOrder(*row, index);
    if (!group.key.rule.empty()) addRule(*column, index);
    if (group.by == GroupBy::Ranges) addCuts(*column, index);
    if (!group.key.values.empty())
        column->addWidget(new StatedOrder(group.key.values, cards_, [this, index](std::vector<std::string> values) {
            auto groups = design_.groups;
            groups[index].key.values = std::move(values);
            setGroups(std::move(groups), tr("Order of groups by %1").arg(titleOf(design_.groups[index])));
        }));
    addLine(*column, index);
    return card;
}

/// The levels one after the other; their order is that of the chips.
void GroupPopover::addLevels(QVBoxLayout& list) {
    QStringList names;
    for (const GroupDesign& group : design_.groups)
        names << (group.by == GroupBy::EachValue
                      ? titleOf(group)
                      : tr("%1 of %2").arg(QString::fromStdString(words(group.by)), titleOf(group)));
    auto* chips = new OrderChips(
        names, static_cast<int>(chosen_),
        {tr("Click to set it up; drag it, or Alt and arrows, to another level"), tr("Do not group by this")}, cards_);
    chips->setObjectName(QStringLiteral("levels"));
    chips->addTail(levelPick());
    connect(chips, &OrderChips::chosen, this, [this](int index) {
        chosen_ = static_cast<std::size_t>(index);
        focusChosen_ = true;
        rebuild();
    });
    connect(chips, &OrderChips::moved, this, &GroupPopover::move);
    connect(chips, &OrderChips::takenOut, this, &GroupPopover::takeOut);
    list.addWidget(chips);
}

void GroupPopover::move(int from, int to) {
    auto groups = design_.groups;
    movePlace(groups, from, to);
    chosen_ = static_cast<std::size_t>(to);
    focusChosen_ = true;
    setGroups(std::move(groups), tr("Reorder the groups"));
}

void GroupPopover::takeOut(int index) {
    auto groups = design_.groups;
    const auto at = static_cast<std::size_t>(index);
    const QString heading = titleOf(groups[at]);
    groups.erase(groups.begin() + index);
    if (chosen_ > at || chosen_ == groups.size()) chosen_ = chosen_ == 0 ? 0 : chosen_ - 1;
    focusChosen_ = true;
    setGroups(std::move(groups), tr("Stop grouping by %1").arg(heading));
}

QWidget* GroupPopover::levelPick() {
    auto* add = new PickBox(cards_);
    add->setObjectName(QStringLiteral("addGroup"));
    add->setAccessibleName(tr("Add a level"));
    add->setMinimumWidth(scaled(150));
    add->setPlaceholderText(design_.groups.empty() ? tr("Group by…") : tr("Then by…"));
    add->addItem(tr("A rule…"));
    for (const FieldSchema& field : schema_.fields) {
        // Offered while it would make another level: a look-up has but one.
        const GroupDesign next = newGroup(design_, schema_, field.name);
        const bool isLevel = std::any_of(design_.groups.begin(), design_.groups.end(), [&](const GroupDesign& group) {
            return group.key.field == field.name && group.by == next.by;
        });
        if (!isLevel && !groupingsFor(field.type).empty())
            add->addItem(headingOf(field.name), QString::fromStdString(field.name));
    }
    add->setCurrentIndex(-1);
    connect(add, &QComboBox::activated, this, [this, add](int chosen) {
        if (chosen == 0) {
            auto groups = design_.groups;
            GroupDesign group;
            // It groups by something at once, so that one sees what a rule does.
            for (const FieldSchema& field : schema_.fields)
                if (field.type == Type::Text && group.key.rule.empty())
                    group.key.rule = "CHAR_LENGTH(" + fieldInRule(field.name) + ")";
            if (group.key.rule.empty()) group.key.rule = "1";
            groups.push_back(group);
            chosen_ = groups.size() - 1;
            focusChosen_ = true;
            return setGroups(std::move(groups), tr("Group by a rule"));
        }
        const GroupDesign group = newGroup(design_, schema_, add->itemData(chosen).toString().toStdString());
        Design next = design_;
        addGroup(next, group);
        chosen_ =
            static_cast<std::size_t>(std::find(next.groups.begin(), next.groups.end(), group) - next.groups.begin());
        focusChosen_ = true;
        setGroups(std::move(next.groups), tr("Group by %1").arg(titleOf(group)));
    });
    return add;
}

void GroupPopover::addIndent(QHBoxLayout& foot) {
    foot.addWidget(quietLabel(tr("each level in by"), cards_));
    auto* indent = pixelsBox(0, 200, cards_);
    indent->setObjectName(QStringLiteral("groupIndent"));
    indent->setAccessibleName(tr("How far each level stands in"));
    indent->setValue(design_.grid.groupIndent);
    connect(indent, &QSpinBox::valueChanged, this, [this](int value) {
        design_.grid.groupIndent = value;
        typeGroups(design_.groups, tr("Indent of groups"));
    });
    foot.addWidget(indent);
    auto* sticky = new CheckBox(tr("stay at the top"), cards_);
    sticky->setToolTip(tr("The lines of open groups stay at the top while one scrolls in them"));
    sticky->setChecked(design_.grid.stickyGroups);
    connect(sticky, &QCheckBox::toggled, this, [this](bool on) {
        design_.grid.stickyGroups = on;
        typeGroups(design_.groups, tr("Lines of open groups"));
    });
    foot.addWidget(sticky);
}

void GroupPopover::rebuild() {
    auto* old = std::exchange(cards_, new QWidget(this));
    auto* list = new QVBoxLayout(cards_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(8);
    if (design_.groups.empty()) {
        auto* none = new QLabel(tr("Nothing is grouped: the records stand one under the other."), cards_);
        none->setForegroundRole(QPalette::PlaceholderText);
        list->addWidget(none);
    }
    chosen_ = std::min(chosen_, design_.groups.empty() ? 0 : design_.groups.size() - 1);
    addLevels(*list);
    if (!design_.groups.empty()) list->addWidget(levelCard(chosen_));
    auto* foot = new QHBoxLayout;
    if (!design_.groups.empty()) {
        addIndent(*foot);
        foot->addStretch();
        auto* clear = new QPushButton(tr("No groups"), cards_);
        clear->setFlat(true);
        connect(clear, &QPushButton::clicked, this, [this] { setGroups({}, tr("No groups")); });
        foot->addWidget(clear);
    }
    list->addLayout(foot);
    showFoot(!design_.groups.empty() || grid_.session().view().isBypassed(Stage::Group));
    exchange(old, cards_);
    auto* chips = cards_->findChild<OrderChips*>(QStringLiteral("levels"));
    if (std::exchange(focusChosen_, false) && chips) chips->focusChip(static_cast<int>(chosen_));
}

}  // namespace jollyrow
