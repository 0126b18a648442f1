// SPDX-License-Identifier: MIT
#include "grid/input/heading_gestures.h"

#include <QApplication>

namespace jollyrow {

std::optional<int> HeadingGestures::borderAt(QPoint position, const std::optional<HeadingHit>& hit) const {
    if (hit && hit->tier) return std::nullopt;
    return body_.columns().borderAt(position.x(), body_.scrollX(), measure::kBorderGrip);
}

bool HeadingGestures::press(const QMouseEvent& event) {
    if (event.pos().y() >= body_.headerHeight()) return false;
    const auto hit = headings_.layout().hitAt(event.pos());
    if (const auto border = borderAt(event.pos(), hit))
        doing_ = Resize{*border, event.pos(), body_.columns().width(*border), context_.design()};
    else if (hit)
        doing_ = Press{*hit, event.pos(), hit->column.value_or(hit->tier ? context_.plannedTier(*hit->tier).first : 0)};
    return true;
}

bool HeadingGestures::doubleClick(const QMouseEvent& event) {
    if (event.pos().y() >= body_.headerHeight()) return false;
    const auto hit = headings_.layout().hitAt(event.pos());
    if (hit && hit->tier) {
        const PlannedTier& tier = context_.plannedTier(*hit->tier);
        context_.isDesigning() ? headings_.rename(*hit) : headings_.setFolded(tier.design.name, !tier.design.folded);
    } else if (const auto border = borderAt(event.pos(), hit)) {
        fits_.begin({context_.planned(*border).design.field});
    } else {
        press(event);  // Qt sends a double click in place of the second press: it is a click too
    }
    return true;
}

void HeadingGestures::hover(const std::optional<HeadingHit>& hit, bool onBorder) {
    context_.viewport().setCursor(onBorder ? Qt::SplitHCursor : Qt::ArrowCursor);
    headings_.hover(hit);
}

bool HeadingGestures::hoverAt(QPoint position) {
    const auto hit = headings_.layout().hitAt(position);
    const bool isOver = position.y() >= 0 && position.y() < body_.headerHeight();
    hover(hit, isOver && borderAt(position, hit));
    return isOver;
}

bool HeadingGestures::move(const QMouseEvent& event) {
    if (std::holds_alternative<std::monostate>(doing_)) return hoverAt(event.pos());
    if (const auto* pressed = std::get_if<Press>(&doing_)) {
        if ((event.pos() - pressed->at).manhattanLength() < QApplication::startDragDistance()) return true;
        context_.viewport().setCursor(Qt::ClosedHandCursor);
        doing_ = Drag{*pressed, event.pos(), {}};
    }
    if (auto* drag = std::get_if<Drag>(&doing_)) dragTo(*drag, event.pos());
    if (const auto* resize = std::get_if<Resize>(&doing_)) resizeTo(*resize, event.pos().x());
    return true;
}

void HeadingGestures::dragTo(Drag& drag, QPoint position) {
    constexpr int kEdgePx = 24, kPinnedEdgePx = 8, kStepPx = 16;
    drag.at = position;
    drag.landing = landingAt(context_.design(), context_.plan(), headings_.layout(), body_.columns(),
                             headings_.dragged(drag.pressed.hit), position, headings_.arranging());
    Q_EMIT context_.grid().headingDragged(fieldOf(drag.pressed.column), context_.viewport().mapToGlobal(position));
    if (position.x() > body_.columns().rightStart() - kEdgePx) scroller_.setX(body_.scrollX() + kStepPx);
    if (position.x() < body_.columns().pinnedEnd() + kPinnedEdgePx && body_.scrollX() > 0)
        scroller_.setX(body_.scrollX() - kStepPx);
    context_.update();
}

void HeadingGestures::resizeTo(const Resize& resize, int x) {
    Design design = context_.design();
    ColumnDesign* column = design.column(context_.planned(resize.column).design.field);
    const int least = std::max(column->width.minimum, Width::kLeastPixels);
    const int by = body_.columns().zoneOf(resize.column) == Zone::Right ? resize.at.x() - x : x - resize.at.x();
    column->width.mode = WidthMode::Fixed;
    column->width.pixels = std::clamp(resize.widthBefore + by, least, Width::kMostPixels);
    context_.session().setDesign(std::move(design));
    context_.relayout();
}

bool HeadingGestures::release(const QMouseEvent& event) {
    if (std::holds_alternative<std::monostate>(doing_)) return false;
    const auto done = std::exchange(doing_, std::monostate{});
    context_.viewport().setCursor(Qt::ArrowCursor);
    if (const auto* press = std::get_if<Press>(&done)) click(*press, event.modifiers());
    if (const auto* resize = std::get_if<Resize>(&done)) endResize(*resize);
    if (const auto* drag = std::get_if<Drag>(&done)) drop(*drag, event.pos());
    context_.update();
    return true;
}

void HeadingGestures::click(const Press& press, Qt::KeyboardModifiers modifiers) {
    if (press.hit.tier) return headings_.clickTier(*press.hit.tier, press.hit.part);
    const QString field = fieldOf(press.column);
    const bool extends = context_.isDesigning() && modifiers & Qt::ShiftModifier;
    if (!extends) headings_.sortBy(press.column, modifiers & Qt::ControlModifier);
    Q_EMIT context_.grid().headingClicked(field, modifiers);
}

void HeadingGestures::endResize(const Resize& resize) {
    if (context_.design() == resize.before) return;
    const bool isWider = body_.columns().width(resize.column) >= resize.widthBefore;
    const QString heading = QString::fromStdString(context_.planned(resize.column).design.heading);
    Q_EMIT context_.grid().designEdited(isWider ? Grid::tr("Widen %1").arg(heading)
                                                : Grid::tr("Narrow %1").arg(heading));
}

void HeadingGestures::drop(const Drag& drag, QPoint position) {
    const QString field = fieldOf(drag.pressed.column);
    Design design = context_.design();
    QString madeTier;
    const QString label = carryOut(design, headings_.dragged(drag.pressed.hit), drag.landing, &madeTier);
    if (!label.isEmpty()) context_.changeDesign(std::move(design), label);
    if (!madeTier.isEmpty()) headings_.nameNew(madeTier);
    if (!drag.pressed.hit.tier) Q_EMIT context_.grid().headingDropped(field, context_.viewport().mapToGlobal(position));
}

bool HeadingGestures::cancel() {
    const auto done = std::exchange(doing_, std::monostate{});
    if (std::holds_alternative<Drag>(done)) return context_.update(), true;
    const auto* resize = std::get_if<Resize>(&done);
    if (!resize) return false;
    context_.session().setDesign(resize->before);
    context_.relayout();
    return true;
}

void HeadingGestures::mark(HeadingState& state) const {
    const auto* drag = std::get_if<Drag>(&doing_);
    if (!drag) return;
    state.draggedColumn = drag->pressed.hit.column;
    state.draggedTier = drag->pressed.hit.tier;
    state.dragAt = drag->at;
    state.landing = drag->landing.mark;
}

}  // namespace jollyrow
