// SPDX-License-Identifier: MIT
// Children of the table, in order: the headings of the columns, the tiers, then the cells line by line. Interfaces are
// made when asked for and kept by their number, so that the toolkit's identity of a cell holds; a jump far away drops
// the old ones. Covered by tests/grid/tst_accessible.cpp through QAccessible.
#include "grid/access/grid_accessible.h"

#include <QAccessibleWidget>

#include "grid/faces/cell_face.h"
#include "grid/inside/grid_private.h"
#include "grid/paint/edit_marks.h"

namespace jollyrow {

/// Reaches into the grid for its accessible faces.
class GridAccessible final : public QAccessibleWidget, public QAccessibleTableInterface {
  public:
    explicit GridAccessible(Grid* grid) : QAccessibleWidget(grid, QAccessible::Table) {}
    ~GridAccessible() override { forget(); }

    Grid& grid() const { return *static_cast<Grid*>(object()); }
    GridPrivate& d() const { return *grid().d; }
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::TableInterface ? static_cast<QAccessibleTableInterface*>(this)
                                                   : QAccessibleWidget::interface_cast(type);
    }
    QString text(QAccessible::Text kind) const override {
        if (kind != QAccessible::Name) return QAccessibleWidget::text(kind);
        const QString title = QString::fromStdString(grid().design().title);
        return title.isEmpty() ? grid().accessibleName() : title;
    }

    int columns() const { return d().body.columns().count(); }
    int tiers() const { return static_cast<int>(d().context.plan().tiers.size()); }
    int headings() const { return columns() + tiers(); }
    int lines() const {
        return static_cast<int>(
            std::min<std::int64_t>(grid().lineCount(), (INT_MAX - headings()) / std::max(1, columns())));
    }
    int childCount() const override { return headings() + lines() * columns(); }
    QAccessibleInterface* child(int index) const override;
    int indexOfChild(const QAccessibleInterface* child) const override;
    QAccessibleInterface* childAt(int x, int y) const override;
    QAccessibleInterface* focusChild() const override {
        if (d().headings.focus()) return child(headingIndex(*d().headings.focus()));
        const auto current = d().cursor.current();
        return current ? cellAt(static_cast<int>(current->line), current->column) : nullptr;
    }
    int headingIndex(const HeadingHit& hit) const { return hit.tier ? columns() + *hit.tier : *hit.column; }

    // QAccessibleTableInterface
    QAccessibleInterface* caption() const override { return nullptr; }
    QAccessibleInterface* summary() const override { return nullptr; }
    QAccessibleInterface* cellAt(int row, int column) const override {
        if (row < 0 || row >= lines() || column < 0 || column >= columns()) return nullptr;
        return child(headings() + row * columns() + column);
    }
    int selectedCellCount() const override { return selectedRowCount() * columns(); }
    QList<QAccessibleInterface*> selectedCells() const override {
        QList<QAccessibleInterface*> cells;
        for (const int row : selectedRows())
            for (int column = 0; column < columns(); ++column) cells << cellAt(row, column);
        return cells;
    }
    QString columnDescription(int column) const override;
    QString rowDescription(int row) const override { return QString::number(row + 1); }
    int selectedColumnCount() const override { return static_cast<int>(d().headings.chosen().size()); }
    int selectedRowCount() const override {
        return static_cast<int>(std::min<std::int64_t>(grid().selection().count(), INT_MAX));
    }
    int columnCount() const override { return columns(); }
    int rowCount() const override { return lines(); }
    QList<int> selectedColumns() const override {
        QList<int> all;
        for (int i = 0; i < columns(); ++i)
            if (isColumnSelected(i)) all << i;
        return all;
    }
    QList<int> selectedRows() const override {
        QList<int> rows;
        constexpr std::size_t kMost = 500;
        for (const SourceRow row : d().cursor.selection().rows().rows(kMost))
            if (const auto line = grid().snapshot()->lineOf(row)) rows << static_cast<int>(raw(*line));
        return rows;
    }
    bool isColumnSelected(int column) const override {
        const auto& chosen = d().headings.chosen();
        return std::find(chosen.begin(), chosen.end(), d().context.planned(column).design.field) != chosen.end();
    }
    bool isRowSelected(int row) const override {
        return row >= 0 && row < lines() && d().cursor.selection().isRowSelected(d().rows.rowAt(row));
    }
    bool selectRow(int row) override {
        if (row < 0 || row >= lines() || columns() == 0) return false;
        d().navigator.chooseLine(row, SelectHow::Replace);
        return true;
    }
    bool selectColumn(int) override { return false; }
    bool unselectRow(int row) override {
        if (!isRowSelected(row)) return false;
        d().navigator.chooseLine(row, SelectHow::Toggle);
        return true;
    }
    bool unselectColumn(int) override { return false; }
    void modelChange(QAccessibleTableModelChangeEvent*) override { forget(); }

    void forget() const {
        for (const auto& [index, id] : made_) QAccessible::deleteAccessibleInterface(id);
        made_.clear();
    }

  private:
    static constexpr std::size_t kMostKept = 4000;
    mutable std::map<int, QAccessible::Id> made_;
};

namespace {

/// Common to headings and cells: where they hang.
class GridPart : public QAccessibleInterface, public QAccessibleActionInterface {
  public:
    explicit GridPart(Grid* grid) : grid_(grid) {}
    bool isValid() const override { return !grid_.isNull(); }
    QObject* object() const override { return nullptr; }
    QAccessibleInterface* parent() const override {
        return grid_ ? QAccessible::queryAccessibleInterface(grid_.data()) : nullptr;
    }
    QAccessibleInterface* child(int) const override { return nullptr; }
    int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    void setText(QAccessible::Text, const QString&) override {}
    QString localizedActionDescription(const QString&) const override { return {}; }
    QStringList keyBindingsForAction(const QString&) const override { return {}; }

  protected:
    GridAccessible& owner() const {
        return *static_cast<GridAccessible*>(QAccessible::queryAccessibleInterface(grid_.data()));
    }
    GridPrivate& d() const { return owner().d(); }
    QRect onScreen(const QRect& inViewport) const {
        return {grid_->viewport()->mapToGlobal(inViewport.topLeft()), inViewport.size()};
    }
    QPointer<Grid> grid_;
};

QString tierNames(const Design& design, const std::string& tier) {
    QStringList names;
    for (const std::string& name : tierPath(design, tier)) names << headingOfTier(design, name);
    return names.join(QStringLiteral(", "));
}

class AccessibleHeading final : public GridPart {
  public:
    AccessibleHeading(Grid* grid, HeadingHit hit) : GridPart(grid), hit_(hit) {}
    bool isValid() const override {
        return GridPart::isValid() && (hit_.tier ? *hit_.tier < owner().tiers() : *hit_.column < owner().columns());
    }
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    QAccessible::Role role() const override { return QAccessible::ColumnHeader; }
    QString text(QAccessible::Text kind) const override {
        if (!isValid()) return {};
        const Design& design = grid_->design();
        if (hit_.tier) {
            const PlannedTier& tier = d().context.plannedTier(*hit_.tier);
            if (kind == QAccessible::Name) return QString::fromStdString(tier.design.heading);
            if (kind != QAccessible::Description) return {};
            return tier.design.folded
                       ? Grid::tr("heading over columns, folded, %n hidden", nullptr, tier.foldedAway)
                       : Grid::tr("heading over %n column(s)", nullptr, tier.end - tier.first)
                             .replace(QStringLiteral("column(s)"),
                                      tier.end - tier.first == 1 ? Grid::tr("column") : Grid::tr("columns"));
        }
        const PlannedColumn& column = d().context.planned(*hit_.column);
        const QString path = tierNames(design, column.design.tier);
        const QString heading = QString::fromStdString(column.design.heading);
        if (kind == QAccessible::Name) return path.isEmpty() ? heading : path + QStringLiteral(", ") + heading;
        if (kind != QAccessible::Description) return {};
        const HeadingState::Sort sort = d().headingState().sorts[static_cast<std::size_t>(*hit_.column)];
        QString said = QString::fromStdString(column.design.toolTip);
        if (sort.rank > 0)
            said = (sort.direction == Direction::Ascending ? Grid::tr("sorted up, key %1")
                                                           : Grid::tr("sorted down, key %1"))
                       .arg(sort.rank) +
                   (said.isEmpty() ? QString() : QStringLiteral(". ") + said);
        return said;
    }
    QRect rect() const override {
        if (!isValid()) return {};
        const HeadingLayout layout = d().headings.layout();
        return onScreen(hit_.tier ? layout.tierRect(*hit_.tier) : layout.columnRect(*hit_.column));
    }
    QAccessible::State state() const override {
        QAccessible::State state;
        state.focusable = true;
        if (!isValid()) return state;
        state.focused = d().headings.focus() && d().headings.focus()->column == hit_.column &&
                        d().headings.focus()->tier == hit_.tier;
        if (hit_.tier) {
            state.expandable = true;
            state.expanded = !d().context.plannedTier(*hit_.tier).design.folded;
            state.collapsed = d().context.plannedTier(*hit_.tier).design.folded;
        }
        return state;
    }
    QStringList actionNames() const override { return {pressAction(), showMenuAction(), setFocusAction()}; }
    void doAction(const QString& action) override {
        if (!isValid()) return;
        if (action == showMenuAction()) d().menus.headings.open(hit_, rect().bottomLeft());
        if (action == setFocusAction()) d().headings.setFocus(hit_);
        if (action != pressAction()) return;
        hit_.tier ? d().headings.clickTier(*hit_.tier, HeadingHit::Part::Fold)
                  : d().headings.sortBy(*hit_.column, false);
    }

  private:
    HeadingHit hit_;
};

class AccessibleCell final : public GridPart, public QAccessibleTableCellInterface {
  public:
    AccessibleCell(Grid* grid, CellPlace place) : GridPart(grid), place_(place) {}
    bool isValid() const override {
        return GridPart::isValid() && place_.line < grid_->lineCount() && place_.column < owner().columns();
    }
    void* interface_cast(QAccessible::InterfaceType type) override {
        if (type == QAccessible::TableCellInterface) return static_cast<QAccessibleTableCellInterface*>(this);
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    QAccessible::Role role() const override { return QAccessible::Cell; }
    QString text(QAccessible::Text kind) const override {
        if (!isValid()) return {};
        const PlannedColumn& column = d().context.planned(place_.column);
        CellText cell;
        d().rows.cell(place_.line, place_.column, cell);
        std::string caption;
        const PlannedBanner* banner = d().rows.banner(place_.line);
        if (banner) d().rows.view()->caption(static_cast<ViewLine>(place_.line), caption);
        if (banner && banner->column == place_.column && kind == QAccessible::Name)
            return QString::fromStdString(caption);
        switch (kind) {
            case QAccessible::Name:
            case QAccessible::Value: return cell.isEmpty ? Grid::tr("empty") : QString::fromUtf8(cell.text);
            case QAccessible::Description: {
                QString said = QString::fromStdString(column.design.heading);
                if (banner) said = Grid::tr("heading %1, %2").arg(QString::fromStdString(caption), said);
                if (cell.mark > CellMark::Saved) said += QStringLiteral(", ") + words(cell.mark);
                if (const QString problem = d().problemAt(place_); !problem.isEmpty())
                    said += QStringLiteral(": ") + problem;
                if (cell.isDeleted) said += Grid::tr(", deleted");
                if (cell.isMisfit) said += Grid::tr(", does not fit its column");
                // What an icon tells those who see it.
                if (d().rows.isRecord(place_.line) && !d().context.plan().styles.empty())
                    if (const CellStyle style =
                            d().rows.view()->style(static_cast<ViewLine>(place_.line), place_.column);
                        style.iconOf && style.icon->shape != MarkShape::None)
                        said += QStringLiteral(", ") + QString::fromStdString(style.iconOf->name);
                return said;
            }
            default: return {};
        }
    }
    QRect rect() const override { return isValid() ? onScreen(d().body.cellRect(place_)) : QRect(); }
    QAccessible::State state() const override {
        QAccessible::State state;
        state.focusable = state.selectable = true;
        if (!isValid()) return state;
        CellText cell;
        d().rows.cell(place_.line, place_.column, cell);
        state.focused = d().cursor.current() == place_ && !d().headings.focus();
        state.selected = isSelected();
        state.editable = d().context.canEdit(place_.column);
        state.readOnly = !state.editable;
        state.checkable = faceOf(d().context.planned(place_.column)).press() == FacePress::Toggles;
        state.checked = cell.isChecked;
        state.invalid = cell.mark >= CellMark::Invalid || cell.isMisfit;
        state.busy = cell.isPending || cell.mark == CellMark::Saving;
        return state;
    }
    QList<QAccessibleInterface*> columnHeaderCells() const override {
        QList<QAccessibleInterface*> cells;
        for (int t = 0; t < owner().tiers(); ++t)
            if (d().context.plannedTier(t).first <= place_.column && place_.column < d().context.plannedTier(t).end)
                cells << owner().child(owner().columns() + t);
        return cells << owner().child(place_.column);
    }
    QList<QAccessibleInterface*> rowHeaderCells() const override { return {}; }
    int columnIndex() const override { return place_.column; }
    int rowIndex() const override { return static_cast<int>(place_.line); }
    int columnExtent() const override { return 1; }
    int rowExtent() const override { return 1; }
    bool isSelected() const override {
        return d().cursor.selection().isCellSelected(place_) || owner().isRowSelected(static_cast<int>(place_.line));
    }
    QAccessibleInterface* table() const override { return parent(); }
    QStringList actionNames() const override {
        QStringList names{setFocusAction()};
        if (isValid() && d().context.canEdit(place_.column))
            names << (faceOf(d().context.planned(place_.column)).press() == FacePress::Toggles ? toggleAction()
                                                                                               : pressAction());
        if (isValid() && d().parts.presses.hasAny(place_)) names << showMenuAction();
        return names;
    }
    void doAction(const QString& action) override {
        if (!isValid()) return;
        d().navigator.choose(place_, SelectHow::Replace);
        if (action == toggleAction()) d().editors.toggle(place_);
        if (action == pressAction()) d().editors.begin({});
        if (action == showMenuAction()) d().parts.presses.pressFirst(place_);
    }

  private:
    CellPlace place_;
};

QAccessibleInterface* gridFactory(const QString& className, QObject* object) {
    auto* grid = className == QLatin1String("jollyrow::Grid") ? qobject_cast<Grid*>(object) : nullptr;
    return grid ? new GridAccessible(grid) : nullptr;
}

}  // namespace

QAccessibleInterface* GridAccessible::child(int index) const {
    if (index < 0 || index >= childCount()) return nullptr;
    if (const auto known = made_.find(index); known != made_.end()) {
        QAccessibleInterface* face = QAccessible::accessibleInterface(known->second);
        if (face && face->isValid()) return face;
    }
    if (made_.size() > kMostKept) forget();
    QAccessibleInterface* face = nullptr;
    if (index < columns())
        face = new AccessibleHeading(&grid(), HeadingHit{index, {}, {}});
    else if (index < headings())
        face = new AccessibleHeading(&grid(), HeadingHit{{}, index - columns(), {}});
    else
        face = new AccessibleCell(&grid(), {(index - headings()) / columns(), (index - headings()) % columns()});
    made_[index] = QAccessible::registerAccessibleInterface(face);
    return face;
}

int GridAccessible::indexOfChild(const QAccessibleInterface* child) const {
    for (const auto& [index, id] : made_)
        if (QAccessible::accessibleInterface(id) == child) return index;
    return -1;
}

QAccessibleInterface* GridAccessible::childAt(int x, int y) const {
    const QPoint at = grid().viewport()->mapFromGlobal(QPoint(x, y));
    if (const auto hit = d().headings.layout().hitAt(at)) return child(headingIndex(*hit));
    const auto place = d().body.placeAt(at);
    return place ? cellAt(static_cast<int>(place->line), place->column) : nullptr;
}

QString GridAccessible::columnDescription(int column) const {
    QAccessibleInterface* heading = child(column);
    return heading && column < columns() ? heading->text(QAccessible::Name) : QString();
}

void installGridAccessibility() {
    static const bool installed = [] {
        QAccessible::installFactory(gridFactory);
        return true;
    }();
    Q_UNUSED(installed);
}

void GridPrivate::announceFocus() {
    if (!QAccessible::isActive()) return;
    QAccessibleEvent event(&grid, QAccessible::Focus);
    auto* table = dynamic_cast<GridAccessible*>(QAccessible::queryAccessibleInterface(&grid));
    if (!table) return;
    int index = -1;
    if (headings.focus())
        index = table->headingIndex(*headings.focus());
    else if (const auto current = cursor.current(); current && current->line < table->lines())
        index = table->headings() + static_cast<int>(current->line) * table->columns() + current->column;
    if (index < 0) return;
    event.setChild(index);
    QAccessible::updateAccessibility(&event);
}

}  // namespace jollyrow
