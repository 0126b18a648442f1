// SPDX-License-Identifier: MIT
#include "workbench/popovers/summary_popover.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/condition.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/line_look_controls.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {

SummaryPopover::SummaryPopover(QWidget* window, const Design& design, Grid& grid)
    : Popover(tr("Summaries"), window), design_(design), grid_(grid), schema_(grid.session().schema()) {
    auto* hint = new QLabel(tr("Each figure stands under its column: on the lines of groups, at their foot, and in the "
                               "totals."),
                            this);
    hint->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(hint);
    cards_ = new QWidget(this);
    body()->addWidget(cards_);
    problem_ = problemLabel(this);
    body()->addWidget(problem_);
    QHBoxLayout* foot = &addFoot();
    facts_ = new QLabel(this);
    facts_->setForegroundRole(QPalette::PlaceholderText);
    foot->addWidget(facts_);
    foot->addStretch();
    auto* bypass = new CheckBox(tr("Bypass for a moment"), this);
    bypass->setChecked(grid.session().view().isBypassed(Stage::Summaries));
    connect(bypass, &QCheckBox::toggled, this, &SummaryPopover::bypassed);
    foot->addWidget(bypass);
    auto* table = new QPushButton(tr("As a table…"), this);
    table->setFlat(true);
    table->setObjectName(QStringLiteral("table"));
    connect(table, &QPushButton::clicked, this, &SummaryPopover::tableWanted);
    foot->addWidget(table);
    connect(&grid, &Grid::snapshotChanged, this, &SummaryPopover::showFacts);
    showFacts();
    rebuild();
}

void SummaryPopover::showFacts() {
    QString problem;
    for (const Finding& finding : grid_.session().plan().findings)
        if (finding.where.starts_with("summaries/") && problem.isEmpty())
            problem = QString::fromStdString(finding.message);
    const bool changes = problem_->text() != problem;
    problem_->setText(problem);
    problem_->setVisible(!problem.isEmpty());
    if (changes && isVisible()) fitHeight();
    const auto& snapshot = grid_.snapshot();
    if (!snapshot || !snapshot->groups || design_.summaries.empty()) return facts_->setText({});
    facts_->setText(tr("%1 ms over %2 records")
                        .arg(snapshot->summaries.milliseconds, 0, 'f', 1)
                        .arg(grouped(snapshot->recordCount())));
}

void SummaryPopover::setDesign(const Design& design) {
    if (design.summaries == design_.summaries && design.columns == design_.columns && design.grid == design_.grid)
        return;
    design_ = design;
    schema_ = grid_.session().schema();
    if (typing_) return;
    rebuild();
}

Type SummaryPopover::typeOf(const std::string& field) const {
    const auto index = schema_.find(field);
    return index ? schema_.field(*index).type : Type::Integer;
}

QString SummaryPopover::headingOf(const std::string& field) const { return headingOfField(design_, field); }

QString SummaryPopover::wordsOf(const SummaryDesign& summary) const {
    for (const PlannedSummary& planned : grid_.session().plan().grouping->summaries)
        if (planned.design.name == summary.name) return QString::fromStdString(planned.words);
    return QString::fromStdString(summary.name);
}

void SummaryPopover::take(Design next, const QString& label) {
    // Later: the widget that asked is still in its handler.
    QTimer::singleShot(0, this, [this, next = std::move(next), label] {
        design_ = next;
        Q_EMIT changed(groupingOf(design_), label);
        rebuild();
    });
}

void SummaryPopover::type(Design next, const QString& label) {
    design_ = std::move(next);
    typing_ = true;
    Q_EMIT changed(groupingOf(design_), label);
    typing_ = false;
    showFacts();
}

QWidget* SummaryPopover::showPick(std::size_t index) {
    const SummaryDesign& summary = design_.summaries[index];
    const std::string field = summary.of.empty() ? summary.column : summary.of;
    std::vector<SummaryShow> shows = summariesFor(typeOf(field));
    shows.push_back(SummaryShow::Rule);
    auto* show = new PickBox(cards_);
    show->setObjectName(QStringLiteral("show"));
    show->setAccessibleName(tr("Figure"));
    show->setMinimumWidth(scaled(150));
    for (const SummaryShow one : shows) {
        show->addItem(one == SummaryShow::Rule ? tr("a rule") : QString::fromStdString(words(one, typeOf(field))));
        if (one == summary.show) show->setCurrentIndex(show->count() - 1);
    }
    connect(show, &QComboBox::activated, this, [this, index, shows, field](int chosen) {
        Design next = design_;
        SummaryDesign& changing = next.summaries[index];
        changing.show = shows[static_cast<std::size_t>(chosen)];
        if (changing.show == SummaryShow::Rule && changing.rule.empty()) {
            SummaryDesign before = design_.summaries[index];
            changing.rule = summaryRuleOf(before);
        }
        if (changing.show == SummaryShow::WeightedMean && changing.weight.empty())
            for (const FieldSchema& other : schema_.fields)
                if (isNumber(other.type) && other.name != field && other.primaryKeyRank == 0 && changing.weight.empty())
                    changing.weight = other.name;
        take(std::move(next), tr("Figure of %1").arg(headingOf(changing.column)));
    });
    return show;
}

QWidget* SummaryPopover::percentEntry(std::size_t index) {
    auto* percent = new QDoubleSpinBox(cards_);
    percent->setRange(0, 100);
    percent->setDecimals(1);
    percent->setSuffix(tr(" %"));
    percent->setAccessibleName(tr("Percentile"));
    percent->setValue(design_.summaries[index].percent);
    connect(percent, &QDoubleSpinBox::valueChanged, this, [this, index](double value) {
        Design next = design_;
        next.summaries[index].percent = value;
        type(std::move(next), tr("Percentile"));
    });
    return percent;
}

QWidget* SummaryPopover::fieldPick(const QString& name, std::size_t index, const std::string& current,
                                   const std::function<bool(const FieldSchema&)>& fits,
                                   std::function<void(SummaryDesign&, const std::string&)> set) {
    auto* pick = new PickBox(cards_);
    pick->setAccessibleName(name);
    pick->setMinimumWidth(scaled(110));
    for (const FieldSchema& other : schema_.fields) {
        if (!fits(other)) continue;
        pick->addItem(headingOf(other.name), QString::fromStdString(other.name));
        if (other.name == current) pick->setCurrentIndex(pick->count() - 1);
    }
    connect(pick, &QComboBox::activated, this, [this, index, pick, set = std::move(set)](int chosen) {
        Design next = design_;
        set(next.summaries[index], pick->itemData(chosen).toString().toStdString());
        const QString label = tr("Figure of %1").arg(headingOf(next.summaries[index].column));
        take(std::move(next), label);
    });
    return pick;
}

QWidget* SummaryPopover::underPick(std::size_t index) {
    const SummaryDesign& summary = design_.summaries[index];
    auto* under = new PickBox(cards_);
    under->setObjectName(QStringLiteral("under"));
    under->setAccessibleName(tr("Under which column it stands"));
    under->setMinimumWidth(scaled(110));
    for (const ColumnDesign& column : design_.columns) {
        if (!column.shown && column.field != summary.column) continue;
        under->addItem(headingOf(column.field), QString::fromStdString(column.field));
        if (column.field == summary.column) under->setCurrentIndex(under->count() - 1);
    }
    connect(under, &QComboBox::activated, this, [this, index, under](int chosen) {
        Design next = design_;
        SummaryDesign& changing = next.summaries[index];
        const std::string to = under->itemData(chosen).toString().toStdString();
        if (changing.of.empty() && changing.show != SummaryShow::Count && changing.show != SummaryShow::Rule)
            changing.of = changing.column;
        changing.column = to;
        if (changing.of == to) changing.of.clear();
        take(std::move(next), tr("Place of a figure"));
    });
    return under;
}

void SummaryPopover::addWhat(QHBoxLayout& row, std::size_t index) {
    const SummaryDesign& summary = design_.summaries[index];
    row.addWidget(showPick(index));
    if (summary.show == SummaryShow::Percentile) row.addWidget(percentEntry(index));
    if (summary.show == SummaryShow::WeightedMean) {
        row.addWidget(quietLabel(tr("by"), cards_));
        row.addWidget(fieldPick(
            tr("Weight"), index, summary.weight, [](const FieldSchema& f) { return isNumber(f.type); },
            [](SummaryDesign& s, const std::string& f) { s.weight = f; }));
    }
    if (summary.show != SummaryShow::Rule && summary.show != SummaryShow::Count) {
        row.addWidget(quietLabel(tr("of"), cards_));
        const auto fits = [&](const FieldSchema& f) {
            const auto fit = summariesFor(f.type);
            return std::find(fit.begin(), fit.end(), summary.show) != fit.end();
        };
        row.addWidget(
            fieldPick(tr("Of which field"), index, summary.of.empty() ? summary.column : summary.of, fits,
                      [](SummaryDesign& s, const std::string& f) { s.of = f == s.column ? std::string() : f; }));
    }
    row.addWidget(quietLabel(tr("under"), cards_));
    row.addWidget(underPick(index));
}

void SummaryPopover::addRule(QVBoxLayout& card, std::size_t index) {
    auto* entry = new RuleEntry(
        ruleNames(grid_.session(), design_),
        [this](const std::string& text) -> Result<std::shared_ptr<const Program>> {
            auto rule =
                parseSummary(text, grid_.session().schema(), vocabularyOf(design_, grid_.session().registered()));
            if (!rule) return rule.error();
            return rule->terms.front().argument;  // only whether it makes sense is asked
        },
        cards_);
    entry->setText(QString::fromStdString(design_.summaries[index].rule));
    entry->setObjectName(QStringLiteral("summaryRule"));
    connect(entry, &RuleEntry::changed, this, [this, index](const QString& text) {
        Design next = design_;
        next.summaries[index].rule = text.toStdString();
        type(std::move(next), tr("Change the rule of a figure"));
    });
    card.addWidget(entry);
}

void SummaryPopover::addLook(QVBoxLayout& card, std::size_t index) {
    const SummaryDesign& summary = design_.summaries[index];
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    const auto entry = [&](const QString& name, const QString& object, const QString& placeholder,
                           const std::string& text, auto set) {
        auto* made = smallEntry(name, 0, cards_);
        made->setObjectName(object);
        made->setPlaceholderText(placeholder);
        made->setText(QString::fromStdString(text));
        connect(made, &QLineEdit::textEdited, this, [this, index, set, name](const QString& typed) {
            Design next = design_;
            set(next.summaries[index], typed.toStdString());
            type(std::move(next), tr("%1 of a figure").arg(name));
        });
        return made;
    };
    row->addWidget(quietLabel(tr("says"), cards_));
    auto* caption = entry(tr("Caption"), QStringLiteral("figureCaption"), QStringLiteral("{value}"), summary.caption,
                          [](SummaryDesign& s, std::string text) { s.caption = std::move(text); });
    caption->setToolTip(
        tr("A message pattern over value, such as {value} jobs, or\n"
           "{value, plural, one{{value} job} other{{value} jobs}}"));
    row->addWidget(caption, 2);
    row->addWidget(quietLabel(tr("as"), cards_));
    auto* as = new PickBox(cards_);
    as->setObjectName(QStringLiteral("as"));
    as->setAccessibleName(tr("What is shown of it"));
    as->addItems({tr("the figure"), tr("share of the group above"), tr("share of all"), tr("running total")});
    as->setCurrentIndex(static_cast<int>(summary.as));
    connect(as, &QComboBox::activated, this, [this, index](int chosen) {
        Design next = design_;
        next.summaries[index].as = static_cast<SummaryAs>(chosen);
        const QString label = tr("Figure of %1").arg(headingOf(next.summaries[index].column));
        take(std::move(next), label);
    });
    row->addWidget(as, 1);
    card.addLayout(row);
    auto* format = new QHBoxLayout;
    format->setSpacing(8);
    format->addWidget(quietLabel(tr("format"), cards_));
    format->addWidget(styleBox(index));
    auto* pattern = entry(tr("Format"), QStringLiteral("figureFormat"), tr("as the column"), summary.format.pattern,
                          [](SummaryDesign& s, std::string text) {
                              // What stands around the value, and of a duration its unit, stays.
                              FormatSpec next = formatFor(std::move(text), false);
                              const bool isDuration =
                                  s.format.style == FormatStyle::Duration && next.style == FormatStyle::Pattern;
                              s.format.style = isDuration ? FormatStyle::Duration : next.style;
                              s.format.pattern = std::move(next.pattern);
                          });
    format->addWidget(pattern, 2);
    format->addWidget(quietLabel(tr("between"), cards_));
    format->addWidget(
        entry(tr("Before the figure"), QStringLiteral("figurePrefix"), tr("before"), summary.format.prefix,
              [](SummaryDesign& s, std::string text) { s.format.prefix = std::move(text); }),
        1);
    format->addWidget(
        entry(tr("Behind the figure"), QStringLiteral("figureSuffix"), tr("behind"), summary.format.suffix,
              [](SummaryDesign& s, std::string text) { s.format.suffix = std::move(text); }),
        1);
    format->addWidget(quietLabel(tr("empty"), cards_));
    format->addWidget(
        entry(tr("Where there is no figure"), QStringLiteral("figureEmpty"), tr("nothing"), summary.format.empty,
              [](SummaryDesign& s, std::string text) { s.format.empty = std::move(text); }),
        1);
    card.addLayout(format);
}

/// How a figure is written: as its column, by a pattern, or as a duration.
QWidget* SummaryPopover::styleBox(std::size_t index) {
    struct Choice {
        QString words;
        FormatStyle style;
        DurationUnit unit;
    };
    const Choice choices[] = {{tr("as the column"), FormatStyle::Automatic, DurationUnit::Hours},
                              {tr("pattern"), FormatStyle::Pattern, DurationUnit::Hours},
                              {tr("seconds as h:mm"), FormatStyle::Duration, DurationUnit::Seconds},
                              {tr("minutes as h:mm"), FormatStyle::Duration, DurationUnit::Minutes},
                              {tr("hours as h:mm"), FormatStyle::Duration, DurationUnit::Hours},
                              {tr("days as h:mm"), FormatStyle::Duration, DurationUnit::Days}};
    const FormatSpec& now = design_.summaries[index].format;
    auto* box = new PickBox(cards_);
    box->setObjectName(QStringLiteral("figureStyle"));
    box->setMinimumWidth(scaled(136));
    box->setAccessibleName(tr("How the figure is written"));
    for (const Choice& choice : choices) {
        box->addItem(choice.words, QPoint(static_cast<int>(choice.style), static_cast<int>(choice.unit)));
        const bool isIt = choice.style == now.style && (now.style != FormatStyle::Duration || choice.unit == now.unit);
        if (isIt) box->setCurrentIndex(box->count() - 1);
    }
    connect(box, &QComboBox::activated, this, [this, box, index](int chosen) {
        const QPoint both = box->itemData(chosen).toPoint();
        Design next = design_;
        FormatSpec& format = next.summaries[index].format;
        format.style = static_cast<FormatStyle>(both.x());
        format.unit = static_cast<DurationUnit>(both.y());
        // A pattern of another style means something else.
        if (format.style == FormatStyle::Automatic || format.style == FormatStyle::Duration) format.pattern.clear();
        if (format.style == FormatStyle::Pattern && format.pattern.empty()) format.pattern = "#,##0.##";
        take(std::move(next), tr("Format of a figure"));
    });
    return box;
}

void SummaryPopover::addPlaces(QVBoxLayout& card, std::size_t index) {
    const SummaryDesign& summary = design_.summaries[index];
    auto* row = new QHBoxLayout;
    row->setSpacing(12);
    const auto check = [&](const QString& name, bool SummaryDesign::*place) {
        auto* box = new CheckBox(name, cards_);
        box->setChecked(summary.*place);
        connect(box, &QCheckBox::toggled, this, [this, index, place](bool on) {
            Design next = design_;
            next.summaries[index].*place = on;
            type(std::move(next), tr("Place of a figure"));
        });
        row->addWidget(box);
    };
    row->addWidget(quietLabel(tr("stands on"), cards_));
    check(tr("group lines"), &SummaryDesign::onGroups);
    check(tr("footers"), &SummaryDesign::onFooters);
    check(tr("totals"), &SummaryDesign::onTotal);
    row->addSpacing(8);
    if (summary.show != SummaryShow::Rule) {
        row->addWidget(quietLabel(tr("only where"), cards_));
        auto* where = smallEntry(tr("Only records for which this holds"), 0, cards_);
        where->setObjectName(QStringLiteral("where"));
        where->setPlaceholderText(tr("all records"));
        where->setText(QString::fromStdString(summary.where));
        connect(where, &QLineEdit::textEdited, this, [this, index](const QString& text) {
            Design next = design_;
            next.summaries[index].where = text.trimmed().toStdString();
            type(std::move(next), tr("Records of a figure"));
        });
        row->addWidget(where, 1);
    } else {
        row->addStretch(1);
    }
    card.addLayout(row);
}

/// Opens and folds its card.
QWidget* SummaryPopover::titleOf(std::size_t index, QWidget* card) {
    auto* title = new QToolButton(card);
    title->setObjectName(QStringLiteral("figure%1").arg(index));
    title->setText(wordsOf(design_.summaries[index]));
    title->setToolTip(index == open_ ? tr("Fold it away") : tr("Change it"));
    title->setFont(sized(13, QFont::DemiBold));
    title->setCursor(Qt::PointingHandCursor);
    title->setStyleSheet(QStringLiteral("QToolButton{border:none;background:transparent;color:%1;padding:2px}"
                                        "QToolButton:hover,QToolButton:focus{color:%2}")
                             .arg(look().ink.name(), look().tealText.name()));
    connect(title, &QToolButton::clicked, this, [this, index] {
        open_ = open_ == index ? std::size_t(-1) : index;
        QTimer::singleShot(0, this, [this] { rebuild(); });
    });
    return title;
}

void SummaryPopover::addButtons(QHBoxLayout& row, std::size_t index, QWidget* card) {
    const auto button = [&](Icon icon, const QString& name, bool enabled, auto act) {
        auto* tool = cardButton(icon, name, enabled, card);
        connect(tool, &QToolButton::clicked, this, act);
        row.addWidget(tool);
    };
    button(Icon::ArrowUp, tr("Earlier, and above others on its column"), index > 0, [this, index] {
        Design next = design_;
        std::swap(next.summaries[index], next.summaries[index - 1]);
        open_ = open_ == index ? index - 1 : open_;
        take(std::move(next), tr("Reorder the figures"));
    });
    button(Icon::Cross, tr("Take this figure away"), true, [this, index] {
        Design next = design_;
        const QString words = wordsOf(next.summaries[index]);
        removeSummary(next, next.summaries[index].name);
        open_ = std::size_t(-1);
        take(std::move(next), tr("Take %1 away").arg(words));
    });
}

QWidget* SummaryPopover::card(std::size_t index) {
    const SummaryDesign summary = design_.summaries[index];
    auto* card = new Card(cards_);
    auto* column = new QVBoxLayout(card);
    const bool isOpen = index == open_;
    column->setContentsMargins(12, isOpen ? 6 : 1, 8, isOpen ? 8 : 1);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    column->addLayout(row);
    row->addWidget(titleOf(index, card));
    if (!isOpen) {
        QStringList places;
        if (summary.onGroups) places << tr("group lines");
        if (summary.onFooters) places << tr("footers");
        if (summary.onTotal) places << tr("totals");
        row->addWidget(quietLabel(tr("under %1, %2").arg(headingOf(summary.column), places.join(tr(", "))), card));
    }
    row->addStretch(1);
    addButtons(*row, index, card);
    if (!isOpen) return card;
    auto* what = new QHBoxLayout;
    what->setSpacing(8);
    addWhat(*what, index);
    what->addStretch(1);
    column->addLayout(what);
    if (summary.show == SummaryShow::Rule) addRule(*column, index);
    addLook(*column, index);
    addPlaces(*column, index);
    return card;
}

void SummaryPopover::addTotals(QVBoxLayout& list) {
    auto* row = new QHBoxLayout;
    row->setSpacing(12);
    row->addWidget(quietLabel(tr("Totals of"), cards_));
    const auto check = [&](const QString& name, bool GridDesign::*setting) {
        auto* box = new CheckBox(name, cards_);
        box->setChecked(design_.grid.*setting);
        connect(box, &QCheckBox::toggled, this, [this, setting](bool on) {
            Design next = design_;
            next.grid.*setting = on;
            type(std::move(next), tr("Totals"));
        });
        row->addWidget(box);
    };
    check(tr("the selected"), &GridDesign::totalSelected);
    check(tr("those shown"), &GridDesign::totalFiltered);
    check(tr("all records"), &GridDesign::totalAll);
    row->addStretch(1);
    list.addLayout(row);
    addTotalsLook(list);
}

void SummaryPopover::addTotalsLook(QVBoxLayout& list) {
    const GridDesign& grid = design_.grid;
    if (!grid.totalSelected && !grid.totalFiltered && !grid.totalAll) return;
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* height = pixelsBox(0, 400, cards_);
    height->setObjectName(QStringLiteral("totalHeight"));
    height->setAccessibleName(tr("Height of the totals"));
    height->setSpecialValueText(tr("as rows"));
    height->setValue(grid.totalHeight);
    connect(height, &QSpinBox::valueChanged, this, [this](int value) {
        Design next = design_;
        next.grid.totalHeight = value;
        type(std::move(next), tr("Height of the totals"));
    });
    row->addWidget(quietLabel(tr("height"), cards_));
    row->addWidget(height);
    const auto colours = [&](const QString& name, const QString& object, std::string GridDesign::*setting) {
        auto* entry = colourEntry(name, grid.*setting, cards_, [this, setting](std::string text) {
            Design next = design_;
            next.grid.*setting = std::move(text);
            type(std::move(next), tr("Colour of the totals"));
        });
        entry->setObjectName(object);
        row->addWidget(entry);
    };
    row->addWidget(quietLabel(tr("behind"), cards_));
    colours(tr("Colour behind the totals"), QStringLiteral("totalColour"), &GridDesign::totalColour);
    row->addWidget(quietLabel(tr("text"), cards_));
    colours(tr("Colour of the text of the totals"), QStringLiteral("totalTextColour"), &GridDesign::totalTextColour);
    row->addWidget(weightPick(tr("Text of the totals"), design_.grid.totalWeight, cards_, [this](LineWeight chosen) {
        Design next = design_;
        next.grid.totalWeight = chosen;
        type(std::move(next), tr("Text of the totals"));
    }));
    row->addStretch(1);
    list.addLayout(row);
}

void SummaryPopover::addPick(QHBoxLayout& foot) {
    auto* add = new PickBox(cards_);
    add->setObjectName(QStringLiteral("addSummary"));
    add->setAccessibleName(tr("Add a figure"));
    add->setMinimumWidth(scaled(170));
    add->setPlaceholderText(tr("Add a figure for…"));
    for (const ColumnDesign& column : design_.columns)
        if (column.shown) add->addItem(headingOf(column.field), QString::fromStdString(column.field));
    add->setCurrentIndex(-1);
    connect(add, &QComboBox::activated, this, [this, add](int chosen) {
        Design next = design_;
        next.summaries.push_back(newSummary(next, schema_, add->itemData(chosen).toString().toStdString()));
        open_ = next.summaries.size() - 1;
        take(std::move(next), tr("Sum up %1").arg(add->itemText(chosen)));
    });
    foot.addWidget(add);
}

void SummaryPopover::rebuild() {
    auto* old = std::exchange(cards_, new QWidget(this));
    auto* list = new QVBoxLayout(cards_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(5);
    if (design_.summaries.empty()) {
        auto* none = new QLabel(tr("Nothing is summed up."), cards_);
        none->setForegroundRole(QPalette::PlaceholderText);
        list->addWidget(none);
    }
    // More than a dozen scroll, so that what is under them stays in sight.
    constexpr std::size_t kMostInSight = 11;
    auto* all = new QWidget(cards_);
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(5);
    for (std::size_t i = 0; i < design_.summaries.size(); ++i) column->addWidget(card(i));
    QWidget* shown = design_.summaries.size() > kMostInSight ? scrollingPage(all, cards_) : all;
    if (shown != all) shown->setFixedHeight(scaled(440));
    list->addWidget(shown);
    auto* foot = new QHBoxLayout;
    addPick(*foot);
    foot->addStretch();
    if (!design_.summaries.empty()) {
        auto* clear = new QPushButton(tr("No figures"), cards_);
        clear->setFlat(true);
        connect(clear, &QPushButton::clicked, this, [this] {
            Design next = design_;
            while (!next.summaries.empty()) removeSummary(next, std::string(next.summaries.back().name));
            take(std::move(next), tr("No figures"));
        });
        foot->addWidget(clear);
    }
    list->addLayout(foot);
    if (!design_.summaries.empty()) addTotals(*list);
    showFoot(!design_.summaries.empty() || grid_.session().view().isBypassed(Stage::Summaries));
    exchange(old, cards_);
}

}  // namespace jollyrow
