// SPDX-License-Identifier: MIT
#include "workbench/build_page.h"

#include <QFileInfo>
#include <QFrame>
#include <QHBoxLayout>
#include <QTimer>
#include <QVBoxLayout>

#include "core/design/make_design.h"
#include "core/formats/text_format.h"
#include "workbench/columns_outline.h"
#include "workbench/fittings.h"
#include "workbench/look.h"
#include "workbench/rowline_bar.h"
#include "workbench/sort_popover.h"
#include "workbench/source_popover.h"

namespace jollyrow {
namespace {

constexpr int kOutlineWidth = 194;
constexpr int kFittingsWidth = 256;

/// A hairline between two panels.
QWidget* hairline(QWidget* parent) {
    auto* line = new QFrame(parent);
    line->setFixedWidth(1);
    line->setAutoFillBackground(true);
    line->setBackgroundRole(QPalette::Mid);
    return line;
}

}  // namespace

BuildPage::BuildPage(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      rowline_(new RowlineBar(this)),
      outline_(new ColumnsOutline(this)),
      grid_(new Grid(this)),
      fittings_(new Fittings(this)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(rowline_);
    auto* panels = new QHBoxLayout;
    panels->setSpacing(0);
    outline_->setFixedWidth(kOutlineWidth);
    fittings_->setFixedWidth(kFittingsWidth);
    panels->addWidget(outline_);
    panels->addWidget(hairline(this));
    panels->addWidget(grid_, 1);
    panels->addWidget(hairline(this));
    panels->addWidget(fittings_);
    layout->addLayout(panels, 1);

    connect(&document_, &Document::opened, this, &BuildPage::documentOpened);
    connect(&document_, &Document::designChanged, this, &BuildPage::documentChanged);
    connect(&document_, &Document::cellWanted, this, &BuildPage::writeCell);

    connect(grid_, &Grid::designEdited, this,
            [this](const QString& label) { document_.apply(grid_->design(), label); });
    connect(grid_, &Grid::headingClicked, this, [this](const QString& field) { selectColumn(field); });
    connect(grid_, &Grid::headingDragged, this, [this](const QString& field, const QPoint& at) {
        const QString words = document_.design().sort.empty() ? headingOf(field) : tr("then %1").arg(headingOf(field));
        rowline_->dragOver(at, words);
    });
    connect(grid_, &Grid::headingDropped, this, &BuildPage::takeDrop);
    connect(grid_, &Grid::snapshotChanged, this, [this] {
        refreshRowline();
        refreshFittings();
    });
    connect(grid_, &Grid::loadProgressed, this, &BuildPage::refreshRowline);
    connect(grid_, &Grid::loadEnded, this, &BuildPage::refreshOutline);  // the table may have other columns now
    connect(grid_, &Grid::currentRecordChanged, this, &BuildPage::refreshFittings);
    connect(grid_, &Grid::cellEdited, this,
            [this](const Record& record, const QString& field, const Value& before, const Value& after) {
                document_.noteCell(record.key(), field, before, after, tr("Edit %1").arg(headingOf(field)));
            });
    connect(grid_, &Grid::failed, this, [this](const QString& message) { Q_EMIT said(message, true); });

    connect(outline_, &ColumnsOutline::selected, this, [this](const QString& field) { selectColumn(field); });
    connect(outline_, &ColumnsOutline::shownToggled, this, &BuildPage::toggleShown);
    connect(outline_, &ColumnsOutline::moved, this, &BuildPage::moveColumn);
    connect(outline_, &ColumnsOutline::added, this, &BuildPage::addColumn);
    connect(fittings_, &Fittings::changed, this, [this](const Design& next, const QString& label, Joining joining) {
        document_.apply(next, label, joining);
    });
    connect(rowline_, &RowlineBar::stationClicked, this, &BuildPage::openStation);
}

QString BuildPage::headingOf(const QString& field) const {
    const ColumnDesign* column = document_.design().column(field.toStdString());
    return column ? QString::fromStdString(column->heading) : field;
}

void BuildPage::documentOpened() {
    closePopover();
    selected_.reset();
    grid_->setDesignColumn(std::nullopt);
    if (auto opened = grid_->open(document_.design(), document_.databasePath()); !opened)
        Q_EMIT said(QString::fromStdString(opened.error().message), true);
    refreshOutline();
    refreshRowline();
    refreshFittings();
}

void BuildPage::documentChanged() {
    grid_->setDesign(document_.design());
    if (selected_ && !document_.design().column(selected_->toStdString())) selectColumn(std::nullopt);
    if (sortPopover_) sortPopover_->setDesign(document_.design());
    refreshOutline();
    refreshRowline();
    refreshFittings();
}

void BuildPage::refreshOutline() { outline_->setContent(document_.design(), grid_->session().schema()); }

void BuildPage::refreshRowline() {
    if (!document_.isOpen() || !grid_->snapshot()) return;
    const Snapshot& snapshot = *grid_->snapshot();
    const Design& design = document_.design();
    Station source;
    source.stage = Stage::Source;
    const QString file = QFileInfo(document_.databasePath()).fileName();
    source.sentence = design.source.query.empty()
                          ? tr("%1 of %2").arg(QString::fromStdString(design.source.table), file)
                          : tr("a SELECT on %1").arg(file);
    source.rowsOut = grid_->isLoading() ? std::max(grid_->session().progress().rows, snapshot.source.rowsOut)
                                        : snapshot.source.rowsOut;
    source.milliseconds = snapshot.source.milliseconds;

    Station sort;
    sort.stage = Stage::Sort;
    sort.rowsOut = snapshot.sort.rowsOut;
    sort.milliseconds = snapshot.sort.milliseconds;
    sort.isIdle = design.sort.empty();
    sort.sentence = sort.isIdle ? tr("in the order of the database") : tr("by ");
    for (std::size_t i = 0; i < design.sort.size(); ++i) {
        const QString heading = headingOf(QString::fromStdString(design.sort[i].field));
        sort.sentence += (i == 0 ? QString() : tr(", then ")) + heading +
                         (design.sort[i].direction == Direction::Descending ? tr(" downwards") : QString());
        sort.words.push_back(heading);
        sort.fields.push_back(QString::fromStdString(design.sort[i].field));
    }
    rowline_->setStations({source, sort});
    rowline_->setDesignColumn(selected_);
}

void BuildPage::refreshFittings() {
    int width = 0;
    QString sample;
    if (selected_) {
        width = grid_->headingRect(*selected_).width();
        const Record record = grid_->currentRecord().isValid() ? grid_->currentRecord() : grid_->recordAt(0);
        sample = record.text(selected_->toStdString()).simplified();
        if (record.isValid() && sample.isEmpty()) sample = QStringLiteral("–");
    }
    fittings_->setContent(document_.design(), grid_->session().schema(), selected_, width, sample);
}

void BuildPage::selectColumn(const std::optional<QString>& field) {
    selected_ = field;
    grid_->setDesignColumn(field);
    outline_->setSelected(field);
    rowline_->setDesignColumn(field);
    refreshFittings();
}

void BuildPage::toggleShown(const QString& field) {
    Design next = document_.design();
    ColumnDesign* column = next.column(field.toStdString());
    if (!column) return;
    column->shown = !column->shown;
    document_.apply(next, column->shown ? tr("Show %1").arg(headingOf(field)) : tr("Hide %1").arg(headingOf(field)));
}

void BuildPage::moveColumn(const QString& field, const QString& before) {
    Design next = document_.design();
    const ColumnDesign* found = next.column(field.toStdString());
    if (!found || field == before) return;
    const ColumnDesign column = *found;
    std::erase_if(next.columns, [&](const ColumnDesign& c) { return c.field == column.field; });
    const auto place = std::find_if(next.columns.begin(), next.columns.end(),
                                    [&](const ColumnDesign& c) { return c.field == before.toStdString(); });
    next.columns.insert(place, column);
    document_.apply(next, tr("Move %1").arg(headingOf(field)));
}

void BuildPage::moveSelected(int by) {
    if (!selected_) return;
    const auto& columns = document_.design().columns;
    const auto at = std::find_if(columns.begin(), columns.end(),
                                 [&](const ColumnDesign& c) { return c.field == selected_->toStdString(); });
    const auto index = at - columns.begin() + (by > 0 ? 2 : -1);
    if (at == columns.end() || index < 0 || index > static_cast<std::ptrdiff_t>(columns.size())) return;
    moveColumn(*selected_, index == static_cast<std::ptrdiff_t>(columns.size())
                               ? QString()
                               : QString::fromStdString(columns[static_cast<std::size_t>(index)].field));
}

void BuildPage::sortSelected(Direction direction) {
    if (!selected_) return;
    Design next = document_.design();
    next.sort.assign(1, {selected_->toStdString(), direction, Empties::Last});
    document_.apply(next, tr("Sort by %1").arg(headingOf(*selected_)));
}

void BuildPage::addColumn(const QString& field) {
    const auto index = grid_->session().schema().find(field.toStdString());
    if (!index) return;
    Design next = document_.design();
    ColumnDesign column = columnFor(grid_->session().schema().field(*index));
    column.shown = true;
    next.columns.push_back(column);
    document_.apply(next, tr("Add %1").arg(QString::fromStdString(column.heading)));
    selectColumn(field);
}

void BuildPage::takeDrop(const QString& field, const QPoint& globalPosition) {
    const auto taken = rowline_->dragOver(globalPosition, {});
    rowline_->dragEnd();
    if (taken != Stage::Sort) return;
    const auto index = grid_->session().schema().find(field.toStdString());
    const Type type = index ? grid_->session().schema().field(*index).type : Type::Text;
    if (type == Type::Binary || type == Type::NumberList) {
        Q_EMIT said(tr("%1 holds %2, which has no order.")
                        .arg(headingOf(field),
                             QString::fromUtf8(article(type).data(), static_cast<qsizetype>(article(type).size()))),
                    true);
        return;
    }
    Design next = document_.design();
    std::erase_if(next.sort, [&](const SortDesign& key) { return key.field == field.toStdString(); });
    next.sort.push_back({field.toStdString(), Direction::Ascending, Empties::Last});
    document_.apply(next, tr("Sort by %1").arg(headingOf(field)));
}

void BuildPage::writeCell(const RecordKey& key, const QString& field, const Value& value) {
    const auto row = grid_->session().rowOf(key);
    if (!row) {
        Q_EMIT said(tr("The record of that edit is no longer there."), true);
        return;
    }
    grid_->setValue(Record(grid_->snapshot(), *row), field, value);
    if (const auto line = grid_->snapshot()->lineOf(*row)) grid_->showLine(raw(*line));
}

void BuildPage::closePopover() {
    if (popover_) popover_->close();
    openStage_.reset();
    rowline_->setOpenStage(std::nullopt);
    if (isVisible()) grid_->setFocus();
}

void BuildPage::showPopover(Popover* popover, Stage stage, int width) {
    popover_ = popover;
    openStage_ = stage;
    rowline_->setOpenStage(stage);
    connect(popover, &Popover::closed, this, [this] {
        // A click on the open station closes it by being elsewhere; the click itself must not open it again.
        rowline_->setOpenStage(std::nullopt);
        grid_->setFocus();
        QTimer::singleShot(0, this, [this] { openStage_.reset(); });
    });
    QRect anchor = rowline_->stationRect(stage);
    anchor.moveTopLeft(rowline_->mapTo(this, anchor.topLeft()));
    popover->openUnder(anchor, width);
}

void BuildPage::openStation(Stage stage) {
    const bool wasOpen = openStage_ == stage;
    closePopover();
    if (wasOpen || !document_.isOpen()) return;
    if (stage == Stage::Source) return openSource();
    sortPopover_ = new SortPopover(this, document_.design(), grid_->session().schema());
    connect(sortPopover_, &SortPopover::changed, this, [this](const Design& next, const QString& label) {
        Design merged = document_.design();
        merged.sort = next.sort;
        document_.apply(merged, label);
    });
    showPopover(sortPopover_, stage, 600);
}

void BuildPage::openSource() {
    std::vector<TableSummary> tables;
    if (auto source = jollyrow::openSource(document_.databasePath().toStdString()))
        if (auto found = (*source)->tables()) tables = std::move(*found);
    auto* popover = new SourcePopover(this, document_.databasePath(), document_.design().source, tables);
    const auto bind = [this, popover](const QString& table, const QString& query) {
        const QString path = document_.databasePath();
        if (auto opened = document_.openDatabase(path, table, query); !opened)
            popover->showProblem(QString::fromStdString(opened.error().message));
    };
    connect(popover, &SourcePopover::tableChosen, this, [bind](const QString& table) { bind(table, {}); });
    connect(popover, &SourcePopover::queryChosen, this, [bind](const QString& query) { bind({}, query); });
    connect(popover, &SourcePopover::reloadChosen, this, [this] {
        closePopover();
        grid_->reload();
    });
    showPopover(popover, Stage::Source, 430);
}

void BuildPage::resizeEvent(QResizeEvent*) { closePopover(); }

}  // namespace jollyrow
