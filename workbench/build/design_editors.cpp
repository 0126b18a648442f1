// SPDX-License-Identifier: MIT
// Covered by the tests of each editor, tests/workbench/tst_filtering.cpp, tst_groups_workbench.cpp, tst_named_rules.cpp
// and tst_faces_workbench.cpp.
#include "workbench/build/design_editors.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QTimer>

#include <algorithm>

#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "core/sources/postgres/pg_source.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/unsaved_edits.h"
#include "workbench/popovers/banners_popover.h"
#include "workbench/popovers/checks_popover.h"
#include "workbench/popovers/computed_popover.h"
#include "workbench/popovers/face_popover.h"
#include "workbench/popovers/figure_popover.h"
#include "workbench/popovers/filter_popover.h"
#include "workbench/popovers/group_popover.h"
#include "workbench/popovers/looks_popover.h"
#include "workbench/popovers/named_popover.h"
#include "workbench/popovers/sort_popover.h"
#include "workbench/popovers/source_popover.h"
#include "workbench/popovers/styles_popover.h"
#include "workbench/popovers/summary_popover.h"
#include "workbench/popovers/summary_table_popover.h"
#include "workbench/popovers/trigger_popover.h"
#include "workbench/rowline/rowline_bar.h"

namespace jollyrow {

DesignEditors::DesignEditors(QWidget& page, Document& document, Grid& grid, RowlineBar& rowline)
    : QObject(&page), page_(page), document_(document), grid_(grid), rowline_(rowline) {
    connect(&rowline_, &RowlineBar::stationClicked, this, &DesignEditors::openStation);
    connect(&grid_, &Grid::figureClicked, this, &DesignEditors::openFigure);
}

void DesignEditors::setDesign(const Design& design) {
    if (sort_) sort_->setDesign(design);
    if (filter_) filter_->setDesign(design);
    if (group_) group_->setDesign(design);
    if (summary_) summary_->setDesign(design);
    if (computed_) computed_->setDesign(design);
    if (face_) face_->setDesign(design);
    if (named_) named_->setDesign(design);
}

void DesignEditors::showRecords() {
    if (filter_) filter_->showCount();
    if (face_) face_->refresh();
}

void DesignEditors::showPictures() {
    if (face_) face_->update();
}

void DesignEditors::openStation(Stage stage) {
    const bool wasOpen = openStage_ == stage;
    close();
    if (wasOpen || !document_.isOpen()) return;
    if (stage == Stage::Source) return openSource();
    if (stage == Stage::Filter) {
        filter_ = new FilterPopover(&page_, document_.design(), grid_.session());
        connect(filter_, &FilterPopover::changed, this, &DesignEditors::takeChange);
        connect(filter_, &FilterPopover::bypassed, this, [this](bool on) {
            grid_.session().view().setBypassed(Stage::Filter, on);
            Q_EMIT bypassed();
        });
        return showPopover(filter_, stage, 700);
    }
    if (stage == Stage::Group || stage == Stage::Summaries) {
        const auto left = [this, stage](bool on) {
            grid_.session().view().setBypassed(stage, on);
            Q_EMIT bypassed();
        };
        if (stage == Stage::Group) {
            group_ = new GroupPopover(&page_, document_.design(), grid_);
            connect(group_, &GroupPopover::changed, this, &DesignEditors::takeChange);
            connect(group_, &GroupPopover::bypassed, this, left);
            return showPopover(group_, stage, 760);
        }
        summary_ = new SummaryPopover(&page_, document_.design(), grid_);
        connect(summary_, &SummaryPopover::changed, this, &DesignEditors::takeChange);
        connect(summary_, &SummaryPopover::bypassed, this, left);
        connect(summary_, &SummaryPopover::tableWanted, this,
                [this] { QTimer::singleShot(0, this, &DesignEditors::openSummaryTable); });
        return showPopover(summary_, stage, 720);
    }
    sort_ = new SortPopover(&page_, document_.design(), grid_);
    connect(sort_, &SortPopover::changed, this, &DesignEditors::takeChange);
    connect(sort_, &SortPopover::bypassed, this, [this](bool on) {
        grid_.session().view().setBypassed(Stage::Sort, on);
        Q_EMIT bypassed();
    });
    showPopover(sort_, stage, 760);
}

void DesignEditors::close() {
    if (open_) open_->close();
    openStage_.reset();
    rowline_.setOpenStage(std::nullopt);
    if (page_.isVisible()) grid_.setFocus();
}

void DesignEditors::showPopover(Popover* popover, Stage stage, int width) {
    open_ = popover;
    openStage_ = stage;
    rowline_.setOpenStage(stage);
    connect(popover, &Popover::closed, this, [this] {
        // A click on the open station closes it by being elsewhere; the click itself must not open it again.
        rowline_.setOpenStage(std::nullopt);
        grid_.setFocus();
        QTimer::singleShot(0, this, [this] { openStage_.reset(); });
    });
    QRect anchor = rowline_.stationRect(stage);
    anchor.moveTopLeft(rowline_.mapTo(&page_, anchor.topLeft()));
    popover->openUnder(anchor, width);
}

void DesignEditors::takeChange(const DesignChange& change, const QString& label) { document_.change(change, label); }

FacePopover* DesignEditors::face() const { return face_; }

/// Under the first line of the column, so that headings and cells stay in sight.
void DesignEditors::openFace(const QString& field) {
    close();
    const auto& plan = grid_.session().plan();
    const bool isShown = std::any_of(plan.columns.begin(), plan.columns.end(),
                                     [&](const PlannedColumn& c) { return c.design.field == field.toStdString(); });
    if (!document_.isOpen() || !isShown)
        return Q_EMIT said(tr("%1 is not shown; show it to compose its face.")
                               .arg(headingOfField(document_.design(), field.toStdString())),
                           true);
    grid_.selection().showColumn(field);
    face_ = new FacePopover(&page_, document_.design(), grid_, field.toStdString());
    open_ = face_;
    connect(face_, &FacePopover::closed, this, [this] { grid_.setFocus(); });
    connect(face_, &FacePopover::changed, this,
            [this](const DesignChange& change, const QString& label, Joining joining) {
                Design next = document_.design();
                change(next);
                document_.apply(next, label, joining);
            });
    connect(face_, &FacePopover::widthWanted, this, [this, field](int pixels) {
        Design next = document_.design();
        if (ColumnDesign* column = next.column(field.toStdString())) {
            column->width.mode = WidthMode::Fixed;
            column->width.pixels = std::min(pixels, Width::kMostPixels);
        }
        document_.apply(next, tr("Widen %1").arg(headingOfField(document_.design(), field.toStdString())));
    });
    QRect anchor = grid_.places().heading(field);
    anchor.setHeight(anchor.height() + 2 * document_.design().grid.rowHeight);  // two records stay in sight
    anchor.moveTopLeft(grid_.viewport()->mapTo(&page_, anchor.topLeft()));
    face_->openUnder(anchor, 900);
}

void DesignEditors::openComputed(const std::optional<QString>& field) {
    close();
    if (!document_.isOpen()) return;
    const QString behind = behind_;
    auto* popover =
        new ComputedPopover(&page_, document_.design(), grid_,
                            field ? std::optional(field->toStdString()) : std::nullopt, behind.toStdString());
    open_ = computed_ = popover;
    connect(popover, &ComputedPopover::changed, this, &DesignEditors::takeChange);
    connect(popover, &ComputedPopover::added, this, [this](const QString& added) {
        Q_EMIT columnAdded(added);
        grid_.selection().showColumn(added);
    });
    connect(popover, &Popover::closed, this, [this] { grid_.setFocus(); });
    const QString at = field.value_or(behind);
    if (!at.isEmpty()) grid_.selection().showColumn(at);
    QRect anchor = at.isEmpty() ? QRect(grid_.width() / 2, 0, 1, 30) : grid_.places().heading(at);
    if (anchor.isEmpty()) anchor = QRect(grid_.width() / 2, 0, 1, 30);
    anchor.moveTopLeft(grid_.viewport()->mapTo(&page_, anchor.topLeft()));
    popover->openUnder(anchor, 560);
}

void DesignEditors::openParameters() { openNamed(new ParametersPopover(&page_, document_.design(), grid_.session())); }

void DesignEditors::openOperators() { openNamed(new OperatorsPopover(&page_, document_.design(), grid_.session())); }

void DesignEditors::openChecks() { openNamed(new ChecksPopover(&page_, document_.design(), grid_)); }

void DesignEditors::openBanners() { openNamed(new BannersPopover(&page_, document_.design(), grid_)); }

void DesignEditors::openLooks() { openNamed(new LooksPopover(&page_, document_.design(), grid_)); }

void DesignEditors::openStyles() { openNamed(new StylesPopover(&page_, document_.design(), grid_)); }

void DesignEditors::openTrigger() {
    const TableSchema& schema = grid_.session().schema();
    std::vector<std::string> keys;
    for (const FieldSchema& field : schema.fields)
        if (field.primaryKeyRank > 0) keys.push_back(field.name);
    // Of a table that points to itself its own trigger tells.
    std::vector<std::string> related;
    for (const Join& join : schema.joins)
        if (join.table != schema.name && std::find(related.begin(), related.end(), join.table) == related.end())
            related.push_back(join.table);
    close();
    auto* popover = new TriggerPopover(&page_, QString::fromStdString(schema.name),
                                       QString::fromStdString(postgres::triggerSql(schema.name, keys, related)));
    open_ = popover;
    connect(popover, &Popover::closed, this, [this] { grid_.setFocus(); });
    const QRect top(grid_.width() / 2, 0, 1, 4);
    popover->openUnder({grid_.mapTo(&page_, top.topLeft()), top.size()}, 760);
}

void DesignEditors::openNamed(NamedPopover* popover) {
    close();
    open_ = named_ = popover;
    connect(popover, &NamedPopover::changed, this, &DesignEditors::takeChange);
    connect(popover, &Popover::closed, this, [this] { grid_.setFocus(); });
    const QRect top(grid_.width() / 2, 0, 1, 4);
    popover->openUnder({grid_.mapTo(&page_, top.topLeft()), top.size()}, 760);
}

void DesignEditors::openSource() {
    std::vector<TableSummary> tables;
    if (auto source = jollyrow::openSource(document_.databasePath().toStdString())) {
        auto found = tablesOf(**source, document_.databasePath());
        if (!found) return Q_EMIT said(QString::fromStdString(found.error().message), true);
        tables = std::move(*found);
    }
    auto* popover = new SourcePopover(&page_, document_.databasePath(), document_.design().source, tables);
    const auto bind = [this, popover](const QString& table, const QString& query) {
        const SourceDesign& now = document_.design().source;
        if (now.table == table.toStdString() && now.query == query.toStdString()) return close();
        if (!mayDropEdits(&page_, grid_, tr("Bind to another source"))) return;
        if (auto bound = document_.rebind(table, query); !bound)
            popover->showProblem(QString::fromStdString(bound.error().message));
    };
    connect(popover, &SourcePopover::tableChosen, this, [bind](const QString& table) { bind(table, {}); });
    connect(popover, &SourcePopover::queryChosen, this, [bind](const QString& query) { bind({}, query); });
    connect(popover, &SourcePopover::reloadChosen, this, [this] {
        close();
        grid_.reload();
    });
    showPopover(popover, Stage::Source, 780);
}

void DesignEditors::openFigure(int summary, quint32 node, const QRect& where) {
    close();
    auto* popover = new FigurePopover(&page_, grid_, summary, node);
    open_ = popover;
    connect(popover, &Popover::closed, this, [this] { grid_.setFocus(); });
    QRect anchor = where;
    anchor.moveTopLeft(grid_.viewport()->mapTo(&page_, where.topLeft()));
    popover->openUnder(anchor, 400);
}

void DesignEditors::openSummaryTable() {
    close();
    if (!document_.isOpen()) return;
    const Grouping& grouping = *grid_.session().plan().grouping;
    if (grouping.groups.empty() || grouping.summaries.empty())
        return Q_EMIT said(
            tr("A summary table shows groups and figures: drop a heading on Group and one on Summaries."), true);
    auto* popover = new SummaryTablePopover(&page_, grid_);
    connect(popover, &SummaryTablePopover::changed, this, &DesignEditors::takeChange);
    connect(popover, &SummaryTablePopover::designWanted, this, [this, popover] {
        const QString proposed = QFileInfo(document_.databasePath()).dir().filePath(QStringLiteral("summary.jrow"));
        const QString path = QFileDialog::getSaveFileName(&page_, tr("Make a design of the summary table"), proposed,
                                                          tr("Designs (*.jrow)"));
        if (path.isEmpty()) return;
        if (auto written = popover->writeTo(path); !written)
            return Q_EMIT said(QString::fromStdString(written.error().message), true);
        close();
        Q_EMIT openWanted(path);
    });
    showPopover(popover, Stage::Summaries, 980);
}

}  // namespace jollyrow
