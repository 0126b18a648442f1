// SPDX-License-Identifier: MIT
#include "workbench/popovers/figure_popover.h"

#include <QGridLayout>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/design/cell_text.h"
#include "core/design/grouping.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {
namespace {

/// "In hand › North pontoon"; the totals have no group.
QString placeOf(const Snapshot& snapshot, const Grouping& grouping, quint32 node) {
    const GroupTree& tree = *snapshot.groups->tree;
    if (node >= tree.nodes.size()) return FigurePopover::tr("all records shown");
    QStringList path;
    for (std::uint32_t n = node;; n = tree.nodes[n].parent) {
        std::string name;
        const auto level = static_cast<std::size_t>(tree.nodes[n].level);
        if (level < grouping.groups.size()) grouping.groups[level].names->append(name, tree.key(tree.nodes[n]));
        path.prepend(QString::fromStdString(name));
        if (tree.nodes[n].level == 0) break;
    }
    return path.join(QStringLiteral(" › "));
}

}  // namespace

FigurePopover::FigurePopover(QWidget* window, Grid& grid, int summary, quint32 node)
    : Popover(tr("How this figure was made"), window),
      grid_(grid),
      summary_(static_cast<std::size_t>(summary)),
      node_(node),
      facts_(new QWidget(this)),
      snapshot_(grid.snapshot()) {
    body()->addWidget(facts_);
    const Grouping* grouping = groupingOf(*snapshot_);
    auto* list = new QVBoxLayout(facts_);
    list->setContentsMargins(0, 0, 0, 0);
    list->addWidget(quietLabel(tr("looking at the records…"), facts_));
    if (!grouping || summary_ >= grouping->summaries.size()) return;
    grid.session().questions().originOf(summary_, node,
                                        [target = QPointer<FigurePopover>(this)](const Result<FigureOrigin>& origin) {
                                            if (target && origin) target->show(*origin);
                                        });
}

/// A record by its keys and the first column that says something else.
QString FigurePopover::nameOf(SourceRow row) const {
    const Table& table = *snapshot_->table;
    QStringList parts;
    if (table.hasKeys())
        for (const Value& key : table.key(row)) {
            std::string text;
            appendPlain(text, key);
            parts << QString::fromStdString(text);
        }
    for (const PlannedColumn& column : grid_.session().plan().columns) {
        CellText cell;
        readCell(*snapshot_, row, column, cell);
        const QString text = QString::fromStdString(cell.text);
        if (text.isEmpty() || parts.contains(text)) continue;
        parts << text;
        break;
    }
    return parts.join(QStringLiteral(" · "));
}

void FigurePopover::jumpTo(SourceRow row) {
    Grid& grid = grid_;
    close();
    Q_EMIT closed();
    grid.selection().show(Record(grid.snapshot(), grid.session().refOf(row), grid.session().sharedPlan()));
}

void FigurePopover::addTerm(QVBoxLayout& list, const TermOrigin& term, std::size_t index, std::int64_t records) {
    const Grouping& grouping = *groupingOf(*snapshot_);
    const PlannedSummary& summary = grouping.summaries[summary_];
    auto* table = new QGridLayout;
    table->setHorizontalSpacing(14);
    table->setVerticalSpacing(3);
    const auto row = [&](const QString& name, const QString& value, std::optional<SourceRow> at, bool isProblem) {
        const int line = table->rowCount();
        table->addWidget(quietLabel(name, facts_), line, 0);
        auto* figure = new QLabel(value, facts_);
        figure->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        if (isProblem) {
            QPalette colours = figure->palette();
            colours.setColor(QPalette::WindowText, look().buoyText);
            figure->setPalette(colours);
        }
        table->addWidget(figure, line, 1);
        if (!at) return;
        auto* link = new QPushButton(nameOf(*at), facts_);
        link->setFlat(true);
        link->setObjectName(QStringLiteral("jump"));
        link->setToolTip(tr("Go to this record"));
        link->setCursor(Qt::PointingHandCursor);
        link->setMaximumHeight(20);
        link->setStyleSheet(QStringLiteral("QPushButton{padding:0 2px}"));
        connect(link, &QPushButton::clicked, this, [this, record = *at] { jumpTo(record); });
        table->addWidget(link, line, 2, Qt::AlignLeft);
    };
    const auto valueText = [&](const RuleValue& value) {
        std::string text;
        // Values of the column read as it writes them; those of rules plainly.
        const auto field = grid_.session().schema().find(fieldOf(summary.design));
        const PlannedColumn* column = nullptr;
        for (const PlannedColumn& c : grid_.session().plan().columns)
            if (field && c.field == *field) column = &c;
        if (column && !column->formatter->isMessage() && !column->label)
            appendFigure(text, {CellState::Filled, value}, *column->formatter);
        else
            text = jollyrow::textOf(value);
        return QString::fromStdString(text.substr(0, 80));
    };
    const SummaryTerm& made = summary.spec.rule.terms[index];
    if (term.filteredOut > 0) row(tr("left out by its condition"), grouped(term.filteredOut), std::nullopt, false);
    row(made.argument ? tr("values counted") : tr("records counted"), grouped(term.counted), std::nullopt, false);
    if (made.argument) row(tr("empty, left out"), grouped(term.empties), term.firstEmpty, false);
    if (term.misfits > 0)
        row(tr("do not fit, left out"), tr("%1 of %2").arg(grouped(term.misfits), grouped(records)), term.firstMisfit,
            true);
    if (term.failed > 0) row(tr("could not be computed"), grouped(term.failed), term.firstFailed, true);
    if (made.argument && term.smallest && term.counted > 1) {
        row(tr("smallest"), valueText(term.smallest->value), term.smallest->row, false);
        row(tr("largest"), valueText(term.largest->value), term.largest->row, false);
    } else if (made.argument && term.smallest) {
        row(tr("value"), valueText(term.smallest->value), term.smallest->row, false);
    }
    table->setColumnStretch(2, 1);
    list.addLayout(table);
}

void FigurePopover::show(const FigureOrigin& origin) {
    const Grouping& grouping = *groupingOf(*snapshot_);
    const PlannedSummary& summary = grouping.summaries[summary_];
    auto* old = std::exchange(facts_, new QWidget(this));
    auto* list = new QVBoxLayout(facts_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(6);
    std::string figure;
    appendFigure(figure, snapshot_->groups->figure(summary_, node_), *summary.formatter);
    auto* value = new QLabel(QString::fromStdString(figure), facts_);
    value->setObjectName(QStringLiteral("figure"));
    value->setFont(sized(20, QFont::DemiBold));
    list->addWidget(value);
    auto* what = new QLabel(
        tr("%1, in %2: %3 records")
            .arg(QString::fromStdString(summary.words), placeOf(*snapshot_, grouping, node_), grouped(origin.records)),
        facts_);
    what->setWordWrap(true);
    list->addWidget(what);
    if (origin.leaving > 0) {
        auto* leaving = quietLabel(
            tr("%n records to be deleted are left out already", nullptr, static_cast<int>(origin.leaving)), facts_);
        leaving->setObjectName(QStringLiteral("leaving"));
        leaving->setWordWrap(true);
        list->addWidget(leaving);
    }
    auto* formula = new QLabel(QString::fromStdString(summary.spec.rule.text), facts_);
    formula->setWordWrap(true);
    formula->setFont(QFont(QStringLiteral("DejaVu Sans Mono"), 9));
    formula->setForegroundRole(QPalette::PlaceholderText);
    list->addWidget(formula);
    const bool several = origin.terms.size() > 1;
    for (std::size_t i = 0; i < origin.terms.size(); ++i) {
        if (several) {
            const EvaluatedCell& cell = origin.aggregates[i];
            auto* part = new QLabel(
                tr("%1 = %2").arg(
                    QString::fromStdString(summary.spec.rule.terms[i].text),
                    isError(cell.state)
                        ? QString::fromUtf8(words(cell.state).data(), static_cast<qsizetype>(words(cell.state).size()))
                        : QString::fromStdString(jollyrow::textOf(cell.value))),
                facts_);
            part->setWordWrap(true);
            part->setFont(sized(12, QFont::DemiBold));
            list->addWidget(part);
        }
        addTerm(*list, origin.terms[i], i, origin.records);
    }
    const bool isReal = summary.spec.rule.type.kind == RuleKind::Real;
    QString note = isError(origin.figure.state) ? tr("A sum of what is left would be wrong, so there is none.")
                   : isReal                     ? tr("Computed with 64-bit floating point, compensated.")
                                                : tr("Computed exactly; nothing was rounded on the way.");
    const std::string exact = jollyrow::textOf(origin.figure.value);
    if (summary.design.as != SummaryAs::Itself)
        note = tr("Of the figure %1.").arg(QString::fromStdString(exact.substr(0, 60)));
    else if (!isReal && origin.figure.state == CellState::Filled && exact.size() > 20 &&
             std::holds_alternative<WideDecimal>(origin.figure.value))
        note = tr("Exactly %1; shown rounded half away from zero.").arg(QString::fromStdString(exact));
    auto* last = quietLabel(note, facts_);
    last->setWordWrap(true);
    list->addWidget(last);
    exchange(old, facts_);
}

}  // namespace jollyrow
