// SPDX-License-Identifier: MIT
#include "workbench/popovers/styles_popover.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/planned_line_style.h"
#include "core/design/planned_style.h"
#include "core/rules/summary_list.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/ink_box.h"
#include "workbench/controls/shape_box.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {

StylesPopover::StylesPopover(QWidget* window, const Design& design, Grid& grid)
    : NamedPopover(
          tr("Styles"),
          tr("What cells, records and lines of groups look like where a condition holds. Of each property the "
             "first style that sets it applies. Texts stay legible on what is behind them, in light and dark."),
          window, design, grid.session()),
      grid_(grid) {
    rebuild();
}

/// Cards are made anew when what they show besides typed words is another.
std::size_t StylesPopover::count(const Design& design) const {
    std::size_t shape = design.styles.size();
    const auto add = [&shape](const auto& of) { shape = shape * 31 + std::hash<std::decay_t<decltype(of)>>()(of); };
    for (const StyleDesign& style : design.styles) {
        for (const std::string& column : style.columns) add(column);
        for (const std::string* ink : {&style.ink, &style.background, &style.lowest, &style.middle, &style.highest})
            add(*ink);
        for (const bool is : {style.on, style.last, style.strike, style.italic}) add(is);
        add(static_cast<int>(style.weight));
        add(static_cast<int>(style.lines));
        for (const StyleIcon& icon : style.icons) add(static_cast<int>(icon.shape)), add(icon.colour);
    }
    return shape;
}

void StylesPopover::fill(QVBoxLayout& list) {
    for (std::size_t i = 0; i < design_.styles.size(); ++i) addCard(list, i);
    auto* more = new QPushButton(tr("+ Style"), cards());
    more->setObjectName(QStringLiteral("addStyle"));
    connect(more, &QPushButton::clicked, this, &StylesPopover::add);
    auto* row = new QHBoxLayout;
    row->addWidget(more);
    row->addStretch();
    list.addLayout(row);
}

void StylesPopover::add() {
    Design next = design_;
    StyleDesign style;
    for (int n = 1; style.name.empty(); ++n) {
        const std::string name = n == 1 ? tr("Style").toStdString() : tr("Style %1").arg(n).toStdString();
        if (std::none_of(next.styles.begin(), next.styles.end(), [&](const StyleDesign& s) { return s.name == name; }))
            style.name = name;
    }
    style.background = "brass";
    style.where = "FALSE";
    next.styles.push_back(std::move(style));
    takeLater(next, tr("Add a style"));
}

void StylesPopover::change(std::size_t index, const std::function<void(StyleDesign&)>& act, const QString& label,
                           bool anew) {
    Design next = design_;
    if (index >= next.styles.size()) return;
    act(next.styles[index]);
    anew ? takeLater(next, label) : take(next, label);
}

void StylesPopover::addCard(QVBoxLayout& list, std::size_t index) {
    auto* card = new Card(cards());
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(6);
    const auto line = [&] {
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        column->addLayout(row);
        return row;
    };
    addHead(*line(), index);
    addCondition(*column, index);
    QHBoxLayout* looks = line();
    addColumns(*looks, index);
    addLook(*looks, index);
    QHBoxLayout* more = line();
    addSwitches(*more, index);
    if (!design_.styles[index].columns.empty()) {
        addIcons(*more, index);
        addScale(*more, index);
    }
    more->addStretch(1);
    list.addWidget(card);
}

void StylesPopover::addHead(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    auto* on = new CheckBox({}, cards());
    on->setChecked(style.on);
    on->setAccessibleName(tr("%1 is on").arg(QString::fromStdString(style.name)));
    on->setToolTip(tr("Off: it is kept and has no effect."));
    connect(on, &QCheckBox::clicked, this, [this, index](bool is) {
        change(
            index, [is](StyleDesign& s) { s.on = is; }, is ? tr("Style on") : tr("Style off"), true);
    });
    row.addWidget(on);
    auto* name = smallEntry(tr("Name of style %1").arg(index + 1), 160, cards());
    name->setText(QString::fromStdString(style.name));
    connect(name, &QLineEdit::textEdited, this, [this, index](const QString& text) {
        change(
            index, [text = text.toStdString()](StyleDesign& s) { s.name = text; }, tr("Name of a style"));
    });
    row.addWidget(name);
    addLines(row, index);
    row.addStretch(1);
    addCheck(
        row, index, tr("no later one applies"), style.last, [](StyleDesign& s, bool is) { s.last = is; },
        tr("Last style"));
    auto* earlier = cardButton(Icon::ArrowUp, tr("Earlier"), index > 0, cards());
    connect(earlier, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        std::swap(next.styles[index], next.styles[index - 1]);
        takeLater(next, tr("Reorder the styles"));
    });
    row.addWidget(earlier);
    auto* away = cardButton(Icon::Cross, tr("Take style %1 away").arg(index + 1), true, cards());
    connect(away, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        next.styles.erase(next.styles.begin() + static_cast<std::ptrdiff_t>(index));
        takeLater(next, tr("Take a style away"));
    });
    row.addWidget(away);
}

void StylesPopover::addLines(QHBoxLayout& row, std::size_t index) {
    auto* lines = new PickBox(cards());
    lines->setAccessibleName(tr("Lines that style %1 is for").arg(index + 1));
    for (const QString& words : {tr("of records"), tr("of group lines"), tr("of totals")}) lines->addItem(words);
    lines->setFixedWidth(scaled(128));
    lines->setCurrentIndex(static_cast<int>(design_.styles[index].lines));
    connect(lines, &QComboBox::activated, this, [this, index](int chosen) {
        change(
            index,
            [chosen](StyleDesign& s) {
                s.lines = static_cast<StyledLines>(chosen);
                if (s.lines == StyledLines::Totals) s.lowest.clear(), s.middle.clear(), s.highest.clear();
                if (s.lines == StyledLines::Totals && s.icons.size() > 1) s.icons.clear();
            },
            tr("Lines of a style"), true);
    });
    row.addWidget(lines);
}

void StylesPopover::addCondition(QVBoxLayout& card, std::size_t index) {
    auto* entry = new RuleEntry(
        ruleNames(session_, design_) << QStringLiteral("value"),
        [this, index](const std::string& text) -> Result<std::shared_ptr<const Program>> {
            if (index >= design_.styles.size()) return Error{};
            const auto& columns = design_.styles[index].columns;
            const TableSchema schema = session_.schemaReading(text);
            const RuleVocabulary vocabulary = vocabularyOf(design_, session_.registered());
            if (design_.styles[index].lines != StyledLines::Records) {
                const auto having =
                    text.empty() ? Result<SummaryRule>(SummaryRule{}) : parseSummary(text, schema, vocabulary);
                if (!having) return having.error();
                if (!text.empty() && having->type.kind != RuleKind::Boolean)
                    return Error{ErrorCode::InvalidInput,
                                 tr("It gives %1, not yes or no.")
                                     .arg(QString::fromUtf8(article(having->type.kind).data(),
                                                            static_cast<qsizetype>(article(having->type.kind).size())))
                                     .toStdString()};
                return partCondition("TRUE", schema.fields.front().name, schema, vocabulary);  // sound, as any other
            }
            const std::string field = !columns.empty() ? columns.front() : schema.fields.front().name;
            return partCondition(text.empty() ? "TRUE" : text, field, schema, vocabulary);
        },
        cards());
    entry->edit().setAccessibleName(tr("Where style %1 holds").arg(index + 1));
    entry->edit().setPlaceholderText(
        design_.styles[index].lines == StyledLines::Records ? tr("always") : tr("always, or e.g. SUM(hours) > 40"));
    entry->setText(QString::fromStdString(design_.styles[index].where));
    entry->setNote(cellsMet(index));
    connect(entry, &RuleEntry::changed, this, [this, index, entry](const QString& text) {
        change(
            index, [rule = text.trimmed().toStdString()](StyleDesign& s) { s.where = rule; },
            tr("Where a style holds"));
        entry->setNote(cellsMet(index));
    });
    card.addWidget(entry);
}

/// How many of some records spread over those shown; of all where they are few.
QString StylesPopover::cellsMet(std::size_t index) const {
    constexpr std::int64_t kLookedAt = 5000;  // some milliseconds
    const auto& snapshot = grid_.snapshot();
    if (!snapshot || snapshot->recordCount() == 0 || index >= design_.styles.size()) return {};
    if (design_.styles[index].lines != StyledLines::Records) return linesMet(design_.styles[index]);
    Design one = design_;
    one.styles = {design_.styles[index]};
    one.styles.front().on = true;
    std::vector<Finding> findings;
    const auto planned = plannedStyles(one, session_.schema(), session_.registered(), findings);
    if (planned.empty()) return {};
    const FieldIndex field = planned.front().fields.empty() ? FieldIndex{} : planned.front().fields.front();
    StyleReader reader(*snapshot, planned);
    const std::int64_t step = std::max<std::int64_t>(1, snapshot->recordCount() / kLookedAt);
    qint64 met = 0, seen = 0;
    for (std::int64_t place = 0; place < snapshot->recordCount(); place += step, ++seen)
        met += reader.of(snapshot->record(place), field).isPlain() ? 0 : 1;
    return step == 1 ? tr("%1 of %2 records").arg(grouped(met), grouped(seen))
                     : tr("%1 of %2 looked at").arg(grouped(met), grouped(seen));
}

/// Of group lines the design's own figures say it, once they are there.
QString StylesPopover::linesMet(const StyleDesign& style) const {
    const auto& snapshot = grid_.snapshot();
    const Grouping* grouping = jollyrow::groupingOf(*snapshot);
    if (!grouping || !snapshot->groups || style.lines != StyledLines::Groups) return {};
    if (snapshot->groups->tree->levels() == 0) return tr("There are no groups.");
    std::size_t figure = grouping->summaries.size();
    for (const PlannedLineStyle& planned : grouping->styles) {
        if (planned.design == style) {
            const std::size_t all = snapshot->groups->tree->nodes.size();
            if (!planned.having) return tr("%1 of %1 groups").arg(grouped(static_cast<qint64>(all)));
            if (figure >= snapshot->groups->figures.size()) return {};
            qint64 met = 0;
            for (std::size_t node = 0; node < all; ++node) {
                const EvaluatedCell cell = snapshot->groups->figure(figure, node);
                const bool* holds = cell.state == CellState::Filled ? std::get_if<bool>(&cell.value) : nullptr;
                met += holds && *holds;
            }
            return tr("%1 of %2 groups").arg(grouped(met), grouped(static_cast<qint64>(all)));
        }
        if (planned.having) ++figure;
    }
    return {};
}

void StylesPopover::addColumns(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    row.addWidget(quietLabel(tr("on"), cards()));
    auto* columns = new PickBox(cards());
    columns->setAccessibleName(tr("On what style %1 is").arg(index + 1));
    columns->setMinimumWidth(scaled(130));
    QStringList names;
    for (const std::string& field : style.columns) names << headingOfField(design_, field);
    const QString whole = style.lines == StyledLines::Records ? tr("whole records") : tr("whole lines");
    columns->addItem(style.columns.empty() ? whole : names.join(QStringLiteral(", ")), QString());
    if (!style.columns.empty()) columns->addItem(whole, QStringLiteral("*"));
    for (const ColumnDesign& column : design_.columns)
        if (std::find(style.columns.begin(), style.columns.end(), column.field) == style.columns.end())
            columns->addItem(style.columns.empty() ? headingOfField(design_, column.field)
                                                   : tr("and %1").arg(headingOfField(design_, column.field)),
                             QString::fromStdString(column.field));
    connect(columns, &QComboBox::activated, this, [this, index, columns](int chosen) {
        const QString field = columns->itemData(chosen).toString();
        if (field.isEmpty()) return;
        change(
            index,
            [field](StyleDesign& s) {
                if (field == QLatin1String("*"))
                    s.columns.clear(), s.lowest.clear(), s.middle.clear(), s.highest.clear(), s.icons.clear();
                else
                    s.columns.push_back(field.toStdString());
            },
            tr("What a style is on"), true);
    });
    row.addWidget(columns, 1);
}

void StylesPopover::addLook(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    row.addWidget(quietLabel(tr("text"), cards()));
    row.addWidget(inkBox(
        style.ink, false,
        [this, index](const std::string& ink) {
            change(
                index, [ink](StyleDesign& s) { s.ink = ink; }, tr("Text colour of a style"), true);
        },
        cards()));
    auto* weight = new PickBox(cards());
    weight->setAccessibleName(tr("Weight of style %1").arg(index + 1));
    for (const QString& words : {tr("as it is"), tr("regular"), tr("medium"), tr("bold")}) weight->addItem(words);
    weight->setCurrentIndex(static_cast<int>(style.weight));
    connect(weight, &QComboBox::activated, this, [this, index](int chosen) {
        change(
            index, [chosen](StyleDesign& s) { s.weight = static_cast<LineWeight>(chosen); }, tr("Weight of a style"));
    });
    row.addWidget(weight);
    row.addWidget(quietLabel(tr("behind"), cards()));
    row.addWidget(inkBox(
        style.background, true,
        [this, index](const std::string& ink) {
            change(
                index, [ink](StyleDesign& s) { s.background = ink; }, tr("Background of a style"), true);
        },
        cards()));
}

CheckBox* StylesPopover::addCheck(QHBoxLayout& row, std::size_t index, const QString& words, bool is,
                                  const std::function<void(StyleDesign&, bool)>& act, const QString& label) {
    auto* box = new CheckBox(words, cards());
    box->setChecked(is);
    connect(box, &QCheckBox::clicked, this, [this, index, act, label](bool on) {
        change(
            index, [act, on](StyleDesign& s) { act(s, on); }, label, true);
    });
    row.addWidget(box);
    return box;
}

void StylesPopover::addSwitches(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    addCheck(
        row, index, tr("italic"), style.italic, [](StyleDesign& s, bool on) { s.italic = on; }, tr("Italic"));
    addCheck(
        row, index, tr("struck"), style.strike, [](StyleDesign& s, bool on) { s.strike = on; }, tr("Strike through"));
}

void StylesPopover::addScale(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    if (style.lines == StyledLines::Totals) return;
    addCheck(
        row, index, tr("scale"), !style.lowest.empty(),
        [](StyleDesign& s, bool on) {
            s.lowest = on ? "blue" : "";
            s.middle.clear();
            s.highest = on ? "brass" : "";
        },
        tr("Colour scale"))
        ->setToolTip(tr("Backgrounds from the least value shown to the greatest"));
    if (style.lowest.empty()) return;
    const auto end = [&](std::string StyleDesign::*which, const QString& name) {
        PickBox* box = inkBox(
            style.*which, true,
            [this, index, which](const std::string& ink) {
                change(
                    index,
                    [ink, which](StyleDesign& s) {
                        s.*which = ink.empty() && which != &StyleDesign::middle ? "quiet" : ink;
                    },
                    tr("Colour scale"), true);
            },
            cards());
        box->setAccessibleName(name);
        box->setToolTip(name);
        row.addWidget(box);
    };
    end(&StyleDesign::lowest, tr("Colour of the least value"));
    end(&StyleDesign::middle, tr("Colour in the middle; as it is: mixed of the ends"));
    end(&StyleDesign::highest, tr("Colour of the greatest value"));
}

void StylesPopover::addIcons(QHBoxLayout& row, std::size_t index) {
    const StyleDesign& style = design_.styles[index];
    PickBox* box = iconsBox(
        style.icons,
        [this, index](const std::vector<StyleIcon>& icons) {
            change(
                index, [icons](StyleDesign& s) { s.icons = icons; }, tr("Icon of a style"), true);
        },
        cards());
    box->setAccessibleName(tr("Icon of style %1").arg(index + 1));
    box->setToolTip(
        tr("Before the value. A set goes from the least value shown to the greatest, in parts of one size."));
    box->setFixedWidth(scaled(118));
    row.addWidget(box);
    if (style.icons.size() != 1) return;
    row.addWidget(inkBox(
        style.icons.front().colour, false,
        [this, index](const std::string& ink) {
            change(
                index, [ink](StyleDesign& s) { s.icons.front().colour = ink; }, tr("Colour of an icon"), true);
        },
        cards()));
}

}  // namespace jollyrow
