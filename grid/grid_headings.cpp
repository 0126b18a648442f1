// SPDX-License-Identifier: MIT
// Headings by mouse: click sorts, the border resizes, dragging moves. Each gesture becomes one step of the design.
#include <QApplication>
#include <QMouseEvent>

#include "grid/grid_p.h"

namespace jollyrow {

void GridPrivate::changeDesign(Design design, const QString& label) {
    if (design == session->design()) return;
    session->setDesign(std::move(design));
    relayout();
    Q_EMIT grid.designEdited(label);
}

void GridPrivate::hoverHeading(std::optional<int> column, bool onBorder) {
    grid.viewport()->setCursor(onBorder ? Qt::SplitHCursor : Qt::ArrowCursor);
    if (column == hoveredHeading) return;
    hoveredHeading = column;
    grid.viewport()->update(0, 0, grid.viewport()->width(), headerHeight());
}

bool GridPrivate::pressHeading(QMouseEvent& event) {
    if (event.pos().y() >= headerHeight()) return false;
    pressedAt = event.pos();
    designBefore = session->design();
    if (const auto border = columns.borderAt(event.pos().x(), scrollX, measure::kBorderGrip)) {
        gesture = Gesture::ResizeColumn;
        gestureColumn = *border;
        widthBefore = columns.width(*border);
    } else if (const auto column = columns.columnAt(event.pos().x(), scrollX)) {
        gesture = Gesture::PressHeading;
        gestureColumn = *column;
    }
    return true;
}

bool GridPrivate::moveHeading(QMouseEvent& event) {
    const int x = event.pos().x();
    switch (gesture) {
        case Gesture::None: {
            const bool over = event.pos().y() >= 0 && event.pos().y() < headerHeight();
            const auto border = over ? columns.borderAt(x, scrollX, measure::kBorderGrip) : std::nullopt;
            hoverHeading(over ? columns.columnAt(x, scrollX) : std::nullopt, border.has_value());
            if (over) setHover(std::nullopt);
            return over;
        }
        case Gesture::SelectCells: return false;
        case Gesture::PressHeading:
            if ((event.pos() - pressedAt).manhattanLength() < QApplication::startDragDistance()) return true;
            gesture = Gesture::DragColumn;
            grid.viewport()->setCursor(Qt::ClosedHandCursor);
            [[fallthrough]];
        case Gesture::DragColumn: {
            dragX = x;
            const int target = columns.landingAt(x, scrollX);
            const bool outside = event.pos().y() < 0;
            landing = outside || target == gestureColumn || target == gestureColumn + 1 ? std::nullopt
                                                                                        : std::optional(target);
            Q_EMIT grid.headingDragged(QString::fromStdString(planned(gestureColumn).design.field),
                                       grid.viewport()->mapToGlobal(event.pos()));
            if (x > grid.viewport()->width() - 24) setScrollX(scrollX + 16);
            if (x < columns.pinnedEnd() + 8 && scrollX > 0) setScrollX(scrollX - 16);
            grid.viewport()->update();
            return true;
        }
        case Gesture::ResizeColumn: {
            Design design = session->design();
            ColumnDesign* column = design.column(planned(gestureColumn).design.field);
            const int least = std::max(column->width.minimum, Width::kLeastPixels);
            column->width.mode = WidthMode::Fixed;
            column->width.pixels = std::clamp(widthBefore + x - pressedAt.x(), least, Width::kMostPixels);
            session->setDesign(std::move(design));
            relayout();
            return true;
        }
    }
    return false;
}

bool GridPrivate::releaseHeading(QMouseEvent& event) {
    const Gesture done = gesture;
    if (done != Gesture::PressHeading && done != Gesture::ResizeColumn && done != Gesture::DragColumn) return false;
    gesture = Gesture::None;
    grid.viewport()->setCursor(Qt::ArrowCursor);
    if (done == Gesture::PressHeading) {
        const QString field = QString::fromStdString(planned(gestureColumn).design.field);
        sortBy(gestureColumn, event.modifiers() & Qt::ControlModifier);
        Q_EMIT grid.headingClicked(field);
    } else if (done == Gesture::ResizeColumn) {
        const int after = columns.width(gestureColumn);
        const QString heading = QString::fromStdString(planned(gestureColumn).design.heading);
        if (session->design() != designBefore)
            Q_EMIT grid.designEdited(after >= widthBefore ? Grid::tr("Widen %1").arg(heading)
                                                          : Grid::tr("Narrow %1").arg(heading));
    } else {
        const QString field = QString::fromStdString(planned(gestureColumn).design.field);
        if (landing) moveColumn(gestureColumn, *landing);
        landing.reset();
        Q_EMIT grid.headingDropped(field, grid.viewport()->mapToGlobal(event.pos()));
    }
    grid.viewport()->update();
    return true;
}

bool GridPrivate::doubleClickHeading(QMouseEvent& event) {
    if (event.pos().y() >= headerHeight()) return false;
    const auto border = columns.borderAt(event.pos().x(), scrollX, measure::kBorderGrip);
    if (!border) {
        // Qt sends a double click in place of the second press: it is a click too.
        return pressHeading(event);
    }
    Design design = session->design();
    ColumnDesign* column = design.column(planned(*border).design.field);
    column->width.mode = WidthMode::Fit;
    changeDesign(std::move(design), Grid::tr("Fit %1").arg(QString::fromStdString(planned(*border).design.heading)));
    return true;
}

/// Up, then down, then the bound order; with addKey the other keys stay.
void GridPrivate::sortBy(int column, bool addKey) {
    const PlannedColumn& p = planned(column);
    const Type type = p.format.type;
    const QString heading = QString::fromStdString(p.design.heading);
    if (type == Type::Binary || type == Type::NumberList) {
        Q_EMIT grid.failed(
            Grid::tr("%1 holds %2, which has no order.")
                .arg(heading, QString::fromUtf8(article(type).data(), static_cast<qsizetype>(article(type).size()))));
        return;
    }
    Design design = session->design();
    const auto existing = std::find_if(design.sort.begin(), design.sort.end(),
                                       [&](const SortDesign& key) { return key.field == p.design.field; });
    const std::optional<SortDesign> before = existing == design.sort.end() ? std::nullopt : std::optional(*existing);
    if (!addKey && (design.sort.size() > 1 || !before)) {
        design.sort.assign(1, {p.design.field, Direction::Ascending, Empties::Last});
    } else if (!before) {
        design.sort.push_back({p.design.field, Direction::Ascending, Empties::Last});
    } else if (before->direction == Direction::Ascending) {
        existing->direction = Direction::Descending;
    } else {
        design.sort.erase(existing);
    }
    const bool still = std::any_of(design.sort.begin(), design.sort.end(),
                                   [&](const SortDesign& key) { return key.field == p.design.field; });
    changeDesign(std::move(design),
                 still ? Grid::tr("Sort by %1").arg(heading) : Grid::tr("Stop sorting by %1").arg(heading));
}

/// Moves among the shown columns; hidden ones keep their place beside their left neighbour.
void GridPrivate::moveColumn(int from, int before) {
    Design design = session->design();
    const std::string moved = planned(from).design.field;
    const std::optional<std::string> target =
        before < columns.count() ? std::optional(planned(before).design.field) : std::nullopt;
    const ColumnDesign column = *design.column(moved);
    std::erase_if(design.columns, [&](const ColumnDesign& c) { return c.field == moved; });
    const auto place = target ? std::find_if(design.columns.begin(), design.columns.end(),
                                             [&](const ColumnDesign& c) { return c.field == *target; })
                              : design.columns.end();
    design.columns.insert(place, column);
    changeDesign(std::move(design), Grid::tr("Move %1").arg(QString::fromStdString(column.heading)));
}

}  // namespace jollyrow
