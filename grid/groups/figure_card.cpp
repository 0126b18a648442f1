// SPDX-License-Identifier: MIT
#include "grid/groups/figure_card.h"

#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QScreen>
#include <QVBoxLayout>

#include <algorithm>

#include "core/design/cell_text.h"
#include "core/design/grouping.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/inside/bound_order.h"
#include "grid/paint/grouped.h"
#include "grid/paint/looks.h"

namespace jollyrow {
namespace {

QLabel* quietLabel(const QString& words, QWidget* parent) {
    auto* label = new QLabel(words, parent);
    label->setTextFormat(Qt::PlainText);
    label->setForegroundRole(QPalette::PlaceholderText);
    return label;
}

/// The widget's own font at another size, in pixels of a font of 13.
QFont sized(const QWidget& like, double pixels, QFont::Weight weight) {
    QFont font = like.font();
    font.setPixelSize(qRound(QFontInfo(font).pixelSize() * pixels / 13));
    font.setWeight(weight);
    return font;
}

/// Rows mean the same records in both: nothing was read again between them.
bool isOfOneReading(const Snapshot& one, const Snapshot& other) {
    const Table &a = *one.table, &b = *other.table;
    for (std::size_t i = 0; i < std::min(a.schema.storedFields(), b.schema.storedFields()); ++i)
        if (a.columns[i] && b.columns[i]) return a.columns[i]->id() == b.columns[i]->id();
    return one.table == other.table;
}

/// "In hand › North pontoon"; the totals have no group.
QString placeOf(const Snapshot& snapshot, const Grouping& grouping, quint32 node) {
    const GroupTree& tree = *snapshot.groups->tree;
    if (node > tree.nodes.size() + 1) return FigureCard::tr("the selected records");
    if (node > tree.nodes.size()) return FigureCard::tr("all records");
    if (node == tree.nodes.size()) return FigureCard::tr("all records shown");
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

FigureCard::FigureCard(Grid& grid, int summary, quint32 node, QWidget* parent)
    : QFrame(parent),
      grid_(grid),
      summary_(static_cast<std::size_t>(summary)),
      node_(node),
      facts_(new QWidget(this)),
      snapshot_(grid.snapshot()) {
    setAccessibleName(tr("How this figure was made"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(facts_);
    const Grouping* grouping = groupingOf(*snapshot_);
    auto* list = new QVBoxLayout(facts_);
    list->setContentsMargins(0, 0, 0, 0);
    list->addWidget(quietLabel(tr("looking at the records…"), facts_));
    if (!grouping || summary_ >= grouping->summaries.size()) return;
    const auto show = [target = QPointer<FigureCard>(this)](const Result<FigureOrigin>& origin) {
        if (target && origin && isOfOneReading(*target->snapshot_, *target->grid_.snapshot())) target->fill(*origin);
    };
    // Its rows are those of the records as they were read then.
    connect(&grid, &Grid::snapshotChanged, this, [this] {
        if (!isOfOneReading(*snapshot_, *grid_.snapshot())) Q_EMIT left();
    });
    const std::size_t shown = snapshot_->groups ? snapshot_->groups->tree->nodes.size() : 0;
    if (node <= shown) {
        grid.session().questions().originOf(summary_, node, show);
        return;
    }
    std::vector<SourceRow> rows = grid.selection().rows();
    if (node == shown + 1) {
        rows.clear();
        forEachBound(*snapshot_, [&](SourceRow row) { rows.push_back(row); });
    }
    grid.session().questions().originOf(summary_, rows, show);
}

namespace {
/// On the window itself, and gone as soon as anything else is pressed.
class CardPopup final : public QFrame {
  public:
    explicit CardPopup(QWidget* window) : QFrame(window, Qt::Popup) { setAttribute(Qt::WA_DeleteOnClose); }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& t = tokensAt(*this);
        QPainter painter(this);
        painter.setPen(QPen(t.popEdge, 1));
        painter.setBrush(t.page);
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
};
}  // namespace

void FigureCard::popUp(Grid& grid, int summary, quint32 node, const QRect& where) {
    auto* popup = new CardPopup(grid.window());
    auto* column = new QVBoxLayout(popup);
    column->setContentsMargins(14, 12, 14, 12);
    auto* card = new FigureCard(grid, summary, node, popup);
    column->addWidget(card);
    popup->setMinimumWidth(360);
    const QPoint below = grid.viewport()->mapToGlobal(where.bottomLeft() + QPoint(0, 3));
    const auto place = [popup, below, above = grid.viewport()->mapToGlobal(where.topLeft()).y() - 3] {
        popup->adjustSize();
        const QRect screen = popup->screen()->availableGeometry();
        const bool isRoom = below.y() + popup->height() <= screen.bottom();
        const int x = std::clamp(below.x(), screen.left(), std::max(screen.left(), screen.right() - popup->width()));
        popup->move(x, isRoom ? below.y() : std::max(screen.top(), above - popup->height()));
    };
    QObject::connect(card, &FigureCard::filled, popup, place);
    QObject::connect(card, &FigureCard::left, popup, &QWidget::close);
    QObject::connect(&grid, &QObject::destroyed, popup, &QObject::deleteLater);  // the window may stay
    place();
    popup->show();
    card->setFocus();
}

/// A record by its keys and the first column that says something else.
QString FigureCard::nameOf(SourceRow row) const {
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

void FigureCard::jumpTo(SourceRow row) {
    Grid& grid = grid_;
    Q_EMIT left();
    grid.selection().show(Record(grid.snapshot(), grid.session().refOf(row), grid.session().sharedPlan()));
}

void FigureCard::addTerm(QVBoxLayout& list, const TermOrigin& term, std::size_t index, std::int64_t records) {
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
            colours.setColor(QPalette::WindowText, tokensAt(*this).buoyText);
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

void FigureCard::fill(const FigureOrigin& origin) {
    const Grouping& grouping = *groupingOf(*snapshot_);
    const PlannedSummary& summary = grouping.summaries[summary_];
    auto* old = std::exchange(facts_, new QWidget(this));
    auto* list = new QVBoxLayout(facts_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(6);
    std::string figure;
    const bool isOfGroups = node_ <= snapshot_->groups->tree->nodes.size();
    appendFigure(figure, isOfGroups ? snapshot_->groups->figure(summary_, node_) : origin.figure, *summary.formatter);
    auto* value = new QLabel(QString::fromStdString(figure), facts_);
    value->setObjectName(QStringLiteral("figure"));
    value->setFont(sized(*this, 20, QFont::DemiBold));
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
            part->setFont(sized(*this, 12, QFont::DemiBold));
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
    addShow(*list, origin);
    layout()->replaceWidget(old, facts_);
    old->hide();
    old->deleteLater();
    Q_EMIT filled();
}

/// What is counted, alone in the grid, as if it had been found; of what is filtered out only that it is there.
void FigureCard::addShow(QVBoxLayout& list, const FigureOrigin& origin) {
    if (!origin.made || origin.made->count == 0) return;
    std::vector<std::uint32_t> rows;
    for (std::int64_t i = 0; i < snapshot_->recordCount(); ++i)
        if (const std::uint32_t row = raw(snapshot_->record(i)); origin.made->contains(row)) rows.push_back(row);
    if (rows.empty()) return;
    const auto count = static_cast<qint64>(rows.size()), all = static_cast<qint64>(origin.made->count);
    RecordSet none;
    none.rows = origin.made->rows;
    none.bits.assign(origin.made->bits.size(), 0);
    const Grouping& grouping = *groupingOf(*snapshot_);
    const QString what =
        tr("%1, in %2")
            .arg(QString::fromStdString(grouping.summaries[summary_].words), placeOf(*snapshot_, grouping, node_));
    auto* show = new QPushButton(count < all ? tr("Show the %1 of them that are not filtered out").arg(grouped(count))
                                 : all == 1  ? tr("Show the record that made it")
                                             : tr("Show the %1 records that made it").arg(grouped(all)),
                                 facts_);
    show->setObjectName(QStringLiteral("showRecords"));
    show->setToolTip(tr("Hides all others until the bar in the corner is closed"));
    connect(show, &QPushButton::clicked, this, [this, made = with(none, rows), what] {
        Grid& grid = grid_;
        Q_EMIT left();
        grid.showFound(made, what);
    });
    list.addWidget(show, 0, Qt::AlignLeft);
}

}  // namespace jollyrow
