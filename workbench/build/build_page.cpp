// SPDX-License-Identifier: MIT
#include "workbench/build/build_page.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QSplitter>
#include <QTimer>
#include <QVBoxLayout>

#include "core/base/source_address.h"
#include "core/design/condition.h"
#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "core/formats/text_format.h"
#include "core/session/session.h"
#include "core/sources/postgres/pg_source.h"
#include "grid/api/filter_words.h"
#include "grid/api/parameter_bar.h"
#include "grid/headings/heading_landing.h"
#include "grid/records/drafts_bar.h"
#include "workbench/app/look.h"
#include "workbench/app/unsaved_edits.h"
#include "workbench/build/columns_outline.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fittings.h"
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
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

constexpr int kOutlineWidth = 186;
constexpr int kFittingsWidth = 262;

}  // namespace

BuildPage::BuildPage(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      rowline_(new RowlineBar(this)),
      panels_(new QSplitter(this)),
      outline_(new ColumnsOutline(this)),
      grid_(new Grid(this)),
      parameters_(new ParameterBar(*grid_, this)),
      words_(new FilterWords(*grid_, this)),
      fittings_(new Fittings(this)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(rowline_);
    panels_->setHandleWidth(1);
    panels_->setStyleSheet(QStringLiteral("QSplitter::handle{background:palette(mid)}"));
    panels_->setChildrenCollapsible(false);
    outline_->setMinimumWidth(kOutlineWidth * 3 / 4);
    outline_->setMaximumWidth(kOutlineWidth * 3);
    fittings_->setMinimumWidth(kFittingsWidth * 9 / 10);
    fittings_->setMaximumWidth(kFittingsWidth * 2);
    auto* centre = new QWidget(this);
    auto* middle = new QVBoxLayout(centre);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    words_->setBuilderOffered(true);
    middle->addWidget(parameters_);
    middle->addWidget(new DraftsBar(*grid_, this));
    middle->addWidget(words_);
    middle->addWidget(grid_, 1);
    for (QWidget* panel : {static_cast<QWidget*>(outline_), centre, static_cast<QWidget*>(fittings_)})
        panels_->addWidget(panel);
    for (int i = 0; i < panels_->count(); ++i) panels_->setStretchFactor(i, i == 1 ? 1 : 0);
    panels_->setSizes({kOutlineWidth, 1280 - kOutlineWidth - kFittingsWidth, kFittingsWidth});
    layout->addWidget(panels_, 1);
    connectDocument();
    connectGrid();
    connectOutline();
    connect(rowline_, &RowlineBar::stationClicked, this, &BuildPage::openStation);
}

void BuildPage::connectDocument() {
    connect(&document_, &Document::opened, this, &BuildPage::documentOpened);
    connect(&document_, &Document::designChanged, this, &BuildPage::documentChanged);
}

void BuildPage::connectGrid() {
    connect(grid_, &Grid::designEdited, this, [this](const QString& label) {
        document_.apply(grid_->design(), label,
                        grid_->isTypingFilter() ? Joining::WithLastOfSameName : Joining::OwnStep);
    });
    grid_->setDesigning(true);
    connect(words_, &FilterWords::edited, this,
            [this](const QString& label) { document_.apply(grid_->design(), label); });
    connect(words_, &FilterWords::builderWanted, this, [this] { openStation(Stage::Filter); });
    connect(grid_, &Grid::headingClicked, this, &BuildPage::extendSelection);
    connect(grid_, &Grid::tierClicked, this, &BuildPage::selectTier);
    connect(grid_, &Grid::headingDragged, this, &BuildPage::showDrag);
    connect(grid_, &Grid::headingDropped, this, &BuildPage::takeDrop);
    connect(grid_, &Grid::picturesArrived, this, [this] {
        fittings_->update();
        if (facePopover_) facePopover_->update();
    });
    connect(grid_, &Grid::snapshotChanged, this, [this] {
        refreshRowline();
        refreshFittings();
        if (filterPopover_) filterPopover_->showCount();
        if (facePopover_) facePopover_->refresh();
    });
    connect(grid_, &Grid::loadProgressed, this, &BuildPage::refreshRowline);
    connect(grid_, &Grid::loadEnded, this, &BuildPage::refreshOutline);  // the table may have other columns now
    connect(grid_, &Grid::currentRecordChanged, this, &BuildPage::refreshFittings);
    connect(grid_, &Grid::stepMade, &document_, &Document::noteRecords);
    connect(grid_, &Grid::schemasRead, this, [this] {
        refreshOutline();
        const QStringList names = ruleNames(grid_->session(), document_.design());
        for (RuleEntry* rule : findChildren<RuleEntry*>()) rule->addNames(names);
    });
    document_.setRecordSteps([this](bool forward) { return carryRecords(forward); });
    connect(&document_, &Document::recordsForgotten, this, [this](const QString& label) {
        Q_EMIT said(tr("\"%1\" was in records that were left since: it stays as it is.").arg(label), false);
    });
    connect(grid_, &Grid::figureClicked, this, &BuildPage::openFigure);
    connect(grid_, &Grid::failed, this, [this](const QString& message) { Q_EMIT said(message, true); });
}

void BuildPage::showDrag(const QString& field, const QPoint& at) {
    const QString then = tr("then %1").arg(headingOf(field));
    const Design& design = document_.design();
    const auto over = rowline_->dragOver(at, headingOf(field));
    if ((over == Stage::Sort && !design.sort.empty()) || (over == Stage::Group && !design.groups.empty()))
        rowline_->dragOver(at, then);
    if (over == Stage::Summaries) {
        const SummaryDesign summary = newSummary(design, grid_->session().schema(), field.toStdString());
        const auto index = grid_->session().schema().find(field.toStdString());
        const Type type = index ? grid_->session().schema().field(*index).type : Type::Integer;
        rowline_->dragOver(
            at, tr("%1 of %2").arg(QString::fromStdString(jollyrow::words(summary.show, type)), headingOf(field)));
    }
}

void BuildPage::connectOutline() {
    connect(outline_, &ColumnsOutline::selected, this, [this](const QString& field, Qt::KeyboardModifiers modifiers) {
        extendSelection(field, modifiers);
        grid_->showColumn(field);
    });
    connect(outline_, &ColumnsOutline::tierSelected, this, &BuildPage::selectTier);
    connect(outline_, &ColumnsOutline::shownToggled, this, &BuildPage::toggleShown);
    connect(outline_, &ColumnsOutline::tierShownToggled, this, [this](const QString& name, bool shown) {
        Design next = document_.design();
        showTier(next, name.toStdString(), shown);
        document_.apply(next, (shown ? tr("Show %1") : tr("Hide %1")).arg(headingOfTier(next, name.toStdString())));
    });
    connect(outline_, &ColumnsOutline::moved, this,
            [this](const std::vector<std::string>& fields, const Landing& to) { applyMove(fields, {}, to); });
    connect(outline_, &ColumnsOutline::tierMoved, this,
            [this](const QString& name, const Landing& to) { applyMove({}, name, to); });
    connect(outline_, &ColumnsOutline::added, this, &BuildPage::addColumn);
    connect(outline_, &ColumnsOutline::removed, this, [this](const std::vector<std::string>& fields) {
        Design next = document_.design();
        removeColumns(next, fields);
        document_.apply(next, fields.size() == 1
                                  ? tr("Take %1 out").arg(headingOf(QString::fromStdString(fields.front())))
                                  : tr("Take %1 columns out").arg(fields.size()));
    });
    connect(outline_, &ColumnsOutline::computedWanted, this, [this] { openComputed(std::nullopt); });
    connect(fittings_, &Fittings::stylesWanted, this, &BuildPage::openStyles);
    connect(fittings_, &Fittings::bannersWanted, this, &BuildPage::openBanners);
    connect(fittings_, &Fittings::checksWanted, this, &BuildPage::openChecks);
    connect(fittings_, &Fittings::triggerWanted, this, &BuildPage::openTrigger);
    connect(fittings_, &Fittings::looksWanted, this, &BuildPage::openLooks);
    connect(fittings_, &Fittings::composeWanted, this, &BuildPage::openFace);
    connect(fittings_, &Fittings::ruleWanted, this, [this](const QString& field) { openComputed(field); });
    connect(fittings_, &Fittings::changed, this, [this](const Design& next, const QString& label, Joining joining) {
        const SourceDesign &now = document_.design().source, &then = next.source;
        const bool reads = now.readAs != then.readAs || now.zone != then.zone;
        if (reads && !mayDropEdits(this, *grid_, label)) return refreshFittings();
        document_.apply(next, label, joining);
    });
}

QString BuildPage::headingOf(const QString& field) const {
    return headingOfField(document_.design(), field.toStdString());
}

void BuildPage::documentOpened() {
    closePopover();
    selected_.clear();
    selectedTier_.reset();
    grid_->setDesignSelection({});
    if (auto opened = grid_->open(document_.design(), document_.databasePath()); !opened)
        Q_EMIT said(QString::fromStdString(opened.error().message), true);
    refreshOutline();
    refreshRowline();
    refreshFittings();
}

QByteArray BuildPage::panelWidths() const { return panels_->saveState(); }
void BuildPage::setPanelWidths(const QByteArray& kept) { panels_->restoreState(kept); }

void BuildPage::documentChanged() {
    // A step to another source, or back from it.
    if (const SourceDesign& source = document_.design().source;
        source.table != grid_->design().source.table || source.query != grid_->design().source.query)
        return documentOpened();
    if (const SourceDesign& source = document_.design().source, &shown = grid_->design().source;
        source.readAs != shown.readAs || source.zone != shown.zone) {
        // Values of another type are another load; what is selected stays.
        closePopover();
        if (auto opened = grid_->open(document_.design(), document_.databasePath()); !opened)
            Q_EMIT said(QString::fromStdString(opened.error().message), true);
    }
    grid_->setDesign(document_.design());
    const Design& design = document_.design();
    std::erase_if(selected_, [&](const QString& field) { return !design.column(field.toStdString()); });
    if (selectedTier_ && !design.findTier(selectedTier_->toStdString())) selectedTier_.reset();
    grid_->setDesignSelection(selected_, selectedTier_);
    outline_->setSelected(selected_, selectedTier_);
    if (sortPopover_) sortPopover_->setDesign(document_.design());
    if (filterPopover_) filterPopover_->setDesign(document_.design());
    if (groupPopover_) groupPopover_->setDesign(document_.design());
    if (summaryPopover_) summaryPopover_->setDesign(document_.design());
    if (computedPopover_) computedPopover_->setDesign(document_.design());
    if (facePopover_) facePopover_->setDesign(document_.design());
    if (namedPopover_) namedPopover_->setDesign(document_.design());
    refreshOutline();
    refreshRowline();
    refreshFittings();
}

void BuildPage::refreshOutline() {
    outline_->setContent(document_.design(), grid_->session().schema(),
                         [this](const std::string& table) { return grid_->session().schemaOf(table); });
}

void BuildPage::refreshRowline() {
    if (!document_.isOpen() || !grid_->snapshot()) return;
    const Snapshot& snapshot = *grid_->snapshot();
    const Design& design = document_.design();
    Station source;
    source.stage = Stage::Source;
    const QString file = QString::fromStdString(sourceNameOf(document_.databasePath().toStdString()));
    source.sentence = design.source.query.empty()
                          ? tr("%1 of %2").arg(QString::fromStdString(design.source.table), file)
                          : tr("a SELECT on %1").arg(file);
    source.rowsOut = grid_->isLoading() ? std::max(grid_->session().progress().rows, snapshot.source.rowsOut)
                                        : snapshot.source.rowsOut;
    source.milliseconds = snapshot.source.milliseconds;

    const TableSchema& schema = grid_->session().schema();
    Station filter;
    filter.stage = Stage::Filter;
    filter.rowsOut = snapshot.filter.rowsOut;
    filter.milliseconds = snapshot.filter.milliseconds;
    filter.isBypassed = grid_->session().isBypassed(Stage::Filter);
    for (const FilterDesign& part : design.filter) {
        if (!part.on) continue;
        const Condition condition = conditionFrom(part.rule, schema, design);
        filter.sentence += (filter.sentence.isEmpty() ? QString() : tr(", ")) +
                           QString::fromStdString(sentenceOf(condition, schema, design));
        const QString heading = headingOf(QString::fromStdString(part.field.empty() ? condition.field : part.field));
        filter.words.push_back(heading);
        filter.fields.push_back(QString::fromStdString(part.field.empty() ? condition.field : part.field));
    }
    filter.isIdle = filter.sentence.isEmpty();
    if (filter.isIdle) filter.sentence = tr("every row");

    Station sort;
    sort.stage = Stage::Sort;
    sort.isBypassed = grid_->session().isBypassed(Stage::Sort);
    sort.rowsOut = snapshot.sort.rowsOut;
    sort.milliseconds = snapshot.sort.milliseconds;
    sort.isIdle = design.sort.empty();
    sort.sentence = sort.isIdle ? tr("in the order of the database") : tr("by ");
    for (std::size_t i = 0; i < design.sort.size(); ++i) {
        const SortDesign& key = design.sort[i];
        const QString heading = !key.by.empty()      ? QString::fromStdString(key.by)
                                : !key.title.empty() ? QString::fromStdString(key.title)
                                : !key.rule.empty()  ? QString::fromStdString(key.rule)
                                                     : headingOf(QString::fromStdString(key.field));
        sort.sentence += (i == 0 ? QString() : tr(", then ")) + heading +
                         (design.sort[i].direction == Direction::Descending ? tr(" downwards") : QString());
        sort.words.push_back(heading);
        sort.fields.push_back(QString::fromStdString(design.sort[i].field));
    }
    rowline_->setStations({source, filter, sort, groupStation(), summariesStation()});
    rowline_->setDesignColumn(selectedColumn());
}

Station BuildPage::groupStation() const {
    const Snapshot& snapshot = *grid_->snapshot();
    const Design& design = document_.design();
    Station group;
    group.stage = Stage::Group;
    group.rowsOut = snapshot.recordCount();
    group.milliseconds = snapshot.group.milliseconds;
    group.isBypassed = grid_->session().isBypassed(Stage::Group);
    group.isIdle = design.groups.empty();
    if (group.isIdle) group.sentence = tr("no groups");
    for (std::size_t i = 0; i < design.groups.size(); ++i) {
        const GroupDesign& level = design.groups[i];
        QString heading = !level.key.title.empty()  ? QString::fromStdString(level.key.title)
                          : !level.key.rule.empty() ? QString::fromStdString(level.key.rule)
                                                    : headingOf(QString::fromStdString(level.key.field));
        if (!level.key.field.empty() && !design.column(level.key.field))
            heading = QString::fromStdString(headingFor(level.key.field.substr(level.key.field.rfind('.') + 1), false));
        group.words.push_back(heading);
        group.fields.push_back(QString::fromStdString(level.key.field));
        if (level.by != GroupBy::EachValue)
            heading = tr("%1 of %2").arg(QString::fromStdString(jollyrow::words(level.by)), heading);
        group.sentence += (i == 0 ? QString() : tr(", then ")) + heading;
    }
    if (snapshot.grouped) {
        const auto count = static_cast<std::int64_t>(snapshot.grouped->tree().nodes.size());
        group.passesOn = count == 1 ? tr("1 group") : tr("%1 groups").arg(jollyrow::grouped(count));
    }
    return group;
}

Station BuildPage::summariesStation() const {
    const Snapshot& snapshot = *grid_->snapshot();
    const Design& design = document_.design();
    Station summaries;
    summaries.stage = Stage::Summaries;
    summaries.rowsOut = snapshot.recordCount();
    summaries.milliseconds = snapshot.summaries.milliseconds;
    summaries.isBypassed = grid_->session().isBypassed(Stage::Summaries);
    summaries.isIdle = design.summaries.empty();
    if (summaries.isIdle) summaries.sentence = tr("no figures");
    QStringList figures;
    for (const PlannedSummary& planned : grid_->session().plan().grouping->summaries) {
        figures << QString::fromStdString(planned.words);
        summaries.words.push_back(headingOf(QString::fromStdString(planned.design.column)));
        summaries.fields.push_back(QString::fromStdString(planned.design.column));
    }
    if (!figures.empty()) summaries.sentence = figures.join(QStringLiteral(" · "));
    return summaries;
}

void BuildPage::openFigure(int summary, quint32 node, const QRect& where) {
    closePopover();
    auto* popover = new FigurePopover(this, *grid_, summary, node);
    popover_ = popover;
    connect(popover, &Popover::closed, this, [this] { grid_->setFocus(); });
    QRect anchor = where;
    anchor.moveTopLeft(grid_->viewport()->mapTo(this, where.topLeft()));
    popover->openUnder(anchor, 400);
}

void BuildPage::openSummaryTable() {
    closePopover();
    if (!document_.isOpen()) return;
    const Grouping& grouping = *grid_->session().plan().grouping;
    if (grouping.groups.empty() || grouping.summaries.empty())
        return Q_EMIT said(
            tr("A summary table shows groups and figures: drop a heading on Group and one on Summaries."), true);
    auto* popover = new SummaryTablePopover(this, *grid_);
    connect(popover, &SummaryTablePopover::designWanted, this, [this, popover] {
        const QString proposed = QFileInfo(document_.databasePath()).dir().filePath(QStringLiteral("summary.jrow"));
        const QString path = QFileDialog::getSaveFileName(this, tr("Make a design of the summary table"), proposed,
                                                          tr("Designs (*.jrow)"));
        if (path.isEmpty()) return;
        if (auto written = popover->writeTo(path); !written)
            return Q_EMIT said(QString::fromStdString(written.error().message), true);
        closePopover();
        Q_EMIT openWanted(path);
    });
    showPopover(popover, Stage::Summaries, 980);
}

/// A level by a column, or one figure of it, as a drop and the finder make them.
void BuildPage::groupByColumn(const QString& field) {
    const TableSchema& schema = grid_->session().schema();
    Design next = document_.design();
    const auto index = schema.find(field.toStdString());
    if (!index || groupingsFor(schema.field(*index).type).empty()) {
        const std::string_view kind = article(index ? schema.field(*index).type : Type::Binary);
        return Q_EMIT said(
            tr("%1 holds %2, which makes no groups.")
                .arg(headingOf(field), QString::fromUtf8(kind.data(), static_cast<qsizetype>(kind.size()))),
            true);
    }
    addGroup(next, newGroup(next, schema, field.toStdString()));
    document_.apply(next, tr("Group by %1").arg(headingOf(field)));
}

void BuildPage::sumUpColumn(const QString& field) {
    Design next = document_.design();
    next.summaries.push_back(newSummary(next, grid_->session().schema(), field.toStdString()));
    document_.apply(next, tr("Sum up %1").arg(headingOf(field)));
}

BuildPage::~BuildPage() {
    if (finder_) finder_->finish();
}

/// The records that try the selected column's format hardest, found beside the window's thread.
void BuildPage::findExtremes() {
    const auto& snapshot = grid_->snapshot();
    const auto field =
        selected_.size() == 1 ? grid_->session().schema().find(selected_.front().toStdString()) : std::nullopt;
    const auto column = field && snapshot && raw(*field) < snapshot->table->columns.size()
                            ? snapshot->table->columns[raw(*field)]
                            : nullptr;
    const std::uint64_t id = column && snapshot->table->complete ? column->id() : 0;
    if (id == extremesOf_) return;
    extremesOf_ = id;
    extremes_ = {};
    if (id == 0) return;
    if (!finder_) finder_ = std::make_unique<Worker>();
    finder_->run([this, column, id] {
        const Extremes found = extremesOf(*column);
        QMetaObject::invokeMethod(
            this,
            [this, found, id] {
                if (id != extremesOf_) return;
                extremes_ = found;
                refreshFittings();
            },
            Qt::QueuedConnection);
    });
}

void BuildPage::refreshFittings() {
    if (!document_.isOpen()) return;
    findExtremes();
    FittingsContent content;
    content.pictures = &grid_->pictures();
    content.design = document_.design();
    content.schema = grid_->session().schema();
    content.fields = selected_;
    content.tier = selectedTier_;
    content.snapshot = grid_->snapshot();
    content.extremes = extremes_;
    if (!selected_.empty()) {
        content.widthPx = grid_->headingRect(selected_.front()).width();
        const Record record = grid_->currentRecord().isValid() ? grid_->currentRecord() : grid_->recordAt(0);
        if (record.isValid()) content.current = record.row();
    }
    fittings_->setContent(content);
}

void BuildPage::selectColumn(const std::optional<QString>& field) {
    selectColumns(field ? std::vector<QString>{*field} : std::vector<QString>{});
}

void BuildPage::selectColumns(const std::vector<QString>& fields) {
    selected_ = fields;
    selectedTier_.reset();
    grid_->setDesignSelection(selected_);
    outline_->setSelected(selected_, std::nullopt);
    rowline_->setDesignColumn(selectedColumn());
    refreshFittings();
}

void BuildPage::selectTier(const QString& name) {
    selected_.clear();
    selectedTier_ = name;
    std::vector<QString> under;
    for (const std::string& field : fieldsUnder(document_.design(), name.toStdString()))
        under.push_back(QString::fromStdString(field));
    grid_->setDesignSelection(under, name);
    outline_->setSelected({}, name);
    rowline_->setDesignColumn(std::nullopt);
    refreshFittings();
}

/// Shift: from the last selected to here, in display order. Ctrl: one more or one less.
void BuildPage::extendSelection(const QString& field, Qt::KeyboardModifiers modifiers) {
    std::vector<QString> next = selected_;
    const auto at = std::find(next.begin(), next.end(), field);
    if (modifiers & Qt::ShiftModifier && !next.empty()) {
        const auto& columns = document_.design().columns;
        const auto position = [&](const QString& f) {
            return std::find_if(columns.begin(), columns.end(),
                                [&](const ColumnDesign& c) { return c.field == f.toStdString(); });
        };
        auto from = position(next.front()), to = position(field);
        if (to < from) std::swap(from, to);
        next.clear();
        for (auto c = from; c != columns.end() && c <= to; ++c)
            if (c->shown) next.push_back(QString::fromStdString(c->field));
    } else if (modifiers & Qt::ControlModifier) {
        at == next.end() ? next.push_back(field) : void(next.erase(at));
    } else {
        next = {field};
    }
    selectColumns(next);
}

void BuildPage::toggleShown(const QString& field) {
    Design next = document_.design();
    ColumnDesign* column = next.column(field.toStdString());
    if (!column) return;
    column->shown = !column->shown;
    document_.apply(next, column->shown ? tr("Show %1").arg(headingOf(field)) : tr("Hide %1").arg(headingOf(field)));
}

void BuildPage::applyMove(const std::vector<std::string>& fields, const QString& tier, const Landing& to) {
    if (fields.empty() && tier.isEmpty()) return;
    Design next = document_.design();
    const QString label = carryOut(next, {fields, tier.toStdString()}, {HeadingLanding::What::Move, to, {}, {}});
    if (!label.isEmpty()) document_.apply(next, label);
}

void BuildPage::moveSelected(int by) {
    if (selected_.empty()) return;
    const auto& columns = document_.design().columns;
    const auto at = std::find_if(columns.begin(), columns.end(),
                                 [&](const ColumnDesign& c) { return c.field == selected_.back().toStdString(); });
    if (at == columns.end()) return;
    if (by < 0 && at != columns.begin()) return applyMove({at->field}, {}, {std::prev(at)->tier, std::prev(at)->field});
    const auto next = at + 1;
    if (by < 0 || next == columns.end()) return;
    applyMove(
        {at->field}, {},
        {next->tier, next + 1 != columns.end() && (next + 1)->tier == next->tier ? (next + 1)->field : std::string()});
}

void BuildPage::tierOverSelected() {
    std::vector<std::string> fields;
    for (const QString& field : selected_) fields.push_back(field.toStdString());
    if (selectedTier_) fields = fieldsUnder(document_.design(), selectedTier_->toStdString());
    if (!fields.empty()) grid_->makeTier(fields);
}

void BuildPage::mendFinding(const Finding& finding) {
    Design next = document_.design();
    if (mend(next, finding)) document_.apply(next, QString::fromStdString(mendingWords(finding)));
}

void BuildPage::sortSelected(Direction direction) {
    if (selected_.empty()) return;
    Design next = document_.design();
    next.sort.assign(1, {selected_.back().toStdString(), direction, Empties::Last});
    document_.apply(next, tr("Sort by %1").arg(headingOf(selected_.back())));
}

/// A field of the table, or one of another table by the foreign keys that lead there ("vessel.owner.name").
void BuildPage::addColumn(const QString& field) {
    Session& session = grid_->session();
    const std::string path = field.toStdString();
    FieldSchema found;
    std::size_t start = 0;
    TableSchema schema = session.schema();
    for (std::size_t dot = path.find('.'); dot != std::string::npos; dot = path.find('.', start)) {
        const auto link = foreignKeyOf(schema, path.substr(start, dot - start));
        if (!link) return;
        const std::string& target = schema.foreignKeys[*link].table;
        auto next = session.schemaOf(target);
        if (!next) return Q_EMIT said(QString::fromStdString(next.error().message), true);
        schema = std::move(*next);
        start = dot + 1;
    }
    const auto index = schema.find(path.substr(start));
    if (!index) return;
    found = schema.field(*index);
    found.name = path;
    if (start > 0 && found.use == Use::LookUp) found.use = Use::Plain;
    Design next = document_.design();
    ColumnDesign column = columnFor(found);
    column.shown = true;
    next.columns.push_back(column);
    document_.apply(next, tr("Add %1").arg(QString::fromStdString(column.heading)));
    selectColumn(field);
}

void BuildPage::takeDrop(const QString& field, const QPoint& globalPosition) {
    const auto taken = rowline_->dragOver(globalPosition, {});
    rowline_->dragEnd();
    if (taken == Stage::Filter) {
        grid_->focusFilter(field);
        grid_->openPickList(field);
        return;
    }
    if (taken == Stage::Group) return groupByColumn(field);
    if (taken == Stage::Summaries) return sumUpColumn(field);
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

Document::RecordStep BuildPage::carryRecords(bool forward) {
    const EditHistory& history = grid_->session().steps().history();
    const auto left = [&] { return forward ? history.stepsUndone() : history.steps(); };
    const std::size_t before = left();
    if (before == 0) return Document::RecordStep::Gone;
    forward ? grid_->redo() : grid_->undo();
    return left() == before ? Document::RecordStep::NotNow : Document::RecordStep::Carried;
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

void BuildPage::takeChange(const DesignChange& change, const QString& label) { document_.change(change, label); }

void BuildPage::openStation(Stage stage) {
    const bool wasOpen = openStage_ == stage;
    closePopover();
    if (wasOpen || !document_.isOpen()) return;
    if (stage == Stage::Source) return openSource();
    if (stage == Stage::Filter) {
        filterPopover_ = new FilterPopover(this, document_.design(), grid_->session());
        connect(filterPopover_, &FilterPopover::changed, this, &BuildPage::takeChange);
        connect(filterPopover_, &FilterPopover::bypassed, this, [this](bool on) {
            grid_->session().setBypassed(Stage::Filter, on);
            refreshRowline();
        });
        return showPopover(filterPopover_, stage, 700);
    }
    if (stage == Stage::Group || stage == Stage::Summaries) {
        const auto left = [this, stage](bool on) {
            grid_->session().setBypassed(stage, on);
            refreshRowline();
        };
        if (stage == Stage::Group) {
            groupPopover_ = new GroupPopover(this, document_.design(), *grid_);
            connect(groupPopover_, &GroupPopover::changed, this, &BuildPage::takeChange);
            connect(groupPopover_, &GroupPopover::bypassed, this, left);
            return showPopover(groupPopover_, stage, 760);
        }
        summaryPopover_ = new SummaryPopover(this, document_.design(), *grid_);
        connect(summaryPopover_, &SummaryPopover::changed, this, &BuildPage::takeChange);
        connect(summaryPopover_, &SummaryPopover::bypassed, this, left);
        connect(summaryPopover_, &SummaryPopover::tableWanted, this,
                [this] { QTimer::singleShot(0, this, &BuildPage::openSummaryTable); });
        return showPopover(summaryPopover_, stage, 720);
    }
    sortPopover_ = new SortPopover(this, document_.design(), *grid_);
    connect(sortPopover_, &SortPopover::changed, this, &BuildPage::takeChange);
    connect(sortPopover_, &SortPopover::bypassed, this, [this](bool on) {
        grid_->session().setBypassed(Stage::Sort, on);
        refreshRowline();
    });
    showPopover(sortPopover_, stage, 760);
}

FacePopover* BuildPage::facePopover() const { return facePopover_; }

/// Under the first line of the column, so that headings and cells stay in sight.
void BuildPage::openFace(const QString& field) {
    closePopover();
    const auto& plan = grid_->session().plan();
    const bool isShown = std::any_of(plan.columns.begin(), plan.columns.end(),
                                     [&](const PlannedColumn& c) { return c.design.field == field.toStdString(); });
    if (!document_.isOpen() || !isShown)
        return Q_EMIT said(tr("%1 is not shown; show it to compose its face.").arg(headingOf(field)), true);
    grid_->showColumn(field);
    facePopover_ = new FacePopover(this, document_.design(), *grid_, field.toStdString());
    popover_ = facePopover_;
    connect(facePopover_, &FacePopover::closed, this, [this] { grid_->setFocus(); });
    connect(facePopover_, &FacePopover::changed, this,
            [this](const DesignChange& change, const QString& label, Joining joining) {
                Design next = document_.design();
                change(next);
                document_.apply(next, label, joining);
            });
    connect(facePopover_, &FacePopover::widthWanted, this, [this, field](int pixels) {
        Design next = document_.design();
        if (ColumnDesign* column = next.column(field.toStdString())) {
            column->width.mode = WidthMode::Fixed;
            column->width.pixels = std::min(pixels, Width::kMostPixels);
        }
        document_.apply(next, tr("Widen %1").arg(headingOf(field)));
    });
    QRect anchor = grid_->headingRect(field);
    anchor.setHeight(anchor.height() + 2 * document_.design().grid.rowHeight);  // two records stay in sight
    anchor.moveTopLeft(grid_->viewport()->mapTo(this, anchor.topLeft()));
    facePopover_->openUnder(anchor, 900);
}

void BuildPage::openComputed(const std::optional<QString>& field) {
    closePopover();
    if (!document_.isOpen()) return;
    const QString behind = selectedColumn().value_or(QString());
    auto* popover =
        new ComputedPopover(this, document_.design(), *grid_,
                            field ? std::optional(field->toStdString()) : std::nullopt, behind.toStdString());
    popover_ = computedPopover_ = popover;
    connect(popover, &ComputedPopover::changed, this, &BuildPage::takeChange);
    connect(popover, &ComputedPopover::added, this, [this](const QString& added) {
        selectColumn(added);
        grid_->showColumn(added);
    });
    connect(popover, &Popover::closed, this, [this] { grid_->setFocus(); });
    const QString at = field.value_or(behind);
    if (!at.isEmpty()) grid_->showColumn(at);
    QRect anchor = at.isEmpty() ? QRect(grid_->width() / 2, 0, 1, 30) : grid_->headingRect(at);
    if (anchor.isEmpty()) anchor = QRect(grid_->width() / 2, 0, 1, 30);
    anchor.moveTopLeft(grid_->viewport()->mapTo(this, anchor.topLeft()));
    popover->openUnder(anchor, 560);
}

void BuildPage::openParameters() { openNamed(new ParametersPopover(this, document_.design(), grid_->session())); }
void BuildPage::openOperators() { openNamed(new OperatorsPopover(this, document_.design(), grid_->session())); }

void BuildPage::openChecks() { openNamed(new ChecksPopover(this, document_.design(), *grid_)); }
void BuildPage::openBanners() { openNamed(new BannersPopover(this, document_.design(), *grid_)); }

void BuildPage::openLooks() { openNamed(new LooksPopover(this, document_.design(), *grid_)); }

void BuildPage::openStyles() { openNamed(new StylesPopover(this, document_.design(), *grid_)); }

void BuildPage::openTrigger() {
    const TableSchema& schema = grid_->session().schema();
    std::vector<std::string> keys;
    for (const FieldSchema& field : schema.fields)
        if (field.primaryKeyRank > 0) keys.push_back(field.name);
    closePopover();
    auto* popover = new TriggerPopover(this, QString::fromStdString(schema.name),
                                       QString::fromStdString(postgres::triggerSql(schema.name, keys)));
    popover_ = popover;
    connect(popover, &Popover::closed, this, [this] { grid_->setFocus(); });
    const QRect top(grid_->width() / 2, 0, 1, 4);
    popover->openUnder({grid_->mapTo(this, top.topLeft()), top.size()}, 760);
}

void BuildPage::openNamed(NamedPopover* popover) {
    closePopover();
    popover_ = namedPopover_ = popover;
    connect(popover, &NamedPopover::changed, this, &BuildPage::takeChange);
    connect(popover, &Popover::closed, this, [this] { grid_->setFocus(); });
    const QRect top(grid_->width() / 2, 0, 1, 4);
    popover->openUnder({grid_->mapTo(this, top.topLeft()), top.size()}, 760);
}

void BuildPage::openSource() {
    std::vector<TableSummary> tables;
    if (auto source = jollyrow::openSource(document_.databasePath().toStdString())) {
        auto found = tablesOf(**source, document_.databasePath());
        if (!found) return Q_EMIT said(QString::fromStdString(found.error().message), true);
        tables = std::move(*found);
    }
    auto* popover = new SourcePopover(this, document_.databasePath(), document_.design().source, tables);
    const auto bind = [this, popover](const QString& table, const QString& query) {
        const SourceDesign& now = document_.design().source;
        if (now.table == table.toStdString() && now.query == query.toStdString()) return closePopover();
        if (!mayDropEdits(this, *grid_, tr("Bind to another source"))) return;
        if (auto bound = document_.rebind(table, query); !bound)
            popover->showProblem(QString::fromStdString(bound.error().message));
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
