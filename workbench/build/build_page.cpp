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
#include "grid/api/load_line.h"
#include "grid/api/parameter_bar.h"
#include "grid/headings/heading_landing.h"
#include "grid/records/drafts_bar.h"
#include "workbench/app/look.h"
#include "workbench/app/unsaved_edits.h"
#include "workbench/build/columns_outline.h"
#include "workbench/build/stations.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fittings.h"
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
      fittings_(new Fittings(this)),
      editors_(new DesignEditors(*this, document, *grid_, *rowline_)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(rowline_);
    panels_->setHandleWidth(1);
    panels_->setStyleSheet(QStringLiteral("QSplitter::handle{background:palette(mid)}"));
    panels_->setChildrenCollapsible(false);
    outline_->setMinimumWidth(scaled(kOutlineWidth * 3 / 4));
    outline_->setMaximumWidth(scaled(kOutlineWidth * 3));
    fittings_->setMinimumWidth(scaled(kFittingsWidth * 9 / 10));
    fittings_->setMaximumWidth(scaled(kFittingsWidth * 2));
    auto* centre = new QWidget(this);
    auto* middle = new QVBoxLayout(centre);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    words_->setBuilderOffered(true);
    middle->addWidget(parameters_);
    middle->addWidget(new DraftsBar(*grid_, this));
    middle->addWidget(words_);
    middle->addWidget(grid_, 1);
    auto* stopped = new LoadLine(*grid_, this);
    stopped->setOnlyStopped(true);  // the status line shows the rest
    middle->addWidget(stopped);
    for (QWidget* panel : {static_cast<QWidget*>(outline_), centre, static_cast<QWidget*>(fittings_)})
        panels_->addWidget(panel);
    for (int i = 0; i < panels_->count(); ++i) panels_->setStretchFactor(i, i == 1 ? 1 : 0);
    const int outline = scaled(kOutlineWidth), fittings = scaled(kFittingsWidth);
    panels_->setSizes({outline, std::max(200, 1280 - outline - fittings), fittings});
    layout->addWidget(panels_, 1);
    connectDocument();
    connectGrid();
    connectOutline();
    connect(editors_, &DesignEditors::said, this, &BuildPage::said);
    connect(editors_, &DesignEditors::openWanted, this, &BuildPage::openWanted);
    connect(editors_, &DesignEditors::bypassed, this, &BuildPage::refreshRowline);
    connect(editors_, &DesignEditors::columnAdded, this, [this](const QString& field) {
        selectColumn(field);
        grid_->selection().showColumn(field);
    });
    connect(&extremes_, &ExtremesFinder::found, this, &BuildPage::refreshFittings);
}

void BuildPage::connectDocument() {
    connect(&document_, &Document::opened, this, &BuildPage::documentOpened);
    connect(&document_, &Document::designChanged, this, &BuildPage::documentChanged);
}

void BuildPage::connectGrid() {
    connect(grid_, &Grid::designEdited, this, [this](const QString& label) {
        document_.apply(grid_->design(), label,
                        grid_->filters().isTyping() ? Joining::WithLastOfSameName : Joining::OwnStep);
    });
    grid_->designer().setDesigning(true);
    connect(words_, &FilterWords::edited, this,
            [this](const QString& label) { document_.apply(grid_->design(), label); });
    connect(words_, &FilterWords::builderWanted, this, [this] { editors_->openStation(Stage::Filter); });
    connect(grid_, &Grid::headingClicked, this, &BuildPage::extendSelection);
    connect(grid_, &Grid::tierClicked, this, &BuildPage::selectTier);
    connect(grid_, &Grid::headingDragged, this, &BuildPage::showDrag);
    connect(grid_, &Grid::headingDropped, this, &BuildPage::takeDrop);
    connect(grid_, &Grid::picturesArrived, this, [this] {
        fittings_->update();
        editors_->showPictures();
    });
    connect(grid_, &Grid::snapshotChanged, this, [this] {
        refreshRowline();
        refreshFittings();
        editors_->showRecords();
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
        grid_->selection().showColumn(field);
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
    connect(outline_, &ColumnsOutline::computedWanted, this, [this] { editors_->openComputed(std::nullopt); });
    connect(fittings_, &Fittings::stylesWanted, editors_, &DesignEditors::openStyles);
    connect(fittings_, &Fittings::bannersWanted, editors_, &DesignEditors::openBanners);
    connect(fittings_, &Fittings::checksWanted, editors_, &DesignEditors::openChecks);
    connect(fittings_, &Fittings::triggerWanted, editors_, &DesignEditors::openTrigger);
    connect(fittings_, &Fittings::looksWanted, editors_, &DesignEditors::openLooks);
    connect(fittings_, &Fittings::composeWanted, editors_, &DesignEditors::openFace);
    connect(fittings_, &Fittings::ruleWanted, this, [this](const QString& field) { editors_->openComputed(field); });
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
    editors_->close();
    selected_.clear();
    selectedTier_.reset();
    grid_->designer().setTinted({});
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
        editors_->close();
        if (auto opened = grid_->open(document_.design(), document_.databasePath()); !opened)
            Q_EMIT said(QString::fromStdString(opened.error().message), true);
    }
    grid_->setDesign(document_.design());
    const Design& design = document_.design();
    std::erase_if(selected_, [&](const QString& field) { return !design.column(field.toStdString()); });
    if (selectedTier_ && !design.findTier(selectedTier_->toStdString())) selectedTier_.reset();
    grid_->designer().setTinted(selected_, selectedTier_);
    outline_->setSelected(selected_, selectedTier_);
    editors_->setDesign(document_.design());
    refreshOutline();
    refreshRowline();
    refreshFittings();
}

void BuildPage::refreshRowline() {
    if (!document_.isOpen() || !grid_->snapshot()) return;
    rowline_->setStations(stationsOf(*grid_, document_.design(), document_.databasePath()));
    rowline_->setDesignColumn(selectedColumn());
    editors_->setBehind(selectedColumn().value_or(QString()));
}

void BuildPage::refreshOutline() {
    outline_->setContent(document_.design(), grid_->session().schema(),
                         [this](const std::string& table) { return grid_->session().schemaOf(table); });
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

void BuildPage::refreshFittings() {
    if (!document_.isOpen()) return;
    const auto& shown = grid_->snapshot();
    const auto one =
        selected_.size() == 1 ? grid_->session().schema().find(selected_.front().toStdString()) : std::nullopt;
    const bool isThere = one && shown && shown->table->complete && raw(*one) < shown->table->columns.size();
    extremes_.look(isThere ? shown->table->columns[raw(*one)] : nullptr);
    FittingsContent content;
    content.pictures = &grid_->pictures();
    content.design = document_.design();
    content.schema = grid_->session().schema();
    content.fields = selected_;
    content.tier = selectedTier_;
    content.snapshot = grid_->snapshot();
    content.extremes = extremes_.extremes();
    if (!selected_.empty()) {
        content.widthPx = grid_->places().heading(selected_.front()).width();
        const Record record =
            grid_->selection().current().isValid() ? grid_->selection().current() : grid_->recordAt(0);
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
    grid_->designer().setTinted(selected_);
    outline_->setSelected(selected_, std::nullopt);
    rowline_->setDesignColumn(selectedColumn());
    editors_->setBehind(selectedColumn().value_or(QString()));
    refreshFittings();
}

void BuildPage::selectTier(const QString& name) {
    selected_.clear();
    selectedTier_ = name;
    std::vector<QString> under;
    for (const std::string& field : fieldsUnder(document_.design(), name.toStdString()))
        under.push_back(QString::fromStdString(field));
    grid_->designer().setTinted(under, name);
    outline_->setSelected({}, name);
    rowline_->setDesignColumn(std::nullopt);
    editors_->setBehind({});
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
    if (!fields.empty()) grid_->designer().makeTier(fields);
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
        grid_->filters().focus(field);
        grid_->filters().openPickList(field);
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
    forward ? grid_->records().redo() : grid_->records().undo();
    return left() == before ? Document::RecordStep::NotNow : Document::RecordStep::Carried;
}

void BuildPage::resizeEvent(QResizeEvent*) { editors_->close(); }

}  // namespace jollyrow
