// SPDX-License-Identifier: MIT
// Headings by mouse: a click sorts or selects what is under a tier, the border resizes, dragging moves, joins or makes
// tiers (heading_landing.h). Each gesture becomes one step of the design.
#include <QApplication>
#include <QMouseEvent>

#include "grid/inside/grid_p.h"

namespace jollyrow {

void GridPrivate::changeDesign(Design design, const QString& label) {
    if (design == session->design()) return;
    session->setDesign(std::move(design));
    findPinnedLines();
    relayout();
    Q_EMIT grid.designEdited(label);
}

void GridPrivate::hoverHeading(const std::optional<HeadingHit>& hit, bool onBorder) {
    grid.viewport()->setCursor(onBorder ? Qt::SplitHCursor : Qt::ArrowCursor);
    const bool same = hit.has_value() == hoveredHeading.has_value() &&
                      (!hit || (hit->column == hoveredHeading->column && hit->tier == hoveredHeading->tier));
    if (same) return;
    hoveredHeading = hit;
    grid.viewport()->update(0, 0, grid.viewport()->width(), headerHeight());
}

/// The heading that is pressed or dragged; one of several that are selected stands for all of them.
DraggedHeading GridPrivate::dragged() const {
    if (pressedHeading.tier) return {{}, plannedTier(*pressedHeading.tier).design.name};
    const std::string field = planned(*pressedHeading.column).design.field;
    const bool several = designFields.size() > 1 && std::find(designFields.begin(), designFields.end(),
                                                              QString::fromStdString(field)) != designFields.end();
    if (!several) return {{field}, {}};
    DraggedHeading all;
    for (const ColumnDesign& column : session->design().columns)
        if (std::find(designFields.begin(), designFields.end(), QString::fromStdString(column.field)) !=
            designFields.end())
            all.fields.push_back(column.field);
    return all;
}

bool GridPrivate::pressHeading(QMouseEvent& event) {
    if (event.pos().y() >= headerHeight()) return false;
    pressedAt = event.pos();
    designBefore = session->design();
    const auto hit = headingLayout().hitAt(event.pos());
    const auto border =
        hit && hit->tier ? std::nullopt : columns.borderAt(event.pos().x(), scrollX, measure::kBorderGrip);
    if (border) {
        gesture = Gesture::ResizeColumn;
        gestureColumn = *border;
        widthBefore = columns.width(*border);
    } else if (hit) {
        gesture = Gesture::PressHeading;
        pressedHeading = *hit;
        gestureColumn = hit->column.value_or(hit->tier ? plannedTier(*hit->tier).first : 0);
    }
    return true;
}

bool GridPrivate::moveHeading(QMouseEvent& event) {
    const int x = event.pos().x();
    switch (gesture) {
        case Gesture::None: {
            const auto hit = headingLayout().hitAt(event.pos());
            const bool over = event.pos().y() >= 0 && event.pos().y() < headerHeight();
            const auto border =
                over && !(hit && hit->tier) ? columns.borderAt(x, scrollX, measure::kBorderGrip) : std::nullopt;
            hoverHeading(hit, border.has_value());
            if (over) setHover(std::nullopt);
            return over;
        }
        case Gesture::PressRecords:
        case Gesture::DragRecords:
        case Gesture::SelectCells: return false;
        case Gesture::PressHeading:
            if ((event.pos() - pressedAt).manhattanLength() < QApplication::startDragDistance()) return true;
            gesture = Gesture::DragColumn;
            grid.viewport()->setCursor(Qt::ClosedHandCursor);
            [[fallthrough]];
        case Gesture::DragColumn: {
            dragAt = event.pos();
            landing = landingAt(session->design(), session->plan(), headingLayout(), columns, dragged(), event.pos(),
                                designing ? Arranging::Design : Arranging::UserOnly);
            Q_EMIT grid.headingDragged(QString::fromStdString(planned(gestureColumn).design.field),
                                       grid.viewport()->mapToGlobal(event.pos()));
            if (x > columns.rightStart() - 24) setScrollX(scrollX + 16);
            if (x < columns.pinnedEnd() + 8 && scrollX > 0) setScrollX(scrollX - 16);
            grid.viewport()->update();
            return true;
        }
        case Gesture::ResizeColumn: {
            Design design = session->design();
            ColumnDesign* column = design.column(planned(gestureColumn).design.field);
            const int least = std::max(column->width.minimum, Width::kLeastPixels);
            const int by = columns.zoneOf(gestureColumn) == Zone::Right ? pressedAt.x() - x : x - pressedAt.x();
            column->width.mode = WidthMode::Fixed;
            column->width.pixels = std::clamp(widthBefore + by, least, Width::kMostPixels);
            session->setDesign(std::move(design));
            relayout();
            return true;
        }
    }
    return false;
}

void GridPrivate::dropHeading(const QPoint& at) {
    const QString field = QString::fromStdString(planned(gestureColumn).design.field);
    const bool wasTier = pressedHeading.tier.has_value();
    Design design = session->design();
    QString madeTier;
    const QString label = carryOut(design, dragged(), landing, &madeTier);
    landing = {};
    if (!label.isEmpty()) changeDesign(std::move(design), label);
    if (!madeTier.isEmpty())
        for (std::size_t i = 0; i < session->plan().tiers.size(); ++i)
            if (QString::fromStdString(session->plan().tiers[i].design.name) == madeTier) {
                Q_EMIT grid.tierClicked(madeTier);
                rename(HeadingHit{{}, static_cast<int>(i), {}});
            }
    if (!wasTier) Q_EMIT grid.headingDropped(field, grid.viewport()->mapToGlobal(at));
}

void GridPrivate::clickTier(int tier, HeadingHit::Part part) {
    const PlannedTier& clicked = plannedTier(tier);
    const QString name = QString::fromStdString(clicked.design.name);
    if (part == HeadingHit::Part::Fold) return setFolded(clicked.design.name, !clicked.design.folded);
    chosenFields.clear();
    for (int i = clicked.first; i < clicked.end && !designing; ++i) chosenFields.push_back(planned(i).design.field);
    Q_EMIT grid.tierClicked(name);
}

bool GridPrivate::releaseHeading(QMouseEvent& event) {
    const Gesture done = gesture;
    if (done != Gesture::PressHeading && done != Gesture::ResizeColumn && done != Gesture::DragColumn) return false;
    gesture = Gesture::None;
    grid.viewport()->setCursor(Qt::ArrowCursor);
    if (done == Gesture::PressHeading && pressedHeading.tier) {
        clickTier(*pressedHeading.tier, pressedHeading.part);
    } else if (done == Gesture::PressHeading) {
        const QString field = QString::fromStdString(planned(gestureColumn).design.field);
        const bool extends = designing && event.modifiers() & Qt::ShiftModifier;
        if (!extends) sortBy(gestureColumn, event.modifiers() & Qt::ControlModifier);
        Q_EMIT grid.headingClicked(field, event.modifiers());
    } else if (done == Gesture::ResizeColumn) {
        const int after = columns.width(gestureColumn);
        const QString heading = QString::fromStdString(planned(gestureColumn).design.heading);
        if (session->design() != designBefore)
            Q_EMIT grid.designEdited(after >= widthBefore ? Grid::tr("Widen %1").arg(heading)
                                                          : Grid::tr("Narrow %1").arg(heading));
    } else {
        dropHeading(event.pos());
    }
    grid.viewport()->update();
    return true;
}

bool GridPrivate::doubleClickHeading(QMouseEvent& event) {
    if (event.pos().y() >= headerHeight()) return false;
    const auto hit = headingLayout().hitAt(event.pos());
    if (hit && hit->tier) {
        if (designing)
            rename(*hit);
        else
            setFolded(plannedTier(*hit->tier).design.name, !plannedTier(*hit->tier).design.folded);
        return true;
    }
    const auto border = columns.borderAt(event.pos().x(), scrollX, measure::kBorderGrip);
    if (!border) {
        // Qt sends a double click in place of the second press: it is a click too.
        return pressHeading(event);
    }
    fitExactly({planned(*border).design.field});
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

}  // namespace jollyrow
